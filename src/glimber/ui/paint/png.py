"""A drawing as a PNG file."""

from __future__ import annotations

import os
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, Qt
from PySide6.QtGui import QGuiApplication, QImage, QPainter

from glimber.core.drawing import drawing as shapes
from glimber.store.faults import StoreError
from glimber.store.files import write_atomically
from glimber.ui.paint.draw import paint
from glimber.ui.paint.fonts import load_fonts

PNG_PER_MM = 300 / 25.4


def write_png(drawing: shapes.Drawing, to: Path) -> None:
    """Write a drawing as PNG at 300 dots an inch. Raises StoreError when the file cannot be written."""
    if QGuiApplication.instance() is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"  # a file needs no display, not even one that is there
        write_png.app = QGuiApplication(["glimber"])  # type: ignore[attr-defined]  # kept: Qt drops it otherwise
    load_fonts()
    image = QImage(
        round(drawing.width * PNG_PER_MM), round(drawing.height * PNG_PER_MM), QImage.Format.Format_ARGB32_Premultiplied
    )
    if image.isNull():
        raise StoreError(f"{to}: the picture would be too large ({drawing.width:.0f} by {drawing.height:.0f} mm)")
    image.setDotsPerMeterX(round(PNG_PER_MM * 1000))
    image.setDotsPerMeterY(round(PNG_PER_MM * 1000))
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    paint(painter, drawing, PNG_PER_MM)
    painter.end()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    if not image.save(buffer, "PNG"):  # type: ignore[call-overload]  # the stubs want bytes, the library text
        raise StoreError(f"{to}: the picture could not be made")
    write_atomically(to, bytes(data.data()))
