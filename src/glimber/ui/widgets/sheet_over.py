"""A sheet that lies over a room: it covers its parent, follows its size, and gives the focus back when it goes."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from glimber.ui.paint.style import fill

_DIM = QColor(0, 0, 0, 150)


class Cover(QWidget):
    """Hidden until it is laid over its parent; what is below it stays to be seen, dimmed."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._parent = parent
        self._before: QWidget | None = None
        self.hide()
        parent.installEventFilter(self)

    def show_over(self) -> None:
        """Lay it over the parent; what had the focus gets it back later."""
        if not self.isVisible():
            self._before = self.window().focusWidget()
        self.setGeometry(self._parent.rect())
        self.show()
        self.raise_()
        self.arrange()

    def dismiss(self) -> None:
        """Close it; what had the focus gets it back."""
        self.hide()
        before, self._before = self._before, None
        if before is not None and isValid(before):
            before.setFocus()

    def arrange(self) -> None:
        """Put what is on it in its place; called whenever its size is another."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._parent and event.type() == QEvent.Type.Resize:
            self.setGeometry(self._parent.rect())
        return bool(super().eventFilter(watched, event))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.arrange()

    def paintEvent(self, event: QPaintEvent) -> None:
        fill(QPainter(self), self.rect(), _DIM)


def is_covered(window: QWidget) -> bool:
    """Return True while a sheet lies over the window or one of its rooms: what is below it takes no commands."""
    return any(cover.isVisible() for cover in window.findChildren(Cover))
