"""A binding's accuracy day by day."""

from __future__ import annotations

from datetime import date

import numpy as np
from msgspec import Struct

from glimber.core.practice.columns import HIT
from glimber.core.stats.accuracy import accuracies
from glimber.core.stats.days import own_date, own_days
from glimber.core.stats.grouping import Selected
from glimber.core.stats.ledger import Ledger, Weighed


class Day(Struct, frozen=True):
    """The posterior of the accuracy as it stood at the end of a day: mean and central 90 % interval. ``time_ms``: the median time
    of that day's clean hits, recall and hand together, None where there were none."""

    day: date
    mean: float
    low: float
    high: float
    time_ms: float | None = None


def by_day(ledger: Ledger, row: Weighed) -> list[Day]:
    """Return one entry for each day with counted tries, from all counted tries up to then, by the ledger's priors."""
    whole, known = row.counted, ledger.accuracies
    priors = (known.hand_prior, known.knowing_prior, known.theta)
    places = whole.rows(row.number)
    days = own_days(whole.columns.at_us[places])
    ends = np.flatnonzero(np.append(days[1:] != days[:-1], True)) if len(days) else np.zeros(0, dtype=np.int64)
    found = []
    for end in ends:
        # Binding after binding is the shape of what is selected: a binding's tries up to each day stand for one each.
        upto = Selected(whole.columns, places[: end + 1], np.zeros(end + 1, dtype=np.int64), np.array([0, end + 1]))
        here = accuracies(upto, priors).posterior(0)
        low, high = here.interval()
        of_day = places[days == days[end]]
        found.append(Day(own_date(days[end]), here.mean, low, high, _time(whole, of_day)))
    return found


def _time(whole: Selected, places: np.ndarray) -> float | None:
    c = whole.columns
    hits = places[(c.outcome[places] == HIT) & ~np.isnan(c.recall_ms[places])]
    return float(np.median(c.recall_ms[hits] + np.nan_to_num(c.motor_ms[hits]))) if len(hits) else None
