"""The sentence after a slip: what was struck in the ink of a slip, what was wanted after it; under it what to do now."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import BODY, HEADING
from glimber.ui.paint.style import fill, theme


class SlipSentence(QWidget):
    """Painted directly: a label with rich text takes longer to lay out than a whole prompt to paint."""

    def __init__(self) -> None:
        super().__init__()
        self._struck, self._wanted, self._here = "", "", ""
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("What was struck and what was wanted")

    def say(self, words: str, here: str) -> None:
        """``words``: two sentences of the judge; ``here``: what to do now."""
        first, stop, self._wanted = words.partition(". ")
        self._struck, self._here = first + stop.rstrip(), here
        if not stop:
            self._struck, self._wanted = "", words
        self.setAccessibleDescription(f"{words} {here}")
        self.update()

    def _lines(self, metrics: QFontMetricsF) -> list[list[tuple[str, str]]]:
        """Return words with their ink, in lines that fit."""
        t = theme()
        words = [(word, t.slip) for word in self._struck.split()] + [(word, t.text) for word in self._wanted.split()]
        lines: list[list[tuple[str, str]]] = [[]]
        used = 0.0
        for word, ink in words:
            width = metrics.horizontalAdvance(f"{word} ")
            if lines[-1] and used + width > self.width():
                lines.append([])
                used = 0.0
            lines[-1].append((word, ink))
            used += width
        return lines

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, event.rect(), QColor(theme().desk))
        large = font(HEADING)
        metrics = QFontMetricsF(large)
        painter.setFont(large)
        y = metrics.ascent()
        for line in self._lines(metrics):
            x = (self.width() - metrics.horizontalAdvance(" ".join(word for word, _ in line))) / 2
            for word, ink in line:
                painter.setPen(QColor(ink))
                painter.drawText(QPointF(x, y), word)
                x += metrics.horizontalAdvance(f"{word} ")
            y += metrics.height()
        painter.setFont(font(BODY))
        painter.setPen(QColor(theme().quiet))
        small = QFontMetricsF(font(BODY))
        fitted = small.elidedText(self._here, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(QPointF((self.width() - small.horizontalAdvance(fitted)) / 2, y + 4), fitted)
