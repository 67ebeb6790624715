"""Fit the terms of reach to a person. Source: docs/measures.md, "Reach", last paragraph.

Median times yᵢ of bindings, less the terms that are nobody's own, are μ + f·fingerᵢ + d·distanceᵢ + bᵢ with bᵢ ~ N(0, σ²):
one μ for all is what makes f and d identified; an intercept for each binding would take up everything they say."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field

Floats = npt.NDArray[np.float64]

FROM_HITS: Final = 60
NEWEST: Final = 40
LEAST_HITS: Final = 5
PRIOR_DEVIATION: Final = 0.5
LEAST_SIGMA_MS: Final = 20.0
_ROUNDS: Final = 12
_MEDIAN: Final = 1.2533
"""Standard error of a median over that of a mean, for a normal distribution: √(π/2)."""


class Scales(Struct, frozen=True):
    """Factors of the finger and the distance terms, and the covariance of their errors, (2, 2)."""

    finger: float = 1.0
    distance: float = 1.0
    errors: Floats = field(default_factory=lambda: PRIOR_DEVIATION**2 * np.eye(2))


def fitted_scales(medians_ms: Floats, errors_ms: Floats, finger_ms: Floats, distance_ms: Floats) -> Scales:
    """Return the person's scales; all (n,) over bindings: medians less other terms, their standard errors, and the two plain
    terms.

    f, d ~ N(1, 0.5²) and not below 0, weights 1 / (SE² + σ²), σ at least 20 ms and estimated again in turn. Plain ones with fewer
    than 3 bindings.
    """
    if len(medians_ms) < 3:
        return Scales()
    design = np.column_stack([np.ones(len(medians_ms)), finger_ms, distance_ms])
    precision = np.diag([0.0, PRIOR_DEVIATION**-2, PRIOR_DEVIATION**-2])
    pull = precision @ np.array([0.0, 1.0, 1.0])
    variance = max(LEAST_SIGMA_MS**2, float(np.var(medians_ms)))
    covariance: Floats = np.eye(3)
    solution: Floats = np.array([0.0, 1.0, 1.0])
    for _ in range(_ROUNDS):
        weight = 1 / (errors_ms**2 + variance)
        covariance = np.asarray(np.linalg.inv(design.T @ (design * weight[:, None]) + precision), dtype=np.float64)
        solution = _not_below_zero(design, weight, medians_ms, precision, pull)
        residual = medians_ms - design @ solution
        # The effects of the bindings given the rest, and what is not known of them (expectation maximisation).
        shrunk = variance * weight
        variance = max(LEAST_SIGMA_MS**2, float(np.mean((shrunk * residual) ** 2 + variance * (1 - shrunk))))
    return Scales(float(solution[1]), float(solution[2]), covariance[1:, 1:])


def _not_below_zero(design: Floats, weight: Floats, target: Floats, precision: Floats, pull: Floats) -> Floats:
    """Weighted least squares with a prior; a scale that would be below 0 is 0 and the rest solved again."""
    free = [0, 1, 2]
    solution = np.zeros(3)
    while True:
        part = design[:, free]
        normal = part.T @ (part * weight[:, None]) + precision[np.ix_(free, free)]
        solution[:] = 0.0
        solution[free] = np.linalg.solve(normal, part.T @ (weight * target) + pull[free])
        below = [place for place in free if place and solution[place] < 0]
        if not below:
            return solution
        free.remove(below[0])


def median_and_error(times_ms: Floats) -> tuple[float, float]:
    """Return the median of times (n,) and its standard error, by the spread between the quartiles: single long times do not
    count."""
    low, median, high = np.percentile(times_ms, [25, 50, 75])
    deviation = max((high - low) / 1.349, 1.0)
    return float(median), float(_MEDIAN * deviation / np.sqrt(len(times_ms)))
