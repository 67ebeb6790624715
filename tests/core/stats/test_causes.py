"""The posterior over causes against one written out for a single binding, what lasts against plain sums, and the person's scales."""

from __future__ import annotations

from math import exp, lgamma, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import beta

from glimber.core.stats.causes import BACKGROUND, CAUSES, CELLS, PRIOR, SLIGHT, STRONG, causes
from glimber.core.stats.persistence import HEIGHTS, RATES, SLOPES, lasting
from glimber.core.stats.scaling import fitted_scales
from tests.core.stats.test_accuracy import counted

HAND = {"neighbour", "gesture", "modifiers"}


def slip(kind: str, key: str = "F") -> tuple[str, str, str]:
    return (kind, f"split-42:draw:Key{key}:tap", "")


def chances(outcomes: list[object], beside: int = 6) -> dict[str, float]:
    return dict(causes(counted(outcomes), [beside]).of(0))


def by_hand(x: dict[str, int]) -> dict[str, float]:
    """One binding alone, no two slips at one place: Dirichlet-multinomials of 80·m, summed over the shares by plain loops."""
    b = {"hit": 1 - sum(BACKGROUND.values()), **BACKGROUND}
    shares = [*((r, 0.25 / 4) for r in SLIGHT), *((r, 0.75 / 8) for r in STRONG)]

    def dm(m: dict[str, float]) -> float:
        n = sum(x.values())
        return lgamma(80) - lgamma(80 + n) + sum(lgamma(80 * m[c] + x[c]) - lgamma(80 * m[c]) for c in CELLS)

    prior = {cause: chance / sum(PRIOR.values()) for cause, chance in PRIOR.items()}
    if x["old habit"]:
        prior = {cause: p * 0.8 / (1 - prior["old habit"]) for cause, p in prior.items()} | {"old habit": 0.2}
    strong, none = {}, prior["none"] * exp(dm(b))
    for cause in CAUSES[1:-1]:
        effect = {"blank": 0.5, "elsewhere": 0.5} if cause == "knowing" else {cause: 1.0}
        terms = [w * exp(dm({c: (1 - r) * b[c] + r * effect.get(c, 0.0) for c in CELLS})) for r, w in shares]
        none += prior[cause] * sum(terms[:4])
        strong[cause] = prior[cause] * sum(terms[4:])
    whole = none + sum(strong.values())
    return {"none": none / whole, **{cause: p / whole for cause, p in strong.items()}}


@pytest.mark.parametrize("x", [
    {"hit": 40}, {"hit": 30, "blank": 6, "elsewhere": 5}, {"hit": 40, "gesture": 3}, {"hit": 40, "layer": 9},
    {"hit": 30, "old habit": 1}, {"hit": 50, "modifiers": 6, "blank": 2}, {"hit": 20, "neighbour": 5}, {"hit": 25, "unfinished": 2},
])  # fmt: skip
def test_the_posterior_is_that_of_its_formula(x: dict[str, int]) -> None:
    names = iter("ABCDEFGHIJKLMN")
    rows: list[object] = []
    for cell, count in x.items():
        kind = "stray" if cell == "elsewhere" else cell
        rows += [cell if cell in ("hit", "blank") else slip(kind, next(names)) for _ in range(count)]
    found, wanted = chances(rows), by_hand({cell: x.get(cell, 0) for cell in CELLS})
    for cause, chance in wanted.items():
        assert found[cause] == pytest.approx(chance, abs=1e-6), cause
    assert sum(found.values()) == pytest.approx(1.0)


@pytest.mark.parametrize(("rows", "cause"), [
    ([slip("neighbour", "D")] * 12 + ["hit"] * 28, "place"), ([slip("neighbour", key) for key in "DWXA" * 3] + ["hit"] * 28, "neighbour"),
    ([slip("stray", "P")] * 12 + ["hit"] * 28, "place"),
    ([slip("stray", key) for key in "PQRTYUIOGHJK"] + ["blank"] * 8 + ["hit"] * 28, "knowing"),
    ([slip("gesture", "S")] * 12 + ["hit"] * 28, "gesture"), (["hit"] * 38 + ["blank", slip("neighbour", "D")], "none"),
])  # fmt: skip
def test_the_likeliest_cause(rows: list[object], cause: str) -> None:
    found = chances(rows)
    assert max(found, key=lambda name: found[name]) == cause and found[cause] > 0.8


