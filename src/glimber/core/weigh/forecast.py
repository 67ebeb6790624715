"""Costs ahead: how errors fade, what a binding will cost over the horizon, here and at another place.

Everything is vectorised over draws from the posteriors: arrays of shape (draws,), or () for the means. Costs in seconds.
Sources: docs/measures.md, "Verdict", steps 1 to 3.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from glimber.core.weigh.measures import Ledger, Weighed

Floats = npt.NDArray[np.float64]

TAU_TRIES: Final = 30.0
DRAWS: Final = 2000
FLAT_TRIES: Final = 30


@dataclass(frozen=True)
class Course:
    """How one binding goes on from today.

    ``time_s`` per use, errors per use of knowing and of the hand, ``slip_s`` seconds of a knowing error and of a hand
    slip, ``uses_day`` on a calendar day, ``fades``: whether the knowing error decays with use.
    """

    time_s: Floats
    knowing: Floats
    hand: Floats
    knowing_s: Floats
    hand_s: float
    uses_day: float
    fades: bool
    tau: float = TAU_TRIES

    def fade(self, days: int) -> Floats:
        """Share of today's knowing error left on each calendar day ahead, shape (days,)."""
        if not self.fades:
            return np.ones(days)
        return np.asarray(np.exp(-(np.arange(days) + 0.5) * self.uses_day / self.tau))

    def total_s(self, days: int) -> Floats:
        """Cost of the days ahead in each draw, shape (draws,)."""
        steady = self.time_s + self.hand * self.hand_s
        return np.asarray(self.uses_day * (steady * days + self.knowing * self.knowing_s * self.fade(days).sum()))

    def mean_daily_s(self, days: int) -> Floats:
        """Expected cost of each calendar day ahead, shape (days,)."""
        steady = float(np.mean(self.time_s + self.hand * self.hand_s))
        return np.asarray(self.uses_day * (steady + float(np.mean(self.knowing * self.knowing_s)) * self.fade(days)))


