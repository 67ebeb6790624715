"""A sheet of paper laid over the room: the ``?`` card, and the card that greets at the first start."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from glimber.core.drawing.drawing import Drawing
from glimber.ui.paint.draw import paint
from glimber.ui.widgets.sheet_over import Cover


class PaperOverlay(Cover):
    """Covers its parent with a dim desk and one drawing; any key or click takes it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._drawing: Drawing | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_drawing(self, drawing: Drawing) -> None:
        self._drawing = drawing
        self.setAccessibleName(drawing.title)
        self.setAccessibleDescription(drawing.description)
        self.show_over()
        self.setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._drawing is None:
            return
        painter = QPainter(self)
        per_mm = min((self.width() - 80) / self._drawing.width, (self.height() - 80) / self._drawing.height, 5.4)
        width, height = self._drawing.width * per_mm, self._drawing.height * per_mm
        left, top = (self.width() - width) / 2, (self.height() - height) / 2
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for spread in range(10, 0, -2):
            painter.setBrush(QColor(0, 0, 0, 16))
            painter.drawRoundedRect(
                QRectF(left - spread, top - spread + 6, width + 2 * spread, height + 2 * spread), 8, 8
            )
        painter.translate(left, top)
        paint(painter, self._drawing, per_mm)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() not in (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta):
            self.dismiss()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.dismiss()
