"""A line of text in a room whose keys are its own while it has the focus: Enter and Escape too are not the room's then."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit

_OWN = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape, Qt.Key.Key_Delete)


class Field(QLineEdit):
    """Enter sends what is written; Escape puts back what was there, or leaves the field to the pane it is in."""

    def __init__(self) -> None:
        super().__init__()
        self._was = ""
        self._keys: _Keys | None = None

    def put(self, text: str) -> None:
        """Show a value, but never under the hand that is typing another."""
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)
            self.setModified(False)
            self.setCursorPosition(0)
            self._was = text

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._keys = self._keys or _Keys(self)  # by no ``event`` of its own, as ``Tips``

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.setText(self._was)
            self.setModified(False)
            return
        super().keyPressEvent(event)


class _Keys(QObject):
    """Keeps a field's keys from the room."""

    def __init__(self, field: Field) -> None:
        super().__init__(field)
        field.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in _OWN:
            event.accept()
            return True
        return False
