"""Keys that are learnt and judged as one: to part left from right, or 3 from 4, would help nobody.

They are those of a group of sequences that stays open (after its first keys several may be struck, until it is closed), and the
digits that one command takes as its value.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Final

from msgspec import Struct

from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Binding, Command, Folio
from glimber.core.model.meaning import following
from glimber.core.notation.keys import Chord, Sequence

LEAST_DIGITS: Final = 3
"""Digits of one command that are its value and no alternates."""


class OpenSet(Struct, frozen=True):
    """Keys that are one, with the ids of their bindings. ``name``: of the group or of the command; ``why`` they are one;
    ``slow_way``: the dialog that all of them take the place of."""

    program: str
    name: str
    why: str
    bindings: tuple[str, ...]
    slow_way: tuple[str, ...] = ()


_SETS: DerivedCache[Folio, str, Mapping[str, OpenSet]] = DerivedCache()


def open_sets(folio: Folio) -> Mapping[str, OpenSet]:
    """Return the set of each binding that is in one, of two keys at least; the innermost where one is within another."""
    return _SETS.get(folio, "sets", lambda: {id: one for one in _sets(folio) for id in one.bindings})


def slow_way_steps(folio: Folio, command: Command) -> tuple[str, ...]:
    """Return how a command is reached without its key: its own way, else the dialog of the set that one of its keys is in."""
    if command.slow_way:
        return command.slow_way
    sets = open_sets(folio)
    found = (sets[one.id].slow_way for one in folio.bindings_of.get(command.ref, ()) if one.id in sets)
    return next(filter(None, found), ())


def digits_of(bindings: Iterable[Binding]) -> list[list[Binding]]:
    """Return the bindings, several for those that differ in the digit of their last chord alone, at least ``LEAST_DIGITS``."""
    found: dict[object, list[Binding]] = {}
    for binding in bindings:
        trigger = binding.trigger
        last = trigger.chords[-1] if isinstance(trigger, Sequence) else None
        alike = last is not None and len(last.key) == 1 and last.key.isdigit()
        found.setdefault(_without_digit(trigger) if alike and isinstance(trigger, Sequence) else binding.id, []).append(binding)
    return [part for many in found.values() for part in ([many] if len(many) >= LEAST_DIGITS else [[one] for one in many])]


def _without_digit(trigger: Sequence) -> tuple[tuple[Chord, ...], tuple[str, ...]]:
    return trigger.chords[:-1], trigger.chords[-1].modifiers


def _sets(folio: Folio) -> Iterator[OpenSet]:
    for ref, many in folio.bindings_of.items():
        for part in digits_of(many) if len(many) >= LEAST_DIGITS else ():
            if len(part) > 1:
                command = folio.commands[ref]
                yield OpenSet(command.program, command.name, "takes a digit", tuple(one.id for one in part))
    for program in folio.programs.values():
        stems = sorted((stem for stem in program.stems if stem.stays_open), key=lambda stem: len(stem.trigger.chords))
        for stem in stems:
            members = tuple(one.id for one in following(folio, program.id, stem.trigger))
            if len(members) > 1:
                yield OpenSet(program.id, stem.name or str(stem.trigger), "stays open", members, stem.slow_way)
