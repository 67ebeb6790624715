"""One sheet on the desk, as large as fits or in its true size, with the only shadow there is."""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QEnterEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QWheelEvent
from PySide6.QtWidgets import QWidget

from glimber.core.drawing.drawing import Drawing
from glimber.ui.paint.draw import paint, to_pixmap
from glimber.ui.paint.look import PAPER
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.tips import Tips

_VEIL: Final = 205
STEP: Final = 1.25
LARGEST: Final = 8.0


class Sheet(QWidget):
    """Paints one drawing; ``first_painted`` tells that it has been for the first time."""

    first_painted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.painted = False
        self.drawing: Drawing | None = None
        self.message = ""
        self.lit: frozenset[str] | None = None
        self.zoom = 1.0
        self._off = QPointF()
        self._held: QPointF | None = None
        self._pixmap: QPixmap | None = None
        self._tips: Tips | None = None
        self.setAccessibleName("Card")
        self.setAccessibleName("Card")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_drawing(self, drawing: Drawing | None, message: str = "") -> None:
        """Show a drawing, or say why there is none."""
        if drawing is None or self.drawing is None or drawing.title != self.drawing.title:
            self.zoom, self._off = 1.0, QPointF()
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
        room_h = self.height() - 32.0
        width = self._fitted() * self.zoom
        height = width * self.drawing.height / self.drawing.width
        left, top = (self.width() - width) / 2, 16.0 + max(0.0, (room_h - height) * 0.12)
        if self.zoom == 1.0:
            return left, top, width, height
        # Drawn larger, it is moved about under the window, never out of it.
        over_x, over_y = max(0.0, width - self.width() + 32) / 2, max(0.0, height - room_h)
        x = min(over_x, max(-over_x, self._off.x()))
        y = min(0.0, max(-over_y, self._off.y()))
        self._off = QPointF(x, y)
        return left + x, top + y, width, height

    def _fitted(self) -> float:
        """Return how wide the sheet is where all of it is seen."""
        assert self.drawing is not None
        return max(8.0, min(self.width() - 32.0, (self.height() - 32.0) * self.drawing.width / self.drawing.height))

    def true_size(self) -> float:
        """Return the zoom at which a millimetre of the card is one on this screen."""
        assert self.drawing is not None
        return float(self.drawing.width * self.physicalDpiX() / 25.4 / self._fitted())

    def zoom_to(self, zoom: float, at: QPointF | None = None) -> None:
        """Show the sheet so many times as large as it fits; what is under ``at`` (the middle unless given) stays there."""
        if self.drawing is None:
            return
        at = at or QPointF(self.width() / 2, self.height() / 2)
        left, top, width, _ = self._place()
        zoom = min(LARGEST, max(1.0, zoom))
        point = QPointF((at.x() - left) / width, (at.y() - top) / width)
        self.zoom, self._off = zoom, QPointF()
        wide = self._fitted() * zoom
        if zoom > 1.0:
            base = (self.width() - wide) / 2
            high = wide * self.drawing.height / self.drawing.width
            upper = 16.0 + max(0.0, (self.height() - 32.0 - high) * 0.12)
            self._off = QPointF(at.x() - point.x() * wide - base, at.y() - point.y() * wide - upper)
        self._pixmap = None
        self.update()

    def move_by(self, x: float, y: float) -> None:
        """Move a sheet that is larger than the room for it, in px."""
        self._off += QPointF(x, y)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turned = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_to(self.zoom * (STEP if turned.y() > 0 else 1 / STEP), event.position())
        else:
            self.move_by(turned.x() / 2, turned.y() / 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            by = event.position() - self._held
            self._held = event.position()
            self.move_by(by.x(), by.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

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
        if self.zoom > 1.0 and self.lit is None:
            painter.translate(left, top)
            paint(
                painter, self.drawing, width / self.drawing.width
            )  # only what is seen: a picture of all would be very large
            return
        if self._pixmap is None or abs(self._pixmap.deviceIndependentSize().width() - round(width)) > 1:
            self._pixmap = to_pixmap(self.drawing, round(width), ratio)
        painter.drawPixmap(round(left), round(top), self._pixmap)
        if self.lit is not None:
            veil = QColor(PAPER["paper"])
            veil.setAlpha(_VEIL)
            fill(painter, QRectF(left, top, width, height), veil)
            painter.translate(left, top)
            groups = tuple(group for group in self.drawing.groups if group.key in self.lit)
            paint(painter, replace(self.drawing, groups=groups), width / self.drawing.width)

    def name_at(self, x: float, y: float) -> str:
        """Return the full name of what is under a point: where the label is short, the name is still to be had."""
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

    def enterEvent(self, event: QEnterEvent) -> None:
        self._tips = self._tips or Tips(self, self.name_at)
