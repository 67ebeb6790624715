"""A hand that drills in the real window: key events sent to the prompt, each with the moment it is struck."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

from benchmarks.figures import office


def until(done: Callable[[], bool], seconds: float = 30.0) -> None:
    """Run the event loop until something is so. Raises TimeoutError."""
    from PySide6.QtWidgets import QApplication

    end = time.monotonic() + seconds
    while not done():
        QApplication.processEvents()
        if time.monotonic() > end:
            raise TimeoutError("the window did not get there")


class Hand:
    """The window on the demo, in the Drill room, and strikes for what is asked there."""

    def __init__(self) -> None:
        from glimber.store.settings import load_settings, remember
        from glimber.store.toml.reading import open_folio
        from glimber.ui.shell.app import application, open_window

        remember(introduced=True)
        application("dark")
        self.window = open_window(open_folio(office()), load_settings())
        until(lambda: self.window.session.ledger is not None)
        self.room: Any = self.window.room("drill")
        self.window.go("drill")
        self._stamp = 0

    def begin(self, bindings: Sequence[str], **options: Any) -> None:
        """Begin a round of bindings."""
        self.room.begin_with(list(bindings), **options)

    def answer(self, slip: bool) -> float | None:
        """Answer the prompt right or wrong; ms from the last key to its feedback painted, None at the end of the round."""
        from glimber.core.engine.events import Event
        from glimber.core.engine.perform import perform
        from glimber.ui.capture.keystrokes import monotonic_ms

        room, play = self.room, self.room.play
        # A key stamped before the prompt was painted is no answer to it, and stamps are whole milliseconds.
        until(lambda: play.prompt_ms is not None and monotonic_ms() > play.prompt_ms + 3)
        judged = len(play.tries)
        wrong = [Event(0, "down", "KeyW"), Event(0, "up", "KeyW")]
        strikes = wrong if slip else perform(play.drill.folio, play.binding.trigger)
        last = max(place for place, event in enumerate(strikes) if event.kind == "down")
        for event in strikes[:last]:
            self._send(event.key, event.kind == "down")
        began = monotonic_ms()
        self._send(strikes[last].key, True)
        until(lambda: room.play is not play or not (len(play.tries) == judged or play.prompt_ms is None))
        took = play.prompt_ms - began if room.play is play else None  # a round that ends shows its sheet, no feedback to a key
        for event in strikes[last + 1 :]:
            self._send(event.key, False)
        return took

    def _send(self, code: str, down: bool) -> None:
        from PySide6.QtCore import QEvent, Qt
        from PySide6.QtGui import QKeyEvent
        from PySide6.QtWidgets import QApplication

        from glimber.core.notation.keycodes import EVDEV_NUMBERS, XKB_OFFSET

        while time.monotonic_ns() // 1_000_000 <= self._stamp:
            pass  # an up and a down of one moment would be a repeat
        self._stamp = time.monotonic_ns() // 1_000_000
        kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
        event = QKeyEvent(
            kind, Qt.Key.Key_unknown, Qt.KeyboardModifier.NoModifier, EVDEV_NUMBERS[code] + XKB_OFFSET, 0, 0
        )
        event.setTimestamp(self._stamp)
        QApplication.sendEvent(self.room.prompt, event)

    def close(self) -> None:
        """Put the round aside and close the window."""
        self.room.put_aside()
        self.window.close()
