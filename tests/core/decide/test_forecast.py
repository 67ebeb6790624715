"""Costs ahead worked out by hand, the day a change is even; free places: the shortest reach first, less each reason for a place."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.decide.forecast import gain_of, standing, unknown_uses
from glimber.core.decide.free_places import FITS, FreePlace, free_spots, is_open
from glimber.core.notation.keys import parse_trigger
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.measures import measure
from tests.helpers import NOON, PROGRAM, folio_of, practice, tries_of

S = "split-42:draw:KeyS:tap"


@given(st.floats(0.05, 0.9), st.floats(0.01, 0.5), st.floats(1, 80), st.floats(0.2, 0.9), st.integers(1, 300))
def test_what_is_not_known_is_the_sum_over_the_uses_to_come(start: float, floor: float, n: float, slope: float, uses: int) -> None:
    """∫ max(min(start, floor), start·((n + u)/n)^−β) du against the midpoint rule."""
    u = (np.arange(uses * 50) + 0.5) / 50
    by_hand = np.sum(np.maximum(min(start, floor), start * ((n + u) / n) ** -slope)) / 50
    assert float(unknown_uses(start, floor, n, slope, uses)) == pytest.approx(by_hand, rel=2e-3)


@pytest.mark.parametrize(("lost", "day"), [(0.0, 1), (9.9, 1), (10.0, 1), (10.1, 2), (20.1, 3), (60.1, 7), (70.1, None)])
def test_the_day_on_which_a_change_is_even(lost: float, day: int | None) -> None:
    """It saves 10 s a day; relearning costs ``lost`` s, all of it on the first day."""
    running = (np.arange(1, 8) * 10.0 - lost)[None, :]
    found = gain_of(np.array([140.0]), np.array([70.0 + lost]), running)
    assert found.break_even_day == day and found.total_s == pytest.approx(70 - lost) and found.per_week_s == pytest.approx(70 - lost)
    assert found.share == pytest.approx((70 - lost) / 140) and found.p_better == pytest.approx(0.96 if lost < 70 else 0.04)


def ledger(outcomes: list[object], program: str = PROGRAM) -> Ledger:
    folio = folio_of({"programs/shoalwright.toml": program})
    return measure(folio, practice(tries_of("sounding-s", S, outcomes)), NOON)  # type: ignore[arg-type]


def test_staying_costs_time_hand_and_knowing_and_what_lasts_does_not_fall() -> None:
    known = ledger(["hit", "blank"] * 20)
    now = standing([known.rows["sounding-s"]])
    lasting, passing = replace(now, lasts=np.ones(1)), replace(now, lasts=np.zeros(1))
    uses = now.uses_day * 56
    by_hand = uses * (now.time_s + now.hand * now.hand_s + (1 - now.hand) * now.knowing * now.knowing_s)
    assert lasting.total_s(known, 56) == pytest.approx(by_hand) and passing.total_s(known, 56) < by_hand


def test_going_along_is_all_or_nothing_of_what_stays() -> None:
    """Everything goes along and nothing is gained: staying and going differ by relearning alone."""
    known = ledger(["hit", "blank"] * 20)
    now = standing([known.rows["sounding-s"]])
    unknown = now.unknown(known, 56)
    stays, moved = now.total_s(known, 56), now.moved_s(known, 56, 0.0, 0.0, 1e-9, (1.0, 1.0), unknown)
    assert moved == pytest.approx(stays, rel=1e-6)
    assert now.moved_s(known, 56, 0.1, 0.0, 1e-9, (1.0, 1.0), unknown) == pytest.approx(stays - 0.1 * now.uses_day * 56)


@pytest.mark.parametrize(("careful", "seconds"), [(False, 2.5), (True, 10.0)])
def test_a_slip_at_a_careful_command_costs_more(careful: bool, seconds: float) -> None:
    text = PROGRAM.replace('name = "Add sounding"', f'name = "Add sounding"\ncareful = {str(careful).lower()}')
    slip = ("neighbour", "split-42:draw:KeyD:tap", "shoalwright/depth-range")
    row = ledger(["hit", slip] * 20, text).rows["sounding-s"]
    _, _, slips, blanks = row.parts_s()
    assert row.recovery_s == seconds and row.p_slip is not None
    assert slips == pytest.approx(row.uses_week * row.p_slip * seconds) and blanks == 0


SMALL = folio_of()


@pytest.mark.parametrize(("why", "score"), [
    ((), 200.0),
    (("free in Shoalwright",), 200.0),  # that it is free speaks for no place more than for another
    (("free in Shoalwright", "beside its group"), 200 * (1 - FITS)),
    (("the letter of its name", "beside its group"), 200 * (1 - 2 * FITS)),
])  # fmt: skip
def test_what_speaks_for_a_place_makes_it_nearer(why: tuple[str, ...], score: float) -> None:
    assert FreePlace(parse_trigger("Ctrl+K"), 200.0, why).score == pytest.approx(score)


@pytest.mark.parametrize(("layer", "key", "open_"), [
    ("base", "KeyS", False),  # it types an s
    ("base", "thumb-left-3", True),
    ("draw", "KeyS", True),
    ("draw", "thumb-left-3", True),
])  # fmt: skip
def test_on_the_base_layer_a_key_that_types_is_not_free(layer: str, key: str, open_: bool) -> None:
    layout = SMALL.layouts["split-42"]
    found = layout.layer(layer)
    assert found is not None and is_open(SMALL, found, key) is open_


def test_free_spots_take_nobodys_place_and_come_by_their_score() -> None:
    places = free_spots(SMALL, "shoalwright/quay-list", "split-42", most=400)
    triggers = [str(one.trigger) for one in places]
    assert "split-42:draw:KeyS:tap" not in triggers and "split-42:draw:KeyA:tap" in triggers
    assert not any(trigger.startswith("split-42:base:Key") for trigger in triggers)
    scores = [one.score for one in places]
    assert scores == sorted(scores) and len(set(triggers)) == len(triggers)
    assert free_spots(SMALL, "shoalwright/quay-list", "split-42", most=3) == places[:3]
