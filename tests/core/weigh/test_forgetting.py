"""Memory: the activation by its formula, spacing, and the fit to a person."""

from __future__ import annotations

from math import exp, inf, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.weigh.forgetting import BETWEEN_ROUNDS, DEFAULT, Recall, refit, trace

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


@given(st.lists(st.tuples(st.floats(0.5, 3 * DAY), st.booleans()), min_size=1, max_size=20), st.floats(1, 20 * DAY))
def test_activation_is_the_formulas(gaps: list[tuple[float, bool]], later: float) -> None:
    times, rounds, t, name = [], [], 0.0, 0
    for gap, same in gaps:
        t += gap
        name += not same
        times.append(t)
        rounds.append(str(name))
    assert trace(times, rounds).activation(t + later) == pytest.approx(naive(times, rounds, t + later))


def test_nothing_struck_is_nothing_known() -> None:
    assert trace([], []).activation(100.0) == -inf
    assert DEFAULT.p(-inf) == 0.0


def test_spaced_strikes_last_longer_than_crammed_ones() -> None:
    crammed = trace([DAY * 5 + 10 * i for i in range(6)], ["one"] * 6)
    spaced = trace([DAY * i for i in range(6)], [str(i) for i in range(6)])
    assert spaced.activation(DAY * 20) > crammed.activation(DAY * 20)


def test_knowing_fades_and_comes_back() -> None:
    kept = trace([0.0, 60.0, DAY], ["a", "a", "b"])
    ps = [DEFAULT.p(kept.activation(DAY * day)) for day in (1.01, 3, 9, 27)]
    assert ps == sorted(ps, reverse=True)
    more = trace([0.0, 60.0, DAY, DAY * 3], ["a", "a", "b", "c"])
    assert DEFAULT.p(more.activation(DAY * 9)) > ps[2]


def test_only_the_newest_four_hundred_strikes_count() -> None:
    times = [60.0 * i for i in range(500)]
    kept = trace(times, ["r"] * 500)
    assert len(kept.times_s) == 400 and kept.times_s[0] == 6000


def test_lengths_must_agree() -> None:
    with pytest.raises(ValueError, match="2 times but 1 rounds"):
        trace([1.0, 2.0], ["a"])


def test_refit_finds_the_person_who_made_the_answers() -> None:
    rng = np.random.default_rng(3)
    m = rng.uniform(-2.5, 1.0, 4000)
    known = rng.random(4000) < 1 / (1 + np.exp((-0.2 - m) / 0.4))
    found = refit(m, known)
    assert found.tau == pytest.approx(-0.2, abs=0.08) and found.s == pytest.approx(0.4, abs=0.08)
    assert refit(m[:150], known[:150]) == DEFAULT


@pytest.mark.parametrize(
    ("activation", "chance"),
    [(-inf, 0.0), (-0.704 - 0.255, 0.268941), (-0.704, 0.5), (-0.704 + 0.255, 0.731059), (-0.704 + 3 * 0.255, 0.952574)],
)  # fmt: skip
def test_the_chance_of_knowing_is_the_logistic_of_the_published_parameters(activation: float, chance: float) -> None:
    assert Recall().p(activation) == pytest.approx(chance, abs=1e-6)
    assert (Recall().a, Recall().c) == (0.177, 0.217)
