"""Accuracy, recall time and trend from arrays of tries. Sources: docs/measures.md."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt
from scipy.special import betainc, betaincinv

Floats = npt.NDArray[np.float64]
Bools = npt.NDArray[np.bool_]

HALF_LIFE_TRIES: Final = 20
RECALL_TRIES: Final = 40
TREND_TRIES: Final = 12
MOST_PRIOR_TRIES: Final = 4.0
FEWEST_FOR_PRIOR: Final = 5


@dataclass(frozen=True, slots=True)
class Beta:
    """A Beta distribution over a chance."""

    a: float = 1.0
    b: float = 1.0

    @property
    def mean(self) -> float:
        return self.a / (self.a + self.b)

    def interval(self, share: float = 0.9) -> tuple[float, float]:
        """The central interval that holds ``share`` of it."""
        tail = (1 - share) / 2
        return float(betaincinv(self.a, self.b, tail)), float(betaincinv(self.a, self.b, 1 - tail))


def weights(count: int) -> Floats:
    """Weights (count,) of tries in order of time: 0.5 ** (tries since / 20), the newest 1."""
    return np.asarray(0.5 ** (np.arange(count - 1, -1, -1) / HALF_LIFE_TRIES))


def effective(count: int) -> float:
    """Kish's effective number of ``count`` weighted tries: (Σw)² / Σw²."""
    if count == 0:
        return 0.0
    w = weights(count)
    return float(w.sum() ** 2 / np.sum(w**2))


def posterior(hits: Bools, prior: Beta) -> Beta:
    """Posterior of the accuracy from ``hits`` (n,) in order of time; the weights are rescaled to sum to Kish's number."""
    if not len(hits):
        return prior
    w = weights(len(hits))
    w = w * effective(len(hits)) / w.sum()
    return Beta(prior.a + float(w[hits].sum()), prior.b + float(w[~hits].sum()))


def fitted_prior(accuracies: Floats) -> Beta:
    """Prior by moments from the weighted accuracies (n,) of all bindings that have tries.

    The mean is kept within 0.05 to 0.95 and the strength at most 4 tries; Beta(1, 1) with fewer than 5 bindings.
    """
    if len(accuracies) < FEWEST_FOR_PRIOR:
        return Beta()
    mean = float(np.clip(accuracies.mean(), 0.05, 0.95))
    variance = float(accuracies.var())
    strength = MOST_PRIOR_TRIES if variance <= 0 else mean * (1 - mean) / variance - 1
    strength = float(np.clip(strength, 0.1, MOST_PRIOR_TRIES))
    return Beta(mean * strength, (1 - mean) * strength)


def kaplan_meier_median(times_ms: Floats, seen: Bools) -> float | None:
    """Median of the Kaplan–Meier curve (Kaplan & Meier 1958); None where the curve does not come down to one half.

    ``times_ms`` (n,) and ``seen`` (n,): True for an event, False for one censored at its time. Ties: events first.
    """
    order = np.lexsort((~seen, times_ms))
    times, events = times_ms[order], seen[order]
    left, alive = len(times), 1.0
    for time, event in zip(times, events, strict=True):
        if event:
            alive *= 1 - 1 / left
            if alive <= 0.5 + 1e-12:
                return float(time)
        left -= 1
    return None


def chance_greater(one: Beta, other: Beta) -> float:
    """P(one > other), by the midpoint rule on 500 steps of the first one's distribution function."""
    edges = np.linspace(0.0, 1.0, 501)
    mass = np.diff(betainc(one.a, one.b, edges))
    below = betainc(other.a, other.b, (edges[:-1] + edges[1:]) / 2)
    return float(np.sum(mass * below))


def trend(hits: Bools, prior: Beta) -> float | None:
    """P(accuracy of the last 12 tries > that of the 12 before); None with fewer than 24 tries."""
    if len(hits) < 2 * TREND_TRIES:
        return None
    late, early = hits[-TREND_TRIES:], hits[-2 * TREND_TRIES : -TREND_TRIES]
    return chance_greater(
        Beta(prior.a + float(late.sum()), prior.b + float((~late).sum())),
        Beta(prior.a + float(early.sum()), prior.b + float((~early).sum())),
    )
