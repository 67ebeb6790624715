"""The day's page on a sheet: a numbered line for each thing to do or see, and what has been earned so far as a curve."""

from __future__ import annotations

from typing import Final

from glimber.core.day.page import Day, Line, long_words
from glimber.core.drawing.drawing import Circle, Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.text import one_line
from glimber.core.sheets.keys import put

_WIDTH: Final = 240.0
_MARGIN: Final = 15.0
_INNER: Final = _WIDTH - 2 * _MARGIN
_TOP: Final = 42.0
_ROW: Final = 15.0
_HEAD: Final = 5.2
_SIZE: Final = 3.3
_CURVE: Final = 40.0


def day_sheet(title: str, day: Day, faces: Faces) -> Drawing:
    """Return the page of a day; its lines are numbered as the keys that take a person there."""
    foot = _TOP + _ROW * len(day.lines)
    height = foot + _CURVE + 2 * _MARGIN
    items: list[Item] = [put(_MARGIN, _MARGIN + 6, f"{day.day:%A, %-d %B}", 7.4, 700, "ink", faces),
                         put(_MARGIN, _MARGIN + 13, title, _SIZE, 400, "prints", faces)]  # fmt: skip
    for place, line in enumerate(day.lines):
        items += _line(place, line, faces)
    items += _curve(day, foot, faces)
    keys = "a number: go there · Enter: the first · N: not at start any more · any other key: later"
    items.append(put(_MARGIN, height - 8, keys, _SIZE, 400, "prints", faces))
    text = ". ".join(
        f"{place}: {line.head}{f', {line.detail}' if line.detail else ''}" for place, line in enumerate(day.lines, 1)
    )
    ground = Group((Rect(0, 0, _WIDTH, height, 0, fill="paper"),))
    return Drawing(_WIDTH, height, f"{title}: {day.day:%A, %-d %B}", text, (ground, Group(tuple(items))))


def _line(place: int, line: Line, faces: Faces) -> list[Item]:
    y = _TOP + _ROW * place
    ink = "ink" if line.open else "prints"
    found: list[Item] = [
        Path((("M", _MARGIN, y - 6.4), ("L", _WIDTH - _MARGIN, y - 6.4)), stroke=Stroke("paper-line", 0.3))
    ]
    if line.open:
        found += [
            Rect(_MARGIN, y - 4.2, 6, 6.4, 1.2, stroke=Stroke("ink", 0.3)),
            put(_MARGIN + 2, y + 0.4, str(place + 1), 3.6, 600, ink, faces),
        ]
    found.append(put(_MARGIN + 10, y + 0.4, line.head, _HEAD, 600 if line.open else 400, ink, faces))
    detail = one_line(line.detail, faces[400], _SIZE, _INNER - 10)
    return [*found, put(_MARGIN + 10, y + 5.6, detail, _SIZE, 400, "prints", faces)]


def _curve(day: Day, top: float, faces: Faces) -> list[Item]:
    left, right, upper, foot = _MARGIN + 10, _WIDTH - _MARGIN - 18, top, top + _CURVE
    found: list[Item] = [Path((("M", left, foot), ("L", right, foot)), stroke=Stroke("paper-line", 0.3))]
    if len(day.curve) < 2:
        return [
            *found,
            put(left, foot - 10, "The curve begins with the second day of practice.", _SIZE, 400, "prints", faces),
        ]
    first, last = day.curve[0][0], day.curve[-1][0]
    values = [value for _, value in day.curve]
    low, high = min(0.0, *values), max(1.0, *values)
    span = max(1, (last - first).days)
    points = [
        (left + (one - first).days / span * (right - left), foot - (value - low) / (high - low) * (foot - upper))
        for one, value in day.curve
    ]
    zero = foot + low / (high - low) * (foot - upper)
    if low < 0:
        found.append(Path((("M", left, zero), ("L", right, zero)), stroke=Stroke("paper-line", 0.2)))
    found.append(
        Path(
            tuple(("M" if not place else "L", x, y) for place, (x, y) in enumerate(points)), stroke=Stroke("moss", 0.7)
        )
    )
    found += [Circle(x, y, 0.8, "moss") for x, y in points]
    found.append(put(points[-1][0] + 3, points[-1][1] + 1, long_words(values[-1]), _SIZE, 600, "ink", faces))
    found.append(put(left, foot + 5, f"{first:%-d %b}", _SIZE, 400, "prints", faces))
    found.append(put(points[-1][0] - 8, foot + 5, f"{last:%-d %b}", _SIZE, 400, "prints", faces))
    return found
