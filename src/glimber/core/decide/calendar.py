"""Practice by date: what was done on each day, and on which days ahead something will be due if nothing is done before."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.decide.over_time import PracticeDay, practice_days
from glimber.core.decide.plan import PRESSING_BELOW
from glimber.core.stats.days import own_day
from glimber.core.stats.ledger import Ledger

AHEAD_DAYS: Final = 28
USUAL_HOUR: Final = 9


class Calendar(Struct, frozen=True):
    """``done`` by day; ``due``: how many bindings press on each day ahead, days on which no more do than on the day before left
    out; ``at``: the time of day at which rounds are usually begun."""

    done: dict[date, PracticeDay]
    due: dict[date, int]
    at: time


def calendar(ledger: Ledger) -> Calendar:
    """Return the calendar of a ledger. A binding presses when its chance of a clean hit falls below 85 %."""
    today = own_day(ledger.at)
    done = {one.day: one for one in practice_days(ledger.practice, ledger.at)}
    due: dict[date, int] = {}
    asked = np.array([row.count > 0 and row.command.learn != "never" for row in ledger.rows.values()], dtype=bool)
    before = 0
    for ahead in range(AHEAD_DAYS if asked.any() else 0):
        clean = ledger.clean_at(ledger.at + timedelta(days=ahead))
        pressing = int((clean[asked] < PRESSING_BELOW).sum())
        if pressing > before or (ahead == 0 and pressing):
            due[today + timedelta(days=ahead)] = pressing
        before = max(before, pressing)
    return Calendar(done, due, _usual_time(ledger))


def _usual_time(ledger: Ledger) -> time:
    """Return the middle of the times at which rounds were begun, to the quarter of an hour; 9 in the morning before there are
    any."""
    begun = [one.began.astimezone() for one in ledger.practice.rounds]
    if not begun:
        return time(USUAL_HOUR)
    minutes = sorted(one.hour * 60 + one.minute for one in begun)[len(begun) // 2]
    return (datetime.min + timedelta(minutes=15 * round(minutes / 15))).time()
