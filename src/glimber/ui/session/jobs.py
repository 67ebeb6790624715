"""Work off the interface thread: one pool, progress, stop, the newest wins, and every exception reported.

A job is given a ``Work`` that it asks now and then whether it should go on; what it returns comes back to the interface
thread. Whatever it raises is written to the log file, and shown in the window unless its caller handles it.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from threading import Event, Lock
from typing import TYPE_CHECKING, Any, Final, TypeVar

from PySide6.QtCore import QObject, Qt, Signal, Slot

from glimber.store.faults import FolioError, StoreError
from glimber.ui.session.lazy import Lazy

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

T = TypeVar("T")
_LOG: Final = logging.getLogger("glimber.jobs")
_AT_ONCE: Final = 6
_END_S: Final = 5.0
_LOOK_S: Final = 0.1


class StoppedError(Exception):
    """The job was stopped, or a newer one of its name has begun."""


class Work(QObject):
    """A job's view of itself: whether to go on, and how to report progress."""

    progressed = Signal(float, str)

    def __init__(self, name: str, free: Event, parent: QObject) -> None:
        """``free`` is clear while nothing may take time from the keys. ``parent`` ends it, in its own thread: the last to hold
        it may be the thread that worked."""
        super().__init__(parent)
        self.name, self._free = name, free
        self._stopped = False

    @property
    def stopped(self) -> bool:
        return self._stopped

    def stop(self) -> None:
        """Ask the job to end; what it would have returned is not taken any more."""
        self._stopped = True

    def go_on(self) -> None:
        """Raises StoppedError when the job should end."""
        if self._stopped:
            raise StoppedError

    def give_way(self) -> None:
        """As ``go_on``, but waits first while a round is on or keys are edited: work in Python takes time from every key."""
        while not self._free.wait(_LOOK_S):
            self.go_on()
        self.go_on()

    def tell(self, share: float, words: str = "") -> None:
        """Report progress, 0 to 1; also a point at which the job can be stopped."""
        self.go_on()
        self.progressed.emit(share, words)


class Job:
    """One piece of work under way."""

    def __init__(self, work: Work, future: Future[Any]) -> None:
        self.work, self.future = work, future

    @property
    def running(self) -> bool:
        return not self.future.done()

    def stop(self) -> None:
        """Ask it to end; nothing of it comes back."""
        self.work.stop()
        self.future.cancel()


class Jobs(QObject):
    """All jobs of a window. ``failed`` tells the name of a job and what went wrong, where nobody else took it."""

    failed = Signal(str, str)
    changed = Signal()
    _ended = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = Lazy(_pool)
        self._free = Event()
        self._free.set()
        self._closed = False
        self._telling = Lock()
        self._jobs: dict[str, Job] = {}
        self._all: list[Job] = []
        # Always by the event loop: never inside the call that began a job, never on the thread that did it.
        self._ended.connect(self._end, Qt.ConnectionType.QueuedConnection)

    def run(
        self,
        name: str,
        do: Callable[[Work], T],
        done: Callable[[T], object] = lambda result: None,
        failed: Callable[[Exception], bool] = lambda error: False,
    ) -> Job:
        """Begin a job; one of the same name that is under way is stopped, and only the newest is heard.

        ``done`` gets what it returns, ``failed`` what it raised (True: it was taken), both on the interface thread.
        """
        self.stop(name)
        work = Work(name, self._free, self)
        if self._closed:
            return Job(work, _never())
        future = self._pool().submit(do, work)
        job = Job(work, future)
        self._jobs[name] = job
        self._all.append(job)

        def end() -> None:
            work.deleteLater()
            if job in self._all:
                self._all.remove(job)
            if self._jobs.get(name) is job:
                del self._jobs[name]
            if not work.stopped and not future.cancelled():
                self._take(name, future, done, failed)
            self.changed.emit()

        def tell(_: Future[T]) -> None:
            # A future is done before its callbacks run: whoever waited for it in ``close`` may destroy this object meanwhile.
            with self._telling:
                if not self._closed:
                    self._ended.emit(end)

        future.add_done_callback(tell)
        self.changed.emit()
        return job

    @Slot(object)
    def _end(self, end: Callable[[], None]) -> None:
        end()

    def _take(
        self, name: str, future: Future[T], done: Callable[[T], object], failed: Callable[[Exception], bool]
    ) -> None:
        error = future.exception()
        if error is None:
            done(future.result())
        elif isinstance(error, Exception) and not isinstance(error, StoppedError):
            # What the person's files or system are to blame for is no fault of the program's.
            level = logging.INFO if isinstance(error, StoreError | FolioError) else logging.ERROR
            _LOG.log(level, "%s failed", name, exc_info=error)
            if not failed(error):
                self.failed.emit(name, words_of(error))

    def running(self, name: str) -> bool:
        """Return True if a job of this name is under way."""
        return name in self._jobs

    def names(self) -> list[str]:
        """Return the jobs under way."""
        return list(self._jobs)

    def stop(self, name: str) -> None:
        """Stop a job, if it is under way."""
        job = self._jobs.pop(name, None)
        if job is not None:
            job.stop()

    def hold(self, held: bool) -> None:
        """Have jobs that give way wait, or let them go on."""
        if held:
            self._free.clear()
        else:
            self._free.set()

    def close(self) -> None:
        """Stop everything and wait for what must come to its end; nothing is begun any more."""
        with self._telling:
            self._closed = True
        for job in self._all:
            job.stop()
        if self._pool.made is None:
            return
        from concurrent.futures import wait

        wait([job.future for job in self._all], _END_S)
        self._pool().shutdown(wait=False, cancel_futures=True)


def _pool() -> ThreadPoolExecutor:
    from concurrent.futures import ThreadPoolExecutor

    return ThreadPoolExecutor(_AT_ONCE, "job")


def _never() -> Future[Any]:
    """Return the message about a job that will not begin any more."""
    from concurrent.futures import Future

    future: Future[Any] = Future()
    future.cancel()
    return future


def words_of(error: Exception) -> str:
    """Return the message for an exception: its text, or for one that nobody expected its kind as well."""
    if isinstance(error, StoreError | FolioError | ValueError):
        return str(error)
    return f"{type(error).__name__}: {error}. The log file has the rest."
