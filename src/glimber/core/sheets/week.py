"""Six weeks of practice on a sheet: each day with how long and how well, and the days ahead on which something will be due."""

from __future__ import annotations

from calendar import day_name, month_abbr
from datetime import date, timedelta
from typing import Final

from glimber.core.decide.calendar import Calendar
from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.metrics import Faces
from glimber.core.sheets.keys import put

_WIDTH: Final = 297.0
_MARGIN: Final = 15.0
_DAY: Final = (_WIDTH - 2 * _MARGIN) / 7
_WEEK: Final = 22.0
_TOP: Final = 40.0
_WEEKS_BACK: Final = 3
_WEEKS: Final = 6
_SIZE: Final = 3.3
_LONGEST_S: Final = 600.0
"""A bar as wide as its day is ten minutes."""


def weeks(title: str, found: Calendar, today: date, faces: Faces) -> Drawing:
    """Return the week of today with three before it and two after."""
    first = today - timedelta(days=today.weekday() + 7 * _WEEKS_BACK)
    items: list[Item] = [put(_MARGIN, _MARGIN + 6, f"{title}: practice", 7.4, 700, "ink", faces),
                         put(_MARGIN, _MARGIN + 13, _subtitle(found, today), _SIZE, 400, "prints", faces)]  # fmt: skip
    for place in range(7):
        items.append(put(_MARGIN + place * _DAY, _TOP - 2, day_name[place][:3], _SIZE, 400, "prints", faces))
    for week in range(_WEEKS):
        y = _TOP + week * _WEEK
        items.append(Path((("M", _MARGIN, y), ("L", _WIDTH - _MARGIN, y)), stroke=Stroke("paper-line", 0.3)))
        for place in range(7):
            _day(items, _MARGIN + place * _DAY, y, first + timedelta(days=7 * week + place), found, today, faces)
    height = _TOP + _WEEKS * _WEEK + _MARGIN
    ground = Group((Rect(0, 0, _WIDTH, height, 0, fill="paper"),))
    return Drawing(_WIDTH, height, f"{title}: practice", _spoken(found, today), (ground, Group(tuple(items))))


def _subtitle(found: Calendar, today: date) -> str:
    week = [one for day, one in found.done.items() if 0 <= (today - day).days < 7]
    minutes = sum(one.practice_s for one in week) / 60
    next_ = min((day for day in found.due if day > today), default=None)
    ahead = f"; {found.due[next_]} due on {next_:%-d %B} if nothing is done before" if next_ is not None else ""
    now = f"; {found.due[today]} due today" if today in found.due else ""
    return f"{minutes:.0f} min on {len(week)} {'day' if len(week) == 1 else 'days'} of the last seven{now}{ahead}"


def _spoken(found: Calendar, today: date) -> str:
    """Return what the sheet shows, for those who have it read to them."""
    lines = [f"{day:%-d %B}: {one.practice_s / 60:.0f} min, {one.tries} tries, {100 * one.clean:.0f} % clean"
             for day, one in sorted(found.done.items())]  # fmt: skip
    lines += [f"{day:%-d %B}: {count} due" for day, count in sorted(found.due.items()) if day >= today]
    return ". ".join(lines) or "No practice yet"


def _day(items: list[Item], x: float, y: float, day: date, found: Calendar, today: date, faces: Faces) -> None:
    inside = _DAY - 5
    if day == today:
        items.append(Rect(x - 1.5, y + 1, _DAY - 2, _WEEK - 2, 1.2, stroke=Stroke("ink", 0.4)))
    name = f"{day.day} {month_abbr[day.month]}" if day.day == 1 or day.weekday() == 0 else str(day.day)
    one = found.done.get(day)
    items.append(
        put(x, y + 6, name, _SIZE, 700 if one is not None else 400, "ink" if day <= today else "prints", faces)
    )
    if one is not None:
        wide = max(1.2, inside * min(1.0, one.practice_s / _LONGEST_S))
        items.append(Rect(x, y + 8.4, inside, 1.8, 0.9, fill="paper-line"))
        items.append(Rect(x, y + 8.4, wide, 1.8, 0.9, fill="tide"))
        items.append(put(x, y + 14.6, f"{one.practice_s / 60:.0f} min", _SIZE, 400, "ink", faces))
        items.append(put(x, y + 19, f"{100 * one.clean:.0f} % clean", _SIZE, 400, "prints", faces))
    elif day in found.due and day >= today:
        items.append(Rect(x, y + 8.4, inside, 1.8, 0.9, stroke=Stroke("clay", 0.3)))
        items.append(put(x, y + 14.6, f"{found.due[day]} due", _SIZE, 600, "clay", faces))
