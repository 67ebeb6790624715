"""Over time and by date: days by the person's own clock, what has faded, what will be due; as a table and as a calendar."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date, datetime, timedelta
from os import environ
from time import tzset

import icalendar
import pytest
from msgspec.structs import replace

from glimber.core.day.page import day_of as day_page
from glimber.core.day.page import long_words
from glimber.core.decide.calendar import AHEAD_DAYS, calendar
from glimber.core.decide.over_time import Moment, OverTime, PracticeDay, faded_now, over_time, practice_days, to_csv
from glimber.core.decide.plan import PRESSING_BELOW
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Round
from glimber.core.stats.accuracy import Beta
from glimber.core.stats.daily import by_day
from glimber.core.stats.days import end_of, own_day
from glimber.core.stats.measures import measure
from glimber.store.ics import to_ics
from tests.helpers import NOON, folio_of, practice, tries_of

S = "split-42:draw:KeyS:tap"


@pytest.fixture
def clock() -> Iterator[Callable[[str], None]]:
    def put(zone: str) -> None:
        environ["TZ"] = zone
        tzset()

    yield put
    put("UTC")


def days_of(*rows: tuple[datetime, str, str]) -> list[tuple[date, int, float, float]]:
    one = tries_of("sounding-s", S, ["hit"])[0]
    made = [replace(one, id=f"t{n}", at=at, round=round, outcome=outcome) for n, (at, round, outcome) in enumerate(rows)]  # type: ignore[arg-type]
    return [(day.day, day.tries, day.clean, day.practice_s) for day in practice_days(practice(made), NOON)]


def test_a_day_has_its_counted_tries_until_now_and_its_rounds_by_when_they_began() -> None:
    late, today, second = NOON.replace(hour=23, minute=59) - timedelta(days=2), NOON.date(), timedelta(seconds=1)
    assert days_of(
        (late, "a", "hit"), (late + 90 * second, "a", "blank"),  # past midnight
        (NOON - 60 * second, "b", "void"), (NOON - 40 * second, "b", "hit"), (NOON - 9 * second, "c", "blank"), (NOON, "c", "hit"),
        (NOON + timedelta(microseconds=1), "c", "hit"),
    ) == [
        (today - timedelta(days=2), 1, 1.0, 90.0), (today - timedelta(days=1), 1, 0.0, 0.0), (today, 3, pytest.approx(2 / 3), 29.0)
    ]  # fmt: skip
    assert days_of((NOON, "a", "void")) == [] and over_time(measure(folio_of(), Practice(), NOON)) == OverTime((), (), ())


@pytest.mark.parametrize(("zone", "away"), [("UTC", 0), ("Pacific/Auckland", 1), ("Pacific/Honolulu", -1)])
def test_days_are_the_persons_own(clock: Callable[[str], None], zone: str, away: int) -> None:
    clock(zone)
    at = NOON.replace(hour=23) if away >= 0 else NOON.replace(hour=9)
    tries = tries_of("sounding-s", S, ["hit", "blank"], days=1, until=at - timedelta(minutes=5))
    day = at.date() + timedelta(days=away)
    ledger = measure(folio_of(), practice(tries), at)
    assert [one.day for one in (*over_time(ledger).days, *over_time(ledger).moments, *by_day(ledger, ledger.rows["sounding-s"]))] == [
        day
    ] * 3
    assert own_day(at) == day and own_day(end_of(day)) == day and own_day(end_of(day) + timedelta(microseconds=1)) == day + timedelta(1)


def test_clocks_put_back_make_a_day_of_twenty_five_hours(clock: Callable[[str], None]) -> None:
    clock("Europe/Berlin")
    night = NOON.replace(month=10, day=25, hour=0)  # 25 October 2026, from 22:00 of the 24th to 23:00 in UTC
    found = days_of((night.replace(day=24, hour=21, minute=59), "a", "hit"), (night.replace(day=24, hour=22), "b", "hit"),
                    (night.replace(hour=22, minute=59), "c", "hit"), (night.replace(hour=23), "d", "hit"))  # fmt: skip
    assert [(day.day, count) for day, count, _, _ in found] == [(24, 1), (25, 2), (26, 1)]


def test_practice_of_a_week_is_that_of_seven_days() -> None:
    last = date(2026, 11, 20)
    days = tuple(PracticeDay(last - timedelta(days=back), 1, 1.0, 10.0 ** (1 + back // 6)) for back in (7, 6, 5, 0))
    assert OverTime(days, (), ()).practice_s_week == 100 + 10 + 10 and OverTime((), (), ()).practice_s_week == 0


@pytest.mark.parametrize(("changed", "told"), [
    ({}, True), ({"posterior": Beta(84.9, 15.1)}, False), ({"posterior": Beta(85.0, 15.0)}, True), ({"posterior": None}, False),
    ({"p_know": 0.6}, False), ({"p_know": 0.5999}, True), ({"days": 4.999}, False), ({"days": 5}, True),
])  # fmt: skip
def test_what_was_held_and_is_likely_forgotten_after_some_days_has_faded(changed: dict[str, object], told: bool) -> None:
    given = {"posterior": Beta(90.0, 10.0), "p_know": 0.3, "days": 6} | changed
    ledger = measure(folio_of(), practice(tries_of("sounding-s", S, ["hit"], until=NOON)), NOON)
    rows = dict(ledger.rows)
    rows["sounding-s"] = replace(rows["sounding-s"], posterior=given["posterior"], p_know=given["p_know"])  # type: ignore[arg-type]
    now = rows["sounding-s"].tries[-1].at + timedelta(days=given["days"])  # type: ignore[arg-type]
    assert faded_now(replace(ledger, rows=rows, at=now)) == ([("sounding-s", given["p_know"])] if told else [])


def test_the_days_page_tells_what_is_earned_now() -> None:
    """And not at the end of the last day gone by, which the page's curve ends with."""
    tries = tries_of("sounding-s", S, ["hit"] * 12)
    ledger = measure(folio_of(), practice(tries), NOON)
    earned = sum(row.earned_s or 0.0 for row in ledger.rows.values())
    assert earned > 0
    page = day_page(ledger, NOON, (), (), (), [(NOON.date() - timedelta(days=1), earned - 60.0)])
    (line,) = (line for line in page.lines if line.what == "earned")
    assert line.head == f"{long_words(earned)} a week earned" and "60 s more than on" in line.detail


