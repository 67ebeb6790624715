"""Keys that are typed onto the board: a run that assigns and walks on, and steps recorded one after another."""

from __future__ import annotations

from collections.abc import Callable

from glimber.core.engine.events import Event
from glimber.core.engine.listen import KeyboardListener
from glimber.core.notation.keys import Chord, chord_of
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.capture.keyboard_grab import HoldMaker


class Typist:
    """Report every chord with its time in ms, until Escape. ``words`` is what is done with them."""

    def __init__(
        self,
        desk: ArrangeDesk,
        hold: HoldMaker,
        on_chord: Callable[[Chord, float], None],
        words: Callable[[], str],
        ended: Callable[[], None] = lambda: None,
    ) -> None:
        self._desk, self._on_chord, self._ended = desk, on_chord, ended
        self.words = words
        self._listener = KeyboardListener()
        self._hold = hold(self.hear)
        self._hold.take()
        desk.begin(self)

    def let_go(self) -> None:
        self._hold.let_go()
        self._ended()

    def hear(self, event: Event, late_ms: float) -> None:
        """A key went down or up."""
        if event.key == "Escape" and event.kind == "down" and not self._listener.holds_modifier():
            self._desk.end_mode()
            return
        for unit in self._listener.feed(event):
            if not unit.modifier:
                self._on_chord(chord_of(unit.strikes[0], self._desk.folio.legend), event.t)
                self._desk.shown.emit()
