"""The settling of a change: the old place before it beside the new one since, and whether the new one costs less.

Source: docs/measures.md, "Verdict", step 6.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.forecast import DRAWS, LEAST_TRIES
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.columns import BLANK, HIT, Floats
from glimber.core.practice.slip_kinds import SLIP_KINDS
from glimber.core.practice.tries import SETTLING_DAYS, Change, utc
from glimber.core.stats.accuracy import Accuracies, Beta, accuracies, following
from glimber.core.stats.grouping import Selected, micros, select
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.measures import knowing_lasting, times_of

HABIT_DAYS: Final = 10
"""Before this day slips of old habit do not condemn a new place."""
SURE: Final = 0.8
_OLD_HABIT: Final = SLIP_KINDS.index("old habit")
_TIME_DEVIATION: Final = 0.35
TREND_TRIES: Final = 20
LEAST_TREND_TRIES: Final = 6
LEAST_TREND_BINDINGS: Final = 5
TREND_RANGE: Final = (0.5, 1.2)
"""Bindings and tries on both sides that a trend of times takes, and how far it is believed."""


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
    """Return every change that stands and was neither confirmed nor made undone, the newest first; one for each binding."""
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
        _side(ledger, row, before, was, _Course.of(ledger, row, before, len(judged.place))),
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


class _Course(Struct, frozen=True):
    """A side as it would have gone on without the change: errors that pass go on falling at the calm bindings' pace for the tries
    since, and times go the way that those of all others went. ``knowing`` and ``time`` are factors, ``floor`` the calm bindings'
    rate, ``lasting`` the chance that its errors of knowing do not fall."""

    knowing: float = 1.0
    time: float = 1.0
    floor: float = 0.0
    lasting: float = 1.0

    @classmethod
    def of(cls, ledger: Ledger, row: Weighed, before: Selected, tries_since: int) -> _Course:
        """Return the course of the side before a change, after so many tries since."""
        if not len(before.place):
            return cls()
        tried = max(LEAST_TRIES, float(len(before.place)))
        fallen = ((tried + tries_since) / tried) ** -ledger.slope
        lasting = float(knowing_lasting(before).chance[0])
        since = int(before.columns.at_us[before.place].max())
        return cls(fallen, _time_trend(ledger, row, since), ledger.calm_knowing, lasting)

    def unknown(self, knowing: Floats | float, lasts: Floats | float) -> Floats:
        """Return rates of not knowing as they would be by now."""
        passing = np.maximum(np.minimum(knowing, self.floor), np.asarray(knowing) * self.knowing)
        return np.asarray(lasts * np.asarray(knowing) + (1 - np.asarray(lasts)) * passing)


def _time_trend(ledger: Ledger, row: Weighed, since_us: int) -> float:
    """Return how the times of the other bindings went from before a moment to after it, as the median of their ratios."""
    tries = ledger.logged.where(ledger.logged.columns.counts[ledger.logged.place])
    c = tries.columns
    ratios = []
    for number, other in enumerate(ledger.rows.values()):
        rows = tries.rows(number)
        rows = rows[(c.outcome[rows] == HIT) & ~np.isnan(c.recall_ms[rows])]
        times = c.recall_ms[rows] + np.nan_to_num(c.motor_ms[rows])
        old, new = times[c.at_us[rows] <= since_us], times[c.at_us[rows] > since_us]
        if other.binding.id != row.binding.id and min(len(old), len(new)) >= LEAST_TREND_TRIES:
            ratios.append(float(np.median(new) / np.median(old[-TREND_TRIES:])))
    return float(np.clip(np.median(ratios), *TREND_RANGE)) if len(ratios) >= LEAST_TREND_BINDINGS else 1.0


def _side(ledger: Ledger, row: Weighed, tries: Selected, trigger: str, course: _Course = _Course()) -> Side:
    c = tries.columns
    if not len(tries.place):
        return Side(trigger, 0, None, None, {}, None)
    found = _followed(ledger, tries)
    knowing = float(course.unknown(float(found.knowing[0]), course.lasting))
    hand = float(found.hand_a[0] / (found.hand_a[0] + found.hand_b[0]))
    accuracy = Beta.of((1 - hand) * (1 - knowing), float(found.var[0]))
    recall, _, motor = times_of(tries, 0)
    kinds: dict[str, int] = {}
    for code in c.slip[tries.place]:
        if code >= 0:
            kinds[SLIP_KINDS[code]] = kinds.get(SLIP_KINDS[code], 0) + 1
    time = None if recall is None else (recall + (motor or 0.0)) * course.time
    weekly = None if time is None else row.uses_week * (time / 1000 + (1 - accuracy.mean) * _error_s(row, tries))
    return Side(trigger, len(tries.place), accuracy, time, kinds, weekly)


def _error_s(row: Weighed, tries: Selected) -> float:
    """Return seconds an error costs: slips are mended, blanks go the slow way; 1 : 1 before any."""
    outcome = tries.columns.outcome[tries.place]
    blanks, wrong = int((outcome == BLANK).sum()), int((outcome != HIT).sum())
    share = blanks / wrong if wrong else 0.5
    return (1 - share) * row.recovery_s + share * row.blank_s


def _p_better(ledger: Ledger, row: Weighed, before: Selected, after: Selected) -> float | None:
    """P(new costs less) by draws from both posteriors; None where one of them has no tries."""
    if not len(before.place) or not len(after.place):
        return None
    course = _Course.of(ledger, row, before, len(after.place))
    costs = [_use_draws(ledger, row, before, 0, course), _use_draws(ledger, row, after, 1)]
    return float((costs[1] < costs[0]).mean())


def _followed(ledger: Ledger, tries: Selected) -> Accuracies:
    """Return the accuracy of one side, with errors of knowing as they are by its last tries."""
    known = ledger.accuracies
    found = accuracies(tries, (known.hand_prior, known.knowing_prior, known.theta))
    rate = knowing_lasting(tries)
    return following(found, tries.counts, rate.now, 1 - rate.chance)


def _use_draws(ledger: Ledger, row: Weighed, tries: Selected, seed: int, course: _Course = _Course()) -> Floats:
    """Return draws (2000,) of what a use costs, in seconds."""
    rng = np.random.default_rng([seed, len(tries.place)])
    found = _followed(ledger, tries)
    one = Beta.of(float(found.knowing[0]), float(found.knowing_var[0]))
    lasts = (rng.random(DRAWS) < course.lasting).astype(np.float64)
    knowing = course.unknown(rng.beta(one.a, one.b, DRAWS), lasts)
    clean = (1 - knowing) * (1 - rng.beta(found.hand_a[0], found.hand_b[0], DRAWS))
    recall, _, motor = times_of(tries, 0)
    deviation = _TIME_DEVIATION / np.sqrt(len(tries.place))
    time = course.time * ((recall or 0.0) + (motor or 0.0)) / 1000 * rng.lognormal(0.0, deviation, DRAWS)
    return np.asarray(time + (1 - clean) * _error_s(row, tries))