def test_moments_are_the_ends_of_at_most_ten_days_and_sum_what_is_known(monkeypatch: pytest.MonkeyPatch) -> None:
    tries = [one for back in range(12) for one in tries_of("sounding-s", S, ["hit"] * 4, days=1, until=NOON - timedelta(days=back))]
    found = over_time(measure(folio_of(), practice(tries), NOON))
    assert len(found.days) == 12 and len(found.moments) == 10
    assert (found.moments[0].day, found.moments[-1].day) == (found.days[0].day, found.days[-1].day)
    for one in found.moments:
        rows = measure(folio_of(), practice(tries), min(end_of(one.day), NOON)).rows.values()
        assert one.weekly_s == pytest.approx(sum(row.weekly_s or 0 for row in rows)) and one.earned_s > 0
        assert one.known == sum(row.count > 0 and row.p_clean >= 0.85 for row in rows)
    assert {one.known for one in found.moments} <= {0, 1}
    ledger = measure(folio_of(), practice(tries), NOON)
    one = measure(folio_of(), practice(tries_of("sounding-s", S, ["hit"])), NOON).rows["sounding-s"]
    untried = replace(ledger.rows["tide-table"], hand=Beta(1.0, 99.0), p_know=1.0)
    for hand, known in ((Beta(15.0, 85.0), 1), (Beta(15.1, 84.9), 0)):
        rows = {"": replace(one, hand=hand, knowing_now=0.0, faded=1.0), "none": untried}
        monkeypatch.setattr("glimber.core.decide.over_time.measure", lambda *_, rows=rows: replace(ledger, rows=rows))
        assert over_time(ledger).moments[-1].known == known


def test_the_table_has_a_line_a_day_with_figures_rounded() -> None:
    day = PracticeDay(date(2026, 11, 3), 7, 0.857142, 61.26)
    found = OverTime((day, replace(day, day=date(2026, 11, 4))), (Moment(date(2026, 11, 4), 120.26, 44.34, 3),), ())
    assert to_csv(found).splitlines() == [
        "day,tries,clean,practice_s,weekly_s,saved_s_week,held", "2026-11-03,7,0.8571,61.3,,,", "2026-11-04,7,0.8571,61.3,120.3,44.3,3",
    ]  # fmt: skip


def test_days_with_practice_and_days_on_which_more_will_press() -> None:
    tries = tries_of("sounding-s", S, ["hit"] * 12, until=NOON - timedelta(hours=2))
    ledger = measure(folio_of(), practice(tries), NOON)
    found = calendar(ledger)
    assert {day.isoformat() for day in found.done} == {f"{one.at:%Y-%m-%d}" for one in tries}
    assert sum(one.tries for one in found.done.values()) == 12
    number = ledger.rows["sounding-s"].number

    def clean(days: int) -> float:
        return float(ledger.clean_at(NOON + timedelta(days=days))[number])

    assert clean(0) == pytest.approx(ledger.rows["sounding-s"].p_clean) and clean(0) > clean(7) > clean(27)
    first = next((day for day in range(AHEAD_DAYS) if clean(day) < PRESSING_BELOW), None)
    expected = [] if first is None else [(NOON + timedelta(days=first)).astimezone().date()]
    assert list(found.due) == expected and all(count == 1 for count in found.due.values())


def test_nothing_practised_is_an_empty_calendar() -> None:
    found = calendar(measure(folio_of(), Practice(), NOON))
    assert not found.done and not found.due and found.at.hour == 9


def test_the_file_has_rounds_and_days_ahead_and_is_the_same_when_written_again() -> None:
    tries = tries_of("sounding-s", S, ["hit", "blank"] * 6, until=NOON - timedelta(hours=2))
    began = NOON - timedelta(days=1, minutes=-40)
    rounds = [Round("r1", began, "bridge", "press", ("sounding-s",), began + timedelta(minutes=3)),
              Round("r2", NOON, "bridge", "press", ("sounding-s",))]  # fmt: skip
    ledger = measure(folio_of(), replace(practice(tries), rounds=tuple(rounds)), NOON)
    found = calendar(ledger)
    assert (found.at.hour, found.at.minute) == (12, 45)
    text = to_ics("Small office", found, rounds, NOON)
    assert text == to_ics("Small office", found, rounds, NOON)
    events = icalendar.Calendar.from_ical(text).walk("VEVENT")
    told = [str(event["summary"]) for event in events]
    assert told[0] == "Small office: 1 binding drilled"  # the one that has not ended is no practice yet
    assert len(told) == 1 + len(found.due)
    assert all(event["dtend"].dt > event["dtstart"].dt for event in events)
    assert len({str(event["uid"]) for event in events}) == len(events)
