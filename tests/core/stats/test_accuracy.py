"""Accuracy, recall time and trend against plain arithmetic."""

from __future__ import annotations

from datetime import UTC, datetime
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.stats.accuracy import (
    Beta,
    accuracies,
    chance_greater,
    effective,
    fitted_prior,
    following,
    kaplan_meier_median,
    trend,
    weights,
)
from glimber.core.stats.grouping import Selected, select
from tests.helpers import folio_of, practice, tries_of

TRIGGERS = {"sounding-s": "split-42:draw:KeyS:tap", "range-d": "split-42:draw:KeyD:tap"}
SLIP = ("neighbour", "split-42:draw:KeyF:tap", "")


def counted(*outcomes: list[object], cold: bool = True, round_size: int = 1) -> Selected:
    """Tries of up to two bindings; each of them cold unless said."""
    ids = list(TRIGGERS)[: len(outcomes)]
    tries = [tries_of(id, TRIGGERS[id], rows, round_size=round_size, cold_each=cold)  # type: ignore[arg-type]
             for id, rows in zip(ids, outcomes, strict=True)]  # fmt: skip
    folio = folio_of()
    return select(practice(*tries).columns, [folio.bindings[id] for id in ids], datetime(2027, 1, 1, tzinfo=UTC))


def test_weights_halve_every_twenty_tries() -> None:
    assert weights(np.array([40, 20, 0])) == pytest.approx([0.25, 0.5, 1.0])


def test_effective_number_is_kishs() -> None:
    w = [0.5 ** (since / 20) for since in range(9, -1, -1)]
    assert effective(np.array([10, 0, 1])) == pytest.approx([sum(w) ** 2 / sum(x * x for x in w), 0, 1])


@given(st.lists(st.sampled_from(["hit", "blank", SLIP]), min_size=1, max_size=80))
def test_cold_tries_alone_give_two_betas(outcomes: list[object]) -> None:
    """With every try cold: h ~ Beta(1 + weighted hand slips, 1 + the rest), k ~ the same over the rest, accuracy (1 − h)(1 − k)."""
    found = accuracies(counted(outcomes))
    w = np.array([0.5 ** (since / 20) for since in range(len(outcomes) - 1, -1, -1)])
    w *= w.sum() / (w**2).sum()
    hand = sum(x for x, one in zip(w, outcomes, strict=True) if one == SLIP)
    blank = sum(x for x, one in zip(w, outcomes, strict=True) if one == "blank")
    a, b = 1 + hand, 1 + w.sum() - hand
    assert (found.hand_a[0], found.hand_b[0]) == pytest.approx((a, b))
    ka, kb = 1 + blank, 1 + w.sum() - hand - blank
    assert found.knowing[0] == pytest.approx(ka / (ka + kb), abs=2e-3)
    assert found.mean[0] == pytest.approx(b / (a + b) * kb / (ka + kb), abs=2e-3)
    square = b * (b + 1) / ((a + b) * (a + b + 1)) * kb * (kb + 1) / ((ka + kb) * (ka + kb + 1))
    assert found.var[0] == pytest.approx(square - (b / (a + b) * kb / (ka + kb)) ** 2, abs=1e-3)
    low, high = found.posterior(0).interval()
    assert 0 <= low < found.posterior(0).mean < high <= 1


def test_the_newest_tries_count_most() -> None:
    found = accuracies(counted(["blank"] * 10 + ["hit"] * 10, ["hit"] * 10 + ["blank"] * 10))
    assert found.mean[0] > found.mean[1]


def test_warm_hits_count_for_less_and_tell_how_a_person_warms_up() -> None:
    """Many warm hits beside cold blanks: the odds ratio is well under its prior mean of 0.7, and the accuracy stays that of a cold try."""
    rows: list[object] = (["blank"] + ["hit"] * 4) * 12
    warming = accuracies(counted(rows, round_size=5))
    alike = accuracies(counted(["blank", "hit", "hit", "hit", "hit"] * 12, round_size=1))
    from_prior = np.linspace(-1.8, 1.8, 25)  # ln θ against its prior mean, three standard deviations of 0.6 either way
    assert warming.theta @ from_prior < -0.5 and alike.theta @ from_prior == pytest.approx(0, abs=0.05)
    assert warming.knowing[0] > alike.knowing[0] + 0.1


@pytest.mark.parametrize(("tries", "weight"), [(1, 0.0), (16, 0.0), (17, 1 / 24), (28, 0.5), (40, 1.0), (400, 1.0)])
def test_what_is_falling_is_followed_from_sixteen_tries_on(tries: int, weight: float) -> None:
    found = accuracies(counted(["blank"] * 10 + ["hit"] * 10))
    now, count, sure = found.knowing - 0.1, np.array([tries]), np.array([1.0])
    after = following(found, count, now, sure)
    assert after.knowing[0] == pytest.approx(found.knowing[0] - 0.1 * weight)
    narrower = (1 - weight) + weight * max((found.knowing[0] - 0.1) / found.knowing[0], 0.25)
    assert after.knowing_var[0] == pytest.approx(found.knowing_var[0] * narrower + weight * (1 - weight) * 0.01)
    assert (after.mean[0] > found.mean[0]) == (weight > 0)
    # What lasts is not followed, and what rises is not either.
    assert following(found, count, now, np.array([0.0])).mean[0] == pytest.approx(found.mean[0])
    assert following(found, count, found.knowing + 0.2, sure).mean[0] == pytest.approx(found.mean[0])


def test_many_bindings_are_worked_out_in_parts_with_the_same_result(monkeypatch: pytest.MonkeyPatch) -> None:
    some = counted(["blank", "hit", "hit"] * 5)
    whole = accuracies(some)
    monkeypatch.setattr("glimber.core.stats.accuracy.AT_ONCE", 1)
    assert np.array_equal(accuracies(some).mean, whole.mean) and np.array_equal(accuracies(some).theta, whole.theta)


def test_interval_of_a_flat_prior() -> None:
    assert Beta().interval() == pytest.approx((0.05, 0.95))


@pytest.mark.parametrize(("accuracies", "mean", "strength"), [
    ([0.5, 0.5, 0.5, 0.5], 0.5, 2.0),  # fewer than 5: Beta(1, 1)
    ([0.8] * 6, 0.8, 4.0),  # no spread: as strong as allowed
    ([1.0] * 6, 0.95, 4.0),
    ([0.0] * 6, 0.05, 4.0),
    ([0.2, 0.8, 0.2, 0.8, 0.2, 0.8], 0.5, 0.25 / 0.09 - 1),
])  # fmt: skip
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
    assert trend(better[:23]) is None
    up, down = trend(better), trend(~better)
    assert up is not None and down is not None
    assert up > 0.99 and down < 0.01
    assert trend(np.array([True, False] * 12)) == pytest.approx(0.5, abs=0.01)
