"""A cue as it is painted: words as large as they fit, an icon in its group's ink, a picture of one's own."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from glimber.core.drawing.drawing import Path as Outline
from glimber.core.practice.cues import Cue
from glimber.store.cache.icons import icon
from glimber.ui.paint.draw import painter_path
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import PROMPT, TITLE
from glimber.ui.paint.pictures import picture
from glimber.ui.paint.style import theme


def paint_cue(painter: QPainter, box: QRectF, cue: Cue, name: str, folder: Path, ink: str) -> None:
    """Paint a cue in the middle of a box; where its picture cannot be shown, the name."""
    if cue.kind == "icon":
        steps = icon(cue.text)
        if steps is not None:
            side = box.height()
            painter.save()
            painter.translate(box.center().x() - side / 2, box.top())
            painter.scale(side, side)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ink))
            painter.drawPath(painter_path(Outline(steps)))
            painter.restore()
            return
    if cue.kind == "picture":
        pixmap = picture(folder, cue.text, box.width(), box.height(), painter.device().devicePixelRatioF())
        if not pixmap.isNull():
            painter.drawPixmap(
                int(box.center().x() - pixmap.deviceIndependentSize().width() / 2), int(box.top()), pixmap
            )
            return
    _paint_words(painter, box, cue.text if cue.kind == "situation" else name)


def _paint_words(painter: QPainter, box: QRectF, text: str) -> None:
    """On one line, smaller where it must be; then on two; then cut."""
    size = PROMPT
    while size > TITLE and QFontMetricsF(font(size, 600)).horizontalAdvance(text) > box.width():
        size -= 4
    painter.setFont(font(size, 600))
    painter.setPen(QColor(theme().text))
    metrics = QFontMetricsF(painter.font())
    if metrics.horizontalAdvance(text) <= box.width():
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        return
    fitted = metrics.elidedText(text, Qt.TextElideMode.ElideRight, box.width() * 1.8)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, fitted)
