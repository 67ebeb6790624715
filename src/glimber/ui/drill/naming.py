"""Naming a lit key: the look-alikes to pick from by number, and the commands found by a part of their name."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from glimber.core.model.folio import Command
from glimber.ui.capture.keystrokes import monotonic_ms
from glimber.ui.paint.plain_text import Label

FOUND: int = 5


class NameList(QWidget):
    """Numbered names. ``named`` gives the ref of the one that was taken, and when the first key of the answer went down."""

    named = Signal(str, float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("What does it do")
        self._choices: tuple[Command, ...] = ()
        self._all: tuple[Command, ...] = ()
        self._first_ms: float | None = None
        self.typed = ""
        self.shown: tuple[Command, ...] = ()
        self.line = Label()
        self.line.setProperty("role", "quiet")
        self.line.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.rows = [Label() for _ in range(FOUND)]
        row = QHBoxLayout()
        row.setSpacing(28)
        row.addStretch(1)
        for label in self.rows:
            label.setProperty("role", "large")
            row.addWidget(label)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(self.line)

    def ask(self, choices: Sequence[Command], everything: Sequence[Command]) -> None:
        """Offer these; letters that are typed search ``everything`` instead."""
        self._choices, self._all = tuple(choices), tuple(everything)
        self.typed, self._first_ms = "", None
        self._refresh()

    def key(self, event: QKeyEvent) -> None:
        """A key of the answer went down."""
        if self._first_ms is None:
            self._first_ms = monotonic_ms()
        text = event.text()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.typed and self.shown:
                self._take(0)
        elif event.key() == Qt.Key.Key_Backspace:
            self.typed = self.typed[:-1]
        elif text.isdigit() and text != "0":
            self._take(int(text) - 1)
            return
        elif text.isprintable() and text:
            self.typed += text
        self._refresh()

    def _take(self, place: int) -> None:
        if place < len(self.shown):
            self.named.emit(self.shown[place].ref, self._first_ms or monotonic_ms())

    def _refresh(self) -> None:
        words = self.typed.casefold().split()
        found = [one for one in self._all if all(word in one.name.casefold() for word in words)]
        # A name that begins with what was typed is what is mostly meant.
        found.sort(key=lambda one: (not one.name.casefold().startswith(" ".join(words)), len(one.name)))
        self.shown = tuple(found[:FOUND]) if words else self._choices
        for place, label in enumerate(self.rows):
            label.setText(f"{place + 1}  {self.shown[place].name}" if place < len(self.shown) else "")
        typed = f"{self.typed}▏" if self.typed else ""
        self.line.setText(typed or "A number picks, or type a part of the name; Enter takes the first")
        self.setAccessibleDescription(", ".join(f"{n + 1} {one.name}" for n, one in enumerate(self.shown)))
