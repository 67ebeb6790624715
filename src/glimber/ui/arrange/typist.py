"""Keys that are typed onto the board: a run that assigns and walks on, and steps recorded one after another."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Chord, chord_of
from glimber.ui.keyhold import KeyHold


class Typist(QObject):
    """Holds the keyboard while it is on; every chord is told with its time in ms. Escape ends it."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._folio: Folio | None = None
        self._listener = KeyboardListener()
        self._told: Callable[[Chord, float], None] = lambda chord, t: None
        self._ended: Callable[[], None] = lambda: None
        self._hold = KeyHold(widget, self.hear)
        self.on = False

    def start(self, folio: Folio, told: Callable[[Chord, float], None], ended: Callable[[], None]) -> None:
        """Begin to listen."""
        self._folio, self._told, self._ended, self.on = folio, told, ended, True
        self._listener = KeyboardListener()
        self._hold.take()

    def stop(self) -> None:
        """Let the keyboard go."""
        if self.on:
            self.on = False
            self._hold.let_go()
            self._ended()

    def hear(self, event: Event, late_ms: float) -> None:
        """A key went down or up."""
        if event.key == "Escape" and event.kind == "down" and not self._listener.holds_modifier():
            self.stop()
            return
        for unit in self._listener.feed(event):
            if not unit.modifier and self._folio is not None:
                self._told(chord_of(unit.strikes[0], self._folio.legend), event.t)
