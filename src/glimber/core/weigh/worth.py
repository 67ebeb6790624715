"""What another clean hit is worth, and what it takes. Source: docs/measures.md, "The next round".

By the memory model, the fall of the weekly cost that a hit brings, half of it as it stands after 24 hours and half after 14 days.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt
from scipy.special import expit

from glimber.core.weigh.forecast import knowing_s
from glimber.core.weigh.forgetting import BETWEEN_ROUNDS
from glimber.core.weigh.measures import Ledger, Weighed, everybody_knows, known_before_each

Floats = npt.NDArray[np.float64]

MOST_HITS: Final = 8
HORIZONS_S: Final = (86_400.0, 14 * 86_400.0)
BETWEEN_HITS_S: Final = 25.0
"""Seconds from one hit of a binding to its next within a round."""
PROMPT_S: Final = 0.6
MENDING_S: Final = 1.4
"""What a slip is read for, before the wanted one is struck."""
UNTRIED_RECALL_MS: Final = 1200.0


def hit_worths(ledger: Ledger, rows: Sequence[Weighed]) -> Floats:
    """Seconds a week that the first, the second … the eighth further clean hit of each binding saves, (8, b)."""
    numbers = np.array([row.number for row in rows], dtype=np.int64)
    everybody = np.array([everybody_knows(row.binding.trigger) for row in ledger.rows.values()], dtype=bool)
    known = known_before_each(rows[0].counted, ledger.model, everybody)[numbers]
    p = _after_hits(ledger, numbers, known)
    gained = np.maximum(0.0, np.diff(p, axis=1)).mean(axis=0)
    stake = np.array([row.uses_week * (1 - row.hand.mean) * knowing_s(row) for row in rows])
    return np.asarray(gained * stake)


def hit_seconds(row: Weighed) -> float:
    """Seconds that a clean hit takes: recall, hand and the time to the next prompt, more with the chance of a slip."""
    time = row.time_ms if row.time_ms is not None else UNTRIED_RECALL_MS + (row.reach_ms or 300.0)
    return time / 1000 + PROMPT_S + (1 - row.p_clean) * (MENDING_S + time / 1000)


def _after_hits(ledger: Ledger, numbers: npt.NDArray[np.int64], known: Floats) -> Floats:
    """Chances of knowing at each horizon after 0 to 8 more hits from now on, (horizons, 9, b)."""
    traces, model = ledger.traces, ledger.model
    count = traces.strikes[numbers]
    clock, decay = traces.clock_s[:, numbers], traces.decay[:, numbers]
    last = np.zeros(len(numbers))
    some = count > 0
    last[some] = traces.clock_s[count[some] - 1, numbers[some]]
    gap = np.where(some, np.maximum(0.0, ledger.at.timestamp() - traces.last_s[numbers]), 0.0)
    now = last + gap * BETWEEN_ROUNDS

    def left(at: Floats) -> Floats:
        """Σ age^−d of the strikes so far at moments of the scaled clock, (b,)."""
        if not len(clock):
            return np.zeros(len(numbers))
        return np.asarray(np.nansum(np.exp(-decay * np.log(np.maximum(at - clock, 1.0))), axis=0))

    moments = [now + BETWEEN_HITS_S * j for j in range(MOST_HITS)]
    decays: list[Floats] = []
    for j, moment in enumerate(moments):
        sofar = left(moment)
        for i in range(j):
            sofar = sofar + np.maximum(moment - moments[i], 1.0) ** -decays[i]
        decays.append(model.c * sofar + model.a)
    found = []
    for horizon in HORIZONS_S:
        at = moments[-1] + horizon * BETWEEN_ROUNDS
        new = np.array([np.maximum(at - moment, 1.0) ** -d for moment, d in zip(moments, decays, strict=True)])
        sums = left(at) + np.concatenate([np.zeros((1, len(numbers))), np.cumsum(new, axis=0)])
        with np.errstate(divide="ignore"):
            chance = expit((np.log(sums) - model.tau) / model.s)
        found.append(known + (1 - known) * chance)
    return np.array(found)
