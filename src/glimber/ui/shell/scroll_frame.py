"""On a screen too small for the desk at its drawn size, show the part of the window that is being used.

At twice the size a screen of 1280 × 800 has room for a quarter of the desk. Nothing is made smaller or cut off for that: the part
that is seen follows the focus and what is chosen in it, and the wheel and the bars move it.
"""

from __future__ import annotations

from typing import Final, Protocol, runtime_checkable

from PySide6.QtCore import QRect, QSize, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QApplication, QFrame, QScrollArea, QWidget

from glimber.ui.shell.window_place import LEAST

_AROUND: Final = 24
"""px that are shown around what the hand is at."""
_LOOKED_EVERY_MS: Final = 120


@runtime_checkable
class HasHand(Protocol):
    """A painted view that knows where in it the hand is."""

    def hand(self) -> QRect | None:
        """Return the place of it, in the view's own px; None for no place."""


class ScrollFrame(QScrollArea):
    """Shows a desk: whole where there is room, else the part the hand is at."""

    def __init__(self, desk: QWidget) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setWidget(desk)
        self._desk = desk
        self._least = QSize(*LEAST)
        self._was: tuple[QWidget, QRect] | None = None
        # Where the hand is can change without any signal; looked at only where not all is seen.
        self._look = QTimer(self)
        self._look.setInterval(_LOOKED_EVERY_MS)
        self._look.timeout.connect(self.follow)

    def need(self, least: tuple[int, int]) -> None:
        """The desk needs so much room: what does not fit is come by."""
        self._least = QSize(*least)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        small = self.width() < self._least.width() or self.height() < self._least.height()
        # A desk that is shown whole is as large as the window, whatever its rooms would like.
        self._desk.setMinimumSize(self._least if small else self.size())
        bars = Qt.ScrollBarPolicy.ScrollBarAsNeeded if small else Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        self.setHorizontalScrollBarPolicy(bars)
        self.setVerticalScrollBarPolicy(bars)
        self._was = None
        if small != self._look.isActive():
            (self._look.start if small else self._look.stop)()

    def follow(self) -> None:
        """Show what the hand is at, where that has changed; so that what was moved by the wheel stays where it was moved."""
        widget, desk = QApplication.focusWidget(), self._desk
        if widget is None or not desk.isAncestorOf(widget):
            return
        here = place_in(widget)
        if self._was == (widget, here):
            return
        self._was = (widget, here)
        box = QRect(widget.mapTo(desk, here.topLeft()), here.size())
        view = self.viewport().size()
        # What is larger than the view is shown from its upper left on.
        wide, high = min(box.width(), view.width() - 2 * _AROUND), min(box.height(), view.height() - 2 * _AROUND)
        self.ensureVisible(box.left() + wide // 2, box.top() + high // 2, wide // 2 + _AROUND, high // 2 + _AROUND)


def place_in(widget: QWidget) -> QRect:
    """Return where in a widget the hand is: what is chosen in a list, a view's own place, else all of it."""
    if isinstance(widget, QAbstractItemView) and widget.currentIndex().isValid():
        box = widget.visualRect(widget.currentIndex())
        return QRect(widget.viewport().mapTo(widget, box.topLeft()), box.size())
    found: QRect | None = widget.hand() if isinstance(widget, HasHand) else None
    return found if found is not None else widget.rect()
