"""The progress report on one page: practice and clean hits by day, what the folio costs in a week, verdicts, what settles
and what faded."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from typing import Final

from glimber.core.decide.over_time import OverTime
from glimber.core.decide.settling import Settling
from glimber.core.decide.summary import Row
from glimber.core.drawing.drawing import Circle, Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.text import one_line
from glimber.core.sheets.keys import put

_WIDTH: Final = 210.0
_HEIGHT: Final = 297.0
_MARGIN: Final = 15.0
_INNER: Final = _WIDTH - 2 * _MARGIN
_ROWS: Final = 12
_SIZE: Final = 3.2
_SMALL: Final = 2.5


def report(
    title: str,
    stamp: str,
    found: OverTime,
    rows: Sequence[Row],
    settling: Sequence[Settling],
    name_of: Callable[[str], str],
    faces: Faces,
) -> Drawing:
    """Return an A4 page. ``rows``: most seconds a week first; ``name_of`` a binding's command."""
    known = [row for row in rows if row.weekly_s is not None]
    weekly = sum(row.weekly_s or 0.0 for row in known)
    saved = sum((row.slow_s or 0.0) - (row.weekly_s or 0.0) for row in known if row.slow_s is not None)
    items: list[Item] = [
        put(_MARGIN, _MARGIN + 6, title, 7.4, 700, "ink", faces),
        put(_MARGIN, _MARGIN + 12, f"progress on {stamp}", _SIZE, 400, "prints", faces),
    ]
    figures = (
        (f"{weekly / 60:.0f} min", "a week in these keys"), (f"{saved / 60:.0f} min", "a week saved over the slow way"),
        (f"{found.practice_s_week / 60:.0f} min", "practised in the last week"), (f"{len(known)}", "bindings known"),
    )  # fmt: skip
    for place, (figure, words) in enumerate(figures):
        x = _MARGIN + place * _INNER / 4
        items += [put(x, 40, figure, 6.4, 700, "ink", faces), put(x, 45, words, _SMALL, 400, "prints", faces)]
    items += _chart("Clean hits by day (bars: tries)", 54, [(one.day, one.clean) for one in found.days], 1.0,
                    [(one.day, float(one.tries)) for one in found.days], lambda share: f"{100 * share:.0f} %", faces)  # fmt: skip
    costs = [(one.day, one.weekly_s) for one in found.moments]
    most = max((value for _, value in costs), default=1.0) or 1.0
    held = [(one.day, float(one.known)) for one in found.moments]
    items += _chart("Weekly cost of known bindings (bars: how many)", 112, costs, most, held,
                    lambda value: f"{value / 60:.0f} min", faces)  # fmt: skip
    items += _table(170, known[:_ROWS], faces)
    y = 184 + 5.4 * min(len(known), _ROWS)
    items += _list(
        y,
        "Settling",
        [_settling_words(one, name_of) for one in settling[:5]] or ["nothing settles now"],
        _MARGIN,
        faces,
    )
    faded = [f"{name_of(id)}, {100 * chance:.0f} % known" for id, chance in found.faded[:5]]
    items += _list(y, "Faded", faded or ["nothing that was held has faded"], _MARGIN + _INNER / 2, faces)
    description = f"{weekly:.0f} s a week, {saved:.0f} s saved; {len(found.days)} days of practice"
    ground = Group((Rect(0, 0, _WIDTH, _HEIGHT, 0, fill="paper"),))
    return Drawing(_WIDTH, _HEIGHT, f"{title}: progress", description, (ground, Group(tuple(items))))


def _chart(
    head: str,
    top: float,
    line: Sequence[tuple[date, float]],
    most: float,
    bars: Sequence[tuple[date, float]],
    words: Callable[[float], str],
    faces: Faces,
) -> list[Item]:
    """Return a line over bars, with its last value written at its end; the foot is the first and the last day."""
    left, right, upper, foot = _MARGIN, _WIDTH - _MARGIN - 18, top + 6, top + 44
    items: list[Item] = [put(left, top + 1, head, _SIZE, 600, "ink", faces)]
    items.append(Path((("M", left, foot), ("L", right, foot)), stroke=Stroke("paper-line", 0.3)))
    if not line:
        return [*items, put(left, foot - 16, "No practice yet.", _SIZE, 400, "prints", faces)]
    first, last = line[0][0], line[-1][0]
    span = max(1, (last - first).days)

    def x(day: date) -> float:
        return left + 2 + (day - first).days / span * (right - left - 4)

    highest = max((value for _, value in bars), default=1.0) or 1.0
    wide = min(5.0, 0.6 * (right - left) / max(len(bars), 1))
    for day, value in bars:
        high = (foot - upper) * 0.6 * value / highest
        items.append(Rect(x(day) - wide / 2, foot - high, wide, high, 0, fill="paper-line"))
    points = [(x(day), foot - (foot - upper) * value / most) for day, value in line]
    steps = tuple(("M" if not place else "L", px, py) for place, (px, py) in enumerate(points))
    items.append(Path(steps, stroke=Stroke("tide", 0.7)))
    items += [Circle(px, py, 0.7, "tide") for px, py in points]
    items.append(put(points[-1][0] + 3, points[-1][1] + 1, words(line[-1][1]), _SIZE, 600, "ink", faces))
    items.append(put(left, foot + 4, f"{first:%-d %b}", _SMALL, 400, "prints", faces))
    if last > first:
        items.append(put(x(last) - 8, foot + 4, f"{last:%-d %b}", _SMALL, 400, "prints", faces))
    return items


def _table(top: float, rows: Sequence[Row], faces: Faces) -> list[Item]:
    items: list[Item] = [put(_MARGIN, top, "Most expensive bindings", _SIZE, 600, "ink", faces)]
    for place, row in enumerate(rows):
        y = top + 6 + 5.4 * place
        cells = ((0, row.name, 52), (54, row.place, 50), (106, f"{row.weekly_s:.0f} s", 18),
                 (126, f"{row.choice}, {row.reason}", _INNER - 126))  # fmt: skip
        items += [
            put(_MARGIN + at, y, one_line(text, faces[400], _SIZE, room), _SIZE, 400, "ink", faces)
            for at, text, room in cells
        ]
    return items


def _list(top: float, head: str, lines: Sequence[str], left: float, faces: Faces) -> list[Item]:
    items: list[Item] = [put(left, top, head, _SIZE, 600, "ink", faces)]
    for place, line in enumerate(lines):
        items.append(
            put(
                left,
                top + 5.4 * (place + 1),
                one_line(line, faces[400], _SIZE, _INNER / 2 - 4),
                _SIZE,
                400,
                "ink",
                faces,
            )
        )
    return items


def _settling_words(one: Settling, name_of: Callable[[str], str]) -> str:
    better = "" if one.p_better is None else f", {100 * one.p_better:.0f} % that it costs less"
    return f"{name_of(one.change.binding)}: day {one.day}{better}"
