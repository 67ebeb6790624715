"""What is measured of a binding, and what it costs: worked out by hand from a few tries."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
import pytest
from msgspec.structs import replace

from glimber.core.practice.log import Practice
from glimber.core.stats.causes import CAUSES, CELLS, Causes, Place
from glimber.core.stats.measures import _one_lasting, grip_now, measure
from tests.helpers import LAYOUT, NOON, PROGRAM, folio_of, practice, tries_of

SOUNDING, SPOT = "sounding-s", "split-42:draw:KeyS:tap"
SLIP_D = ("neighbour", "split-42:draw:KeyD:tap", "shoalwright/depth-range")


def test_without_tries_nothing_is_known() -> None:
    row = measure(folio_of(), Practice(), NOON).rows[SOUNDING]
    assert row.posterior is None and row.recall_ms is None and row.weekly_s is None and row.earned_s is None
    assert row.grip == 0.0 and row.parts_s() == (0, 0, 0, 0)


def test_weekly_cost_by_the_formula() -> None:
    folio = folio_of()
    outcomes = ["hit"] * 6 + [SLIP_D, SLIP_D, SLIP_D, "blank"]
    row = measure(folio, practice(tries_of(SOUNDING, SPOT, outcomes, days=3)), NOON).rows[SOUNDING]
    uses = 60 * 5 * 0.5  # split equally with the command's chord
    slow = 1.35 + 2 * 2.65 + 1.3 + 0.8
    assert row.uses_week == uses and row.slow_s == pytest.approx(slow)
    assert row.recall_ms == 700 and row.motor_ms == 120 and row.posterior is not None
    error = 1 - row.posterior.mean
    assert (row.p_slip, row.p_blank) == pytest.approx((error * 0.75, error * 0.25))
    weekly = uses * (0.820 + error * 0.75 * 2.5 + error * 0.25 * slow)
    assert row.weekly_s == pytest.approx(weekly)
    assert row.lost_s == pytest.approx(max(0.0, weekly - uses * 1.5))
    assert row.earned_s == pytest.approx(uses * slow - weekly)
    assert sum(row.parts_s()) == pytest.approx(weekly)
    assert row.slips.struck == {"split-42:draw:KeyD:tap": 3} and row.slips.blanks == 1


def test_void_aided_and_second_strikes_do_not_count() -> None:
    good = tries_of(SOUNDING, SPOT, ["hit"] * 4)
    bad = tries_of(SOUNDING, SPOT, ["blank"] * 3)
    spoilt = [replace(bad[0], outcome="void"), replace(bad[1], aids=1), replace(bad[2], first=False)]
    row = measure(folio_of(), practice(good, spoilt), NOON).rows[SOUNDING]
    assert len(row.tries) == 4 and row.slips.blanks == 0


def test_tries_at_a_former_trigger_do_not_count() -> None:
    elsewhere = tries_of(SOUNDING, "split-42:base:KeyP:tap", ["blank"] * 8)
    row = measure(folio_of(), practice(elsewhere, tries_of(SOUNDING, SPOT, ["hit"] * 2)), NOON).rows[SOUNDING]
    assert [one.outcome for one in row.tries] == ["hit", "hit"]


def test_tries_after_the_moment_asked_about_do_not_count() -> None:
    tries = tries_of(SOUNDING, SPOT, ["hit"] * 8, days=4)
    early = measure(folio_of(), practice(tries), NOON - timedelta(days=2)).rows[SOUNDING]
    assert 0 < len(early.tries) < 8


def test_eight_cold_tries_alone_make_recall_and_tell_of_accuracy() -> None:
    cold = tries_of(SOUNDING, SPOT, ["blank", "hit"] * 4, round_size=1, recall_ms=1200)
    warm = tries_of(SOUNDING, SPOT, ["hit"] * 40, cold_each=False, recall_ms=400)
    row = measure(folio_of(), practice(cold, warm), NOON).rows[SOUNDING]
    assert row.cold == 8 and row.posterior is not None and row.posterior.mean < 0.8
    assert row.recall_ms is not None and row.recall_ms >= 1200
    few = measure(folio_of(), practice(cold[:7], warm), NOON).rows[SOUNDING]
    assert few.recall_ms == 400


def test_a_median_that_is_not_reached_costs_the_deadline() -> None:
    row = measure(folio_of(), practice(tries_of(SOUNDING, SPOT, ["hit", "blank", "blank", "blank"])), NOON).rows[SOUNDING]
    assert row.over_deadline and row.recall_ms == 4000


def test_two_kinds_of_error_and_the_one_probability() -> None:
    outcomes = ["hit"] * 5 + [SLIP_D] * 3 + ["blank"] * 2
    row = measure(folio_of(), practice(tries_of(SOUNDING, SPOT, outcomes)), NOON).rows[SOUNDING]
    weights = [0.5 ** (since / 20) for since in range(9, -1, -1)]
    scale = sum(weights) / sum(w * w for w in weights)
    hand = scale * sum(weights[5:8])
    assert row.hand.mean == pytest.approx((1 + hand) / (2 + scale * sum(weights)))
    assert 0.1 < row.knowing.mean < 0.5
    assert row.p_clean == pytest.approx((1 - row.knowing_now) * row.faded * (1 - row.hand.mean))
    low, high = row.p_clean_beta.interval()
    assert low < row.p_clean < high
    assert row.grip == pytest.approx(row.p_clean * min(1.0, 1500 / (row.time_ms or 0)))


def test_careful_commands_take_longer_to_mend_and_guesses_are_told() -> None:
    careful = PROGRAM.replace('name = "Depth range"', 'name = "Depth range"\ncareful = true').replace("uses_per_day = 20\n", "")
    row = measure(folio_of({"programs/shoalwright.toml": careful}), Practice(), NOON).rows["range-d"]
    assert row.recovery_s == 10 and row.uses_guessed
    assert not measure(folio_of(), Practice(), NOON).rows["range-d"].uses_guessed


def test_shares_are_as_set_and_the_rest_is_split() -> None:
    layout = LAYOUT.replace('id = "sounding-s",', 'id = "sounding-s", share = 0.7,')
    rows = measure(folio_of({"layouts/split-42.toml": layout}), Practice(), NOON).rows
    assert rows["sounding-s"].uses_week == pytest.approx(210) and rows["add-sounding"].uses_week == pytest.approx(90)


def test_rows_come_most_costly_first_and_unknown_last() -> None:
    """One that costs nothing, since it is never used, is known."""
    folio = folio_of({"programs/shoalwright.toml": PROGRAM.replace("uses_per_day = 20", "uses_per_day = 0")})
    tries = practice(*(tries_of(id, str(folio.bindings[id].trigger), ["hit"] * 4) for id in (SOUNDING, "range-d", "show-desktop")))
    assert [row.binding.id for row in measure(folio, tries, NOON).by_cost()][:3] == ["sounding-s", "show-desktop", "range-d"]


def test_weighing_one_again_is_as_weighing_it_with_the_others() -> None:
    tries = tries_of(SOUNDING, SPOT, ["hit", SLIP_D] * 5)
    ledger = measure(folio_of(), practice(tries[:6]), NOON)
    again = grip_now(ledger, SOUNDING, tries[6:], NOON)
    whole = measure(folio_of(), practice(tries), NOON).rows[SOUNDING]
    assert again == pytest.approx(whole.grip, rel=0.02)  # but for the folio's priors, which stay the ledger's
    assert grip_now(ledger, SOUNDING, [], NOON) == pytest.approx(ledger.rows[SOUNDING].grip)


def test_day_by_day_the_time_is_the_median_of_that_days_clean_hits() -> None:
    from glimber.core.stats.daily import by_day

    tries = [
        *tries_of("range-d", SLIP_D[1], ["hit"] * 3, days=1, recall_ms=500, until=NOON - timedelta(days=2)),
        *tries_of("range-d", SLIP_D[1], ["blank"] * 3, days=1, until=NOON - timedelta(days=1)),
        *tries_of("range-d", SLIP_D[1], ["hit", "hit", "blank"], days=1, recall_ms=900, until=NOON),
    ]
    ledger = measure(folio_of(), practice(tries), NOON + timedelta(minutes=1))
    days = by_day(ledger, ledger.rows["range-d"])
    motor = next(one.motor_ms for one in tries if one.outcome == "hit") or 0.0
    assert [one.time_ms for one in days] == [500 + motor, None, 900 + motor]
    assert all(one.low <= one.mean <= one.high for one in days)


def test_what_was_seen_fades_and_never_rises_by_waiting() -> None:
    tries = tries_of(SOUNDING, SPOT, ["hit"] * 12 + ["blank"] * 8)
    rows = [measure(folio_of(), practice(tries), NOON + timedelta(days=days)).rows[SOUNDING] for days in (0, 1, 10, 60, 400)]
    assert [row.knowing_now for row in rows] == [rows[0].knowing_now] * 5 and rows[0].faded > 0.99
    clean = [row.p_clean for row in rows]
    assert clean == sorted(clean, reverse=True) and clean[-1] < clean[0]
    assert clean[0] < 0.7  # it fails four times in ten, and is seen as such


@pytest.mark.parametrize(("cause", "tries", "beside", "larger"), [
    ("layer", 24, False, True), ("layer", 23, False, False), ("old habit", 24, False, True), ("place", 24, False, True), ("place", 24, True, False),
    ("gesture", 90, False, False), ("knowing", 90, False, False),
])  # fmt: skip
def test_one_lasting_is_the_larger_of_two_where_a_place_is_named(cause: str, tries: int, beside: bool, larger: bool) -> None:
    chance = np.zeros((1, len(CAUSES)))
    chance[0, 0], chance[0, CAUSES.index(cause)] = 0.2, 0.8
    cell = CELLS.index("neighbour" if beside else "elsewhere")
    what = Causes(chance, [Place(0, 5, cell)], np.zeros((1, len(CELLS))))
    assert _one_lasting(what, 0, tries, 0.4, 0.9) == (0.9 if larger else 0.4)
    chance[0, 0], chance[0, CAUSES.index(cause)] = 0.21, 0.79
    assert _one_lasting(what, 0, tries, 0.4, 0.9) == 0.4
