"""Practice on its way to a server: committed to a file of this computer, delivered off the interface thread."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from glimber.ui.session.jobs import Jobs, Work, words_of

if TYPE_CHECKING:
    from glimber.core.practice.tries import Record
    from glimber.store.practice.waiting_file import Delivery, WaitingFile

_AGAIN_MS = 5000


class ServerDelivery(QObject):
    """Delivers what waits for the server of the open folio. ``place`` returns the folder of the folio and its setting."""

    notified = Signal(str)
    arrived = Signal()

    def __init__(self, jobs: Jobs, place: Callable[[], tuple[Path, str]], parent: QObject) -> None:
        super().__init__(parent)
        self._jobs = jobs
        self._place = place
        self._is_lost = self._is_due = False

    @property
    def on_server(self) -> bool:
        """True if the folio keeps its practice on a server, which is only spoken to off the interface thread."""
        from glimber.store.practice.location import is_server, setting_of

        return is_server(setting_of(*self._place()))

    def waiting(self) -> WaitingFile:
        """Return the file in which records wait. Raises StoreError for a server that was not confirmed."""
        from glimber.store.practice.location import place_of
        from glimber.store.practice.waiting_file import waiting_file_of

        return waiting_file_of(place_of(*self._place()).shown)

    def add(self, records: Iterable[Record]) -> None:
        """Commit records to the waiting file and start a delivery. Raises StoreError."""
        self.waiting().add(list(records))
        self.start()

    def start(self) -> None:
        """Deliver what waits, off the interface thread; again after a while if the server does not answer."""
        if not self.on_server:
            return
        if self._jobs.running("delivering"):
            self._is_due = True
            return
        self._is_due = False
        folder, setting = self._place()

        def work(work: Work) -> Delivery:
            from glimber.store.practice.log import open_log
            from glimber.store.practice.waiting_file import Delivery

            waiting = self.waiting()
            if waiting.is_empty:
                return Delivery()
            with open_log(folder, setting) as log:
                return waiting.deliver(log)

        self._jobs.run("delivering", work, self._take, self._failed)

    def _take(self, delivery: Delivery) -> None:
        was_lost, self._is_lost = self._is_lost, False
        if was_lost and delivery.new:
            self.notified.emit(f"{delivery.new} records that waited were delivered to the server.")
        if delivery.unreadable:
            lines = "1 line" if delivery.unreadable == 1 else f"{delivery.unreadable} lines"
            self.notified.emit(f"{lines} of the waiting practice could not be read; kept in {delivery.set_aside}.")
        if delivery.new:
            self.arrived.emit()
        if self._is_due:
            self.start()

    def _failed(self, error: Exception) -> bool:
        if not self._is_lost:
            self._is_lost = True
            kept = "What is drilled meanwhile is kept on this computer and delivered later."
            self.notified.emit(f"{words_of(error)}. {kept}")
        QTimer.singleShot(_AGAIN_MS, self, self.start)
        return True
