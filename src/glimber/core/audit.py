"""The audit: what a folio has that will not work as meant. Each finding says where and what can be done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from glimber.core.collisions import what_it_does
from glimber.core.folio import Binding, Folio, Layer, Layout
from glimber.core.keycodes import KEY_ALIASES, NAMES_OF_CODES
from glimber.core.keys import Spot, strikes_of
from glimber.core.meaning import Strikes

Severity = Literal["error", "warning", "note"]
ERRORS: Final = ("unknown-reference", "same-trigger", "key-missing", "no-way-in", "no-way-out")


@dataclass(frozen=True)
class Finding:
    """One thing the audit has to say. ``where`` is a trigger, a layer (``board:layer``) or a file and line."""

    code: str
    severity: Severity
    where: str
    bindings: tuple[str, ...]
    text: str


def audit(folio: Folio) -> list[Finding]:
    """All findings of a folio, in folio order."""
    found = list(_same_triggers(folio))
    for layout in folio.layouts.values():
        found += _ways(folio, layout)
        found += _prints(folio, layout)
    return found


def _same_triggers(folio: Folio) -> Iterator[Finding]:
    for program in folio.programs.values():
        seen: dict[Strikes, list[Binding]] = {}
        for binding in program.bindings:
            if isinstance(binding.trigger, Spot):
                continue
            strikes = strikes_of(binding.trigger, folio.legend, folio.bundles)
            if not strikes:
                continue
            for other in seen.setdefault(strikes, []):
                if _can_meet(folio, binding, other):
                    one, two = (folio.commands[b.command or ""].name for b in (other, binding))
                    same = "twice for the same command" if one == two else f"for {one} and for {two}"
                    yield Finding(
                        "same-trigger", "error", str(binding.trigger), (other.id, binding.id),
                        f"{binding.trigger} is bound in {program.name} {same}; give one of them another trigger.",
                    )  # fmt: skip
            seen[strikes].append(binding)


def _can_meet(folio: Folio, one: Binding, other: Binding) -> bool:
    """Whether two bindings can be live at once: on one computer and in one context."""
    a, b = folio.commands[one.command or ""], folio.commands[other.command or ""]
    contexts = a.context is None or b.context is None or a.context == b.context
    computers = not one.computers or not other.computers or bool(set(one.computers) & set(other.computers))
    return contexts and computers


def _ways(folio: Folio, layout: Layout) -> Iterator[Finding]:
    ways_in = [b for layer in layout.layers for b in layer.bindings if b.enters is not None]
    reached = {layer.id for layer in layout.layers if layer is layout.base or layer.front is not None}
    while True:
        more = {b.enters for b in ways_in if b.spot.layer in reached and b.enters} - reached
        if not more:
            break
        reached |= more
    for layer in layout.layers:
        where = f"{layout.board}:{layer.id}"
        if layer.id not in reached:
            ids = tuple(b.id for b in ways_in if b.enters == layer.id)
            rest = "the keys that enter it are on layers that nothing enters" if ids else "no key enters it"
            yield Finding(
                "no-way-in", "error", where, ids, f"{layer.name} on {layout.board} cannot be entered: {rest}."
            )
        stuck = [b for b in ways_in if b.enters == layer.id and not _has_way_out(layer, b)]
        if stuck and layer is not layout.base:
            ids = tuple(b.id for b in stuck)
            yield Finding(
                "no-way-out", "error", where, ids,
                f"{layer.name} on {layout.board} stays once it is entered by {stuck[0].trigger}: "
                "no key on it leaves it. Give it one with leaves = true.",
            )  # fmt: skip


def _has_way_out(layer: Layer, way: Binding) -> bool:
    """A layer held or used once ends by itself; one that stays needs a key that leaves; a switch must not be covered."""
    if way.mode in ("while", "once") or any(b.leaves for b in layer.bindings):
        return True
    if way.mode == "stay":
        return False
    spot = way.spot
    covered = any(spot.keys == b.spot.keys for b in layer.bindings) and spot.layer != layer.id
    dead = layer.unset.get(spot.key, layer.unbound) == "dead"
    return not covered and not (dead and spot.layer != layer.id)


def _prints(folio: Folio, layout: Layout) -> Iterator[Finding]:
    """Keycaps of the base layer that say something else than the key does; other layers are meant to differ."""
    board, layer = folio.boards[layout.board], layout.base
    for key in board.keys:
        own = folio.legend.print_of(key.id)
        printed = own if key.print is None else key.print
        if len(printed) != 1 and printed.lower() not in KEY_ALIASES:
            continue  # a word such as P1 claims nothing
        binding = layer.by_key.get(key.id, {}).get("tap")
        if binding is None:
            falls = layer.unset.get(key.id, layer.unbound) == "falls"
            if not falls or key.id in NAMES_OF_CODES or not own or printed.casefold() == own.casefold():
                continue
            text = f"The keycap of {key.id} on {layout.board} says {printed}; it types {own} ({folio.legend.name})."
        elif _types(folio, binding) in (key.id, printed.casefold()):
            continue
        else:
            does = what_it_does(folio, binding)
            text = f"The keycap of {key.id} on {layout.board} says {printed}; it does {does}."
        bindings = () if binding is None else (binding.id,)
        yield Finding("print-differs", "note", f"{layout.board}:{layer.id}:{key.id}:tap", bindings, text)


def _types(folio: Folio, binding: Binding) -> str | None:
    """The place whose key a binding sends bare, or its print where it is another's; None for anything more."""
    sent = folio.sent_by(binding)
    strikes = strikes_of(sent, folio.legend, folio.bundles) if sent is not None and binding.command is None else None
    if not strikes or len(strikes) != 1 or strikes[0][0]:
        return None
    code = strikes[0][1]
    return code if code == binding.spot.key else folio.legend.print_of(code).casefold()
