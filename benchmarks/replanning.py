"""Rearranging: 60 bindings over 120 places, as large as a layer gets."""

from __future__ import annotations

import time

import numpy as np

from benchmarks.figures import Figure


def figures() -> list[Figure]:
    """Seconds for the whole frontier, without and with terms between pairs."""
    from glimber.core.decide.frontier import Problem, frontier

    rng = np.random.default_rng(3)
    cost, home = rng.uniform(10, 100, (60, 120)), rng.permutation(120)[:60].astype(np.int64)
    pairs = {}
    while len(pairs) < 12:
        i, j = sorted(rng.choice(60, 2, replace=False).tolist())
        pairs[i, j] = rng.uniform(-5, 5, (120, 120))
    found = []
    for name, problem in (("alone", Problem(cost, home)), ("with 12 pairs", Problem(cost, home, pairs))):
        began = time.perf_counter()
        plans = frontier(problem)
        took = time.perf_counter() - began
        found.append(
            Figure(f"rearranging 60 bindings over 120 places, {name}", took, "s", 3.0, note=f"{len(plans)} points")
        )
    return found
