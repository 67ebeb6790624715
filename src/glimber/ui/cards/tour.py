"""A tour of the card in front: one part lit after the other, its sentence below, with keys alone."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QVBoxLayout

from glimber.core.model.folio import TourStop
from glimber.ui.cards.sheet import Sheet
from glimber.ui.paint.plain_text import Label


class Tour(QFrame):
    """The sentence under the sheet. ``stops`` is empty while no tour is on."""

    def __init__(self, sheet: Sheet) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAccessibleName("Tour of the card")
        self._sheet = sheet
        self.stops: tuple[TourStop, ...] = ()
        self.at = 0
        self.words, self.where = Label(), Label()
        self.words.setWordWrap(True)
        self.words.setProperty("role", "large")
        self.where.setProperty("role", "quiet")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 16, 12)
        layout.addWidget(self.where, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.words)
        self.hide()

    @property
    def on(self) -> bool:
        return bool(self.stops)

    def begin(self, stops: tuple[TourStop, ...]) -> None:
        """Go to the first stop."""
        self.stops, self.at = stops, 0
        self._show()

    def step(self, by: int) -> None:
        """The next stop, or the one before; past the last it ends."""
        if not 0 <= self.at + by < len(self.stops):
            if by > 0:
                self.end()
            return
        self.at += by
        self._show()

    def end(self) -> None:
        """Nothing is dimmed any more."""
        self.stops = ()
        self._sheet.light(None)
        self.hide()

    def _show(self) -> None:
        stop = self.stops[self.at]
        self._sheet.light(frozenset(stop.keys))
        self.words.setText(stop.text)
        self.where.setText(f"{self.at + 1} of {len(self.stops)}")
        self.setAccessibleDescription(stop.text)
        self.show()
