"""Memory: the activation by its formula, spacing, and the fit to a person."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from math import exp, inf, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.grouping import select
from glimber.core.stats.memory import BETWEEN_ROUNDS, DEFAULT, Recall, Traces, known_before, refit, traces
from tests.helpers import folio_of

BEGIN = datetime(2020, 1, 1, tzinfo=UTC)

DAY = 86_400.0


def naive(times: list[float], rounds: list[str], now: float) -> float:
    """m = ln Σ tⱼ^(−dⱼ), dⱼ = c·e^(mⱼ) + a, on the scaled clock."""
    clock = [0.0]
    for j in range(1, len(times)):
        clock.append(clock[-1] + (times[j] - times[j - 1]) * (1 if rounds[j] == rounds[j - 1] else BETWEEN_ROUNDS))
    decays: list[float] = []
    for j in range(len(times)):
        before = log(sum(max(1.0, clock[j] - clock[i]) ** -decays[i] for i in range(j))) if j else -inf
        decays.append(0.217 * exp(before) + 0.177)
    end = clock[-1] + (now - times[-1]) * BETWEEN_ROUNDS
    return log(sum(max(1.0, end - c) ** -d for c, d in zip(clock, decays, strict=True)))


def traced(*bindings: tuple[list[float], list[str]], missed: tuple[float, ...] = ()) -> Traces:
    """The traces of bindings with hits at these seconds in these rounds; ``missed``: blanks of the first, each in a round of its own."""
    folio = folio_of()
    chosen = list(folio.bindings.values())[: len(bindings)]
    rows = []
    for binding, (times, rounds) in zip(chosen, bindings, strict=True):
        for time, name in zip(times, rounds, strict=True):
            rows.append(Try("", name, 0, BEGIN + timedelta(seconds=time), "", binding.id, str(binding.trigger), "press", "hit"))
    for time in missed:
        first = chosen[0]
        rows.append(Try("", f"m{time}", 0, BEGIN + timedelta(seconds=time), "", first.id, str(first.trigger), "press", "blank"))
    tries = tuple(sorted(rows, key=lambda one: one.at))
    return traces(select(Practice(tries).columns, chosen, datetime(2030, 1, 1, tzinfo=UTC)))


def activation(kept: Traces, seconds: float) -> float:
    return float(kept.activation(BEGIN.timestamp() + seconds)[0])


@given(st.lists(st.tuples(st.integers(1, 259_200), st.booleans()), min_size=1, max_size=20), st.floats(1, 20 * DAY))
def test_activation_is_the_formulas(gaps: list[tuple[float, bool]], later: float) -> None:
    times, rounds, t, name = [], [], 0.0, 0
    for gap, same in gaps:
        t += gap
        name += not same
        times.append(t)
        rounds.append(str(name))
    other = ([time * 1.5 for time in times[: len(times) // 2]], rounds[: len(times) // 2])
    kept = traced((times, rounds), other)
    assert activation(kept, t + later) == pytest.approx(naive(times, rounds, t + later), rel=1e-9, abs=1e-8)
    if other[0]:
        assert kept.activation(BEGIN.timestamp() + 2 * t + later)[1] == pytest.approx(naive(*other, 2 * t + later), rel=1e-9)


def test_nothing_struck_is_what_was_known_before() -> None:
    assert activation(traced(([], [])), 100.0) == -inf
    assert DEFAULT.p(-inf) == 0.2 and DEFAULT.p(-inf, 0.6) == 0.6


def test_a_miss_has_the_activation_of_the_strikes_before_it_and_changes_none() -> None:
    times, rounds = [0.0, 60.0, DAY], ["a", "a", "b"]
    kept = traced((times, rounds), missed=(DAY / 2,))
    assert kept.before[2] == pytest.approx(naive(times[:2], rounds[:2], DAY / 2))
    assert activation(kept, DAY * 2) == pytest.approx(naive(times, rounds, DAY * 2))


def test_spaced_strikes_last_longer_than_crammed_ones() -> None:
    crammed = traced(([DAY * 5 + 10 * i for i in range(6)], ["one"] * 6))
    spaced = traced(([DAY * i for i in range(6)], [str(i) for i in range(6)]))
    assert activation(spaced, DAY * 20) > activation(crammed, DAY * 20)


def test_knowing_fades_and_comes_back() -> None:
    kept = traced(([0.0, 60.0, DAY], ["a", "a", "b"]))
    ps = [float(DEFAULT.p(activation(kept, DAY * day))) for day in (1.01, 3, 9, 27)]
    assert ps == sorted(ps, reverse=True)
    more = traced(([0.0, 60.0, DAY, DAY * 3], ["a", "a", "b", "c"]))
    assert DEFAULT.p(activation(more, DAY * 9)) > ps[2]


@pytest.mark.parametrize(("strikes", "kept"), [(399, 399), (400, 400), (401, 400), (500, 400)])
def test_only_the_newest_four_hundred_strikes_count(strikes: int, kept: int) -> None:
    found = traced(([60.0 * i for i in range(strikes)], ["r"] * strikes))
    assert found.strikes[0] == kept == len(found.clock_s)
    assert found.clock_s[-1, 0] == pytest.approx(60.0 * (kept - 1))


def test_first_tries_tell_what_was_known_before_at_the_weight_of_ten() -> None:
    assert known_before(np.zeros(0, dtype=bool)) == 0.2
    assert known_before(np.array([True] * 10)) == pytest.approx((2 + 10) / 20)


def test_refit_finds_the_person_who_made_the_answers() -> None:
    rng = np.random.default_rng(3)
    m = rng.uniform(-2.5, 1.0, 4000)
    known = rng.random(4000) < 0.2 + 0.8 / (1 + np.exp((-0.2 - m) / 0.4))
    found = refit(m, known)
    assert found.tau == pytest.approx(-0.2, abs=0.08) and found.s == pytest.approx(0.4, abs=0.08)
    assert refit(m[:150], known[:150]) == DEFAULT


@pytest.mark.parametrize(
    ("activation", "chance"),
    [(-inf, 0.0), (-0.704 - 0.255, 0.268941), (-0.704, 0.5), (-0.704 + 0.255, 0.731059), (-0.704 + 3 * 0.255, 0.952574)],
)  # fmt: skip
def test_the_chance_of_knowing_is_the_logistic_of_the_published_parameters(activation: float, chance: float) -> None:
    assert Recall(known=0.0).p(activation) == pytest.approx(chance, abs=1e-6)
    assert (Recall().a, Recall().c) == (0.177, 0.217)
