"""Tips over what is painted by hand, asked for from the first time on that the pointer comes in.

Not by an ``event`` of the view's own: the first event that Python sees has it load the class of every kind of event, and no
first frame waits for that.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QHelpEvent
from PySide6.QtWidgets import QToolTip, QWidget

from glimber.ui.paint.plain_text import tip


class Tips(QObject):
    """Shows over a view what ``words`` tells of a point of it; nothing where that is empty. Made in its ``enterEvent``."""

    def __init__(self, view: QWidget, words: Callable[[float, float], str]) -> None:
        super().__init__(view)
        self._view, self._words = view, words
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QHelpEvent) or event.type() != QEvent.Type.ToolTip:
            return False
        QToolTip.showText(event.globalPos(), tip(self._words(event.pos().x(), event.pos().y())), self._view)
        return True
