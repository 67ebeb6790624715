"""Below the list of commands: three free places for a command without a key, each one key from being bound."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from glimber.core.notation.keys import Trigger
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.decide.free_places import FreePlace

PLACES: Final = 3
_RESTS_MS: Final = 150
_JOB: Final = "free places"


class FreeStrip(QWidget):
    """``chosen`` carries the command and the trigger that it is to have."""

    chosen = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.places: tuple[FreePlace, ...] = ()
        self._ref: str | None = None
        self.label = Label()
        self.label.setProperty("role", "quiet")
        self.buttons = [QPushButton() for _ in range(PLACES)]
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 0, 0, 0)
        layout.addWidget(self.label)
        for number, button in enumerate(self.buttons):
            button.setProperty("role", "line")
            button.clicked.connect(lambda _=False, number=number: self.take(number))
            layout.addWidget(button)
        layout.addStretch(1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_RESTS_MS)  # not for every command that is only passed by
        self._timer.timeout.connect(self._find)
        self.hide()

    def show_for(self, ref: str | None) -> None:
        """Find places for a command, where it has no key."""
        folio = self.session.folio
        waits = ref is not None and ref in folio.commands and not folio.bindings_of.get(ref)
        if not waits or ref != self._ref:
            self.places = ()
            self.hide()
        self._ref = ref if waits else None
        if waits:
            self._timer.start()

    def _find(self) -> None:
        ref, folio, computer = self._ref, self.session.folio, self.session.computer
        if ref is None or ref not in folio.commands:
            return

        def work(work: Work) -> list[FreePlace]:
            from glimber.core.decide.free_places import free_chords

            return free_chords(folio, ref, computer, most=PLACES)

        def show(found: list[FreePlace]) -> None:
            if self._ref == ref and self.session.folio is folio:
                self._show(folio.commands[ref].name, found)

        self.session.jobs.run(_JOB, work, show)

    def _show(self, name: str, found: list[FreePlace]) -> None:
        self.places = tuple(found)
        self.label.setText(f"Free for {name}:")
        for number, button in enumerate(self.buttons):
            button.setVisible(number < len(found))
            if number < len(found):
                button.setText(f"{number + 1}  {found[number].trigger}")
                button.setToolTip(tip(", ".join(found[number].why)))
        self.setVisible(bool(found))

    def has(self, number: int) -> bool:
        """Return True if there are so many places."""
        return number < len(self.places)

    def take(self, number: int) -> None:
        """Give the command one of the places."""
        if self._ref is not None and number < len(self.places):
            trigger: Trigger = self.places[number].trigger
            self.chosen.emit(self._ref, trigger)
