"""The keyboard held by one widget for a while: every key comes to it as a key event, none to shortcuts or to the desktop."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from glimber.core.engine.events import Event
from glimber.ui.capture.keystrokes import KeyReader


class KeyHold(QObject):
    """Holds the keyboard between ``take`` and ``let_go``; ``tell`` gets the key events. ``wanted`` may leave some out."""

    def __init__(self, widget: QWidget, tell: Callable[[Event, float], None]) -> None:
        super().__init__(widget)
        self._widget = widget
        self.reader = KeyReader(tell, self)
        self.wanted: Callable[[QKeyEvent], bool] = lambda event: True
        self.on = False

    def take(self) -> None:
        """Take the keyboard."""
        self.on = True
        self._widget.setFocus()
        self._widget.grabKeyboard()
        self._widget.installEventFilter(self)

    def let_go(self) -> None:
        """Let the keyboard go; nothing counts as down any more."""
        if self.on:
            self.on = False
            self._widget.removeEventFilter(self)
            self._widget.releaseKeyboard()
            self.reader.forget()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or not self.on:
            return super().eventFilter(watched, event)
        if event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease) and self.wanted(event):
            self.reader.read(event)
        event.accept()
        return True


HoldMaker = Callable[[Callable[[Event, float], None]], KeyHold]
"""Makes a grab of the keyboard for whoever handles its keys; only the maker knows the widget that holds it."""
