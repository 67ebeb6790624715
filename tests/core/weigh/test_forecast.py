"""Gains worked out by hand: the day a change is even, whose costs are in it, and what an error of a careful command costs."""

from __future__ import annotations

import numpy as np
import pytest

from glimber.core.weigh.forecast import Course, gain
from glimber.core.weigh.measures import CAREFUL_RECOVERY_S, RECOVERY_S, measure
from tests.helpers import NOON, PROGRAM, folio_of, practice, tries_of


def course(time_s: float, uses: float = 10.0, knowing: float = 0.0, hand: float = 0.0, fades: bool = True) -> Course:
    one = [np.array([value]) for value in (time_s, knowing, hand, 3.0)]
    return Course(one[0], one[1], one[2], one[3], 2.0, uses, fades, tau=1e-6)


def test_one_binding_and_its_partner_are_both_in_the_gain() -> None:
    alone = gain([course(2.0)], [course(1.0)], 1)
    assert alone.total_s == pytest.approx(7 * 10 * 1.0) and alone.per_week_s == pytest.approx(70)
    assert alone.share == pytest.approx(0.5) and alone.p_better == 1.0
    both = gain([course(2.0), course(1.0)], [course(1.0), course(1.4)], 1)
    assert both.total_s == pytest.approx(70 - 28) and both.share == pytest.approx(42 / 210)
    worse = gain([course(2.0), course(1.0)], [course(1.0), course(2.5)], 1)
    assert worse.total_s < 0 and worse.p_better == 0.0 and worse.break_even_day is None


@pytest.mark.parametrize(
    ("lost", "day"),
    [(0.0, 1), (9.9, 1), (10.0, 1), (10.1, 2), (20.0, 2), (20.1, 3), (60.1, 7), (70.1, None)],
)
def test_the_day_on_which_a_change_is_even(lost: float, day: int | None) -> None:
    """It saves 10 s a day; relearning costs ``lost`` s, all of it on the first day."""

    class Relearning(Course):
        def mean_daily_s(self, days: int) -> np.ndarray:  # type: ignore[override]
            return np.array([10.0 + lost, *[10.0] * (days - 1)])

        def total_s(self, days: int) -> np.ndarray:  # type: ignore[override]
            return np.array([10.0 * days + lost])

    moved = Relearning(**{name: getattr(course(1.0), name) for name in Course.__dataclass_fields__})
    assert gain([course(2.0)], [moved], 1).break_even_day == day


def test_an_error_that_fades_costs_less_than_one_that_stays() -> None:
    assert course(1.0, knowing=0.5).total_s(7)[0] == pytest.approx(70, abs=1e-3)
    assert course(1.0, knowing=0.5, fades=False).total_s(7)[0] == pytest.approx(70 + 7 * 10 * 0.5 * 3)
    assert course(1.0, hand=0.5).total_s(7)[0] == pytest.approx(70 + 7 * 10 * 0.5 * 2)
    for one in (course(1.0, knowing=0.5, fades=False), course(1.0, hand=0.2)):
        assert one.mean_daily_s(7).sum() == pytest.approx(one.total_s(7)[0])


@pytest.mark.parametrize(("careful", "seconds"), [(False, RECOVERY_S), (True, CAREFUL_RECOVERY_S)])
def test_a_slip_at_a_careful_command_costs_more(careful: bool, seconds: float) -> None:
    text = PROGRAM.replace('name = "Add sounding"', f'name = "Add sounding"\ncareful = {str(careful).lower()}')
    folio = folio_of({"programs/shoalwright.toml": text})
    slip = ("neighbour", "split-42:draw:KeyD:tap", "shoalwright/depth-range")
    tries = practice(tries_of("sounding-s", "split-42:draw:KeyS:tap", ["hit", slip] * 20))
    row = measure(folio, tries, NOON).rows["sounding-s"]
    assert row.recovery_s == seconds == (10.0 if careful else 2.5)
    _, _, slips, blanks = row.parts_s()
    assert row.p_slip is not None and slips == pytest.approx(row.uses_week * row.p_slip * seconds) and blanks == 0
