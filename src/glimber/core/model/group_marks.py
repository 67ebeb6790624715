"""Inks and marks of groups: sixty-four pairs, so that no two groups of a program look alike."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Final

from msgspec.structs import replace

from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import INKS, MARKS, Folio, Group, Program

PAIRS: Final = tuple(
    (INKS[at], MARKS[(at + turn) % len(MARKS)]) for turn in range(len(MARKS)) for at in range(len(INKS))
)
"""All pairs, those that share neither ink nor mark with another first."""
_DISTINCT: DerivedCache[Program, str, Program] = DerivedCache()
_FOLIOS: DerivedCache[Folio, str, Folio] = DerivedCache()


def next_pair(groups: Mapping[str, Group]) -> tuple[str, str]:
    """Return the ink and mark of a new group beside others: a pair that none of them has."""
    return _free({(group.ink, group.mark) for group in groups.values()}, len(groups))


def _free(taken: Collection[tuple[str, str]], number: int) -> tuple[str, str]:
    inks, marks = {ink for ink, _ in taken}, {mark for _, mark in taken}
    for ink, mark in PAIRS:
        if ink not in inks and mark not in marks:
            return ink, mark
    return next((pair for pair in PAIRS if pair not in taken), PAIRS[number % len(PAIRS)])


def with_distinct_groups(folio: Folio) -> Folio:
    """Return the folio with no two groups of a program alike: of those that are, the later ones get free pairs."""
    programs = {id: _DISTINCT.get(program, "distinct", lambda program=program: _distinct(program))  # type: ignore[misc]
                for id, program in folio.programs.items()}  # fmt: skip
    if all(programs[id] is program for id, program in folio.programs.items()):
        return folio
    return _FOLIOS.get(folio, "distinct", lambda: replace(folio, programs=programs))


def _distinct(program: Program) -> Program:
    pairs = [(group.ink, group.mark) for group in program.groups.values()]
    if len(set(pairs)) == len(pairs):
        return program
    groups, taken, own = dict[str, Group](), set[tuple[str, str]](), set(pairs)
    for id, group in program.groups.items():
        pair = (group.ink, group.mark)
        if pair in taken:
            pair = _free(taken | own, len(taken))
        taken.add(pair)
        groups[id] = group if pair == (group.ink, group.mark) else replace(group, ink=pair[0], mark=pair[1])
    return replace(program, groups=groups)