@pytest.mark.parametrize(("most", "rest"), [(5, 2), (5, 3), (6, 3), (6, 4), (7, 4), (7, 5)])
def test_a_key_that_surely_draws_over_half_of_the_neighbour_slips_is_a_place(most: int, rest: int) -> None:
    rows = [slip("stray", "P")] * 2 + [slip("neighbour", key) for key in "WXAZQ"[:rest] + "D" * most] + ["hit"] * 20
    found = chances(rows)
    sure = bool(beta.sf(0.5, 0.7 + most, 0.7 + rest) >= 0.8)
    assert (found["neighbour"] == 0) is sure and (found["place"] > 0.5) is sure


def test_where_everybody_s_slips_go_is_no_place_of_one_binding() -> None:
    """A favourite wrong key: both bindings' strays go to P, beside as many blanks."""
    rows: list[object] = [slip("stray", "P")] * 8 + ["blank"] * 8 + ["hit"] * 24
    both = causes(counted(rows, list(rows)), [6, 6])
    alone = causes(counted([slip("stray", "P")] * 12 + ["hit"] * 28, ["hit"] * 40), [6, 6])
    assert both.likeliest(0) == both.likeliest(1) == "knowing" and alone.likeliest(0) == "place"


def test_only_the_newest_120_tries_tell() -> None:
    assert chances(["blank"] * 40 + ["hit"] * 120)["none"] == pytest.approx(chances(["hit"] * 120)["none"])
    assert chances(["blank"] * 40 + ["hit"] * 119)["none"] < chances(["hit"] * 120)["none"]


@given(st.lists(st.booleans(), min_size=1, max_size=60), st.sampled_from([1.0, 4.0]))
def test_what_lasts_is_the_constant_rate_against_the_power_laws(wrong: list[bool], odds: float) -> None:
    def likelihood(rates: list[float]) -> float:
        return exp(sum(log(r if w else 1 - r) for r, w in zip(rates, wrong, strict=True)))

    n = len(wrong)
    constant = [(likelihood([r] * n), r) for r in RATES]
    power = [(likelihood([a * (i + 1) ** -b for i in range(n)]), a * (n + 1) ** -b) for a in HEIGHTS for b in SLOPES]
    ours, theirs = (sum(w for w, _ in some) / len(some) for some in (constant, power))
    chance = odds * ours / (odds * ours + theirs)
    steady, falling = (sum(w * r for w, r in some) / sum(w for w, _ in some) for some in (constant, power))
    found = lasting(np.array(wrong), np.arange(n), np.zeros(n, dtype=np.int64), 1, odds)
    assert found.chance[0] == pytest.approx(chance, rel=1e-6)
    assert found.now[0] == pytest.approx(chance * steady + (1 - chance) * falling, rel=1e-6)


def test_the_scales_are_those_of_the_person() -> None:
    """80 bindings of a hand with fingers 1.6 and distances 0.7 times as costly as usual, each with an effect of its own."""
    rng = np.random.default_rng(4)
    finger, distance = rng.uniform(100, 400, 80), rng.uniform(0, 300, 80)
    medians = 500 + 1.6 * finger + 0.7 * distance + rng.normal(0, 40, 80)
    found = fitted_scales(medians, np.full(80, 15.0), finger, distance)
    deviations = np.sqrt(np.diag(found.errors))
    assert abs(found.finger - 1.6) < 3 * deviations[0] < 0.3 and abs(found.distance - 0.7) < 3 * deviations[1] < 0.3


def test_few_bindings_say_nothing_of_the_scales_and_none_is_below_zero() -> None:
    plain = fitted_scales(np.array([900.0, 500.0]), np.full(2, 10.0), np.array([100.0, 300.0]), np.zeros(2))
    assert (plain.finger, plain.distance) == (1.0, 1.0) and plain.errors[0, 0] == 0.25
    falling = fitted_scales(1500 - 3 * np.arange(40.0) * 10, np.full(40, 5.0), np.arange(40.0) * 10, np.full(40, 50.0))
    assert falling.finger == 0.0
