"""A group's mark on the desk, from the same shapes as on the cards."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Circle, Path, Rect
from glimber.ui.paint.draw import painter_path


def paint_mark(painter: QPainter, name: str, centre: QPointF, size: float, colour: QColor) -> None:
    """Paint a mark centred on a point, ``size`` px across."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for item in marks.mark(name, centre.x(), centre.y(), size, "slate"):
        stroke = getattr(item, "stroke", None)
        painter.setPen(QPen(colour, stroke.width) if stroke else Qt.PenStyle.NoPen)
        painter.setBrush(colour if getattr(item, "fill", None) else Qt.BrushStyle.NoBrush)
        if isinstance(item, Rect):
            painter.drawRoundedRect(QRectF(item.x, item.y, item.w, item.h), item.radius, item.radius)
        elif isinstance(item, Circle):
            painter.drawEllipse(QPointF(item.x, item.y), item.r, item.r)
        elif isinstance(item, Path):
            painter.drawPath(painter_path(item))
    painter.restore()
