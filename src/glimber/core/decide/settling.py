"""How a change settles: the old place before it beside the new one since, and whether the new one costs less.

Source: docs/measures.md, "Verdict", step 6.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.forecast import DRAWS
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.columns import BLANK, HIT, Floats
from glimber.core.practice.tries import SETTLING_DAYS, SLIP_KINDS, Change, utc
from glimber.core.stats.accuracy import Beta, accuracies
from glimber.core.stats.grouping import Selected, micros, select
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.measures import times_of

HABIT_DAYS: Final = 10
"""Before this day slips of old habit do not condemn a new place."""
SURE: Final = 0.8
_OLD_HABIT: Final = SLIP_KINDS.index("old habit")
_TIME_DEVIATION: Final = 0.35


class Side(Struct, frozen=True):
    """One side of a change. Times in ms, cost in seconds a week; None where there are no tries."""

    trigger: str
    tries: int
    accuracy: Beta | None
    time_ms: float | None
    slips: Mapping[str, int]
    weekly_s: float | None


class Settling(Struct, frozen=True):
    """A change that stands: ``day`` since it was set, ``waits`` that it has not been set yet, ``old_habits`` slips to the
    old place, ``p_better`` the chance that the new place costs less."""

    change: Change
    before: Side
    after: Side
    day: int
    old_habits: int
    p_better: float | None
    waits: bool

    @property
    def days_left(self) -> int:
        return max(0, SETTLING_DAYS - self.day)

    @property
    def advice(self) -> str:
        """Return what the figures say so far: settling, confirm or go back."""
        if self.waits or self.p_better is None or (self.days_left and self.day < HABIT_DAYS):
            return "settling"
        if self.p_better >= SURE:
            return "confirm"
        if 1 - self.p_better >= SURE:
            return "go back"
        return "settling" if self.days_left else "confirm" if self.p_better >= 0.5 else "go back"


def settlings(ledger: Ledger) -> list[Settling]:
    """Every change that stands and was neither confirmed nor made undone, the newest first; one for each binding."""
    found: dict[str, Settling] = {}
    decided = {
        (one.binding, one.from_trigger)
        for one in ledger.practice.changes
        if one.verdict == "confirmed" and one.reverted is None
    }
    for change in sorted(ledger.practice.changes, key=lambda one: utc(one.at), reverse=True):
        row = ledger.rows.get(change.binding)
        if (
            row is None
            or change.binding in found
            or not change.to_trigger
            or not change.from_trigger
            or change.reverted
        ):
            continue
        if str(row.binding.trigger) != change.to_trigger or (change.binding, change.to_trigger) in decided:
            continue
        if (ledger.at - utc(change.at)).days <= 2 * SETTLING_DAYS:
            found[change.binding] = _settling(ledger, row, change)
    return list(found.values())


def _settling(ledger: Ledger, row: Weighed, change: Change) -> Settling:
    began = utc(change.applied or change.at)
    day = max(0, (ledger.at - began).days)
    was, now = change.from_trigger or "", str(row.binding.trigger)
    old = _trigger(ledger.folio, was)
    columns = ledger.practice.columns
    before = select(columns, [replace(row.binding, trigger=old)] if old is not None else [row.binding], began)
    before = before.where(columns.counts[before.place] if old is not None else np.zeros(len(before.place), dtype=bool))
    after = select(columns, [row.binding], ledger.at)
    after = after.where(columns.counts[after.place] & (columns.at_us[after.place] >= micros(began)))
    habit = columns.slip[after.place] == _OLD_HABIT
    judged = after.where(~habit) if day < HABIT_DAYS else after
    return Settling(
        change,
        _side(ledger, row, before, was),
        _side(ledger, row, judged, now),
        day,
        int(habit.sum()),
        _p_better(ledger, row, before, judged),
        change.applied is None,
    )


def _trigger(folio: Folio, text: str) -> Trigger | None:
    try:
        return parse_trigger(text, folio.bundles)
    except NotationError:
        return None


def _side(ledger: Ledger, row: Weighed, tries: Selected, trigger: str) -> Side:
    c = tries.columns
    if not len(tries.place):
        return Side(trigger, 0, None, None, {}, None)
    known = ledger.accuracies
    accuracy = accuracies(tries, (known.hand_prior, known.knowing_prior, known.theta)).posterior(0)
    recall, _, motor = times_of(tries, 0)
    kinds: dict[str, int] = {}
    for code in c.slip[tries.place]:
        if code >= 0:
            kinds[SLIP_KINDS[code]] = kinds.get(SLIP_KINDS[code], 0) + 1
    time = None if recall is None else recall + (motor or 0.0)
    weekly = None if time is None else row.uses_week * (time / 1000 + (1 - accuracy.mean) * _error_s(row, tries))
    return Side(trigger, len(tries.place), accuracy, time, kinds, weekly)


def _error_s(row: Weighed, tries: Selected) -> float:
    """Seconds an error costs: slips are mended, blanks go the slow way; 1 : 1 before any."""
    outcome = tries.columns.outcome[tries.place]
    blanks, wrong = int((outcome == BLANK).sum()), int((outcome != HIT).sum())
    share = blanks / wrong if wrong else 0.5
    return (1 - share) * row.recovery_s + share * row.blank_s


def _p_better(ledger: Ledger, row: Weighed, before: Selected, after: Selected) -> float | None:
    """P(new costs less) by draws from both posteriors; None where one of them has no tries."""
    if not len(before.place) or not len(after.place):
        return None
    costs = [_use_draws(ledger, row, tries, seed) for seed, tries in enumerate((before, after))]
    return float((costs[1] < costs[0]).mean())


def _use_draws(ledger: Ledger, row: Weighed, tries: Selected, seed: int) -> Floats:
    """Draws (2000,) of what a use costs, in seconds."""
    rng = np.random.default_rng([seed, len(tries.place)])
    known = ledger.accuracies
    accuracy = accuracies(tries, (known.hand_prior, known.knowing_prior, known.theta)).posterior(0)
    recall, _, motor = times_of(tries, 0)
    deviation = _TIME_DEVIATION / np.sqrt(len(tries.place))
    time = ((recall or 0.0) + (motor or 0.0)) / 1000 * rng.lognormal(0.0, deviation, DRAWS)
    return np.asarray(time + (1 - rng.beta(accuracy.a, accuracy.b, DRAWS)) * _error_s(row, tries))
