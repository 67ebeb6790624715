"""The window's position, and where it was when it was last closed."""

from __future__ import annotations

import os

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QScreen
from PySide6.QtWidgets import QApplication, QMainWindow

from glimber.store.settings import remember

LEAST, USUAL, FRAME = (1000, 560), (1280, 800), 28
SCALES = (100, 110, 125, 150, 175, 200)
"""The sizes everything can be drawn at, in per cent."""
_SET = "GLIMBER_SCALE_SET"
"""In the environment: the scale in it is ours, and may be another at the next start."""


def take_place(window: QMainWindow, before: str) -> None:
    """Restore the last position; the first time, or where that is on no screen any more, use as much room as there is.

    Called before it is shown: the frame that a window manager puts round it is not known yet, and allowed for.
    """
    whole = window.screen().availableGeometry()
    box = box_of(before)
    if box is None or not any(screen.availableGeometry().contains(box.center()) for screen in QApplication.screens()):
        window.resize(min(USUAL[0], whole.width()), min(USUAL[1], whole.height() - FRAME))
        return
    window.resize(min(box.width(), whole.width()), min(box.height(), whole.height() - FRAME))
    window.move(box.topLeft())
    if before.endswith("max"):
        window.setWindowState(Qt.WindowState.WindowMaximized)


def keep_place(window: QMainWindow) -> None:
    """Keep it in the settings."""
    box = window.normalGeometry()
    top = window.pos() if not window.isMaximized() else box.topLeft()
    remember(window=f"{top.x()},{top.y()},{box.width()},{box.height()}{',max' if window.isMaximized() else ''}")


def box_of(text: str) -> QRect | None:
    """Return a place as it is kept in the settings; None for none."""
    parts = text.removesuffix(",max").split(",")
    if len(parts) != 4 or not all(part.lstrip("-").isdigit() for part in parts):
        return None
    x, y, width, height = map(int, parts)
    return QRect(x, y, width, height)


def least_room(screen: QScreen) -> tuple[int, int]:
    """Return the least size of the window: what the desk needs, or what the screen has where that is less."""
    whole = screen.availableGeometry()
    return min(LEAST[0], whole.width()), min(LEAST[1], whole.height() - FRAME)


def scaled(scale: int) -> None:
    """Draw everything in this size, before there is a window; unless the person's own environment says a size."""
    if _SET in os.environ:  # by the start before this one, of which this one was begun
        os.environ.pop("QT_SCALE_FACTOR", None)
    if scale != 100 and "QT_SCALE_FACTOR" not in os.environ and scale in SCALES:
        os.environ["QT_SCALE_FACTOR"] = f"{scale / 100:g}"
        os.environ[_SET] = "1"
