"""Candidate places for a binding: free spots and chords, swaps, other gestures and layers, and the key the hand goes to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Final

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.decide.fit import fit_of_chords, fit_of_spot
from glimber.core.decide.free_places import candidate_chords, is_open
from glimber.core.model.collisions import collisions
from glimber.core.model.folio import EVERYWHERE, Binding, Command, Folio, Layer, Layout
from glimber.core.model.open_sets import open_sets
from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import (
    Chord,
    NotationError,
    Spot,
    Trigger,
    Typed,
    expanded,
    parse_trigger,
    strikes_of,
)
from glimber.core.notation.keys import Sequence as Sequence_
from glimber.core.notation.standard import is_standard
from glimber.core.practice.columns import Bools, Floats, Ints
from glimber.core.stats.ledger import Weighed

HAND_GOES_SHARE: Final = 0.4
HAND_GOES_SLIPS: Final = 4
_GESTURES: Final = ("tap", "hold")
_CROWD: Final = 2.0
"""Bound keys beside a chord's key, as is usual on the ordinary keyboard."""
_One = tuple[int, int, float, float, float]
"""One place as the fields of Options."""


class Options(Struct, frozen=True):
    """Places to go, side by side, (n,): ``to`` numbers of triggers, ``partner`` numbers of rows (−1: the place is free)
    that go where the binding was, ``crowd`` how many bound keys are beside each, ``fit`` −1 to 1, ``goes`` which share of
    the slips it drew."""

    to: Ints
    partner: Ints
    crowd: Floats
    fit: Floats
    goes: Floats

    def __len__(self) -> int:
        return len(self.to)

    def where(self, wanted: Bools) -> Options:
        """Only some of them."""
        return Options(self.to[wanted], self.partner[wanted], self.crowd[wanted], self.fit[wanted], self.goes[wanted])


class _Chords(Struct, frozen=True):
    """Single chords of a program's part: numbers of triggers, their letters, numbers of what is held, rows that have them
    (−1: free)."""

    to: Ints
    letters: Sequence[str]
    held: Ints
    partner: Ints


