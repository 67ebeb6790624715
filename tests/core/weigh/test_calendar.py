"""Practice by date: what was done, what will be due, and the same as an iCalendar file."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import icalendar

from glimber.core.drill.practice import Practice
from glimber.core.drill.tries import Round
from glimber.core.weigh.calendar import AHEAD_DAYS, calendar
from glimber.core.weigh.measures import measure
from glimber.core.weigh.plan import PRESSING_BELOW
from glimber.store.ics import to_ics
from tests.helpers import NOON, folio_of, practice, tries_of

S = "split-42:draw:KeyS:tap"


def test_days_with_practice_and_days_on_which_more_will_press() -> None:
    tries = tries_of("sounding-s", S, ["hit"] * 12, until=NOON - timedelta(hours=2))
    ledger = measure(folio_of(), practice(tries), NOON)
    found = calendar(ledger)
    assert {day.isoformat() for day in found.done} == {f"{one.at:%Y-%m-%d}" for one in tries}
    assert sum(one.tries for one in found.done.values()) == 12
    row = ledger.rows["sounding-s"]

    def clean(days: int) -> float:
        activation = ledger.traces.activation(NOON.timestamp() + days * 86_400.0)[row.number]
        q = (4 * ledger.model.known + 1) / 5
        return float(ledger.model.p(activation, q)) * (1 - row.hand.mean)

    first = next((day for day in range(AHEAD_DAYS) if clean(day) < PRESSING_BELOW), None)
    expected = [] if first is None else [(NOON + timedelta(days=first)).astimezone().date()]
    assert list(found.due) == expected and all(count == 1 for count in found.due.values())


def test_nothing_practised_is_an_empty_calendar() -> None:
    found = calendar(measure(folio_of(), Practice(), NOON))
    assert not found.done and not found.due and found.at.hour == 9


def test_the_file_has_rounds_and_days_ahead_and_is_the_same_when_written_again() -> None:
    tries = tries_of("sounding-s", S, ["hit", "blank"] * 6, until=NOON - timedelta(hours=2))
    began = NOON - timedelta(days=1)
    rounds = [Round("r1", began, "bridge", "press", ("sounding-s",), began + timedelta(minutes=3)),
              Round("r2", NOON, "bridge", "press", ("sounding-s",))]  # fmt: skip
    ledger = measure(folio_of(), replace(practice(tries), rounds=tuple(rounds)), NOON)
    found = calendar(ledger)
    text = to_ics("Small office", found, rounds, NOON)
    assert text == to_ics("Small office", found, rounds, NOON)
    events = icalendar.Calendar.from_ical(text).walk("VEVENT")
    told = [str(event["summary"]) for event in events]
    assert told[0] == "Small office: 1 binding drilled"  # the one that has not ended is no practice yet
    assert len(told) == 1 + len(found.due)
    assert all(event["dtend"].dt > event["dtstart"].dt for event in events)
    assert len({str(event["uid"]) for event in events}) == len(events)
