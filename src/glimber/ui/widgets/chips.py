"""Triggers as people read them: a chord is a row of small chips with a thin plus between, a spot says layer, key and gesture."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from glimber.core.notation.keys import Chord, NotationError, Spot, Trigger, Typed, parse_trigger
from glimber.ui.paint.fonts import advance, font
from glimber.ui.paint.look import KEY_RADIUS, SMALL
from glimber.ui.paint.style import theme

SIGNS = {"tap": "·", "hold": "–", "double": "··", "tap-hold": "·–", "left": "↺", "right": "↻", "press": "•"}
"""The finger's movement: a dot for short, a dash for long."""

_STEP_GAP, _PLUS = 0.7, 0.9


@lru_cache(maxsize=2048)
def rows_of(trigger: Trigger | str) -> tuple[tuple[str, ...], ...]:
    """Return what stands on the chips: a row for each step. A text that is no trigger is one chip of itself."""
    if isinstance(trigger, str):
        text = trigger
        try:
            trigger = parse_trigger(text)
        except NotationError:
            return ((text,),)
    if isinstance(trigger, Spot):
        return ((trigger.layer,), tuple(trigger.keys), (SIGNS[trigger.gesture],))
    if isinstance(trigger, Typed):
        return ((str(trigger),),)
    return tuple(_row(chord) for chord in trigger.chords)


def _row(chord: Chord) -> tuple[str, ...]:
    return (*chord.modifiers, f"[{chord.key}]" if chord.by_place else chord.key)


def chips_width(triggers: Iterable[Trigger | str], size: int = SMALL) -> float:
    """Return how wide triggers are as chips, with "or" between them."""
    widths = [sum(_widths(rows_of(trigger), size)) for trigger in triggers]
    return sum(widths) + max(0, len(widths) - 1) * (advance("or", size, 500) + size)


@lru_cache(maxsize=2048)
def _widths(rows: tuple[tuple[str, ...], ...], size: int) -> tuple[float, ...]:
    """Return the width of each row of chips, with the gap to the one before it."""
    found = []
    for place, row in enumerate(rows):
        width = sum(_chip_width(key, size) for key in row)
        found.append(width + (len(row) - 1) * size * _PLUS + (size * _STEP_GAP if place else 0.0))
    return tuple(found)


def _chip_width(key: str, size: int) -> float:
    return max(advance(key, size, 500) + size, size * 1.7)


def put_chips(
    painter: QPainter,
    box: QRectF,
    triggers: Iterable[Trigger | str],
    size: int = SMALL,
    ink: str | None = None,
    end: bool = False,
) -> float:
    """Paint triggers as chips in the middle of a box, from its left or to its right end; the width used.

    What does not fit is cut off with an ellipsis, between chords and never through one.
    """
    t = theme()
    triggers = list(triggers)
    height = size * 1.72
    whole = chips_width(triggers, size)
    x = box.right() - whole if end and whole <= box.width() else box.left()
    begin, y = x, box.center().y() - height / 2
    painter.save()
    for number, trigger in enumerate(triggers):
        if number:
            painter.setFont(font(size, 400))
            painter.setPen(QColor(t.faint))
            wide = advance("or", size, 500) + size
            painter.drawText(QRectF(x, y, wide, height), Qt.AlignmentFlag.AlignCenter, "or")
            x += wide
        rows = rows_of(trigger)
        for row, width in zip(rows, _widths(rows, size), strict=True):
            last = number == len(triggers) - 1 and row is rows[-1]
            if x + width > box.right() + 0.5 and not (last and whole <= box.width()):
                painter.setPen(QColor(t.faint))
                painter.drawText(QRectF(x, y, size * 1.5, height), Qt.AlignmentFlag.AlignCenter, "…")
                painter.restore()
                return x + size - begin
            x += size * _STEP_GAP if row is not rows[0] else 0.0
            x = _put_row(painter, x, y, height, row, size, ink or t.text)
    painter.restore()
    return x - begin


def _put_row(
    painter: QPainter,
    x: float,
    y: float,
    height: float,
    row: tuple[str, ...],
    size: int,
    ink: str,
) -> float:
    t = theme()
    for place, key in enumerate(row):
        if place:
            middle, arm = QPointF(x + size * _PLUS / 2, y + height / 2), size * 0.19
            painter.setPen(QPen(QColor(t.quiet), 1))
            painter.drawLine(middle - QPointF(arm, 0), middle + QPointF(arm, 0))
            painter.drawLine(middle - QPointF(0, arm), middle + QPointF(0, arm))
            x += size * _PLUS
        width = _chip_width(key, size)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.raised))
        painter.drawRoundedRect(QRectF(x, y, width, height), size * 0.32, size * 0.32)
        painter.setPen(QColor(ink))
        painter.setFont(font(size, 500))
        painter.drawText(QRectF(x, y, width, height), Qt.AlignmentFlag.AlignCenter, key)
        x += width
    return x


def words_of(trigger: Trigger | str) -> str:
    """Return a trigger in words, for those who do not see the chips."""
    return " then ".join(" and ".join(row) for row in rows_of(trigger))


def put_front(painter: QPainter, box: QRectF) -> None:
    """The ground of the row that is in front in a list."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme().raised))
    painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), KEY_RADIUS, KEY_RADIUS)
