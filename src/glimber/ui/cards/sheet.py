"""One sheet on the desk, as large as fits or in its true size, with the only shadow there is."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QToolTip, QWidget

from glimber.core.cards.drawing import Drawing
from glimber.ui.draw import paint, to_pixmap
from glimber.ui.look import PAPER
from glimber.ui.plain import tip
from glimber.ui.style import theme

_VEIL: Final = 205


class Sheet(QWidget):
    """Paints one drawing; ``first_painted`` tells that it has been for the first time."""

    first_painted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.painted = False
        self.drawing: Drawing | None = None
        self.message = ""
        self.lit: frozenset[str] | None = None
        self._pixmap: QPixmap | None = None
        self.setAccessibleName("Card")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_drawing(self, drawing: Drawing | None, message: str = "") -> None:
        """Show a drawing, or say why there is none."""
        self.drawing, self.message, self._pixmap = drawing, message, None
        self.setAccessibleDescription(drawing.description if drawing else message)
        self.update()

    def light(self, parts: frozenset[str] | None) -> None:
        """Dim everything but these parts of the drawing; None: nothing is dimmed."""
        self.lit = parts
        self.update()

    def _place(self) -> tuple[float, float, float, float]:
        """Left, top, width, height of the sheet within the widget."""
        assert self.drawing is not None
        room_w, room_h = self.width() - 32.0, self.height() - 32.0
        width = min(room_w, room_h * self.drawing.width / self.drawing.height)
        height = width * self.drawing.height / self.drawing.width
        return (self.width() - width) / 2, 16.0 + max(0.0, (room_h - height) * 0.12), width, height

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.painted:
            self.painted = True
            self.first_painted.emit()
        painter = QPainter(self)
        if self.drawing is None:
            painter.setPen(QColor(theme().quiet))
            painter.drawText(QRectF(self.rect()).adjusted(40, 0, -40, 0),
                             Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.message)  # fmt: skip
            return
        left, top, width, height = self._place()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for spread in range(10, 0, -2):
            painter.setBrush(QColor(0, 0, 0, 14))
            painter.drawRoundedRect(
                QRectF(left - spread, top - spread + 6, width + 2 * spread, height + 2 * spread), 8, 8
            )
        ratio = self.devicePixelRatioF()
        if self._pixmap is None or abs(self._pixmap.deviceIndependentSize().width() - round(width)) > 1:
            self._pixmap = to_pixmap(self.drawing, round(width), ratio)
        painter.drawPixmap(round(left), round(top), self._pixmap)
        if self.lit is not None:
            veil = QColor(PAPER["paper"])
            veil.setAlpha(_VEIL)
            painter.fillRect(QRectF(left, top, width, height), veil)
            painter.translate(left, top)
            groups = tuple(group for group in self.drawing.groups if group.key in self.lit)
            paint(painter, replace(self.drawing, groups=groups), width / self.drawing.width)

    def name_at(self, x: float, y: float) -> str:
        """The full name of what is under a point: where the label is short, the name is still to be had."""
        if self.drawing is None:
            return ""
        left, top, width, _ = self._place()
        mm = self.drawing.width / width
        at = ((x - left) * mm, (y - top) * mm)
        for group in self.drawing.groups:
            if not group.key:
                continue
            shape = group.items[0]
            w, h = getattr(shape, "w", 0.0), getattr(shape, "h", 0.0)
            r = getattr(shape, "r", 0.0)
            cx, cy = getattr(shape, "x", 0.0) + w / 2, getattr(shape, "y", 0.0) + h / 2
            if abs(at[0] - cx) <= max(w / 2, r) and abs(at[1] - cy) <= max(h / 2, r):
                return group.name
        return ""

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            name = self.name_at(event.pos().x(), event.pos().y())
            QToolTip.showText(event.globalPos(), tip(name), self)
            return True
        return super().event(event)
