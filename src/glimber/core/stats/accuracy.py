"""Accuracy, recall time and trend. Sources: docs/measures.md, "Of one binding".

Accuracy is that of a *cold* try: (1 − h)(1 − k) with h the chance of an error of the hand and k that of not knowing. Arrays
are over bindings, (b,), and tries, (t,), unless stated."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace
from scipy.special import betainc, betaincinv, logsumexp

from glimber.core.stats.grouping import Selected

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

HALF_LIFE_TRIES: Final = 20
RECALL_TRIES: Final = 40
COLD_TRIES: Final = 8
TREND_TRIES: Final = 12
MOST_PRIOR_TRIES: Final = 4.0
LEAST_PRIOR_TRIES: Final = 0.1
PRIOR_MEAN: Final = (0.05, 0.95)
FEWEST_FOR_PRIOR: Final = 5
WARM_WEIGHT: Final = 0.6
AT_ONCE: Final = 256
"""Bindings whose grids are held in memory at once: 120 kB each."""
FOLLOWED_FROM: Final = (16, 24)
"""A fall is followed from so many tries on, and in full so many later: before, it does harm."""
LEAST_VARIANCE: Final = 0.25
WARM_UP: Final = (float(np.log(0.7)), 0.6)
"""Mean and deviation of the logarithm of the warm-up odds ratio before there are tries."""
_EDGES: Final = np.sin(np.linspace(0.0, np.pi / 2, 97)) ** 2
_K: Final = (_EDGES[:-1] + _EDGES[1:]) / 2
"""Grid of chances, finer at both ends."""
_LN_THETA: Final = WARM_UP[0] + WARM_UP[1] * np.linspace(-3.0, 3.0, 25)


class Beta(Struct, frozen=True):
    """A Beta distribution over a chance."""

    a: float = 1.0
    b: float = 1.0

    @property
    def mean(self) -> float:
        return self.a / (self.a + self.b)

    @property
    def variance(self) -> float:
        return self.mean * (1 - self.mean) / (self.a + self.b + 1)

    def interval(self, share: float = 0.9) -> tuple[float, float]:
        """Return the central interval that holds ``share`` of it."""
        tail = (1 - share) / 2
        return float(betaincinv(self.a, self.b, tail)), float(betaincinv(self.a, self.b, 1 - tail))

    @classmethod
    def of(cls, mean: float, variance: float) -> Beta:
        """Return the Beta of a mean and a variance; a variance that none has is taken as the largest that one can have."""
        mean = min(max(mean, 1e-6), 1 - 1e-6)
        strength = max(mean * (1 - mean) / max(variance, 1e-12) - 1, 1e-3)
        return cls(mean * strength, (1 - mean) * strength)


class Accuracies(Struct, frozen=True):
    """Of every binding: ``hand_a``, ``hand_b`` the Beta of the hand error, mean and variance of not knowing, and those of a clean
    cold try. ``theta`` (25,): weights of the folio's warm-up odds ratios, whose logarithms are a grid."""

    hand_a: Floats
    hand_b: Floats
    knowing: Floats
    knowing_var: Floats
    mean: Floats
    var: Floats
    hand_prior: Beta
    knowing_prior: Beta
    theta: Floats

    @property
    def hand(self) -> Floats:
        """Mean hand error, (b,)."""
        return np.asarray(self.hand_a / (self.hand_a + self.hand_b))

    def posterior(self, binding: int) -> Beta:
        """Return the accuracy of one binding as the Beta of equal mean and variance."""
        return Beta.of(float(self.mean[binding]), float(self.var[binding]))


def weights(since: npt.NDArray[np.int64]) -> Floats:
    """Weights of tries by how many have come since: 0.5 ** (since / 20)."""
    return np.asarray(0.5 ** (since / HALF_LIFE_TRIES))


def effective(counts: npt.NDArray[np.int64]) -> Floats:
    """Kish's effective number (Kish 1965) of ``counts`` (b,) weighted tries: (Σw)² / Σw², by the sums of geometric series, which
    is (1 + r) / (1 − r) · (1 − rⁿ) / (1 + rⁿ)."""
    r = 0.5 ** (1 / HALF_LIFE_TRIES)
    left = r ** np.asarray(counts, dtype=np.float64)
    return np.asarray((1 + r) / (1 - r) * (1 - left) / (1 + left))


