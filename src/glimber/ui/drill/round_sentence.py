"""The round as a sentence: "Drill what is due for 3 minutes: press the keys on this keyboard, prompt name", each part changed by
the key below it or a click."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import TITLE
from glimber.ui.paint.plain_text import Label
from glimber.ui.widgets.flow import Flow

_PARTS: Final = (("Drill", "drill-of", "W"), ("for", "drill-more", "− ="), (":", "drill-mode", "M"), ("on", "drill-hands", "B"),
                 ("· prompt", "drill-cue", "C"))  # fmt: skip
_FINER: Final = (("It ends", "drill-sprint", "S"), ("· a prompt waits", "drill-deadline", "D"),
                 ("· what counts:", "drill-strict", "T"))  # fmt: skip
_FINE_HIGH: Final = 34


class RoundSentence(QWidget):
    """``values``: the part of each action of the room, by its id. ``act`` carries one out."""

    def __init__(self, act: Callable[[str], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.values: dict[str, QPushButton] = {}
        large, small = QWidget(self), QWidget(self)
        for row, parts, size in ((Flow(9, large), _PARTS, TITLE), (Flow(6, small), _FINER, 0)):
            for words, id, key in parts:
                row.addWidget(self._words(words, size))
                row.addWidget(self._part(id, key, size, act))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(large)
        column.addWidget(small)

    def _words(self, text: str, size: int) -> QWidget:
        label = Label(text)
        label.setProperty("role", "sentence" if size else "quiet")
        label.setFixedHeight(size + 14 if size else _FINE_HIGH)
        return label

    def _part(self, id: str, key: str, size: int, act: Callable[[str], None]) -> QWidget:
        value = QPushButton()
        value.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        value.setProperty("role", "part" if size else "line")
        value.setCursor(Qt.CursorShape.PointingHandCursor)
        value.clicked.connect(lambda _=False: act(id))
        value.setToolTip(key)
        self.values[id] = value
        if not size:
            value.setFixedHeight(_FINE_HIGH)
            return value
        value.setFont(font(size, 600))
        value.setFixedHeight(size + 14)
        cell, below = QWidget(), Label(key)
        below.setProperty("role", "key")
        below.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        column = QVBoxLayout(cell)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(value)
        column.addWidget(below)
        return cell
