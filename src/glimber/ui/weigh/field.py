"""The ledger as a field of lamps: clean hits to the right, seconds lost upwards; what costs and is not held stands at the
upper left."""

from __future__ import annotations

from math import hypot, log1p
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.style import theme

if TYPE_CHECKING:
    from glimber.core.decide.summary import Row

_NEAR = 14.0
_NAMED = 12


class Field(QWidget):
    """A lamp for every row that is known. ``chosen`` tells which, when one is clicked or walked to."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[Row, ...] = ()
        self.current: str | None = None
        self.setAccessibleName("Field of lamps: clean hits against seconds lost")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_rows(self, rows: tuple[Row, ...], current: str | None) -> None:
        """Show rows, one of them in front."""
        self.rows = tuple(row for row in rows if row.clean is not None and row.lost_s is not None)
        self.current = current
        sentences = [
            f"{row.name}: {100 * (row.clean or 0):.0f} % clean, {row.lost_s:.0f} s lost a week" for row in self.rows
        ]
        self.setAccessibleDescription(". ".join(sentences))
        self.update()

    def at(self, row: Row) -> QPointF:
        """Return where a row's lamp is; seconds by their logarithm, so that few large ones leave room for the rest."""
        box = self._box()
        most = log1p(max((one.lost_s or 0.0 for one in self.rows), default=1.0)) or 1.0
        return QPointF(
            box.left() + (row.clean or 0.0) * box.width(), box.bottom() - log1p(row.lost_s or 0.0) / most * box.height()
        )

    def _box(self) -> QRectF:
        return QRectF(54, 22, self.width() - 150, self.height() - 64)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        spot = event.position()
        near = [(hypot(spot.x() - at.x(), spot.y() - at.y()), row.id) for row in self.rows for at in [self.at(row)]]
        if near and min(near)[0] <= _NEAR:
            self.chosen.emit(min(near)[1])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        way = ways.get(Qt.Key(event.key()))
        here = next((row for row in self.rows if row.id == self.current), None)
        if way is None or here is None:
            super().keyPressEvent(event)
            return
        start, found = self.at(here), []
        for row in self.rows:
            by = self.at(row) - start
            along, aside = by.x() * way[0] + by.y() * way[1], abs(by.x() * way[1]) + abs(by.y() * way[0])
            if along > 0.5:
                found.append((along + 2 * aside, row.id))
        if found:
            self.chosen.emit(min(found)[1])

    def _name_box(self, row: Row) -> QRectF:
        at = self.at(row)
        return QRectF(at.x() + 11, at.y() - 9, 150, 18)

    def paintEvent(self, event: QPaintEvent) -> None:
        t, box = theme(), self._box()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.drawLine(box.bottomLeft(), box.topLeft())
        put_text(painter, QRectF(box.left(), 0, 300, 18), "↑ seconds lost a week", 11, 400, QColor(t.quiet))
        put_text(
            painter,
            QRectF(box.right() - 200, box.bottom() + 22, 200, 18),
            "clean hits →",
            11,
            400,
            QColor(t.quiet),
            end=True,
        )
        for share in (0.0, 0.5, 1.0):
            x = box.left() + share * box.width()
            put_text(
                painter, QRectF(x - 20, box.bottom() + 4, 60, 16), f"{100 * share:.0f} %", 11, 400, QColor(t.faint)
            )
        most = sorted((row for row in self.rows if row.lost_s), key=lambda row: -(row.lost_s or 0.0))
        named = {row.id for row in most[:_NAMED]} | {self.current}
        # The name in front is painted last but has its room first.
        taken = [self._name_box(row) for row in self.rows if row.id == self.current]
        for row in sorted(self.rows, key=lambda row: row.id == self.current):
            at, front = self.at(row), row.id == self.current
            painter.setPen(QPen(QColor(t.light), 2) if front else QPen(QColor(t.line), 1))
            painter.setBrush(QColor(t.lamp_at(row.grip)))
            painter.drawEllipse(at, 7 if front else 5, 7 if front else 5)
            place = self._name_box(row)
            if row.id in named and (front or not any(place.intersects(other) for other in taken)):
                taken.append(place)
                put_text(painter, place, row.name, 11, 600 if front else 400, QColor(t.text if front else t.quiet))
