"""Days as the person has them, from midnight to midnight by their own clock: what is shown by day is counted by these."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from typing import Any, Final

import numpy as np
import numpy.typing as npt

from glimber.core.practice.tries import utc

_US_A_DAY: Final = 86_400_000_000
_QUARTER_S: Final = 900
"""Clocks are put forward and back at quarters of an hour, and differ from UTC by whole ones."""
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)


def own_days(at_us: npt.NDArray[Any]) -> npt.NDArray[np.int64]:
    """Return the days of moments, (n,) in µs since 1970 in UTC, as days since 1970, (n,)."""
    quarters, which = np.unique(at_us // (_QUARTER_S * 1_000_000), return_inverse=True)
    ahead = [
        (_EPOCH + timedelta(seconds=_QUARTER_S * int(one))).astimezone().utcoffset() or timedelta() for one in quarters
    ]
    ahead_us = np.array([one // timedelta(microseconds=1) for one in ahead], dtype=np.int64)
    return np.asarray((at_us + ahead_us[which]) // _US_A_DAY, dtype=np.int64)


def own_date(day: int) -> date:
    """Return a day since 1970 as a date."""
    return (_EPOCH + timedelta(days=int(day))).date()


def own_day(moment: datetime) -> date:
    """Return the day of a moment; one without a zone is taken as UTC."""
    return utc(moment).astimezone().date()


def end_of(day: date) -> datetime:
    """Return the last moment of a day."""
    return datetime.combine(day, time.max).astimezone()
