"""Glimber's own icon, from the drawing it ships with."""

from __future__ import annotations

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QIcon, QImage, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from glimber.store.system.desktop_files import icon_svg


def _image(size: int) -> QImage:
    image = QImage(size, size, QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    QSvgRenderer(str(icon_svg())).render(painter)
    painter.end()
    return image


def icon_png(size: int) -> bytes:
    """Return the icon as PNG, ``size`` px wide and high."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    _image(size).save(buffer, "PNG")  # type: ignore[call-overload]
    buffer.close()
    return bytes(data.data())


def window_icon() -> QIcon:
    """Return the icon of the application's windows."""
    found = QIcon()
    for size in (32, 48, 128):
        found.addPixmap(QPixmap.fromImage(_image(size)))
    return found
