"""A binding's accuracy day by day."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

import numpy as np

from glimber.core.drill.tries import utc
from glimber.core.weigh.accuracy import Beta, posterior
from glimber.core.weigh.measures import Weighed


@dataclass(frozen=True)
class Day:
    """The posterior of the accuracy as it stood at the end of a day: mean and central 90 % interval."""

    day: date
    mean: float
    low: float
    high: float


def by_day(row: Weighed, prior: Beta) -> list[Day]:
    """One entry for each day with counted tries, from all counted tries up to then."""
    hits = np.array([one.outcome == "hit" for one in row.tries], dtype=bool)
    days = [utc(one.at).date() for one in row.tries]
    found = []
    for place, day in enumerate(days):
        if place + 1 < len(days) and days[place + 1] == day:
            continue
        here = posterior(hits[: place + 1], prior)
        low, high = here.interval()
        found.append(Day(day, here.mean, low, high))
    return found
