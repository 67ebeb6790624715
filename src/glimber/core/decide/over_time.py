"""Over time: practice day by day, what the folio cost in a week at moments gone by, and what has faded."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime, timedelta
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.model.folio import Folio
from glimber.core.notation.csvtext import csv_text
from glimber.core.practice.columns import HIT
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import utc
from glimber.core.stats.days import end_of, own_date, own_days
from glimber.core.stats.grouping import micros
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.measures import measure

MOMENTS: Final = 10
FADED_BELOW: Final = 0.6
HELD_ABOVE: Final = 0.85
FADED_DAYS: Final = 5


class PracticeDay(Struct, frozen=True):
    """A day with practice: counted tries, the share of clean hits among them, and seconds between first and last try of its
    rounds."""

    day: date
    tries: int
    clean: float
    practice_s: float


class Moment(Struct, frozen=True):
    """The folio as it was weighed at the end of a day: what it cost in a week, what it saved over the slow way, what was
    known."""

    day: date
    weekly_s: float
    earned_s: float
    known: int


class OverTime(Struct, frozen=True):
    """All of it. ``faded``: bindings once held that are likely forgotten, with the chance of knowing them now, least first."""

    days: tuple[PracticeDay, ...]
    moments: tuple[Moment, ...]
    faded: tuple[tuple[str, float], ...]

    @property
    def practice_s_week(self) -> float:
        """Seconds of practice in the last seven days."""
        if not self.days:
            return 0.0
        since = self.days[-1].day - timedelta(days=6)
        return sum(one.practice_s for one in self.days if one.day >= since)


def over_time(ledger: Ledger, computer: str | None = None, checkpoint: Callable[[], None] = lambda: None) -> OverTime:
    """Return what a ledger's practice says over time; every moment is weighed by itself, so ``checkpoint`` is called often."""
    days = practice_days(ledger.practice, ledger.at)
    ends = [days[place].day for place in np.unique(np.linspace(0, len(days) - 1, MOMENTS).astype(int))] if days else []
    moments = []
    for day in ends:
        checkpoint()
        moments.append(_moment(ledger.folio, ledger.practice, min(end_of(day), ledger.at), day, computer, checkpoint))
    return OverTime(tuple(days), tuple(moments), tuple(faded_now(ledger)))


def faded_now(ledger: Ledger) -> list[tuple[str, float]]:
    """Return bindings once held that are likely forgotten, with the chance of knowing them now, the least first."""
    found = [(row.binding.id, row.p_know) for row in ledger.rows.values() if _faded(ledger, row)]
    return sorted(found, key=lambda one: one[1])


def practice_days(practice: Practice, at: datetime) -> list[PracticeDay]:
    """Return every day with counted tries until a moment; a day is the person's own."""
    c = practice.columns
    before = c.at_us <= micros(utc(at))
    counted = np.flatnonzero(c.counts & before)
    if not len(counted):
        return []
    day_of = own_days(c.at_us)
    lengths = _round_lengths(c.round.codes[before], c.at_us[before])
    found = []
    for day in np.unique(day_of[counted]):
        here = counted[day_of[counted] == day]
        clean = float((c.outcome[here] == HIT).mean())
        found.append(PracticeDay(own_date(day), len(here), clean, lengths.get(int(day), 0.0)))
    return found


def _round_lengths(rounds: np.ndarray, at_us: np.ndarray) -> Mapping[int, float]:
    """Return seconds from the first try to the last of every round, summed by the day it began."""
    if not len(rounds):
        return {}
    size = int(rounds.max()) + 1
    first, last = np.full(size, np.iinfo(np.int64).max), np.zeros(size, dtype=np.int64)
    np.minimum.at(first, rounds, at_us)
    np.maximum.at(last, rounds, at_us)
    found: dict[int, float] = {}
    numbers = np.unique(rounds)
    for number, day in zip(numbers, own_days(first[numbers]).tolist(), strict=True):
        found[day] = found.get(day, 0.0) + float(last[number] - first[number]) / 1e6
    return found


def _moment(
    folio: Folio, practice: Practice, at: datetime, day: date, computer: str | None, checkpoint: Callable[[], None]
) -> Moment:
    rows = measure(folio, practice, at, computer, checkpoint).rows.values()
    weekly, earned = ([value for row in rows if (value := get(row)) is not None] for get in (_weekly, _earned))
    known = sum(row.count > 0 and row.p_clean >= HELD_ABOVE for row in rows)
    return Moment(day, sum(weekly), sum(earned), known)


def _weekly(row: Weighed) -> float | None:
    return row.weekly_s


def _earned(row: Weighed) -> float | None:
    return row.earned_s


def _faded(ledger: Ledger, row: Weighed) -> bool:
    """Held once, not asked for some days, and likely no longer known."""
    if row.posterior is None or row.posterior.mean < HELD_ABOVE or row.p_know >= FADED_BELOW:
        return False
    return bool((ledger.at - utc(row.tries[-1].at)).days >= FADED_DAYS)


def to_csv(found: OverTime) -> str:
    """Return the figures of the charts as a table, a line a day."""
    moments = {one.day: one for one in found.moments}
    rows: list[list[object]] = [["day", "tries", "clean", "practice_s", "weekly_s", "saved_s_week", "held"]]
    for one in found.days:
        then = moments.get(one.day)
        rest: list[object] = ["", "", ""]
        if then is not None:
            rest = [round(then.weekly_s, 1), round(then.earned_s, 1), then.known]
        rows.append([one.day.isoformat(), one.tries, round(one.clean, 4), round(one.practice_s, 1), *rest])
    return csv_text(rows)
