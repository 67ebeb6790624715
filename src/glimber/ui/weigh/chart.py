"""A figure over the days with its interval, changes as vertical lines. Painted directly: it is a line and a band. The arrow keys
walk from day to day and say each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, timedelta

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from glimber.ui.paint.fonts import font
from glimber.ui.paint.style import theme


class Point(Struct, frozen=True):
    """One day: the figure, and its interval where it has one."""

    day: date
    value: float
    low: float | None = None
    high: float | None = None


class DayChart(QWidget):
    """``words`` says a figure; ``most`` is the top of the chart, None: the highest there is."""

    def __init__(self, name: str, words: Callable[[float], str], most: float | None, nothing: str) -> None:
        super().__init__()
        self._words, self._most, self._nothing = words, most, nothing
        self._points: Sequence[Point] = ()
        self._changes: Sequence[date] = ()
        self._at: int | None = None
        self._name = name
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(72)

    def show_points(self, points: Sequence[Point], changes: Sequence[date]) -> None:
        """Show other days."""
        self._points, self._changes, self._at = points, changes, None
        self.setAccessibleDescription(", ".join(self._spoken_point(one) for one in points) or self._nothing)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, 84)

    def _spoken_point(self, one: Point) -> str:
        interval = (
            "" if one.low is None or one.high is None else f" ({self._words(one.low)} to {self._words(one.high)})"
        )
        changed = ", changed" if one.day in self._changes else ""
        return f"{one.day:%-d %B}: {self._words(one.value)}{interval}{changed}"

    @property
    def here(self) -> str:
        """The day under the cursor in words; empty where there is none."""
        return self._spoken_point(self._points[self._at]) if self._at is not None and self._points else ""

    # Walked by keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        last = len(self._points) - 1
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Home: -last, Qt.Key.Key_End: last}
        by = steps.get(Qt.Key(event.key()))
        if by is None or last < 0:
            super().keyPressEvent(event)
            return
        self._go(max(0, min(last, (last if self._at is None else self._at) + by)))

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._points and self._at is None:
            self._go(len(self._points) - 1)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._at = None
        self.setAccessibleName(self._name)
        self.update()

    def _go(self, place: int) -> None:
        self._at = place
        self.setAccessibleName(f"{self._name}, {self.here}")
        self.update()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(6, 6, self.width() - 66, self.height() - 24)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        if not self._points:
            painter.setPen(QColor(t.faint))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._nothing)
            return
        first, last = self._points[0].day, self._points[-1].day
        span = max(1, (last - first).days)
        most = self._most or max(one.high or one.value for one in self._points) * 1.1 or 1.0

        def x(day: date) -> float:
            return box.left() + (day - first).days / span * box.width() if last > first else box.center().x()

        def y(value: float) -> float:
            return box.bottom() - value / most * box.height()

        whole = [(one.day, one.low, one.high) for one in self._points if one.low is not None and one.high is not None]
        band = [QPointF(x(day), y(high)) for day, _, high in whole] + [
            QPointF(x(day), y(low)) for day, low, _ in reversed(whole)
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        shade = QColor(t.light)
        shade.setAlphaF(0.22)
        painter.setBrush(shade)
        painter.drawPolygon(QPolygonF(band))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for change in self._changes:
            if first - timedelta(days=1) <= change <= last:
                painter.setPen(QPen(QColor(t.quiet), 1, Qt.PenStyle.DashLine))
                painter.drawLine(QPointF(x(change), box.top()), QPointF(x(change), box.bottom()))
        painter.setPen(QPen(QColor(t.light), 2))
        points = [QPointF(x(one.day), y(one.value)) for one in self._points]
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(QColor(t.light))
        painter.drawEllipse(points[-1], 2.5, 2.5)
        painter.setFont(font(12, 500))
        painter.setPen(QColor(t.quiet))
        end = QRectF(box.right() + 8, min(points[-1].y(), box.bottom() - 8) - 12, 60, 24)
        painter.drawText(end, Qt.AlignmentFlag.AlignVCenter, self._words(self._points[-1].value))
        painter.setFont(font(11))
        painter.setPen(QColor(t.faint))
        foot = QRectF(box.left(), box.bottom() + 2, box.width(), 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{first:%-d %b}")
        if last > first:
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"{last:%-d %b}")
        if self._at is not None:
            here = points[self._at]
            painter.setPen(QPen(QColor(t.text), 1))
            painter.drawLine(QPointF(here.x(), box.top()), QPointF(here.x(), box.bottom()))
            painter.setBrush(QColor(t.text))
            painter.drawEllipse(here, 3.5, 3.5)
            painter.setFont(font(12, 500))
            painter.drawText(QRectF(box.left(), 0, box.width(), 18), Qt.AlignmentFlag.AlignHCenter, self.here)
