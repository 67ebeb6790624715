"""Clean hits over the days with their interval, changes as vertical lines. Painted directly: it is a line and a band."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from glimber.ui.style import theme
from glimber.ui.type import font

if TYPE_CHECKING:
    from glimber.core.weigh.history import Day


class CleanHits(QWidget):
    """The accuracy at the end of every day of practice."""

    def __init__(self) -> None:
        super().__init__()
        self._days: Sequence[Day] = ()
        self._changes: Sequence[date] = ()
        self.setAccessibleName("Clean hits by day")
        self.setMinimumHeight(72)

    def show_days(self, days: Sequence[Day], changes: Sequence[date]) -> None:
        self._days, self._changes = days, changes
        self.setAccessibleDescription(", ".join(f"{day.day:%-d %B}: {100 * day.mean:.0f} %" for day in days))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, 84)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(6, 6, self.width() - 66, self.height() - 24)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        if not self._days:
            painter.setPen(QColor(t.faint))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "No tries at this place yet")
            return
        first, last = self._days[0].day, self._days[-1].day
        span = max(1, (last - first).days)

        def x(day: date) -> float:
            return box.left() + (day - first).days / span * box.width() if last > first else box.center().x()

        def y(share: float) -> float:
            return box.bottom() - share * box.height()

        band = [QPointF(x(day.day), y(day.high)) for day in self._days]
        band += [QPointF(x(day.day), y(day.low)) for day in reversed(self._days)]
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
        points = [QPointF(x(day.day), y(day.mean)) for day in self._days]
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(QColor(t.light))
        painter.drawEllipse(points[-1], 2.5, 2.5)
        painter.setFont(font(12, 500))
        painter.setPen(QColor(t.quiet))
        end = QRectF(box.right() + 8, points[-1].y() - 12, 60, 24)
        painter.drawText(end, Qt.AlignmentFlag.AlignVCenter, f"{100 * self._days[-1].mean:.0f} %")
        painter.setFont(font(11))
        painter.setPen(QColor(t.faint))
        foot = QRectF(box.left(), box.bottom() + 2, box.width(), 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{first:%-d %b}")
        if last > first:
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"{last:%-d %b}")
