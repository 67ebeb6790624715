"""Triggers as chips in a line, as a widget."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import SMALL
from glimber.ui.paint.style import theme
from glimber.ui.widgets.chips import put_chips, words_of


class ChipsLine(QWidget):
    """Triggers as chips in a line."""

    def __init__(self) -> None:
        super().__init__()
        self._triggers: tuple[str, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(26)

    def show_triggers(self, triggers: Sequence[str]) -> None:
        """Show other triggers."""
        self._triggers = tuple(triggers)
        self.setAccessibleName(" or ".join(map(words_of, self._triggers)) or "no key")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        if self._triggers:
            put_chips(painter, box, self._triggers, SMALL)
        else:
            put_text(painter, box, "no key", SMALL, 400, QColor(theme().quiet))