class Places(Struct):
    """The places of one folio; what is the same for many bindings is worked out once. ``triggers`` numbers every trigger met."""

    folio: Folio
    rows: Mapping[str, int]
    computer: str | None = None
    triggers: list[Trigger] = field(default_factory=list)
    _numbers: dict[Trigger, int] = field(default_factory=dict)
    _held: dict[frozenset[str], int] = field(default_factory=dict)
    _chords: dict[tuple[str, str | None], _Chords] = field(default_factory=dict)
    _ways: dict[str, frozenset[str]] = field(default_factory=dict)
    _free: dict[tuple[str, str], list[str]] = field(default_factory=dict)

    def number(self, trigger: Trigger) -> int:
        """Return the number of a trigger."""
        known = self._numbers.get(trigger)
        if known is None:
            known = self._numbers[trigger] = len(self.triggers)
            self.triggers.append(trigger)
        return known

    def options(self, row: Weighed) -> Options:
        """Everywhere the scope lets a binding go; nothing for what stays: pinned, careful, and chords that everybody knows."""
        trigger = row.binding.trigger
        if not movable(self.folio, row.binding) or isinstance(trigger, Typed):
            return _side_by_side([])
        found = (
            _side_by_side(list(self._spots(row, trigger)))
            if isinstance(trigger, Spot)
            else self._shortcuts(row, trigger)
        )
        goes = self._hand_goes(row)
        if goes is None:
            return found
        rest = found.where(found.to != goes[0])
        return Options(*(np.append(part, one) for part, one in zip(
            (rest.to, rest.partner, rest.crowd, rest.fit, rest.goes), goes, strict=True)))  # fmt: skip

    # Spots

    def _spots(self, row: Weighed, spot: Spot) -> Iterator[_One]:
        folio = self.folio
        layout, board = folio.layouts[spot.board], folio.boards[spot.board]
        here = layout.layer(spot.layer)
        if here is None or len(spot.keys) > 1 or spot.gesture not in ("tap", "hold", "double", "tap-hold"):
            return
        for layer in layout.layers:
            if layer is not here and layer.front is not None and layer.front != row.command.program:
                continue
            for key in self._free_keys(layout, layer):
                if key != spot.key or layer is not here:
                    yield self._spot(row, Spot(spot.board, layer.id, (key,), spot.gesture), -1)
                    if spot.gesture != "tap":
                        yield self._spot(row, Spot(spot.board, layer.id, (key,), "tap"), -1)
        for gesture in _GESTURES:
            if gesture != spot.gesture and gesture not in here.by_key.get(spot.key, {}):
                yield self._spot(row, replace(spot, gesture=gesture), -1)
        for key in board.by_id:
            other = here.by_key.get(key, {}).get(spot.gesture)
            if other is not None and key != spot.key and other.id in self.rows and movable(folio, other):
                yield self._spot(row, replace(spot, keys=(key,)), self.rows[other.id])

    def _free_keys(self, layout: Layout, layer: Layer) -> list[str]:
        """Return keys of a layer with nothing on them that may take something."""
        known = self._free.get((layout.board, layer.id))
        if known is None:
            if layout.board not in self._ways:
                self._ways[layout.board] = frozenset(
                    key for one in layout.layers for b in one.bindings if b.enters is not None for key in b.spot.keys
                )
            ways = self._ways[layout.board]
            known = self._free[layout.board, layer.id] = [
                key.id for key in self.folio.boards[layout.board].keys
                if key.id not in layer.by_key and key.id not in ways and key.id not in MODIFIER_CODES
                and layer.unset.get(key.id) != "dead" and is_open(self.folio, layer, key.id)
            ]  # fmt: skip
        return known

    def _spot(self, row: Weighed, to: Spot, partner: int, goes: float = 0.0) -> _One:
        return self.number(to), partner, *self._surroundings(row, to), goes

    def _surroundings(self, row: Weighed, to: Spot) -> tuple[float, float]:
        layer = self.folio.layouts[to.board].layer(to.layer)
        own = row.binding.trigger.keys if isinstance(row.binding.trigger, Spot) else ()
        bound = (layer.by_key.keys() if layer else set()) - set(own)
        crowd = len(bound & self.folio.boards[to.board].neighbours.get(to.key, frozenset()))
        return float(crowd), fit_of_spot(self.folio, row, to)

    def surroundings(self, rows: Sequence[Weighed], to: Sequence[Trigger]) -> tuple[Floats, Floats]:
        """Return how many bound keys bindings would have beside them at places, (n,), and how well those suit them, −1 to 1."""
        crowd, fit = np.full(len(rows), _CROWD), np.zeros(len(rows))
        for nth, (row, place) in enumerate(zip(rows, to, strict=True)):
            if isinstance(place, Spot):
                crowd[nth], fit[nth] = self._surroundings(row, place)
        return crowd, fit

    # Chords and sequences on the ordinary keyboard

    def _shortcuts(self, row: Weighed, trigger: Sequence_) -> Options:
        """Free chords and swaps; the last step of a sequence may go to a free key under the same stem too."""
        chords = self._chords_of(row.command.program, row.command.context)
        wanted = chords.partner != self.rows.get(row.binding.id, -2)
        if len(trigger.chords) > 1:
            wanted &= chords.partner < 0  # a sequence does not change places with a chord
        fit = fit_of_chords(chords.letters, chords.held, row.command, self._held_alike(row.command))
        found = Options(
            chords.to, chords.partner, np.full(len(chords.to), _CROWD), fit, np.zeros(len(chords.to))
        ).where(wanted)
        if len(trigger.chords) < 2:
            return found
        stem, last = trigger.chords[:-1], trigger.chords[-1]
        used = {binding.trigger for binding in self.folio.programs[row.command.program].bindings}
        more = [(self.number(to), -1, _CROWD, 0.5 if key == row.command.short[:1].upper() else 0.0, 0.0)
                for key in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
                if (to := Sequence_((*stem, Chord(last.modifiers, key)))) not in used]  # fmt: skip
        under = _side_by_side(more)
        parts = zip((found.to, found.partner, found.crowd, found.fit, found.goes),
                    (under.to, under.partner, under.crowd, under.fit, under.goes), strict=True)  # fmt: skip
        return Options(*(np.concatenate(part) for part in parts))

    def _held_alike(self, command: Command) -> Ints:
        """Numbers of what is held for the single chords of a command's group."""
        if command.group is None:
            return np.zeros(0, dtype=np.int64)
        alike = set()
        for binding in self.folio.programs[command.program].bindings:
            other = self.folio.command_of(binding)
            trigger = binding.trigger
            if other is None or other.group != command.group or not isinstance(trigger, Sequence_):
                continue
            if len(trigger.chords) == 1:
                alike.add(self._held_number(trigger.chords[0]))
        return np.array(sorted(alike), dtype=np.int64)

    def _held_number(self, chord: Chord) -> int:
        held = expanded(chord.modifiers, self.folio.bundles)
        return self._held.setdefault(held, len(self._held))

    def _chords_of(self, program: str, context: str | None) -> _Chords:
        """Return chords that neither the program, in this context, nor the desktop answers to; and those that may change
        places."""
        if (program, context) not in self._chords:
            taken, swaps = set(), list[tuple[Chord, int]]()
            for binding in self._answering(program, context):
                strikes = strikes_of(binding.trigger, self.folio.legend, self.folio.bundles)  # type: ignore[arg-type]  # no spot
                taken |= {strikes[0]} if strikes else set()
                single = isinstance(binding.trigger, Sequence_) and len(binding.trigger.chords) == 1
                own = self.folio.commands[binding.command or ""].program == program
                if own and single and binding.id in self.rows and movable(self.folio, binding):
                    swaps.append((binding.trigger.chords[0], self.rows[binding.id]))  # type: ignore[union-attr]
            free = [
                (chord, -1) for chord in candidate_chords(self.folio)
                if (strikes := strikes_of(Sequence_((chord,)), self.folio.legend, self.folio.bundles)) and strikes[0] not in taken
            ]  # fmt: skip
            whole = [*free, *swaps]
            self._chords[program, context] = _Chords(
                np.array([self.number(Sequence_((chord,))) for chord, _ in whole], dtype=np.int64),
                [chord.key.casefold() for chord, _ in whole],
                np.array([self._held_number(chord) for chord, _ in whole], dtype=np.int64),
                np.array([partner for _, partner in whole], dtype=np.int64),
            )
        return self._chords[program, context]

    def _answering(self, program: str, context: str | None) -> Iterator[Binding]:
        """Yield the bindings, other than spots, that answer in a context of a program: the desktop's, and its own."""
        for id in dict.fromkeys((EVERYWHERE, program)):
            for binding in self.folio.programs[id].bindings if id in self.folio.programs else ():
                own = self.folio.commands[binding.command or ""].context
                apart = id == program and None not in (context, own) and context != own
                if not isinstance(binding.trigger, Spot) and not apart and binding.lives_on(self.computer):
                    yield binding

    # Where the hand goes

    def _hand_goes(self, row: Weighed) -> _One | None:
        """Return the wrong trigger that drew at least 4 slips and 40 % of them, where the binding may go there."""
        struck = next(iter(row.slips.struck), None)
        if struck is None:
            return None
        count, total = row.slips.struck[struck], row.slips.total
        if count < HAND_GOES_SLIPS or count < HAND_GOES_SHARE * total:
            return None
        try:
            to = parse_trigger(struck, self.folio.bundles)
        except NotationError:
            return None
        possible, there = self._may_go(to, row)
        if not possible or (there is not None and (there.id not in self.rows or not movable(self.folio, there))):
            return None
        partner, goes = self.rows[there.id] if there is not None else -1, count / total
        if isinstance(to, Spot):
            return self._spot(row, to, partner, goes)
        return self.number(to), partner, _CROWD, 0.0, goes

    def _may_go(self, to: Trigger, row: Weighed) -> tuple[bool, Binding | None]:
        """Return True if a binding may go to a trigger of its own kind, and what is there now."""
        wanted = row.binding.trigger
        if isinstance(to, Spot) and isinstance(wanted, Spot):
            return self._may_hold(to, row), self.folio.by_trigger.get(to)
        if not (isinstance(to, Sequence_) and isinstance(wanted, Sequence_)) or len(to.chords) > 1 or is_standard(to.chords[0]):
            return False, None
        program = self.folio.programs[row.command.program]
        there = next((one for one in program.bindings if one.trigger == to), None)
        collides = there is None and collisions(self.folio, program.id, to, row.command.context, self.computer)
        return not collides, there

    def is_only_gesture(self, to: Trigger, binding: Binding) -> bool:
        """Return True if a spot is a tap on a key without another gesture: by the engine's rule 3 it is a tap however long."""
        if not isinstance(to, Spot) or to.gesture != "tap":
            return False
        layout = self.folio.layouts.get(to.board)
        layer = layout.layer(to.layer) if layout is not None else None
        if layer is None:
            return False
        others = {gesture for gesture, one in layer.by_key.get(to.key, {}).items() if one.id != binding.id}
        return not others - {to.gesture}

    def beside(self, trigger: Trigger) -> frozenset[str]:
        """Return the triggers of the keys beside a trigger's last key, alike in everything else, as text."""
        if isinstance(trigger, Spot):
            board = self.folio.boards[trigger.board]
            near = board.neighbours.get(trigger.keys[-1], frozenset())
            return frozenset(str(replace(trigger, keys=(*trigger.keys[:-1], key))) for key in near)
        strikes = strikes_of(trigger, self.folio.legend, self.folio.bundles)
        if not strikes or not isinstance(trigger, Sequence_):
            return frozenset()
        prints = map(self.folio.legend.print_of, self.folio.keyboard.neighbours.get(strikes[-1][1], frozenset()))
        last = trigger.chords[-1]
        return frozenset(str(Sequence_((*trigger.chords[:-1], replace(last, key=one)))) for one in prints if one)

    def _may_hold(self, to: Spot, row: Weighed) -> bool:
        """Return True if a spot can carry a command of this binding: on its board, on a layer that is in when it is wanted."""
        layout = self.folio.layouts.get(to.board)
        layer = layout.layer(to.layer) if layout is not None else None
        if layer is None or len(to.keys) > 1 or not self.folio.boards[to.board].has(to.key):
            return False
        if self.folio.by_trigger.get(to) is not None:
            return True
        return layer.unset.get(to.key) != "dead" and is_open(self.folio, layer, to.key)


def movable(folio: Folio, binding: Binding) -> bool:
    """Return True if a binding may be moved: not pinned, not of a careful command, no way in or out, no chord that everybody
    knows, none of keys that are judged as one."""
    command = folio.command_of(binding)
    if command is None or command.careful or binding.pinned or binding.enters or binding.leaves or binding.bundle:
        return False
    if binding.id in open_sets(folio):
        return False
    trigger = binding.trigger
    return not (isinstance(trigger, Sequence_) and len(trigger.chords) == 1 and is_standard(trigger.chords[0]))


def _side_by_side(options: Sequence[_One]) -> Options:
    to, partner, crowd, fit, goes = zip(*options, strict=True) if options else ((), (), (), (), ())
    return Options(
        np.array(to, dtype=np.int64), np.array(partner, dtype=np.int64), np.array(crowd, dtype=np.float64),
        np.array(fit, dtype=np.float64), np.array(goes, dtype=np.float64),
    )  # fmt: skip
