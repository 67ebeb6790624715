"""Free places for a command: chords and spots that nothing uses, the easiest to reach first, each with why it is good."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final

from msgspec import Struct

from glimber.core.model.chord_layers import desktop_strikes
from glimber.core.model.collisions import collisions
from glimber.core.model.folio import EVERYWHERE, Binding, Command, Folio, Layer
from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import Chord, Sequence, Spot, Trigger, expanded, strikes_of
from glimber.core.notation.standard import is_standard
from glimber.core.stats.reach import Reach

_HELD: Final = (
    ("Ctrl",),
    ("Ctrl", "Shift"),
    ("Alt",),
    ("Ctrl", "Alt"),
    ("Alt", "Shift"),
    ("Super",),
    ("Ctrl", "Alt", "Shift"),
)
_ALL: Final = 1_000
"""More than there are chords."""
_KEYS: Final = (*"ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789", *(f"F{number}" for number in range(1, 25)))
FITS: Final = 0.15
"""The worth of each reason to choose a place, as a share of its reach."""


class FreePlace(Struct, frozen=True):
    """A trigger that is free, its reach in ms, and what speaks for it."""

    trigger: Trigger
    reach_ms: float
    why: tuple[str, ...]

    @property
    def score(self) -> float:
        return self.reach_ms * (1 - FITS * sum(not one.startswith("free in") for one in self.why))


def free_chords(folio: Folio, ref: str, computer: str | None = None, most: int = 12) -> list[FreePlace]:
    """Return chords that neither the command's program, in its context, nor the desktop answers to."""
    command = folio.commands[ref]
    reach, siblings = Reach(folio), _siblings(folio, command)
    used_keys = {code for binding in folio.all_bindings() for code in _codes(folio, binding)}
    others = _strikes_elsewhere(folio, command)
    # Where the desktop's own keys were never read, nothing is known of them.
    free = "free everywhere" if desktop_strikes(folio) else "free in every program; the desktop's keys are not read yet"
    found = []
    for chord in candidate_chords(folio):
        trigger = Sequence((chord,))
        strikes = strikes_of(trigger, folio.legend, folio.bundles)
        ms = reach.ms(trigger) if strikes else None
        if not strikes or ms is None or collisions(folio, command.program, trigger, command.context, computer):
            continue
        elsewhere = others.get(strikes[0])
        why = [f"free in {folio.programs[command.program].name} only; {elsewhere}" if elsewhere else free]
        if chord.key.casefold() == command.name[:1].casefold():
            why.append("first letter of its name")
        if expanded(chord.modifiers, folio.bundles) in siblings and chord.modifiers:
            why.append(f"{'+'.join(chord.modifiers)} as its siblings have")
        if strikes[0][1] not in used_keys:
            why.append("a key nothing else uses")
        found.append(FreePlace(trigger, ms, tuple(why)))
    return sorted(found, key=lambda one: (one.score, str(one.trigger)))[:most]


def free_near(folio: Folio, ref: str, wanted: Sequence, computer: str | None = None, most: int = 3) -> list[FreePlace]:
    """Return free chords like one that is taken: with its key or its modifiers first, then those that are reached soonest."""
    chord = wanted.chords[-1]

    def unlike(one: FreePlace) -> int:
        assert isinstance(one.trigger, Sequence)
        other = one.trigger.chords[-1]
        return (other.key != chord.key) + (other.modifiers != chord.modifiers)

    found = free_chords(folio, ref, computer, most=_ALL)
    return sorted(found, key=lambda one: (unlike(one), one.score, str(one.trigger)))[:most]


def candidate_chords(folio: Folio) -> Iterator[Chord]:
    """Yield every chord that may be offered: those that everybody knows for something else are left out."""
    bundles = tuple((name,) for name in folio.bundles)
    for held in (*_HELD, *bundles):
        for key in _KEYS:
            chord = Chord(held, key)
            if not is_standard(chord):
                yield chord
    for number in range(1, 25):
        yield Chord((), f"F{number}")