def accuracies(counted: Selected, priors: tuple[Beta, Beta, Floats] | None = None) -> Accuracies:
    """Accuracy of every binding from its counted tries. ``priors``: those of hand and knowing and the weights over θ (25,) of an
    earlier weighing, so that one binding can be weighed again alone."""
    c, at = counted.columns, counted.place
    n = counted.counts
    w = weights(counted.since)
    sums = counted.sum(w)
    w = w * (effective(n) / np.maximum(sums, 1e-300))[counted.of]
    hand, unknown, cold = c.by_hand[at], c.not_known[at], c.cold[at]
    wrong_hand, whole = counted.sum(w * hand), counted.sum(w)
    judged = ~hand
    cold_wrong, cold_right = counted.sum(w * (judged & cold & unknown)), counted.sum(w * (judged & cold & ~unknown))
    warm_wrong = WARM_WEIGHT * counted.sum(w * (judged & ~cold & unknown))
    warm_right = WARM_WEIGHT * counted.sum(w * (judged & ~cold & ~unknown))
    known = n > 0
    theta: Floats | None
    if priors is None:
        left = np.maximum(whole - wrong_hand, 1e-300)
        hand_prior = fitted_prior((wrong_hand / np.maximum(whole, 1e-300))[known])
        knowing_prior = fitted_prior((counted.sum(w * (judged & unknown)) / left)[known & (whole - wrong_hand > 1e-9)])
        theta = None
    else:
        hand_prior, knowing_prior, theta = priors
    a, b = hand_prior.a + wrong_hand, hand_prior.b + whole - wrong_hand

    def knowing_of(part: slice) -> tuple[Floats, Floats]:
        return _knowing(cold_wrong[part], cold_right[part], warm_wrong[part], warm_right[part], knowing_prior)

    parts = [slice(start, start + AT_ONCE) for start in range(0, len(n), AT_ONCE)]
    if theta is None:
        evidence = [knowing_of(part)[1] for part in parts]
        theta = _theta(np.concatenate(evidence)[known] if evidence else np.zeros((0, len(_LN_THETA))))
    moments = [_moments(theta, knowing_of(part)[0]) for part in parts]
    k_mean, k_var = (
        (np.concatenate(one) for one in zip(*moments, strict=True)) if moments else (np.zeros(0), np.zeros(0))
    )
    mean, var = _clean(a, b, k_mean, k_var)
    return Accuracies(a, b, k_mean, k_var, mean, var, hand_prior, knowing_prior, theta)


def _moments(theta: Floats, by_theta: Floats) -> tuple[Floats, Floats]:
    """Return mean and variance of not knowing, (b,), averaged over the posterior of θ."""
    k = np.einsum("t,btk->bk", theta, by_theta)
    mean = k @ _K
    return mean, np.maximum(k @ _K**2 - mean**2, 0.0)


def following(found: Accuracies, counts: Ints, now: Floats, passing: Floats) -> Accuracies:
    """Return accuracies that follow an error of knowing while it falls.

    A window of tries lags behind a binding that is being learnt. ``counts`` (b,) are its tries, ``now`` (b,) the rate at the next
    try by the curves of practice, ``passing`` (b,) the chance that those hold. With w = passing · clip((n − 16)/24, 0, 1) and
    k' = min(now, k), the mean k becomes k + w(k' − k) and its variance var·((1 − w) + w·max(k'/k, ¼)) + w(1 − w)(k' − k)².
    Source: docs/measures.md, "Accuracy".
    """
    least, span = FOLLOWED_FROM
    w = passing * np.clip((counts - least) / span, 0.0, 1.0)
    k = found.knowing
    lower = np.minimum(now, k)
    narrower = (1 - w) + w * np.maximum(lower / np.maximum(k, 1e-12), LEAST_VARIANCE)
    knowing, var = k + w * (lower - k), found.knowing_var * narrower + w * (1 - w) * (lower - k) ** 2
    mean, whole = _clean(found.hand_a, found.hand_b, knowing, var)
    return replace(found, knowing=knowing, knowing_var=var, mean=mean, var=whole)


