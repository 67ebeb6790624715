"""Rows of a page: headings, bars, boxes to tick, lines of a difference, options and plain lines.

A row knows how high it is, what it says, and how it is painted with the inks of the page that it stands on.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import takewhile
from typing import Final

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from glimber.ui.paint.fonts import advance, font, put_text
from glimber.ui.paint.look import BODY, LARGE, LIT_ON_PAPER, PAPER, SMALL
from glimber.ui.paint.style import theme
from glimber.ui.session.pages import Inks
from glimber.ui.widgets.chips import rows_of

_GUTTER: Final = 52.0
_PLUS: Final = 11.0


def inks(paper: bool) -> Inks:
    """Return the colours of a page in the present theme."""
    t = theme()
    if paper:
        return Inks(PAPER["ink"], PAPER["prints"], PAPER["paper-line"], PAPER["tile"], PAPER["paper-front"], LIT_ON_PAPER,
                    PAPER["moss"], PAPER["clay"])  # fmt: skip
    return Inks(t.text, t.quiet, t.line, t.raised, t.raised, t.light, t.settled, t.slip)


class Head(Struct, frozen=True):
    """The heading of a part, with a note at its right end."""

    name: str
    note: str = ""
    value: object = None

    @property
    def height(self) -> int:
        return 38

    @property
    def spoken(self) -> str:
        return f"{self.name}. {self.note}".rstrip(". ")

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        upper = box.adjusted(12, 10, -12, -4)
        wide = put_text(painter, upper, self.name, LARGE, 600, QColor(ink.text))
        put_text(painter, upper.adjusted(wide + 16, 0, 0, 0), self.note, SMALL, 400, QColor(ink.quiet), end=True)
        painter.setPen(QPen(QColor(ink.line), 1))
        painter.drawLine(QPointF(upper.left(), box.bottom() - 2), QPointF(upper.right(), box.bottom() - 2))


class Plain(Struct, frozen=True):
    """A line of text, and beside it what is known of it."""

    text: str
    detail: str = ""
    value: object = None

    @property
    def height(self) -> int:
        return 32

    @property
    def spoken(self) -> str:
        return f"{self.text}: {self.detail}" if self.detail else self.text

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        inside = box.adjusted(12, 0, -12, 0)
        wide = put_text(painter, inside, self.text, BODY, 500, QColor(ink.text))
        put_text(painter, inside.adjusted(wide + 20, 0, 0, 0), self.detail, BODY, 400, QColor(ink.quiet), end=True)


class Option(Struct, frozen=True):
    """One of several ways, of which one is in use."""

    text: str
    detail: str
    chosen: bool
    value: object = None

    @property
    def height(self) -> int:
        return 34

    @property
    def spoken(self) -> str:
        return f"{self.text}{', in use' if self.chosen else ''}: {self.detail}"

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        middle = QPointF(box.left() + 26, box.center().y())
        painter.setPen(QPen(QColor(ink.bar if self.chosen else ink.quiet), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, 7, 7)
        if self.chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ink.bar))
            painter.drawEllipse(middle, 3.6, 3.6)
        inside = box.adjusted(46, 0, -12, 0)
        wide = put_text(painter, inside, self.text, BODY, 600 if self.chosen else 500, QColor(ink.text))
        put_text(painter, inside.adjusted(wide + 20, 0, 0, 0), self.detail, BODY, 400, QColor(ink.quiet), end=True)


class Bar(Struct, frozen=True):
    """A figure as a bar: ``share`` of the longest from 0 to 1, its interval ``low`` to ``high`` of the same measure; ``under``
    explains the name."""

    name: str
    share: float
    figure: str
    detail: str = ""
    under: str = ""
    low: float | None = None
    high: float | None = None
    value: object = None

    @property
    def height(self) -> int:
        return 50 if self.under else 40

    @property
    def spoken(self) -> str:
        return ", ".join(filter(None, (f"{self.name}: {self.figure}", self.under, self.detail)))

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        inside = box.adjusted(12, 0, -12, 0)
        named, track = inside.width() * (0.36 if self.under else 0.26), inside.width() * 0.23
        name = QRectF(inside.left(), inside.top(), named - 14, inside.height())
        if self.under:
            put_text(painter, name.adjusted(0, 25, 0, -5), self.under, SMALL, 400, QColor(ink.quiet))
            name.adjust(0, 5, 0, -23)
        put_text(painter, name, self.name, BODY, 600, QColor(ink.text))
        left, middle = inside.left() + named, inside.center().y()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(ink.line))
        painter.drawRoundedRect(QRectF(left, middle - 1, track, 2), 1, 1)
        painter.setBrush(QColor(ink.bar))
        if self.share * track >= 1:
            painter.drawRoundedRect(QRectF(left, middle - 6, track * min(1.0, self.share), 12), 3, 3)
        if self.low is not None and self.high is not None:
            painter.setPen(QPen(QColor(ink.text), 1.4))
            ends = [left + track * min(1.0, max(0.0, one)) for one in (self.low, self.high)]
            painter.drawLine(QPointF(ends[0], middle), QPointF(ends[1], middle))
            for x in ends:
                painter.drawLine(QPointF(x, middle - 4), QPointF(x, middle + 4))
        rest = QRectF(left + track + 18, inside.top(), inside.right() - left - track - 18, inside.height())
        wide = put_text(painter, rest, self.figure, BODY, 600, QColor(ink.text))
        put_text(painter, rest.adjusted(wide + 18, 0, 0, 0), self.detail, BODY, 400, QColor(ink.quiet), end=True)


class Tick(Struct, frozen=True):
    """Something to be done, with a box: its name, the keys it had and those it gets, and where and how it is done."""

    name: str
    old: str
    new: str
    how: str
    done: bool
    value: object = None

    @property
    def height(self) -> int:
        return 58

    @property
    def spoken(self) -> str:
        return f"{self.name}: {self.old} → {self.new}. {self.how}{'. Done' if self.done else ''}"

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        square = QRectF(box.left() + 16, box.top() + 12, 18, 18)
        painter.setPen(QPen(QColor(ink.quiet), 1.6))
        painter.setBrush(QColor(ink.chip))
        painter.drawRoundedRect(square, 4, 4)
        if self.done:
            painter.setPen(QPen(QColor(ink.added), 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            points = [QPointF(square.left() + x, square.top() + y) for x, y in ((4, 9.5), (7.5, 13.5), (14.5, 4.5))]
            painter.drawPolyline(points)
        tone = QColor(ink.quiet if self.done else ink.text)
        upper = QRectF(box.left() + 50, box.top() + 6, box.width() - 66, 28)
        put_text(painter, QRectF(upper.left(), upper.top(), upper.width() * 0.42, 28), self.name, LARGE, 600, tone)
        x = upper.left() + upper.width() * 0.44
        x += _put_keys(painter, QPointF(x, upper.center().y()), self.old, ink, tone) + 12
        put_text(painter, QRectF(x, upper.top(), 30, 28), "→", LARGE, 500, QColor(ink.bar))
        _put_keys(painter, QPointF(x + 28, upper.center().y()), self.new, ink, tone)
        put_text(painter, QRectF(upper.left(), box.top() + 33, upper.width(), 20), self.how, SMALL, 400, QColor(ink.quiet))


def _put_keys(painter: QPainter, at: QPointF, trigger: str, ink: Inks, tone: QColor) -> float:
    """Paint keys as chips from a point on; the width they take. A place in words is written as it is."""
    x, high = at.x(), BODY * 1.8
    for number, row in enumerate(rows_of(trigger)):
        x += BODY * 0.8 if number else 0.0
        for place, key in enumerate(row):
            if place:
                painter.setPen(tone)
                painter.setFont(font(SMALL, 500))
                painter.drawText(QRectF(x, at.y() - high / 2, _PLUS, high), Qt.AlignmentFlag.AlignCenter, "+")
                x += _PLUS
            wide = max(advance(key, BODY, 600) + 12, high)
            box = QRectF(x, at.y() - high / 2, wide, high)
            painter.setPen(QPen(QColor(ink.line), 1))
            painter.setBrush(QColor(ink.chip))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(tone)
            painter.setFont(font(BODY, 600))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, key)
            x += wide
    return x - at.x()


class DiffLine(Struct, frozen=True):
    """A line of a difference: ``sign`` "+", "-" or " ", its ``number``, and from where to where it differs from its partner."""

    sign: str
    number: int
    text: str
    marked: tuple[int, int] = (0, 0)
    value: object = None

    @property
    def height(self) -> int:
        return 24

    @property
    def spoken(self) -> str:
        return f"{ {'+': 'added', '-': 'removed'}.get(self.sign, 'unchanged') }, line {self.number}: {self.text}"

    def put(self, painter: QPainter, box: QRectF, ink: Inks) -> None:
        tone = {"+": ink.added, "-": ink.removed}.get(self.sign)
        if tone is not None:
            _fill(painter, box, tone, 36)
        number = QRectF(box.left(), box.top(), _GUTTER - 10, box.height())
        put_text(painter, number, str(self.number), SMALL, 400, QColor(ink.quiet), end=True)
        sign = {"-": "−"}.get(self.sign, self.sign)
        put_text(painter, QRectF(box.left() + _GUTTER, box.top(), 16, box.height()), sign, BODY, 700, QColor(tone or ink.quiet))
        left, text = box.left() + _GUTTER + 20, self.text.expandtabs(4)
        start, end = self.marked
        if tone is not None and start < end:
            x = left + advance(text[:start], BODY, 400)
            _fill(painter, QRectF(x - 1, box.top() + 2, advance(text[start:end], BODY, 400) + 2, box.height() - 4), tone, 90)
        room = QRectF(left, box.top(), box.right() - left - 8, box.height())
        put_text(painter, room, text, BODY, 400, QColor(ink.text if tone is not None else ink.quiet))


def _fill(painter: QPainter, box: QRectF, colour: str, alpha: int) -> None:
    tint = QColor(colour)
    tint.setAlpha(alpha)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tint)
    painter.drawRoundedRect(box, 2, 2)


def diff_rows(before: list[str], after: list[str], around: int = 2) -> list[DiffLine]:
    """Return the difference of two texts as lines, with so many unchanged ones around each change."""
    from difflib import SequenceMatcher

    rows: list[DiffLine] = []
    for group in SequenceMatcher(None, before, after, autojunk=False).get_grouped_opcodes(around):
        for kind, old, old_end, new, new_end in group:
            if kind == "equal":
                rows += [DiffLine(" ", n + 1, after[n]) for n in range(new, new_end)]
                continue
            gone, came = before[old:old_end], after[new:new_end]
            pairs = len(gone) == len(came)
            marks = [_differing(a, b) for a, b in zip(gone, came, strict=True)] if pairs else []
            rows += [DiffLine("-", old + n + 1, line, marks[n][0] if pairs else (0, 0)) for n, line in enumerate(gone)]
            rows += [DiffLine("+", new + n + 1, line, marks[n][1] if pairs else (0, 0)) for n, line in enumerate(came)]
    return rows


def _differing(one: str, other: str) -> tuple[tuple[int, int], tuple[int, int]]:
    """Return from where to where each of two lines differs from the other, tabs written out."""
    one, other = one.expandtabs(4), other.expandtabs(4)
    start = _alike(zip(one, other, strict=False))
    end = _alike(zip(reversed(one[start:]), reversed(other[start:]), strict=False))
    return (start, len(one) - end), (start, len(other) - end)


def _alike(pairs: Iterable[tuple[str, str]]) -> int:
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], pairs))
