"""The next round: which bindings, how many clean hits each, and why; by what another second of practice is worth.

Source: docs/measures.md, "The next round".
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from datetime import timedelta
from functools import cached_property
from heapq import heapify, heappop, heappush
from math import inf
from types import MappingProxyType
from typing import TYPE_CHECKING, Final

from msgspec import Struct

from glimber.core.practice.round import LEAST_HITS, MOST_HITS
from glimber.core.practice.slip_kinds import HAND_KINDS
from glimber.core.practice.tries import Try, utc

if TYPE_CHECKING:
    from glimber.core.practice.columns import Floats
    from glimber.core.stats.ledger import Ledger, Weighed

MINUTES: Final = (1, 3, 5, 10)
USUAL_MINUTES: Final = 3
_PACE_S: Final = 20.0
"""Seconds for which the pace of a round is taken as it was thought to be."""
PICKED_MINUTES: Final = 0.4
"""For each binding that is picked by hand, a minute at least: who picks one wants to drill it."""
PRESSING_BELOW: Final = 0.85
MOVED_DAYS: Final = 14


class Due(Struct, frozen=True):
    """One binding of the next round. ``p_now``: chance of a clean hit now; ``new``: never tried at this trigger; ``hits``
    planned, what they are worth in seconds a week, and the seconds they take."""

    binding: str
    why: str
    p_now: float
    new: bool
    hits: int
    worth_s_week: float
    seconds: float


class Budget(Struct, frozen=True, dict=True):
    """The bindings a round's time can be spent on, with the worths of further hits (8, n) and the seconds of one (n,).

    ``pressed``: those that must be in, with why. A value that serves the whole round: the plan is made again from it after each
    try.
    """

    ids: tuple[str, ...]
    worths: Floats
    seconds: Floats
    known: Floats
    pressed: Mapping[str, str]

    @cached_property
    def _place(self) -> Mapping[str, int]:
        return {id: place for place, id in enumerate(self.ids)}

    @cached_property
    def _worths(self) -> list[list[float]]:
        """By binding: taking single figures out of an array is slow."""
        return self.worths.T.tolist()  # type: ignore[no-any-return]

    def share_out(
        self,
        left_s: float,
        so_far: Mapping[str, SoFar] = MappingProxyType({}),
        size: int | None = None,
        pace: float = 1.0,
    ) -> dict[str, int]:
        """Return how many further clean hits each binding gets in the seconds that are left.

        What was begun gets the two hits that are least first, then what must be in, then whatever is worth most a second. At
        most ``size`` bindings; ``pace``: how much longer prompts took so far than was thought.
        """
        if left_s <= 0:
            return {}
        had = {self._place[id]: one for id, one in so_far.items() if id in self._place}
        shares = _Shares(self, had, self.seconds * pace, left_s, (inf if size is None else size) - len(had))
        for place, one in had.items():
            if one.hits < LEAST_HITS:
                shares.give(place)
        places = {self._place[id] for id in self.pressed if id in self._place}
        for place in sorted(places - had.keys(), key=lambda place: -shares.value(place)):
            if shares.free <= 0 or not shares.give(place):
                break
        shares.give_by_worth()
        return {self.ids[place]: count for place, count in shares.more.items()}

    def worth_of_next(self, place: int, first: int, count: int, so_far: SoFar | None) -> float:
        """Return the seconds a week that ``count`` hits save after ``first`` were struck."""
        return float(self._learnt(place, so_far) * sum(self._worths[place][first : first + count]))

    def _learnt(self, place: int, so_far: SoFar | None) -> float:
        """Return the factor of a worth after the first try: less than 1 if the binding was known before, else more."""
        if so_far is None or so_far.first_ever is None:
            return 1.0
        before = float(self.known[place])
        return 1.0 if before >= 1 else (1 - (4 * before + so_far.first_ever) / 5) / (1 - before)

    def only(self, usable: Callable[[str], bool]) -> Budget:
        """Return the same of some of its bindings."""
        places = [place for place, id in enumerate(self.ids) if usable(id)]
        return Budget(tuple(self.ids[place] for place in places), self.worths[:, places], self.seconds[places],
                      self.known[places], {id: why for id, why in self.pressed.items() if usable(id)})  # fmt: skip

    def worth(self, id: str, hits: int) -> float:
        """Return seconds a week that so many hits of a binding save."""
        return float(self.worths[:hits, self._place[id]].sum())

    def takes(self, id: str) -> float:
        """Return seconds that one hit of a binding takes."""
        return float(self.seconds[self._place[id]])


class SoFar(Struct, frozen=True):
    """The state of a binding in the round: clean hits, right strikes after a slip among them, and for one never tried
    before, whether it was known at its first try."""

    hits: int
    strikes: int
    first_ever: bool | None = None


class _Shares:
    """The further hits that are given out of a budget: ``more`` by place, what is ``left`` of the time in seconds, and how many
    bindings may still be begun (``free``). ``takes``: seconds of a hit, (n,).
    """

    def __init__(self, budget: Budget, had: Mapping[int, SoFar], takes: Floats, left: float, free: float) -> None:
        self.budget, self.had, self.takes, self.left, self.free = budget, had, takes, left, free
        self.more: dict[int, int] = {}

    def _hits(self, place: int) -> int:
        return (self.had[place].hits if place in self.had else 0) + self.more.get(place, 0)

    def step(self, place: int) -> int:
        """Return how many hits are given together: two at first, so that a binding that is begun is also finished."""
        return max(1, LEAST_HITS - self._hits(place))

    def value(self, place: int) -> float:
        """Return what a second is worth that is spent on the next hits of a binding."""
        struck = self.had[place].strikes if place in self.had else 0
        first = min(struck + self.more.get(place, 0), MOST_HITS - 1)
        step = self.step(place)
        return self.budget.worth_of_next(place, first, step, self.had.get(place)) / (step * float(self.takes[place]))

    def give(self, place: int) -> bool:
        """Give a binding its next hits. Return False if there is no time for them."""
        step = self.step(place)
        cost = step * self.takes[place]
        if cost > self.left + 1e-9 and (self.more or self.had):
            return False
        self.left -= cost
        self.free -= place not in self.more and place not in self.had
        self.more[place] = self.more.get(place, 0) + step
        return True

    def give_by_worth(self) -> None:
        """Give the rest of the time to whatever is worth most; a worth that grows less with each hit makes greedy right."""
        waiting = [(-self.value(place), place) for place in range(len(self.budget.ids)) if self._hits(place) < MOST_HITS]
        heapify(waiting)
        while waiting:
            worth, place = heappop(waiting)
            if worth >= 0:
                break
            if self.free <= 0 and place not in self.more and place not in self.had:
                continue
            if self.give(place) and self._hits(place) < MOST_HITS:
                heappush(waiting, (-self.value(place), place))


def budget_of(ledger: Ledger, may: Callable[[str], bool] = lambda id: True) -> Budget:
    """Return what a round of those bindings that ``may`` be asked can be given to."""
    rows = [(place, id) for place, id in enumerate(ledger.rows) if may(id)]
    places, hits = [place for place, _ in rows], ledger.hits
    pressed = {id: why for id, why in pressing(ledger).items() if may(id)}
    return Budget(
        tuple(id for _, id in rows), hits.worths[:, places], hits.seconds[places], hits.known[places], pressed
    )


def plan_round(
    ledger: Ledger,
    minutes: float = USUAL_MINUTES,
    size: int | None = None,
    may: Callable[[str], bool] = lambda id: True,
) -> list[Due]:
    """Return what to drill in so many minutes, at most ``size`` bindings of those that ``may`` be asked.

    What slipped last time, was missed at work or moved is in; hits are then given out greedily by worth a second until the
    time is used, 2 to 8 for a binding. What is worth nothing is not asked for."""
    budget = budget_of(ledger, may)
    return due_of(ledger, budget, minutes, size) if budget.ids else []


def due_of(ledger: Ledger, budget: Budget, minutes: float, size: int | None = None) -> list[Due]:
    """Return the round that a budget gives: first what must be in, then what is worth most."""
    hits = budget.share_out(minutes * 60.0, size=size)
    found = [_due(ledger.rows[id], budget, count) for id, count in hits.items()]
    return sorted(found, key=lambda one: (one.binding not in budget.pressed, -one.worth_s_week))


def planned_hits(ledger: Ledger | None, bindings: Sequence[str]) -> dict[str, int]:
    """Return how many clean hits bindings picked by hand need: as in a round of them alone, at least 2; 4 before anything is
    weighed."""
    if ledger is None:
        return dict.fromkeys(bindings, 2 * LEAST_HITS)
    wanted = set(bindings)
    budget = budget_of(ledger, wanted.__contains__)
    planned = budget.share_out(60 * max(1.0, PICKED_MINUTES * len(wanted))) if budget.ids else {}
    return {id: planned.get(id, LEAST_HITS) for id in bindings}


def replanned(
    budget: Budget, minutes: float, untried: Collection[str], tries: Sequence[Try], gone_s: float
) -> dict[str, int]:
    """The clean hits each binding of a round is to have in all, from what is known after these tries and so many seconds.

    ``untried``: bindings that had never been tried before the round.
    """
    so_far: dict[str, SoFar] = {}
    thought = 0.0
    for one in tries:
        if one.outcome == "void":
            continue
        known = so_far.get(one.binding, SoFar(0, 0))
        clean = one.outcome == "hit"
        first = known.first_ever
        if one.first and first is None and one.binding in untried and not known.strikes:
            first = clean or one.slip in HAND_KINDS
        so_far[one.binding] = SoFar(known.hits + (clean and one.first), known.strikes + clean, first)
        if one.first and one.binding in budget.ids:
            thought += budget.takes(one.binding)
    pace = (gone_s + _PACE_S) / (thought + _PACE_S)
    more = budget.share_out(max(0.0, minutes * 60.0 - gone_s), so_far, pace=pace)
    return {id: (so_far[id].hits if id in so_far else 0) + more.get(id, 0) for id in {**so_far, **more}}


def due_now(ledger: Ledger) -> int:
    """Return how many bindings press: those that slipped last, were missed or moved, or whose chance of a clean hit is low."""
    never = {id for id, row in ledger.rows.items() if row.command.learn == "never"}
    weak = {row.binding.id for row in ledger.rows.values() if row.count and row.p_clean < PRESSING_BELOW}
    return len((weak | pressing(ledger).keys()) - never)


def _due(row: Weighed, budget: Budget, hits: int) -> Due:
    new, id = not row.count, row.binding.id
    why = budget.pressed.get(id) or ("new" if new else "weak" if row.p_clean < PRESSING_BELOW else "to keep")
    return Due(id, why, row.p_clean, new and why == "new", hits, budget.worth(id, hits), hits * budget.takes(id))


def pressing(ledger: Ledger) -> dict[str, str]:
    """Return what must be in the next round, with why."""
    found = dict.fromkeys(_slipped_last(ledger), "slipped last time")
    found |= dict.fromkeys(missed_at_work(ledger), "missed at work")
    return {**found, **dict.fromkeys(_moved(ledger), "moved")}


def _slipped_last(ledger: Ledger) -> Collection[str]:
    """Return bindings that went wrong in the last round."""
    import numpy as np  # the Drill room's first frame has no ledger

    from glimber.core.practice.columns import HIT, VOID
    from glimber.core.stats.grouping import micros

    c = ledger.practice.columns
    seen = np.flatnonzero((c.at_us <= micros(ledger.at)) & (c.outcome != VOID))
    if not len(seen):
        return []
    last = c.round.codes[seen[np.argmax(c.at_us[seen])]]
    wrong = seen[(c.round.codes[seen] == last) & c.first[seen] & (c.outcome[seen] != HIT)]
    return {name for code in c.binding.codes[wrong] if (name := c.binding.names[code]) in ledger.rows}


def missed_at_work(ledger: Ledger) -> list[str]:
    """Return bindings that were noted as missed at work since they were last tried, or whose command was chosen by menu since
    they were last struck at work."""
    found = missed_by_menu(ledger)
    for change in ledger.practice.changes:
        row = ledger.rows.get(change.binding)
        if change.verdict != "missed" or row is None or utc(change.at) > ledger.at:
            continue
        if not row.count or utc(row.tries[-1].at) < utc(change.at):
            found.append(change.binding)
    return found


def missed_by_menu(ledger: Ledger) -> list[str]:
    """Return bindings whose command was chosen in a menu since the key was struck last, the first of each command; one that was
    tried on a later day counts no longer."""
    found = []
    for ref, day in ledger.practice.tally.missed.items():
        row = next((ledger.rows[one.id] for one in ledger.folio.bindings_of.get(ref, ()) if one.id in ledger.rows), None)
        if row is not None and not (row.count and utc(row.tries[-1].at).date().isoformat() > day):
            found.append(row.binding.id)
    return found


def _moved(ledger: Ledger) -> list[str]:
    """Return bindings moved within two weeks that were not yet tried at their new place, the newest first."""
    since = ledger.at - timedelta(days=MOVED_DAYS)
    moved = [change.binding for change in ledger.practice.changes
             if since <= utc(change.applied or change.at) <= ledger.at and change.to_trigger]  # fmt: skip
    return [id for id in dict.fromkeys(reversed(moved)) if id in ledger.rows and not ledger.rows[id].count]
