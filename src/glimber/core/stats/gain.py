"""The worth of another clean hit, and its time. Source: docs/measures.md, "The next round".

By the memory model, the fall of the weekly cost that a hit brings, half of it as it stands after 24 hours and half after 14 days.
"""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from scipy.special import expit

from glimber.core.practice.round import MOST_HITS
from glimber.core.stats.memory import BETWEEN_ROUNDS, Recall, Traces

Floats = npt.NDArray[np.float64]

HORIZONS_S: Final = (86_400.0, 14 * 86_400.0)
BETWEEN_HITS_S: Final = 25.0
"""Seconds from one hit of a binding to its next within a round."""
LATER: Final = 0.75
"""The share of its worth that a hit keeps for each before it in the round: a later round gives it too, better spaced."""
PROMPT_S: Final = 0.6
MENDING_S: Final = 1.4
"""The time a slip is read for, before the wanted one is struck."""
UNTRIED_RECALL_MS: Final = 1200.0
_NEAR: Final = 6.0
"""A strike's share in the activation is taken by its first terms where its age is so many times the length of a round."""


class Hits(Struct, frozen=True):
    """Further clean hits of every binding: ``worths`` (8, b) seconds a week that the first, the second … saves, ``seconds``
    (b,) that one takes, ``known`` (b,) what is known without any practice."""

    worths: Floats
    seconds: Floats
    known: Floats


def hit_seconds(time_ms: float | None, reach_ms: float | None, p_clean: float) -> float:
    """Seconds that a clean hit takes: recall, hand and the time to the next prompt, more with the chance of a slip."""
    time = time_ms if time_ms is not None else UNTRIED_RECALL_MS + (reach_ms or 300.0)
    return time / 1000 + PROMPT_S + (1 - p_clean) * (MENDING_S + time / 1000)


def hit_worths(traces: Traces, model: Recall, known: Floats, stakes: Floats, at_s: float) -> Floats:
    """Seconds a week that the first, the second … the eighth further clean hit of each binding saves, (8, b).

    ``known`` (b,) what is known without practice, ``stakes`` (b,) seconds a week that not knowing it costs, ``at_s`` now.
    """
    gained = np.maximum(0.0, np.diff(_after_hits(traces, model, known, at_s), axis=1)).mean(axis=0)
    return np.asarray(gained * stakes * (LATER ** np.arange(MOST_HITS))[:, None])


def _after_hits(traces: Traces, model: Recall, known: Floats, at_s: float) -> Floats:
    """Chances of knowing at each horizon after 0 to 8 more hits from now on, (horizons, 9, b)."""
    count, bindings = traces.strikes, np.arange(len(traces.strikes))
    last = np.zeros(len(count))
    some = count > 0
    last[some] = traces.clock_s[count[some] - 1, bindings[some]]
    gap = np.where(some, np.maximum(0.0, at_s - traces.last_s), 0.0)
    now = last + gap * BETWEEN_ROUNDS
    moments = [BETWEEN_HITS_S * j for j in range(MOST_HITS)]
    ends = [moments[-1] + horizon * BETWEEN_ROUNDS for horizon in HORIZONS_S]
    sofar = _left(traces, now, [*moments, *ends])
    decays: list[Floats] = []
    for j, moment in enumerate(moments):
        sum_ = sofar[j]
        for i in range(j):
            sum_ = sum_ + max(moment - moments[i], 1.0) ** -decays[i]
        decays.append(model.c * sum_ + model.a)
    found = []
    for end, old in zip(ends, sofar[MOST_HITS:], strict=True):
        new = np.array([(end - moment) ** -d for moment, d in zip(moments, decays, strict=True)])
        sums = old + np.concatenate([np.zeros((1, len(count))), np.cumsum(new, axis=0)])
        with np.errstate(divide="ignore"):
            found.append(known + (1 - known) * expit((np.log(sums) - model.tau) / model.s))
    return np.array(found)


def _left(traces: Traces, now: Floats, later_s: list[float]) -> list[Floats]:
    """Σ age^−d of the strikes so far, (b,) for each number of seconds after ``now`` (b,).

    Old strikes change little within a round: (t + δ)^−d = t^−d (1 − dδ/t + d(d + 1)/2 (δ/t)² − …) serves there, so that the
    long part of a trace is raised to powers once and not ten times.
    """
    whole = np.ones(traces.clock_s.shape, dtype=bool) if traces.clock_s.size else np.zeros((0, len(now)), dtype=bool)
    whole &= ~np.isnan(traces.clock_s)
    place, of = np.nonzero(whole)
    age = np.maximum(now[of] - traces.clock_s[place, of], 0.0)
    d = traces.decay[place, of]
    round_s = BETWEEN_HITS_S * (MOST_HITS - 1)
    old = age > _NEAR * round_s
    t, dt, of_old = age[old], d[old], of[old]
    terms = np.exp(-dt * np.log(t))
    bindings = len(now)

    def summed(values: Floats, whose: npt.NDArray[np.int64]) -> Floats:
        return np.bincount(whose, weights=values, minlength=bindings).astype(np.float64)

    series = [summed(terms, of_old)]
    factor = terms
    for n in range(3):
        factor = factor * -(dt + n) / ((n + 1) * t)
        series.append(summed(factor, of_old))
    found = []
    for delta in later_s:
        near = ~old
        sums = summed(np.exp(-d[near] * np.log(np.maximum(age[near] + delta, 1.0))), of[near])
        if delta <= round_s:
            sums = sums + sum(part * delta**n for n, part in enumerate(series))
        else:
            sums = sums + summed(np.exp(-dt * np.log(t + delta)), of_old)
        found.append(sums)
    return found
