"""Knowing: how likely a binding is remembered, by activation with spacing-dependent decay.

Source: Pavlik & Anderson, "Practice and forgetting effects on vocabulary memory", Cognitive Science 29 (2005):
m = ln Σ tⱼ^(−dⱼ), dⱼ = c·e^(mⱼ) + a with mⱼ the activation just before strike j, p = 1 / (1 + e^((τ − m)/s)).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp
from typing import Final

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

BETWEEN_ROUNDS: Final = 0.025
STRIKES_USED: Final = 400
REFIT_FROM_TRIES: Final = 200


@dataclass(frozen=True, slots=True)
class Recall:
    """Parameters of the memory model; ``tau`` and ``s`` are the person's."""

    a: float = 0.177
    c: float = 0.217
    tau: float = -0.704
    s: float = 0.255

    def p(self, activation: float) -> float:
        """Chance of knowing at an activation; minus infinity gives 0."""
        if activation == -np.inf:
            return 0.0
        return float(1.0 / (1.0 + exp(min(700.0, (self.tau - activation) / self.s))))


DEFAULT: Final = Recall()


@dataclass(frozen=True)
class Trace:
    """One binding's correct strikes on the scaled clock.

    ``times_s`` (n,) as they came; ``clock_s`` (n,) with time between rounds scaled by 0.025; ``decay`` (n,);
    ``before`` (n,) the activation just before each strike, minus infinity for the first.
    """

    times_s: Floats
    clock_s: Floats
    decay: Floats
    before: Floats

    def activation(self, now_s: float, same_round: bool = False) -> float:
        """Activation at ``now_s`` (unscaled seconds on the clock of the strikes); minus infinity without strikes."""
        return self.activation_after(len(self.clock_s), now_s, same_round)

    def activation_after(self, count: int, now_s: float, same_round: bool = False) -> float:
        """Activation at ``now_s`` from the first ``count`` strikes alone: later ones do not change their decays."""
        if not count:
            return float(-np.inf)
        gap = max(0.0, now_s - self.times_s[count - 1]) * (1.0 if same_round else BETWEEN_ROUNDS)
        return _activation(self.clock_s[count - 1] + gap - self.clock_s[:count], self.decay[:count])


def trace(times_s: Sequence[float], rounds: Sequence[str], model: Recall = DEFAULT) -> Trace:
    """Build a binding's trace from its correct strikes.

    ``times_s`` (n,) seconds, rising; ``rounds`` (n,) the round of each strike. At most the newest 400 are used. Raises
    ValueError when the lengths differ.
    """
    if len(times_s) != len(rounds):
        raise ValueError(f"{len(times_s)} times but {len(rounds)} rounds")
    times, names = list(times_s)[-STRIKES_USED:], list(rounds)[-STRIKES_USED:]
    clock, decay, before = np.zeros(len(times)), np.zeros(len(times)), np.full(len(times), -np.inf)
    for j, (time, name) in enumerate(zip(times, names, strict=True)):
        if j:
            gap = max(0.0, time - times[j - 1])
            clock[j] = clock[j - 1] + gap * (1.0 if name == names[j - 1] else BETWEEN_ROUNDS)
            before[j] = _activation(clock[j] - clock[:j], decay[:j])
        decay[j] = model.c * np.exp(before[j]) + model.a
    return Trace(np.array(times), clock, decay, before)


def _activation(ages_s: Floats, decay: Floats) -> float:
    return float(np.log(np.sum(np.maximum(ages_s, 1.0) ** -decay)))


def refit(activations: Floats, known: npt.NDArray[np.bool_], model: Recall = DEFAULT) -> Recall:
    """The model with ``tau`` and ``s`` fitted to a person.

    ``activations`` (n,) just before each try and ``known`` (n,) whether it was known. Maximum likelihood of the
    logistic in the activation, with a weak pull towards the starting values worth about ten tries.
    """
    from scipy.optimize import minimize

    usable = np.isfinite(activations)
    m, hit = activations[usable], known[usable]
    if len(m) < REFIT_FROM_TRIES or hit.all() or not hit.any():
        return model

    def loss(x: Floats) -> float:
        tau, s = x[0], np.exp(x[1])
        z = (m - tau) / s
        fit = np.sum(np.logaddexp(0.0, -z[hit])) + np.sum(np.logaddexp(0.0, z[~hit]))
        return float(fit + 5.0 * (tau - model.tau) ** 2 + 5.0 * (x[1] - np.log(model.s)) ** 2)

    found = minimize(loss, np.array([model.tau, np.log(model.s)]), method="Nelder-Mead", options={"maxiter": 400})
    return Recall(model.a, model.c, float(found.x[0]), float(np.clip(np.exp(found.x[1]), 0.05, 3.0)))
