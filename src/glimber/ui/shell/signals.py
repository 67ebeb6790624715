"""A polite kill closes the window as Ctrl+Q does: what waits is saved first."""

from __future__ import annotations

import signal
import socket
from types import FrameType
from typing import Final

from PySide6.QtCore import QObject, QSocketNotifier
from PySide6.QtWidgets import QWidget

ENDING: Final = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class ClosesOnSignals(QObject):
    """Python hears of a signal only between two of its own instructions, and the event loop runs none while nothing happens: a
    socket wakes it."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._ours, self._theirs = socket.socketpair()
        for end in (self._ours, self._theirs):
            end.setblocking(False)
        self._before = signal.set_wakeup_fd(self._theirs.fileno(), warn_on_full_buffer=False)
        for one in ENDING:
            signal.signal(one, _heard)
        self._notifier = QSocketNotifier(self._ours.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._close)

    def _close(self) -> None:
        came = self._ours.recv(64)
        if any(number in ENDING for number in came):
            self._window.close()


def _heard(number: int, frame: FrameType | None) -> None:
    """Nothing to do here: the socket has reported it."""