def fitted_tau(ledger: Ledger) -> float:
    """Tries in which knowing errors fall to 1/e, over the folio's own curves; 30 until there is data.

    Knowing errors of every binding are pooled by how many tries went before, in tens; the slope of the logarithm of
    their rate, weighted by the tries it stands for, is −1/τ. Kept between 10 and 60; stuck bindings are left out.
    """
    wrong, tried = np.zeros(10), np.zeros(10)
    for row in ledger.rows.values():
        if row.flat and len(row.tries) >= FLAT_TRIES:
            continue  # what is stuck does not fade, and is not forecast to
        for before, one in enumerate(row.tries[:100]):
            hand = one.outcome == "slip" and one.slip in ("neighbour", "gesture", "modifiers")
            wrong[before // 10] += one.outcome in ("slip", "blank") and not hand
            tried[before // 10] += 1
    usable = tried >= 30
    if usable.sum() < 3:
        return TAU_TRIES
    n = (np.arange(10)[usable] + 0.5) * 10
    rate = (wrong[usable] + 0.5) / (tried[usable] + 1)
    slope = np.polyfit(n, np.log(rate), 1, w=np.sqrt(tried[usable]))[0]
    return float(np.clip(-1 / slope, 10.0, 60.0)) if slope < 0 else 60.0


def rng_for(row: Weighed) -> np.random.Generator:
    """The same draws for the same binding and tries, so that a verdict does not flicker."""
    from zlib import crc32

    return np.random.default_rng([crc32(row.binding.id.encode()), len(row.tries)])


def uses_day(row: Weighed) -> float:
    """Uses on a calendar day."""
    return row.uses_week / 7.0


def keep_course(row: Weighed, tau: float, rng: np.random.Generator | None) -> Course:
    """The binding goes on as it is: by the means without ``rng``, otherwise by draws from the posteriors."""
    assert row.posterior is not None and row.time_ms is not None
    error = 1 - np.atleast_1d(row.posterior.mean)
    time = np.atleast_1d(row.time_ms)
    if rng is not None:
        time = _time_draws(row, rng)
        error = 1 - rng.beta(row.posterior.a, row.posterior.b, DRAWS)
    seen = row.hand_error + row.knowing_error
    # Without an error on record the posterior's own share is doubt about knowing, and doubt fades with use.
    hand_share = row.hand_error / seen if seen > 0 else 0.0
    return Course(
        time / 1000,
        error * (1 - hand_share),
        error * hand_share,
        np.atleast_1d(knowing_error_s(row)),
        row.recovery_s,
        uses_day(row),
        not (row.flat and row.knowing_error > 0 and len(row.tries) >= FLAT_TRIES),
        tau,
    )


def _time_draws(row: Weighed, rng: np.random.Generator) -> Floats:
    """Draws (2000,) of the time a use takes, in ms. They come first, so that keeping and moving share them."""
    spread = 0.35 / np.sqrt(max(1.0, row.effective))
    return np.asarray((row.time_ms or 0.0) * rng.lognormal(0.0, spread, DRAWS))


def knowing_error_s(row: Weighed) -> float:
    """Seconds that one knowing error costs: slips are mended, blanks go the slow way."""
    knowing_slips = max(0, row.slips.total - _hand_slips(row))
    wrong = knowing_slips + row.slips.blanks
    blank_share = row.slips.blanks / wrong if wrong else 0.5
    blank_s = row.slow_s if row.slow_s is not None else row.recovery_s
    return (1 - blank_share) * row.recovery_s + blank_share * blank_s


def _hand_slips(row: Weighed) -> int:
    return sum(row.slips.kinds.get(kind, 0) for kind in ("neighbour", "gesture", "modifiers"))


def moved_course(row: Weighed, tau: float, reach_gain_ms: float, hand: float, knowing: float,
                 rng: np.random.Generator | None) -> Course:  # fmt: skip
    """The binding at another place.

    ``reach_gain_ms`` is present reach − new reach; ``hand`` the hand error expected there; ``knowing`` the knowing
    error it starts with. Draws spread the reach difference by 25 % of it plus 20 ms and the errors as Beta of 20 tries.
    """
    assert row.time_ms is not None
    time, hand_error, know = np.atleast_1d(row.time_ms), np.atleast_1d(hand), np.atleast_1d(knowing)
    gain = np.atleast_1d(reach_gain_ms)
    if rng is not None:
        time = _time_draws(row, rng)
        gain = reach_gain_ms + rng.normal(0.0, 0.25 * abs(reach_gain_ms) + 20.0, DRAWS)
        hand_error = rng.beta(1 + 20 * hand, 1 + 20 * (1 - hand), DRAWS) if hand > 0 else np.zeros(DRAWS)
        know = rng.beta(20 * knowing, 20 * (1 - knowing), DRAWS)
    floor = 0.4 * time
    return Course(
        np.maximum(floor, time - gain) / 1000,
        know,
        hand_error,
        np.atleast_1d(knowing_error_s(row)),
        row.recovery_s,
        uses_day(row),
        True,
        tau,
    )


@dataclass(frozen=True)
class Gain:
    """What a set of moves gains over the horizon against keeping."""

    total_s: float
    per_week_s: float
    share: float
    p_better: float
    break_even_day: int | None


def gain(keep: Iterable[Course], moved: Iterable[Course], weeks: float) -> Gain:
    """Costs and relearning summed over all bindings that move."""
    days = max(1, round(weeks * 7))
    keep, moved = list(keep), list(moved)
    before = np.sum([course.total_s(days) for course in keep], axis=0)
    totals = before - np.sum([course.total_s(days) for course in moved], axis=0)
    mean_before = float(np.mean(before))
    saved = np.sum([c.mean_daily_s(days) for c in keep], axis=0) - np.sum([c.mean_daily_s(days) for c in moved], axis=0)
    running = np.cumsum(saved)
    # Once ahead it must stay ahead: a day on which the sum is above 0 by chance of the first days is no break-even.
    behind = np.flatnonzero(running < 0)
    even = 1 if not len(behind) else int(behind[-1]) + 2
    total = float(totals.mean())
    return Gain(
        total,
        total / (days / 7),
        total / mean_before if mean_before > 0 else 0.0,
        float((totals > 0).mean()),
        even if even <= days and total > 0 else None,
    )
