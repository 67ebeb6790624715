"""The bindings a round is made from: all that is due, or those of a layer, program, group, card or task run, the weakest, …"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from types import MappingProxyType
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.card_bindings import chosen
from glimber.core.model.folio import Binding, Folio, Program
from glimber.core.model.shelf import shelf
from glimber.core.notation.keys import Sequence as Chords
from glimber.core.notation.keys import Spot
from glimber.core.practice.tries import Change, utc

WEAKEST: Final = 12
MOST_USED: Final = 20
LATELY_DAYS: Final = 14


class Selection(Struct, frozen=True):
    """One thing a round can be made of. ``of`` None: everything there is; else the ids of its bindings."""

    name: str
    detail: str
    of: frozenset[str] | None = None
    run: str | None = None


EVERYTHING: Final = Selection("What is due", "of everything there is")


def selections(
    folio: Folio,
    computer: str,
    grips: Mapping[str, float],
    changes: Iterable[Change],
    at: datetime,
    uses: Mapping[str, float] = MappingProxyType({}),
) -> list[Selection]:
    """Everything a round can be made of, what has no bindings left out. ``grips``: of the bindings that were tried; ``uses``:
    how often those are used of which that is known, and not guessed."""
    known = folio.drillable(computer)
    ids = {one.id for one in known}
    every = [*_by_practice(ids, grips, changes, at, uses), *_by_place(folio, known)]
    kept = (replace(one, of=(one.of or frozenset()) & ids) for one in every)
    return [EVERYTHING, *(one for one in kept if one.of)]


def _by_practice(
    ids: Collection[str], grips: Mapping[str, float], changes: Iterable[Change], at: datetime, uses: Mapping[str, float]
) -> Iterator[Selection]:
    weakest = sorted(grips, key=lambda id: grips[id])[:WEAKEST]
    yield Selection(f"The {min(WEAKEST, len(weakest))} weakest", "by grip", frozenset(weakest))
    most = sorted((id for id in uses if id in ids and uses[id] > 0), key=lambda id: -uses[id])[:MOST_USED]
    yield Selection(f"The {len(most)} most used", "as counted or stated", frozenset(most))
    since = utc(at) - timedelta(days=LATELY_DAYS)
    stand = [change for change in changes if change.to_trigger and change.reverted is None]
    lately = frozenset(change.binding for change in stand if since <= utc(change.applied or change.at) <= utc(at))
    yield Selection("Changed lately", f"in the last {LATELY_DAYS} days", lately)


def _by_place(folio: Folio, known: Sequence[Binding]) -> Iterator[Selection]:
    for run in folio.runs.values():
        of_run = frozenset(b.id for c in run.commands for b in folio.bindings_of.get(c, ()))
        yield Selection(run.name, "task run", of_run, run.id)
    for board, layout in folio.layouts.items():
        for layer in layout.layers:
            on = frozenset(one.id for one in known if isinstance(one.trigger, Spot)
                           and (one.trigger.board, one.trigger.layer) == (board, layer.id))  # fmt: skip
            yield Selection(layer.name, f"layer of {board}", on)
    of_programs = {program.id: [one for one in known if (one.command or "").partition("/")[0] == program.id]
                   for program in folio.programs.values()}  # fmt: skip
    for id, mine in of_programs.items():
        yield from _by_program(folio, folio.programs[id], mine)
    yield from _by_card(folio, frozenset(one.id for one in known),
                        {frozenset(one.id for one in mine) for mine in of_programs.values()})  # fmt: skip


def _by_program(folio: Folio, program: Program, mine: Sequence[Binding]) -> Iterator[Selection]:
    yield Selection(program.name, "program", frozenset(one.id for one in mine))
    for group in program.groups.values():
        of = frozenset(one.id for one in mine if folio.commands[one.command or ""].group == group.id)
        yield Selection(group.name, f"group of {program.name}", of)
    yield from _by_stem(program, mine)


def _by_card(folio: Folio, ids: Collection[str], wholes: Collection[frozenset[str]]) -> Iterator[Selection]:
    for shelved in shelf(folio).values():
        of = frozenset(one.id for one, _ in chosen(folio, shelved.card) if one.id in ids)
        # An automatic card is of no use here where it shows all of a program, in whatever way.
        if shelved.own or of not in wholes:
            yield Selection(shelved.card.title, f"{shelved.card.kind} card", of)


def _by_stem(program: Program, known: Sequence[Binding]) -> Iterator[Selection]:
    """Yield the sequences that begin alike, where there are several: after the first chord, and after each stem that has a
    name."""
    steps = {one.id: one.trigger.chords for one in known
             if isinstance(one.trigger, Chords) and len(one.trigger.chords) > 1}  # fmt: skip
    names = {stem.trigger.chords: stem.name for stem in program.stems}
    for stem in dict.fromkeys([*(chords[:1] for chords in steps.values()), *names]):
        of = frozenset(id for id, chords in steps.items() if chords[: len(stem)] == stem)
        if len(of) > 1:
            before = str(Chords(stem))
            yield Selection(names.get(stem) or f"After {before}", f"sequences of {program.name}", of)
