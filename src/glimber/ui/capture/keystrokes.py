"""From Qt's key events to ours: the one place that knows scan codes, time stamps and auto-repeat.

Facts this rests on: ``nativeScanCode`` is the XKB keycode, evdev + 8, on X11 and Wayland alike; the time stamp is the
server's, in ms; under a keyboard grab a repeat comes as an up and a down with equal stamps and without the repeat flag.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtGui import QKeyEvent

from glimber.core.engine.events import Event
from glimber.core.notation.keycodes import EVDEV_CODES, XKB_OFFSET

STALL_MS = 50.0
_REPEAT_WAIT_MS = 4


def monotonic_ms() -> float:
    """CLOCK_MONOTONIC in ms."""
    return time.monotonic_ns() / 1e6


def code_of(event: QKeyEvent) -> str | None:
    """Return the place struck, or None for a key without a W3C code."""
    return EVDEV_CODES.get(event.nativeScanCode() - XKB_OFFSET)


class StampClock:
    """Relates the server's stamps to our clock by the running minimum of handler time − stamp."""

    def __init__(self) -> None:
        self._offset: float | None = None

    def moment(self, stamp_ms: float, handled_ms: float) -> tuple[float, float]:
        """Return when the key went down on our clock, and how long the event waited for us, both in ms."""
        apart = handled_ms - stamp_ms
        if self._offset is None or apart < self._offset:
            self._offset = apart
        return stamp_ms + self._offset, apart - self._offset


class KeyReader(QObject):
    """Turns QKeyEvents into key events on our clock, without repeats. ``tell(event, late_ms)`` gets each one."""

    def __init__(self, tell: Callable[[Event, float], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._tell = tell
        self._clock = StampClock()
        self._down: set[str] = set()
        self._waiting: tuple[str, int, float, float] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REPEAT_WAIT_MS)
        self._timer.timeout.connect(self.flush)

    def read(self, event: QKeyEvent) -> bool:
        """Take a key press or release; False for a key that has no place."""
        # Everything is copied before this handler returns: Qt reuses its event objects.
        code, stamp, repeat = code_of(event), event.timestamp(), event.isAutoRepeat()
        down = event.type() == QEvent.Type.KeyPress
        handled = monotonic_ms()
        if code is None:
            return False
        t, late = self._clock.moment(float(stamp), handled)
        if self._waiting is not None:
            if down and self._waiting[:2] == (code, stamp):
                self._waiting = None  # an up and a down of one moment: a repeat
                self._timer.stop()
                return True
            self.flush()
        if repeat:
            return True
        if down:
            if code not in self._down:
                self._down.add(code)
                self._tell(Event(t, "down", code), late)
        elif code in self._down:
            self._waiting = (code, stamp, t, late)
            self._timer.start()
        return True

    def flush(self) -> None:
        """Tell the release that waited to see whether it was a repeat."""
        self._timer.stop()
        if self._waiting is not None:
            code, _, t, late = self._waiting
            self._waiting = None
            self._down.discard(code)
            self._tell(Event(t, "up", code), late)

    def forget(self) -> None:
        """Nothing is down any more, as after the window lost the keyboard."""
        self._timer.stop()
        self._waiting = None
        self._down.clear()
