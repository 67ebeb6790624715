"""Groups of sequences that stay open: after their first keys several may be struck, one after another, until they are closed.

The keys of such a group are learnt and judged as one: to part left from right would help nobody.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Command, Folio, Stem
from glimber.core.model.meaning import following


class OpenSet(Struct, frozen=True):
    """One such group of a program, with the ids of its bindings."""

    program: str
    stem: Stem
    bindings: tuple[str, ...]

    @property
    def name(self) -> str:
        return self.stem.name or str(self.stem.trigger)


_SETS: DerivedCache[Folio, str, Mapping[str, OpenSet]] = DerivedCache()


def open_sets(folio: Folio) -> Mapping[str, OpenSet]:
    """Return the set of each binding that is in one, of two keys at least; the innermost where one is within another."""
    return _SETS.get(folio, "sets", lambda: _sets(folio))


def slow_way_steps(folio: Folio, command: Command) -> tuple[str, ...]:
    """Return how a command is reached without its key: its own way, else the dialog of the set that one of its keys is in."""
    if command.slow_way:
        return command.slow_way
    sets = open_sets(folio)
    found = (sets[one.id].stem.slow_way for one in folio.bindings_of.get(command.ref, ()) if one.id in sets)
    return next(filter(None, found), ())


def _sets(folio: Folio) -> Mapping[str, OpenSet]:
    found: dict[str, OpenSet] = {}
    for program in folio.programs.values():
        stems = sorted((stem for stem in program.stems if stem.stays_open), key=lambda stem: len(stem.trigger.chords))
        for stem in stems:
            members = tuple(one.id for one in following(folio, program.id, stem.trigger))
            if len(members) > 1:
                found |= dict.fromkeys(members, OpenSet(program.id, stem, members))
    return found
