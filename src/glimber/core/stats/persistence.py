"""The chance that an error persists. Source: docs/measures.md, "Causes", *Lasting*.

Errors in order of time under a constant rate against a power law of practice A(n + 1)^−β (Newell & Rosenbloom 1981), both
averaged over their grids."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from scipy.special import expit, logsumexp

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

RATES: Final = np.linspace(0.02, 0.92, 31)
HEIGHTS: Final = (0.2, 0.3, 0.45, 0.6, 0.75, 0.9, 0.98)
SLOPES: Final = (0.15, 0.25, 0.35, 0.5, 0.75, 1.0)
EVEN: Final = 1.0
MOSTLY: Final = 4.0
"""Odds of lasting before there are tries: for knowing, and for the other causes."""
_CURVES: Final = [(height, slope) for height in HEIGHTS for slope in SLOPES]


class Lasting(Struct, frozen=True):
    """Of every binding, (b,): the chance that its errors last, and their averaged rate at the next try."""

    chance: Floats
    now: Floats


def lasting(wrong: Bools, nth: Ints, of: Ints, bindings: int, odds: float = EVEN) -> Lasting:
    """``wrong`` (t,) whether each try was such an error, ``nth`` (t,) how many tries came before it, ``of`` (t,) its binding."""
    heights, slopes = np.array([curve[0] for curve in _CURVES]), np.array([curve[1] for curve in _CURVES])
    longest = int(nth.max(initial=0)) + 2
    law = np.clip(heights * np.arange(1, longest + 1)[:, None] ** -slopes, 1e-9, 1 - 1e-9)
    # How many tries with so many behind them each binding has, and how many of those went wrong: (b, n).
    cell, cells = of * longest + nth, bindings * longest
    tried = np.bincount(cell, minlength=cells).reshape(bindings, longest).astype(np.float64)
    missed = np.bincount(cell, weights=wrong, minlength=cells).reshape(bindings, longest)
    count, ones = tried.sum(axis=1), missed.sum(axis=1)
    constant = ones[:, None] * np.log(RATES) + (count - ones)[:, None] * np.log1p(-RATES)
    power = missed @ np.log(law) + (tried - missed) @ np.log1p(-law)
    ln_constant = logsumexp(constant, axis=1) - np.log(len(RATES))
    ln_power = logsumexp(power, axis=1) - np.log(len(_CURVES))
    chance = expit(ln_constant - ln_power + np.log(odds))
    after = np.zeros(bindings, dtype=np.int64)
    np.maximum.at(after, of, nth + 1)
    steady = (np.exp(constant - logsumexp(constant, axis=1, keepdims=True)) * RATES).sum(axis=1)
    falling = (np.exp(power - logsumexp(power, axis=1, keepdims=True)) * law[after]).sum(axis=1)
    return Lasting(np.asarray(chance), np.asarray(chance * steady + (1 - chance) * falling))
