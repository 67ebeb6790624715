"""A board read as a device of its own, listened to by a job: its key events come on our clock."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from glimber.core.engine.events import Event
from glimber.ui.capture.keystrokes import StampClock, monotonic_ms
from glimber.ui.session.jobs import Jobs, Work

_JOB = "listening to the device"


class DeviceEar(QObject):
    """Listens to a descriptor until it is let go. ``tell(event, late_ms)`` gets each key event, ``gone`` is called where the
    device ends on its own."""

    _came = Signal(object)

    def __init__(
        self,
        jobs: Jobs,
        descriptor: int,
        tell: Callable[[Event, float], object],
        gone: Callable[[], object] = lambda: None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._jobs, self._tell, self._on = jobs, tell, True
        self._came.connect(self._take)
        came = self._came

        def listen(work: Work) -> None:
            from glimber.store.system.device import key_events

            clock = StampClock()  # times are those of the kernel, related to ours
            try:
                for event in key_events(descriptor):
                    work.go_on()
                    if event is not None:
                        t, _ = clock.moment(event.t, monotonic_ms())
                        came.emit(Event(t, event.kind, event.key))
            finally:
                with contextlib.suppress(OSError):
                    os.close(descriptor)

        jobs.run(_JOB, listen, lambda _: gone())

    def _take(self, event: Event) -> None:
        if self._on:  # what was on its way when it was let go is not heard any more
            self._tell(event, max(0.0, monotonic_ms() - event.t))

    def let_go(self) -> None:
        """Listen no more; the descriptor is closed."""
        self._on = False
        self._jobs.stop(_JOB)
        self.deleteLater()