def _codes(folio: Folio, binding: Binding) -> Iterable[str]:
    sent = folio.sent_by(binding) if binding.command is not None else None
    strikes = strikes_of(sent, folio.legend, folio.bundles) if sent is not None else None
    return (code for _, code in strikes or ())


def _strikes_elsewhere(folio: Folio, command: Command) -> dict[object, str]:
    """Return what other programs than the command's own use, by its first strike."""
    found: dict[object, str] = {}
    for program in folio.programs.values():
        if program.id in (command.program, EVERYWHERE):
            continue
        for binding in program.bindings:
            strikes = (
                None if isinstance(binding.trigger, Spot) else strikes_of(binding.trigger, folio.legend, folio.bundles)
            )
            if strikes:
                name = folio.commands[binding.command or ""].name
                found.setdefault(strikes[0], f"{program.name} has {name} on it")
    return found


def _siblings(folio: Folio, command: Command) -> set[frozenset[str]]:
    """Return the modifiers that the chords of a command's group are struck with."""
    found: set[frozenset[str]] = set()
    for binding in folio.programs[command.program].bindings:
        other = folio.command_of(binding)
        if other is None or other.ref == command.ref or command.group is None or other.group != command.group:
            continue
        if isinstance(binding.trigger, Sequence) and len(binding.trigger.chords) == 1:
            found.add(expanded(binding.trigger.chords[0].modifiers, folio.bundles))
    return found


def free_spots(
    folio: Folio, ref: str, board: str | None = None, layer: str | None = None, most: int = 12
) -> list[FreePlace]:
    """Return keys of layers on which nothing is bound to a tap, the easiest to reach first; only of one board or layer if
    asked."""
    command, reach = folio.commands[ref], Reach(folio)
    found = []
    for layout in folio.layouts.values():
        if board is not None and layout.board != board:
            continue
        ways = {key for one in layout.layers for b in one.bindings if b.enters is not None for key in b.spot.keys}
        for here in layout.layers:
            if layer is not None and here.id != layer:
                continue
            if here.front is not None and here.front != command.program:
                continue  # it is only in while another program is in front
            for key in folio.boards[layout.board].keys:
                if (
                    key.id in here.by_key
                    or key.id in ways
                    or key.id in MODIFIER_CODES
                    or not is_open(folio, here, key.id)
                ):
                    continue
                spot = Spot(layout.board, here.id, (key.id,), "tap")
                ms = reach.ms(spot)
                if ms is not None and here.unset.get(key.id) != "dead":
                    found.append(FreePlace(spot, ms, _why_spot(folio, command, spot, here)))
    return sorted(found, key=lambda one: (one.score, str(one.trigger)))[:most]


def is_open(folio: Folio, layer: Layer, key: str) -> bool:
    """On the base layer a key that sends its own print is not free: it is what the person types with."""
    based = any(layout.base is layer for layout in folio.layouts.values())
    return not based or folio.legend.key_at(key) is None


def _why_spot(folio: Folio, command: Command, spot: Spot, layer: Layer) -> tuple[str, ...]:
    board, why = folio.boards[spot.board], []
    if folio.legend.print_of(spot.key).casefold() == command.name[:1].casefold():
        why.append("first letter of its name")
    for key in sorted(board.neighbours.get(spot.key, frozenset())):
        for binding in layer.by_key.get(key, {}).values():
            other = folio.command_of(binding)
            if (
                other is not None
                and command.group is not None
                and (other.program, other.group) == (command.program, command.group)
            ):
                why.append(f"beside {other.short}")
    for other_binding in folio.bindings_of.get(command.ref, ()):
        trigger = other_binding.trigger
        if isinstance(trigger, Spot) and trigger.board == spot.board and trigger.keys == spot.keys:
            why.append(f"the same key as on {trigger.layer}")
    return tuple(dict.fromkeys(why))[:3]