def _clean(a: Floats, b: Floats, knowing: Floats, knowing_var: Floats) -> tuple[Floats, Floats]:
    """Return mean and variance of a clean try: (1 − h)(1 − k), h ~ Beta(a, b)."""
    h = a / (a + b)
    h_square = h * (1 - h) / (a + b + 1) + (1 - h) ** 2
    mean = (1 - h) * (1 - knowing)
    return mean, np.maximum(h_square * (knowing_var + (1 - knowing) ** 2) - mean**2, 0.0)


def _knowing(
    cold_wrong: Floats, cold_right: Floats, warm_wrong: Floats, warm_right: Floats, prior: Beta
) -> tuple[Floats, Floats]:
    """Posterior of not knowing on the grid for every θ, (b, θ, k), and the logarithm of what speaks for each θ, (b, θ).

    A cold try is not known with chance k, a warm one with θk / (1 − k + θk).
    """
    mass = np.maximum(np.diff(betainc(prior.a, prior.b, _EDGES)), 1e-300)
    odds = np.exp(_LN_THETA)[:, None] * _K / (1 - _K)
    warm = odds / (1 + odds)
    log = (
        np.log(mass)
        + (cold_wrong[:, None] * np.log(_K) + cold_right[:, None] * np.log1p(-_K))[:, None, :]
        + warm_wrong[:, None, None] * np.log(warm)
        + warm_right[:, None, None] * np.log1p(-warm)
    )
    evidence = logsumexp(log, axis=2)
    return np.exp(log - evidence[:, :, None]), evidence


def _theta(evidence: Floats) -> Floats:
    """Weights over θ, (θ,), from all bindings and ln θ ~ N(ln 0.7, 0.6²)."""
    log = -0.5 * ((_LN_THETA - WARM_UP[0]) / WARM_UP[1]) ** 2 + evidence.sum(axis=0)
    weights = np.exp(log - log.max())
    return np.asarray(weights / weights.sum())


def fitted_prior(shares: Floats) -> Beta:
    """Prior by moments from the weighted shares (n,) of all bindings that have tries.

    The mean is kept within 0.05 to 0.95 and the strength at most 4 tries; Beta(1, 1) with fewer than 5 bindings.
    """
    if len(shares) < FEWEST_FOR_PRIOR:
        return Beta()
    mean = float(np.clip(shares.mean(), *PRIOR_MEAN))
    variance = float(shares.var())
    strength = MOST_PRIOR_TRIES if variance <= 0 else mean * (1 - mean) / variance - 1
    strength = float(np.clip(strength, LEAST_PRIOR_TRIES, MOST_PRIOR_TRIES))
    return Beta(mean * strength, (1 - mean) * strength)


def kaplan_meier_median(times_ms: Floats, seen: Bools) -> float | None:
    """Median of the Kaplan–Meier curve (Kaplan & Meier 1958); None where the curve does not come down to one half.

    ``times_ms`` (n,) and ``seen`` (n,): True for an event, False for one censored at its time. Ties: events first.
    """
    order = np.lexsort((~seen, times_ms))
    times, events = times_ms[order], seen[order]
    alive = np.cumprod(1 - events / np.arange(len(times), 0, -1))
    below = np.flatnonzero(events & (alive <= 0.5 + 1e-12))
    return float(times[below[0]]) if len(below) else None


def chance_greater(one: Beta, other: Beta) -> float:
    """P(one > other), by the midpoint rule on 500 steps of the first one's distribution function."""
    edges = np.linspace(0.0, 1.0, 501)
    mass = np.diff(betainc(one.a, one.b, edges))
    below = betainc(other.a, other.b, (edges[:-1] + edges[1:]) / 2)
    return float(np.sum(mass * below))


def trend(hits: Bools) -> float | None:
    """P(accuracy of the last 12 tries > that of the 12 before), both from Beta(1, 1); None with fewer than 24 tries. For the eye
    alone: no verdict rests on it."""
    if len(hits) < 2 * TREND_TRIES:
        return None
    late, early = hits[-TREND_TRIES:], hits[-2 * TREND_TRIES : -TREND_TRIES]
    return chance_greater(*(Beta(1 + float(some.sum()), 1 + float((~some).sum())) for some in (late, early)))
