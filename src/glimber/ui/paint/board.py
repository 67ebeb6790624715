"""A board as an outline on the desk: for the picture after a slip, for pointing, and for where the hand went."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import atan2, cos, hypot, sin

from msgspec import Struct, field
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from glimber.core.model.board import Board, Key
from glimber.core.notation.legend import Legend
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import SMALL
from glimber.ui.paint.style import fill, theme

_OUTLINES_KEPT = 6


class BoardMarks(Struct, frozen=True):
    """Marks on a board: keys lit, struck, and counted; ``prints``: whether prints are shown; ``way``: the keys that go down
    before the lit one, in their order."""

    lit: tuple[str, ...] = ()
    lit_colour: str | None = None
    struck: tuple[str, ...] = ()
    counts: Mapping[str, int] = field(default_factory=dict)
    prints: bool = True
    cursor: str | None = None
    way: tuple[str, ...] = ()


class BoardOutline(QWidget):
    """Draws a board to fit. ``pointed`` tells which key was clicked."""

    pointed = Signal(str)

    def __init__(self, name: str, ground: Callable[[], str]) -> None:
        """``ground``: the colour it lies on; it is painted with the outline, so that nothing below need be."""
        super().__init__()
        self._ground = ground
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.board: Board | None = None
        self.legend: Legend | None = None
        self.marks = BoardMarks()
        self.setAccessibleName(name)
        self._drawn: dict[object, QPixmap] = {}
        self.setMinimumSize(200, 60)

    def show_board(self, board: Board | None, legend: Legend, marks: BoardMarks, description: str = "") -> None:
        self.board, self.legend, self.marks = board, legend, marks
        self.setAccessibleDescription(description)
        self.update()

    def sizeHint(self) -> QSize:
        if self.board is None:
            return QSize(400, 140)
        left, top, right, bottom = self.board.extent
        return QSize(426, round(426 * (bottom - top) / (right - left)) + 8)

    def hasHeightForWidth(self) -> bool:
        return True

    def _scale(self) -> tuple[float, float, float]:
        """Return pixels a unit, and where (0, 0) is."""
        assert self.board is not None
        left, top, right, bottom = self.board.extent
        u = min((self.width() - 4) / (right - left), (self.height() - 8) / (bottom - top), 48.0)
        x0 = (self.width() - u * (right - left)) / 2 - left * u
        y0 = (self.height() - u * (bottom - top)) / 2 - top * u
        return u, x0, y0

    def prepare(self, board: Board, legend: Legend) -> None:
        """Draw a board's outline ahead, so that showing it takes no longer than a prompt."""
        if self.isHidden():
            self.board, self.legend, self.marks = board, legend, BoardMarks()
            self._outline()

    def _outline(self) -> QPixmap:
        """Return the board without its marks, drawn once for a size, a desk and the keys that are counted."""
        assert self.board is not None
        hidden = frozenset(self.marks.counts) if self.marks.prints else None
        ratio = self.devicePixelRatioF()
        key = (self.board.id, id(self.board), id(self.legend), self.width(), self.height(), ratio, theme().name, hidden)
        if key not in self._drawn:
            pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(QColor(self._ground()))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            u, x0, y0 = self._scale()
            for one in self.board.keys:
                self._paint_key(painter, one, u, x0, y0, hidden is not None and one.id not in hidden, False)
            for knob in self.board.knobs:
                painter.setPen(QPen(QColor(theme().line), 1))
                painter.drawEllipse(_point(knob.centre, u, x0, y0), knob.w * u / 2 - 2, knob.w * u / 2 - 2)
            painter.end()
            while len(self._drawn) >= _OUTLINES_KEPT:
                self._drawn.pop(next(iter(self._drawn)))
            self._drawn[key] = pixmap
        return self._drawn[key]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.board is None:
            fill(painter, self.rect(), QColor(self._ground()))
            return
        painter.drawPixmap(0, 0, self._outline())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        u, x0, y0 = self._scale()
        for id_ in dict.fromkeys((*self.marks.lit, *((self.marks.cursor,) if self.marks.cursor else ()))):
            if id_ in self.board.by_id:
                self._paint_key(painter, self.board.by_id[id_], u, x0, y0, True, id_ in self.marks.lit)
        for knob in self.board.knobs:
            if knob.id in self.marks.lit:
                painter.setBrush(QColor(self.marks.lit_colour or theme().light))
                painter.drawEllipse(_point(knob.centre, u, x0, y0), knob.w * u / 2 - 2, knob.w * u / 2 - 2)
        for key_id, count in self.marks.counts.items():
            self._paint_count(painter, key_id, count, u, x0, y0)
        self._paint_way(painter, u, x0, y0)
        self._paint_struck(painter, u, x0, y0)

    def _paint_way(self, painter: QPainter, u: float, x0: float, y0: float) -> None:
        """Light the keys that go down first too, and number all of them in the order of the strokes."""
        assert self.board is not None
        keys = (
            [key for key in (*self.marks.way, *self.marks.lit[:1]) if key in self.board.by_id] if self.marks.way else []
        )
        if len(keys) < 2:
            return
        t, r = theme(), max(8.0, 0.17 * u)
        painter.setFont(font(SMALL, 700))
        for number, id_ in enumerate(keys, start=1):
            key = self.board.by_id[id_]
            if id_ not in self.marks.lit:
                self._paint_key(painter, key, u, x0, y0, True, True)
            at = QPointF(x0 + (key.centre[0] + key.w / 2) * u - r, y0 + (key.centre[1] - key.h / 2) * u + r)
            painter.setPen(QPen(QColor(t.light), 1.5))
            painter.setBrush(QColor(t.desk))
            painter.drawEllipse(at, r, r)
            painter.setPen(QColor(t.text))
            painter.drawText(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, str(number))

    def _paint_key(self, painter: QPainter, key: Key, u: float, x0: float, y0: float, prints: bool, lit: bool) -> None:
        t = theme()
        painter.save()
        cx, cy = key.pivot or (key.x + key.w / 2, key.y + key.h / 2)
        painter.translate(x0 + cx * u, y0 + cy * u)
        painter.rotate(key.angle)
        gap = max(1.0, 0.035 * u)
        rect = QRectF((key.x - cx) * u + gap, (key.y - cy) * u + gap, key.w * u - 2 * gap, key.h * u - 2 * gap)
        painter.setPen(
            QPen(QColor(t.text if key.id == self.marks.cursor else t.line), 1.5 if key.id == self.marks.cursor else 1)
        )
        painter.setBrush(QColor(self.marks.lit_colour or t.light) if lit else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect, 0.13 * u, 0.13 * u)
        if key.home:
            tick = QRectF(rect.center().x() - 0.11 * u, rect.bottom() + 0.5, 0.22 * u, max(1.0, 0.04 * u))
            fill(painter, tick, QColor(t.faint))
        if prints or lit:
            text = key.print if key.print is not None else (self.legend.print_of(key.id) if self.legend else "")
            size = max(SMALL, round(u * (0.26 if len(text) < 3 else 0.2)))
            painter.setFont(font(size, 700 if lit else 400))
            if text and painter.fontMetrics().horizontalAdvance(text) <= rect.width() and size < rect.height():
                painter.setPen(QColor(t.on_lamp if lit else t.faint))
                painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
        painter.restore()

    def _paint_count(self, painter: QPainter, key_id: str, count: int, u: float, x0: float, y0: float) -> None:
        """An open ring with how often the hand went there; larger for more."""
        assert self.board is not None
        centre = self.board.centre((key_id,))
        if centre is None:
            return
        t, most = theme(), max(self.marks.counts.values())
        r = u * (0.26 + 0.14 * count / most)
        point = QPointF(x0 + centre[0] * u, y0 + centre[1] * u)
        painter.setPen(QPen(QColor(t.slip), 1 + 1.5 * count / most))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(point, r, r)
        painter.setFont(font(max(SMALL, round(u * 0.3)), 600))
        painter.setPen(QColor(t.slip))
        painter.drawText(QRectF(point.x() - r, point.y() - r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, str(count))

    def _paint_struck(self, painter: QPainter, u: float, x0: float, y0: float) -> None:
        """An open ring on what was struck and an arrow to the lit key that was wanted."""
        assert self.board is not None
        start, end = self.board.centre(self.marks.struck), self.board.centre(self.marks.lit)
        if not self.marks.struck or start is None:
            return
        t = theme()
        painter.setPen(QPen(QColor(t.slip), 2.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        a = QPointF(x0 + start[0] * u, y0 + start[1] * u)
        r = 0.36 * u
        painter.drawEllipse(a, r, r)
        if end is None or self.marks.struck == self.marks.lit:
            return
        b = QPointF(x0 + end[0] * u, y0 + end[1] * u)
        length = hypot(b.x() - a.x(), b.y() - a.y())
        way = atan2(b.y() - a.y(), b.x() - a.x())
        inset = min(0.52 * u, length / 2)
        tip = QPointF(b.x() - inset * cos(way), b.y() - inset * sin(way))
        tail = QPointF(a.x() + r * cos(way), a.y() + r * sin(way))
        if length > 2 * r:
            painter.drawLine(tail, tip)
        wing = 0.17 * u
        ends = [QPointF(tip.x() - wing * cos(way + turn), tip.y() - wing * sin(way + turn)) for turn in (0.6, -0.6)]
        painter.drawPolyline(QPolygonF([ends[0], tip, ends[1]]))

    def key_at(self, point: QPointF) -> str | None:
        """Return the key or knob under a point of the widget."""
        if self.board is None:
            return None
        u, x0, y0 = self._scale()
        for key in self.board.keys:
            outline = QPolygonF([QPointF(x0 + x * u, y0 + y * u) for x, y in key.outline])
            if outline.containsPoint(point, Qt.FillRule.OddEvenFill):
                return key.id
        for knob in self.board.knobs:
            cx, cy = x0 + knob.centre[0] * u, y0 + knob.centre[1] * u
            if hypot(point.x() - cx, point.y() - cy) <= knob.w * u / 2:
                return knob.id
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self.key_at(event.position())
        if key is not None:
            self.pointed.emit(key)


def _point(centre: tuple[float, float], u: float, x0: float, y0: float) -> QPointF:
    return QPointF(x0 + centre[0] * u, y0 + centre[1] * u)
