"""What widgets paint, as digests: for comparing pictures with those that somebody looked at."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QColor, QFontDatabase, QImage, QPainter, QRegion
from PySide6.QtWidgets import QAbstractItemView, QAbstractScrollArea, QWidget


def digest_of(picture: QImage) -> str:
    """Return eight digits that differ for pictures that differ in a single pixel."""
    plain = picture.convertToFormat(QImage.Format.Format_RGB32)
    return sha256(bytes(plain.constBits())).hexdigest()[:8]


def way_of_painting() -> str:
    """Return what decides how this machine paints the same thing: fonts, their hinting, and how colours are mixed."""
    picture = QImage(400, 60, QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.white)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for number, family in enumerate(sorted(QFontDatabase.families())[:8]):
        font = painter.font()
        font.setFamily(family)
        painter.setFont(font)
        painter.drawText(QRect(number * 50, 0, 50, 30), 0, family)
    for step in range(20):
        painter.setBrush(QColor(200, 10 * step, 90, 60 + 9 * step))
        painter.drawRoundedRect(step * 19.3, 30.4, 24.7, 21.9, 5.5, 4.1)
    painter.end()
    return f"{digest_of(picture)}, {len(QFontDatabase.families())} families of fonts"


def paints_itself(widget: QWidget) -> bool:
    """Return True for a widget whose picture is made by Glimber's own code."""
    if isinstance(widget, QAbstractItemView) and type(widget.itemDelegate()).__module__.startswith("glimber"):
        return True
    return any("paintEvent" in one.__dict__ for one in type(widget).__mro__ if one.__module__.startswith("glimber"))


def own_picture(widget: QWidget) -> QImage:
    """Return a widget's picture without the widgets in it."""
    painted = widget.viewport() if isinstance(widget, QAbstractScrollArea) else widget
    picture = QImage(painted.size(), QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.magenta)
    painter = QPainter(picture)
    painted.render(painter, QPoint(), QRegion(), QWidget.RenderFlag.DrawWindowBackground)
    painter.end()
    return picture


def pictures_of(window: QWidget) -> Iterator[str]:
    """A line for where everything in view lies, and one for each visible widget that paints itself."""
    shown = [one for one in window.findChildren(QWidget) if one.isVisible() and not one.size().isEmpty()]
    shown.sort(key=lambda one: (type(one).__name__, one.mapTo(window, QPoint()).toTuple()))
    places = [(type(one).__name__, one.mapTo(window, QPoint()).toTuple(), one.size().toTuple()) for one in shown]
    yield f"layout {sha256(repr(places).encode()).hexdigest()[:8]}"
    for widget in shown:
        if paints_itself(widget):
            yield f"{type(widget).__name__} {widget.objectName()} {digest_of(own_picture(widget))}"
