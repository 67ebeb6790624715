"""The window's contents and how they are laid out."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Signal
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QApplication, QVBoxLayout, QWidget


class Column(QVBoxLayout):
    """Lays the desk out in the height there is: for text that wraps the scroll area would make it taller than the window."""

    def hasHeightForWidth(self) -> bool:
        return False


class Desk(QWidget):
    """The window's contents. ``painted`` is emitted when it has been painted for the first time."""

    painted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("desk")
        self._reported = False

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        # Children are painted within the parent's paint cycle: what is posted now comes when the whole frame is there.
        if not self._reported:
            self._reported = True
            QApplication.postEvent(self, QEvent(QEvent.Type.User))

    def customEvent(self, event: QEvent) -> None:
        self.painted.emit()
