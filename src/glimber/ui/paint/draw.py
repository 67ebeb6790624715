"""A drawing onto a QPainter: the same sheet on the screen, in a PNG and on paper."""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Callable
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap

from glimber.core.drawing import drawing as shapes
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import PAPER

_TEXT_PX = 100


def paint(painter: QPainter, drawing: shapes.Drawing, per_mm: float) -> None:
    """Paint a drawing with its upper left corner at the painter's origin, ``per_mm`` pixels to a millimetre."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
    painter.scale(per_mm, per_mm)
    for group in drawing.groups:
        painter.save()
        if group.angle:
            painter.translate(*group.pivot)
            painter.rotate(group.angle)
            painter.translate(-group.pivot[0], -group.pivot[1])
        for item in group.items:
            _paint_item(painter, item)
        painter.restore()
    painter.restore()


def _paint_item(painter: QPainter, item: shapes.Item) -> None:
    if isinstance(item, shapes.Text):
        _paint_text(painter, item)
        return
    if isinstance(item, shapes.Image):
        _paint_image(painter, item)
        return
    painter.setBrush(QColor(PAPER[item.fill]) if item.fill else Qt.BrushStyle.NoBrush)
    if item.stroke:
        pen = QPen(QColor(PAPER[item.stroke.colour]), item.stroke.width)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
    else:
        painter.setPen(Qt.PenStyle.NoPen)
    if isinstance(item, shapes.Rect):
        painter.drawRoundedRect(QRectF(item.x, item.y, item.w, item.h), item.radius, item.radius)
    elif isinstance(item, shapes.Circle):
        painter.drawEllipse(QPointF(item.x, item.y), item.r, item.r)
    else:
        painter.drawPath(painter_path(item))


def _paint_image(painter: QPainter, item: shapes.Image) -> None:
    """A drawing of one's own stays a drawing, on paper as well; a photograph is scaled by the painter."""
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    _decoded(item.picture)(painter, QRectF(item.x, item.y, item.w, item.h))


@lru_cache(maxsize=128)
def _decoded(picture: shapes.Picture) -> Callable[[QPainter, QRectF], None]:
    """Return what paints a picture."""
    data = b64decode(picture.data)
    if picture.mime == "image/svg+xml":
        from PySide6.QtSvg import QSvgRenderer

        return QSvgRenderer(data).render
    from PySide6.QtGui import QImage

    image = QImage.fromData(data)
    return lambda painter, box: painter.drawImage(box, image)


def painter_path(item: shapes.Path) -> QPainterPath:
    """Return the steps of a path as Qt has them."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)  # as in SVG and in type
    for step in item.steps:
        numbers = [float(part) for part in step[1:]]
        if step[0] == "M":
            path.moveTo(*numbers)
        elif step[0] == "L":
            path.lineTo(*numbers)
        elif step[0] == "C":
            path.cubicTo(*numbers)
        else:
            path.closeSubpath()
    return path


def _paint_text(painter: QPainter, item: shapes.Text) -> None:
    left = item.box(0, 0)[0]
    painter.save()
    painter.translate(left, item.y)
    # Font sizes are whole pixels: text is set large and scaled, so that a size in mm comes out exactly.
    painter.scale(item.size / _TEXT_PX, item.size / _TEXT_PX)
    painter.setFont(font(_TEXT_PX, item.weight, tabular=False))
    painter.setPen(QColor(PAPER[item.colour]))
    painter.drawText(QPointF(0, 0), item.text)
    painter.restore()


def to_pixmap(drawing: shapes.Drawing, width: int, ratio: float = 1.0) -> QPixmap:
    """Return the drawing ``width`` logical pixels wide on a screen of the given pixel ratio."""
    per_mm = width / drawing.width
    pixmap = QPixmap(round(width * ratio), round(drawing.height * per_mm * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    paint(painter, drawing, per_mm)
    painter.end()
    return pixmap
