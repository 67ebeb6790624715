"""Practice dates as an iCalendar file (RFC 5545): the rounds that were made, and the days on which something will be due."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Final
from uuid import NAMESPACE_URL, uuid5

from glimber.core.decide.calendar import Calendar
from glimber.core.practice.tries import Round

LENGTH_MIN: Final = 3


def to_ics(title: str, found: Calendar, rounds: Iterable[Round], now: datetime, minutes: float = LENGTH_MIN) -> bytes:
    """Return the file. An event of the same day has the same id each time it is written, so that reading it again moves
    nothing."""
    import icalendar

    whole = icalendar.Calendar()
    whole.add("prodid", "-//Glimber//practice//EN")
    whole.add("version", "2.0")
    stamp = now.astimezone(UTC).replace(microsecond=0)
    for one in rounds:
        if one.ended is not None:
            event = icalendar.Event()
            event.add("uid", f"{one.id}@glimber")
            event.add("dtstamp", stamp)
            event.add("dtstart", one.began.astimezone(UTC).replace(microsecond=0))
            event.add("dtend", one.ended.astimezone(UTC).replace(microsecond=0))
            event.add("summary", f"{title}: {_count(len(set(one.bindings)))} drilled")
            event.add("transp", "TRANSPARENT")
            whole.add_component(event)
    today = now.astimezone().date()
    for day, count in sorted(found.due.items()):
        if day < today:
            continue
        begin = datetime.combine(day, found.at).astimezone()
        event = icalendar.Event()
        event.add("uid", f"{uuid5(NAMESPACE_URL, f'glimber {title} {day}')}@glimber")
        event.add("dtstamp", stamp)
        event.add("dtstart", begin.astimezone(UTC))
        event.add("dtend", (begin + timedelta(minutes=minutes)).astimezone(UTC))
        event.add("summary", f"{title}: drill, {count} due")
        whole.add_component(event)
    return bytes(whole.to_ical())


def _count(bindings: int) -> str:
    return f"{bindings} {'binding' if bindings == 1 else 'bindings'}"
