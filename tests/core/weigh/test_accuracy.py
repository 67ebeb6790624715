"""Accuracy, recall time and trend against plain arithmetic."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.weigh.accuracy import (
    Beta,
    chance_greater,
    effective,
    fitted_prior,
    kaplan_meier_median,
    posterior,
    trend,
    weights,
)


def test_weights_halve_every_twenty_tries() -> None:
    assert weights(41)[[0, 20, 40]] == pytest.approx([0.25, 0.5, 1.0])


def test_effective_number_is_kishs() -> None:
    w = [0.5 ** (since / 20) for since in range(9, -1, -1)]
    assert effective(10) == pytest.approx(sum(w) ** 2 / sum(x * x for x in w))
    assert effective(0) == 0 and effective(1) == 1


@given(st.lists(st.booleans(), min_size=1, max_size=80))
def test_posterior_adds_the_effective_tries_to_the_prior(hits: list[bool]) -> None:
    prior = Beta(1.5, 0.5)
    found = posterior(np.array(hits), prior)
    assert found.a + found.b == pytest.approx(2 + effective(len(hits)))
    low, high = found.interval()
    assert 0 <= low < found.mean < high <= 1


def test_the_newest_tries_count_most() -> None:
    rising, falling = np.array([False] * 10 + [True] * 10), np.array([True] * 10 + [False] * 10)
    assert posterior(rising, Beta()).mean > 0.5 > posterior(falling, Beta()).mean


def test_interval_of_a_flat_prior() -> None:
    assert Beta().interval() == pytest.approx((0.05, 0.95))


@pytest.mark.parametrize(
    ("accuracies", "mean", "strength"),
    [
        ([0.5, 0.5, 0.5, 0.5], 0.5, 2.0),  # fewer than 5: Beta(1, 1)
        ([0.8] * 6, 0.8, 4.0),  # no spread: as strong as allowed
        ([1.0] * 6, 0.95, 4.0),
        ([0.0] * 6, 0.05, 4.0),
        ([0.2, 0.8, 0.2, 0.8, 0.2, 0.8], 0.5, 0.25 / 0.09 - 1),
    ],
)
def test_prior_by_moments(accuracies: list[float], mean: float, strength: float) -> None:
    prior = fitted_prior(np.array(accuracies))
    assert prior.mean == pytest.approx(mean) and prior.a + prior.b == pytest.approx(strength)


@pytest.mark.parametrize(("bindings", "fitted"), [(3, False), (4, False), (5, True), (6, True)])
def test_a_prior_is_fitted_to_five_bindings_at_least(bindings: int, fitted: bool) -> None:
    assert (fitted_prior(np.full(bindings, 0.9)) != Beta()) is fitted


def naive_median(times: list[float], seen: list[bool]) -> float | None:
    """The product-limit estimate by its definition."""
    alive = 1.0
    for moment in sorted({t for t, s in zip(times, seen, strict=True) if s}):
        at_risk = sum(t >= moment for t in times)
        events = sum(t == moment and s for t, s in zip(times, seen, strict=True))
        alive *= 1 - events / at_risk
        if alive <= 0.5 + 1e-12:
            return moment
    return None


@given(st.lists(st.tuples(st.integers(1, 12), st.booleans()), min_size=1, max_size=25))
def test_kaplan_meier_median(rows: list[tuple[int, bool]]) -> None:
    times, seen = [float(t) for t, _ in rows], [s for _, s in rows]
    assert kaplan_meier_median(np.array(times), np.array(seen)) == naive_median(times, seen)


def test_blanks_move_the_median_up_or_out_of_reach() -> None:
    times = np.array([500.0, 600, 700, 4000, 4000])
    assert kaplan_meier_median(times, np.array([True, True, True, False, False])) == 700
    assert kaplan_meier_median(np.array([500.0, 4000, 4000]), np.array([True, False, False])) is None


@pytest.mark.parametrize(("one", "other"), list(product([Beta(2, 5), Beta(9, 3), Beta(1, 1)], repeat=2)))
def test_chance_greater_against_draws(one: Beta, other: Beta) -> None:
    rng = np.random.default_rng(1)
    drawn = float(np.mean(rng.beta(one.a, one.b, 200_000) > rng.beta(other.a, other.b, 200_000)))
    assert chance_greater(one, other) == pytest.approx(drawn, abs=0.005)


def test_trend_needs_twenty_four_tries_and_tells_the_direction() -> None:
    better = np.array([False] * 12 + [True] * 12)
    assert trend(better[:23], Beta()) is None
    up, down = trend(better, Beta()), trend(~better, Beta())
    assert up is not None and down is not None
    assert up > 0.99 and down < 0.01
    assert trend(np.array([True, False] * 12), Beta()) == pytest.approx(0.5, abs=0.01)
