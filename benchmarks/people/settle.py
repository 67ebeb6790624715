"""Whether the advice on a change after two weeks is right: people who moved a binding to a worse or a better place.

Each person practises, then changes six bindings at once: healthy ones to the hardest free key, and those with the most to gain to
the place that truly saves most. Everything is practised on for two weeks. The truth is which place would cost less a use in the
weeks after, each as it would be by then.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Final

from msgspec.structs import replace

from benchmarks.figures import Figure
from benchmarks.people.oracle import Truth, _options
from benchmarks.people.person import NOW, Known, Person
from benchmarks.people.score import _folio, first_tries
from benchmarks.people.sorts import OTHERS, SORTS, Sort
from glimber.core.decide.candidates import Forecasts
from glimber.core.decide.settling import Settling, settlings
from glimber.core.edit.edit import move_binding
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Trigger
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, Try
from glimber.core.stats.measures import measure

EACH: Final = 4
BEFORE: Final = 60
DAYS: Final = 14
A_DAY: Final = 4
"""Tries of each binding on each day."""
WORSE: Final = 3
BETTER: Final = 3
AFTER_DAYS: Final = 56
EVEN: Final = 0.02
"""Places whose costs differ by less are neither better nor worse."""
LEFT_SHARE: Final = 0.05
"""A binding of which the person does not know more than so much where it is when it moves."""


@dataclass
class Advice:
    """Advice on day 14 by what is true; ``shown`` and ``true``: seconds a week by which new places were better."""

    worse: dict[str, int] = field(default_factory=dict)
    better: dict[str, int] = field(default_factory=dict)
    shown: float = 0.0
    true: float = 0.0

    def add(self, other: Advice) -> None:
        for mine, theirs in ((self.worse, other.worse), (self.better, other.better)):
            for advice, count in theirs.items():
                mine[advice] = mine.get(advice, 0) + count
        self.shown += other.shown
        self.true += other.true


def advice_on(person: Person) -> Advice:
    """What is said on day 14 of what one person moved."""
    began = NOW - timedelta(days=DAYS)
    early = first_tries(person.practice(), BEFORE)
    late = max(one.at for one in early.tries)
    shift = late - began + timedelta(hours=12)
    before = [replace(one, at=one.at - shift) for one in early.tries]
    ledger = measure(person.folio, Practice(tuple(before), person.changes), began, "bench")
    moves = _moves(person, Forecasts(ledger, "bench"), Truth(person, ledger, BEFORE))
    folio, moved, changes = person.folio, dict[str, Known](), list[Change]()
    for id, to in moves.items():
        known = person.known[id]
        folio = move_binding(folio, id, to).folio
        goes = to in known.to
        left = known.share if known.to and not goes and known.trouble not in ("neighbour-slips", "hand-goes-elsewhere") else 0.0
        moved[id] = Known(folio.bindings[id], 0.1 if goes else 0.5, known.floor, person.sort.relearn_tau,
                          known.trouble if left else None, left, known.to if left else ())  # fmt: skip
        changes.append(Change(f"c-{id}", began, "bench", id, "move", known.binding.command, str(known.binding.trigger), str(to),
                              "", applied=began))  # fmt: skip
    tries = (*before, *_two_weeks(person, folio, moved))
    found = Advice()
    for one in settlings(measure(folio, Practice(tries, (*person.changes, *changes)), NOW, "bench")):
        if one.change.binding in moved:
            _note(found, person, moved[one.change.binding], one)
    return found


def _moves(person: Person, forecasts: Forecasts, truth: Truth) -> dict[str, Trigger]:
    """Where six bindings go: three healthy ones to the hardest free place, three to where they save most."""
    found: dict[str, Trigger] = {}
    taken: set[Trigger] = set()
    best = []
    for id, known in person.known.items():
        free = [to for to, partner in _options(forecasts, forecasts.ledger.rows[id]) if partner is None]
        if free:
            best.append((max((truth.saved(known, to, None)[1], str(to), to) for to in free), id))
    for (_, _, to), id in sorted(best, reverse=True)[: 2 * BETTER]:
        if len(found) < BETTER and to not in taken:
            found[id] = to
            taken.add(to)
    healthy = [id for id, known in person.known.items()
               if known.trouble is None and id not in found and known.unknown(BEFORE) < LEFT_SHARE]  # fmt: skip
    for id in person.random.sample(healthy, min(WORSE, len(healthy))):
        free = [to for to, partner in _options(forecasts, forecasts.ledger.rows[id]) if partner is None and to not in taken]
        if free:
            found[id] = max(free, key=lambda to: (person.motor_ms(to), str(to)))
            taken.add(found[id])
    return found


def _two_weeks(person: Person, folio: Folio, moved: dict[str, Known]) -> list[Try]:
    """Every binding a few times on each day, those that moved at their new places."""
    made: list[Try] = []
    now, whole = {**person.known, **moved}, person.folio
    person.folio = folio
    for day in range(DAYS):
        at = NOW - timedelta(days=DAYS - day) + timedelta(hours=2)
        for turn in range(A_DAY):
            for id, known in now.items():
                at += timedelta(seconds=3)
                done = day * A_DAY + turn + (0 if id in moved else BEFORE)
                made.append(person._try(known, done, turn == 0, 0.0, f"after-{person.seed}-{day}", at, len(made)))
    person.folio = whole
    return made


def _use_s(person: Person, known: Known, tries: float) -> float:
    """True seconds of a use over the weeks to come, as they would be after so many tries."""
    days, uses = AFTER_DAYS, A_DAY
    return person.cost_s(known, None, uses, days, 2.5, 6.0, round(tries)) / (uses * days)


def _note(found: Advice, person: Person, now: Known, one: Settling) -> None:
    was = _use_s(person, person.known[now.binding.id], BEFORE + DAYS * A_DAY)
    is_now = _use_s(person, now, DAYS * A_DAY)
    if abs(was - is_now) > EVEN * was:
        by = found.better if is_now < was else found.worse
        by[one.advice] = by.get(one.advice, 0) + 1
    if one.before.weekly_s and one.after.weekly_s and one.before.time_ms:
        scale = one.before.weekly_s / was
        found.shown += one.before.weekly_s - one.after.weekly_s
        found.true += (was - is_now) * scale


def _of(sort: Sort, numbers: Sequence[int]) -> Advice:
    whole = Advice()
    for number in numbers:
        whole.add(advice_on(Person(_folio(), sort, number)))
    return whole


def all_advice(sorts: Sequence[Sort] = (*SORTS, *OTHERS), each: int = EACH) -> Advice:
    """Every sort, so many people of each, on all processors."""
    whole = Advice()
    with ProcessPoolExecutor() as pool:
        for one in pool.map(_of, sorts, [list(range(each))] * len(sorts)):
            whole.add(one)
    return whole


def figures() -> list[Figure]:
    """What script/bench settling prints."""
    found = all_advice()
    worse, better = sum(found.worse.values()), sum(found.better.values())
    wrong = found.worse.get("confirm", 0) + found.better.get("go back", 0)
    return [
        Figure("advice on day 14 that is wrong", 100 * wrong / (worse + better), "%", 10, note=f"of {worse + better}"),
        Figure("  of worse places that are confirmed", 100 * found.worse.get("confirm", 0) / worse, "%", note=str(found.worse)),
        Figure("  of better places taken back", 100 * found.better.get("go back", 0) / better, "%", note=str(found.better)),
        Figure("gain shown over true gain", found.shown / found.true, "x", note=f"{found.true:,.0f} s a week in all"),
    ]  # fmt: skip
