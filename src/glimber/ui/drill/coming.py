"""The prompts to come: paper cards along the time of the round, and what follows where time allows as slips of paper below."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QListView, QStyleOptionViewItem, QWidget

from glimber.ui.paint.fonts import advance, font, put_text
from glimber.ui.paint.look import BODY, LARGE, PAPER, SMALL
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.plain_text import tip
from glimber.ui.paint.style import theme
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.text_list import TextList, TextRow

CARD: Final = QSize(132, 172)
_SLIP_HIGH: Final = 32
_TIME_HIGH: Final = 66
_GAP: Final = 8
_SCROLLBAR: Final = 16
_LEAST: Final = 2
_LAMPS: Final = 6
_MOST_DASHES: Final = 6
_NEW: Final = "new"


class Coming(Struct, frozen=True):
    """A binding of the round as its card has it: ``mark`` and ``ink`` of its group, ``chance`` of a clean hit or None for one
    that is new, ``hits`` planned (0 where nobody plans them), and what a screen reader and a tip say of it."""

    binding: str
    name: str
    mark: str
    ink: str
    why: str
    chance: float | None
    hits: int
    spoken: str
    place: str = ""


class ComingList(TextList):
    """Cards in one row, the time below them, slips in rows below that. ``opened`` tells the binding that Enter was struck on."""

    opened = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__()
        self.setParent(parent)
        self._coming: list[Coming] = []
        self.minutes = 3.0
        self._cards, self._card = 0, CARD
        self.setAccessibleName("Prompts to come")
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(True)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setSpacing(_GAP // 2)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setStyleSheet("QListView, QListView:focus { border: none; }")
        self.setItemDelegate(_Painted(self))
        self.doubleClicked.connect(lambda _: self.open())

    def show_coming(self, coming: Sequence[Coming], minutes: float) -> None:
        """Show these; the place in front stays where it was."""
        front = self.front()
        self._coming, self.minutes = list(coming), minutes
        self._fill(front)

    def front(self) -> int:
        """Return which binding is in front; −1 where none is."""
        row = self.currentRow()
        return row if row < self._cards else row - 1 if row > self._cards else -1

    def at(self, row: int) -> Coming | None:
        """Return what a row is; None for the time between cards and slips."""
        place = row if row < self._cards else row - 1
        return self._coming[place] if row != self._cards and 0 <= place < len(self._coming) else None

    def is_card(self, row: int) -> bool:
        return row < self._cards

    def size_of(self, row: int) -> QSize:
        """Return the size of a row, in px: cards fill theirs, a slip is as wide as its name."""
        one = self.at(row)
        if one is None:
            return QSize(max(200, self.width() - _SCROLLBAR - _GAP), _TIME_HIGH)
        return self._card if row < self._cards else QSize(round(advance(one.name, BODY, 500)) + 26, _SLIP_HIGH)

    def names(self) -> list[str]:
        """Return the names on cards and slips, in their order."""
        return [one.name for one in self._coming]

    def open(self) -> None:
        """Tell the binding in front."""
        one = self.at(self.currentRow())
        if one is not None:
            self.opened.emit(one.binding)

    def _fill(self, front: int) -> None:
        room = self.width() - _SCROLLBAR - _GAP
        across = max(_LEAST, room // (CARD.width() + _GAP))
        self._cards = min(len(self._coming), across)
        self._card = QSize(room // across - _GAP, CARD.height())
        rows = [TextRow(one.spoken, tip=tip(one.place) if one.place else "") for one in self._coming]
        if rows:
            message = f"{self.minutes:g} minutes; what follows comes where time allows"
            rows.insert(self._cards, TextRow(message, is_choice=False))
        self.show_rows(rows)
        if self._coming:
            place = min(max(front, 0), len(self._coming) - 1)
            self.setCurrentRow(place if place < self._cards else place + 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._fill(self.front())


class _Painted(PaintedRow):
    def __init__(self, coming: ComingList) -> None:
        super().__init__(coming, (CARD.width(), CARD.height()))
        self._coming = coming

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return self._coming.size_of(index.row())

    def ground(self, painter: QPainter, box: QRectF) -> None:
        """The row in front has a line around it, painted with it."""

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        one = self._coming.at(index.row())
        if one is None:
            _put_time(painter, box, self._coming.minutes, index.row() < self._coming.count() - 1)
        elif self._coming.is_card(index.row()):
            _put_card(painter, box, one)
        else:
            _put_slip(painter, box, one)
        if one is not None and index.row() == self._coming.currentRow():
            painter.setPen(QPen(QColor(theme().light), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(0, 0, -1, -1), 7, 7)


def _put_card(painter: QPainter, box: QRectF, one: Coming) -> None:
    sheet = box.adjusted(2, 2, -3, -3)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(PAPER["paper"]))
    painter.drawRoundedRect(sheet, 5, 5)
    paint_mark(painter, one.mark, QPointF(sheet.left() + 19, sheet.top() + 20), 13, QColor(PAPER[one.ink]))
    lamp = PAPER[f"lamp-{round((one.chance or 0.0) * (_LAMPS - 1))}"]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(lamp))
    painter.drawEllipse(QPointF(sheet.right() - 19, sheet.top() + 20), 6.5, 6.5)
    inside = sheet.adjusted(14, 42, -12, -12)
    painter.setPen(QColor(PAPER["ink"]))
    painter.setFont(font(LARGE, 600))
    for line, text in enumerate(_lines(one.name, inside.width())):
        painter.drawText(QRectF(inside.left(), inside.top() + 21 * line, inside.width(), 21), Qt.AlignmentFlag.AlignVCenter, text)
    foot = QRectF(inside.left(), sheet.bottom() - 50, inside.width(), 20)
    chance = "shown first" if one.chance is None else f"{100 * one.chance:.0f} %"
    right = put_text(painter, foot, chance, SMALL, 400, QColor(PAPER["prints"]), end=True)
    why = foot.adjusted(0, 0, -right - 6, 0)
    put_text(painter, why, one.why, SMALL, 600, QColor(PAPER["tide" if one.why == _NEW else "clay"]))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(PAPER["paper-line"]))
    for dash in range(min(one.hits, _MOST_DASHES)):
        painter.drawRoundedRect(QRectF(inside.left() + 19 * dash, sheet.bottom() - 21, 15, 5), 2.5, 2.5)


def _lines(name: str, width: float) -> list[str]:
    """Return a name in up to three lines, broken between words; what does not fit ends in an ellipsis."""
    lines: list[str] = []
    for word in name.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and advance(longer, LARGE, 600) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) > 3:
        lines[2:] = [" ".join(lines[2:])]
    return [line if advance(line, LARGE, 600) <= width else _cut(line, width) for line in lines]


def _cut(text: str, width: float) -> str:
    while text and advance(f"{text}…", LARGE, 600) > width:
        text = text[:-1]
    return f"{text.rstrip()}…"


def _put_slip(painter: QPainter, box: QRectF, one: Coming) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(PAPER["lamp-0"]))
    painter.drawRoundedRect(box.adjusted(2, 2, -3, -3), 4, 4)
    put_text(painter, box.adjusted(13, 0, -10, 0), one.name, BODY, 500, QColor(PAPER["ink"]))


def _put_time(painter: QPainter, box: QRectF, minutes: float, more: bool) -> None:
    """A line from the beginning of the round to its end, with its whole minutes, and what stands below it."""
    t = theme()
    left, right, y = box.left() + 3, box.right() - 6, box.top() + 12
    painter.setPen(QPen(QColor(t.line), 1))
    painter.drawLine(QPointF(left, y), QPointF(right, y))
    whole = max(1, round(minutes))
    for minute in range(whole + 1):
        x = left + (right - left) * minute / whole
        painter.setPen(QPen(QColor(t.faint), 1))
        painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        words = QRectF(x + 4, y + 5, 60, 18) if minute < whole else QRectF(x - 64, y + 5, 60, 18)
        put_text(painter, words, f"{minute}:00", SMALL, 400, QColor(t.quiet), end=minute == whole)
    if more:
        put_text(painter, QRectF(left, box.bottom() - 24, box.width(), 20), "then, if time allows", BODY, 400, QColor(t.quiet))
