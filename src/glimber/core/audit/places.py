"""Audit keys on a layer: careful keys beside busy ones, awkward keys, and what keys send."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from glimber.core.audit.finding import Cure, Finding, check, finding
from glimber.core.audit.parts import LayerPart
from glimber.core.model.board import Board
from glimber.core.model.describe import DONE, finger_words, key_words, sentence
from glimber.core.model.folio import EVERYWHERE, Binding, Folio, Layer
from glimber.core.model.meaning import meanings
from glimber.core.notation.keys import Sequence, strikes_of
from glimber.core.notation.standard import is_standard
from glimber.core.stats.usage import uses_a_day

BUSY_A_DAY: Final = 20.0
AWKWARD_A_DAY: Final = 10.0
FAST_A_DAY: Final = 40.0
SPAN_U: Final = 6.0
OFF_HOME_U: Final = 1.5


@check(LayerPart, {"beside-careful": "warning"})
def beside_careful(part: LayerPart) -> Iterator[Finding]:
    """Report a careful command beside a busy one: there a slip is costly."""
    folio, board, layer, computer = part.folio, part.board, part.layer, part.computer
    for binding in layer.bindings:
        command = folio.command_of(binding)
        if command is None or not command.careful:
            continue
        for key in sorted(board.neighbours.get(binding.spot.key, frozenset())):
            for other in layer.by_key.get(key, {}).values():
                busy = folio.command_of(other)
                used = uses_a_day(folio, other, computer) or 0.0
                if other.spot.gesture != binding.spot.gesture or busy is None or used < BUSY_A_DAY:
                    continue
                text = (
                    f"{command.name}, which is marked careful, is beside {busy.name} on {layer.name}, "
                    f"which is struck {used:.0f} times a day."
                )
                yield finding("beside-careful", str(binding.trigger), (binding.id, other.id), text)


@check(LayerPart, {"beside-careful": "warning"})
def careful_on_a_busy_key(part: LayerPart) -> Iterator[Finding]:
    """Report a careful command one slip of gesture away from a busy one on the same key."""
    folio, layer, computer = part.folio, part.layer, part.computer
    for binding in layer.bindings:
        command = folio.command_of(binding)
        if command is None or not command.careful:
            continue
        for other in layer.by_key.get(binding.spot.key, {}).values():
            busy = folio.command_of(other)
            used = uses_a_day(folio, other, computer) or 0.0
            if other.id == binding.id or busy is None or busy.careful or used < BUSY_A_DAY:
                continue
            text = (
                f"{command.name}, which is marked careful, is {DONE[binding.spot.gesture]} on the key of {busy.name} on "
                f"{layer.name}, which is struck {used:.0f} times a day."
            )
            yield finding("beside-careful", str(binding.trigger), (binding.id, other.id), text)


@check(LayerPart, {"awkward-busy": "warning"})
def busy_and_awkward(part: LayerPart) -> Iterator[Finding]:
    """Report busy commands on keys that are hard to reach."""
    folio, board, layer, computer = part.folio, part.board, part.layer, part.computer
    for binding in layer.bindings:
        key = board.by_id.get(binding.spot.keys[0])
        used = uses_a_day(folio, binding, computer) or 0.0
        far = key is not None and board.off_home_u(key.centre) > OFF_HOME_U
        if key is None or used < AWKWARD_A_DAY or not (key.reach == "avoid" or far):
            continue
        command = folio.command_of(binding)
        why = "a key to avoid" if key.reach == "avoid" else "for which the hand leaves home"
        name, where = command.name if command else binding.id, key_words(folio, board.id, (key.id,))
        text = f"{name} is struck {used:.0f} times a day on {where}, {why}."
        free = Cure("free-spot", "put it on the easiest free key", binding.id)
        yield finding("awkward-busy", str(binding.trigger), (binding.id,), text, free)


@check(LayerPart, {"held-stretch": "warning"})
def stretched_while_held(part: LayerPart) -> Iterator[Finding]:
    """Report keys struck with the finger that holds the layer, or with a hand that is stretched while it does."""
    folio, board, layout, layer = part.folio, part.board, part.layout, part.layer
    ways = [b for other in layout.layers for b in other.bindings if b.enters == layer.id]
    if not ways or any(b.mode != "while" for b in ways) or layer.front is not None:
        return
    for binding in layer.bindings:
        key = board.by_id.get(binding.spot.keys[0])
        reasons = [_strain(board, key.id, way.spot.keys[0]) for way in ways] if key is not None else []
        if key is None or not reasons or not all(reasons) or key.id in {way.spot.keys[0] for way in ways}:
            continue
        struck, held = (key_words(folio, board.id, keys[:1]) for keys in (binding.spot.keys, ways[0].spot.keys))
        text = f"{struck} on {layer.name} is struck while {held} is held: {reasons[0]}."
        yield finding("held-stretch", str(binding.trigger), (binding.id, ways[0].id), sentence(text))


def _strain(board: Board, struck: str, held: str) -> str | None:
    one, other = board.by_id.get(struck), board.by_id.get(held)
    if one is None or other is None or one.hand is None or one.hand != other.hand or struck == held:
        return None
    if one.finger == other.finger:
        return f"both are for the {finger_words(one.finger)}" if one.finger else None
    apart = ((one.centre[0] - other.centre[0]) ** 2 + (one.centre[1] - other.centre[1]) ** 2) ** 0.5
    return f"they are {apart:.0f} keys apart in one hand" if apart > SPAN_U else None


@check(LayerPart, {"slow-gesture": "warning"})
def delayed_by_a_second_tap(part: LayerPart) -> Iterator[Finding]:
    """Report keys struck in fast runs whose second gesture makes the first one wait."""
    folio, layout, layer, computer = part.folio, part.layout, part.layer, part.computer
    base = layer is layout.base
    for key, gestures in layer.by_key.items():
        tap = gestures.get("tap")
        again = [gestures[name] for name in ("double", "tap-hold") if name in gestures]
        if not again:
            continue
        plain = base and tap is None and len(folio.legend.key_at(key) or "") == 1
        types = tap is not None and tap.command is None and _types_character(tap)
        used = (uses_a_day(folio, tap, computer) if tap is not None else None) or 0.0
        if plain or types or used >= FAST_A_DAY:
            own = layer.timing.get(key)
            wait = (own.again_ms if own is not None else None) or folio.settings.timing.again_ms
            name = key_words(folio, layout.board, tuple(key.split("&")))
            text = f"{name} on {layer.name} is struck in fast runs, and waits {wait} ms each time for a second strike."
            ids = (*((tap.id,) if tap else ()), *(one.id for one in again))
            yield finding("slow-gesture", str(again[0].trigger), ids, sentence(text))


@check(LayerPart, {"slow-gesture": "warning"})
def delayed_by_a_hold(part: LayerPart) -> Iterator[Finding]:
    """Report keys that type and have a hold beside it, which delays every letter: one finding for all of them."""
    folio, layout, layer = part.folio, part.layout, part.layer
    typed, base = [], layer is layout.base
    for key, gestures in layer.by_key.items():
        tap, plain = gestures.get("tap"), folio.legend.key_at(key) or ""
        if "hold" in gestures and base and (_types_character(tap) if tap is not None else len(plain) == 1):
            typed.append(gestures["hold"])
    if typed:
        names = [key_words(folio, layout.board, binding.spot.keys) for binding in typed[:6]]
        keys = ", ".join(names) + (" …" if len(typed) > 6 else "")
        text = (
            f"{keys} on {layer.name} {'type' if len(typed) > 1 else 'types'} only when let go, because a hold is bound beside: "
            "in fast runs they come late."
        )
        yield finding("slow-gesture", str(typed[0].trigger), tuple(binding.id for binding in typed), sentence(text))


def _types_character(binding: Binding) -> bool:
    sent = binding.sends
    return (
        isinstance(sent, Sequence)
        and len(sent.chords) == 1
        and not sent.chords[0].modifiers
        and len(sent.chords[0].key) == 1
    )


@check(LayerPart, {"sends-nothing-known": "note", "fires-too": "warning"})
def sent_without_meaning(part: LayerPart) -> Iterator[Finding]:
    """Report keys that send what nothing answers to, or what another command answers to."""
    folio, layer, computer = part.folio, part.layer, part.computer
    for binding in layer.bindings:
        sent = binding.sends
        if not isinstance(sent, Sequence) or binding.steps:
            continue
        strikes = strikes_of(sent, folio.legend, folio.bundles)
        if not strikes:
            continue
        command = folio.command_of(binding)
        if command is not None:
            yield from _other_meaning(folio, layer, binding, command.program, command.context, computer)
        elif any(chord.modifiers for chord in sent.chords) and not _is_typing(sent):
            heard = any(
                meanings(folio, id, None, computer).read(strikes).state != "none" for id in folio.programs if id != EVERYWHERE
            ) or meanings(folio, EVERYWHERE, None, computer).read(strikes).state != "none"  # fmt: skip
            if not heard:
                name = key_words(folio, binding.spot.board, binding.spot.keys)
                text = f"{name} on {layer.name} sends {sent}, which no program of the folio answers to."
                off = Cure("clear", "remove it", binding.id)
                yield finding("sends-nothing-known", str(binding.trigger), (binding.id,), sentence(text), off)


def _is_typing(sent: Sequence) -> bool:
    """Return True for keys that need no program to answer to them: capitals, Shift with a named key, what text fields know."""
    return all(chord.modifiers in ((), ("Shift",)) or is_standard(chord) for chord in sent.chords)


def _other_meaning(
    folio: Folio, layer: Layer, binding: Binding, program: str, context: str | None, computer: str | None
) -> Iterator[Finding]:
    """Report a spot that is for one command and sends what does another."""
    sent = binding.sends
    strikes = strikes_of(sent, folio.legend, folio.bundles) if sent is not None else None
    if not strikes:
        return
    found = meanings(folio, program, context, computer).read(strikes).bindings
    others = [b for b in found if b.command != binding.command]
    if others and len(others) == len(found):
        other, mine = folio.commands[others[0].command or ""], folio.commands[binding.command or ""]
        name = folio.programs[other.program].name
        text = f"{mine.name} on {layer.name} sends {sent}, which {name} uses for {other.name}."
        own = Cure("send-own", f"send what {mine.name} has", binding.id)
        yield finding("fires-too", str(binding.trigger), (binding.id, others[0].id), text, own)
