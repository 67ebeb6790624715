"""The process that counts: ``python -m glimber.store.work.counter FOLIO [--device PATH]``. It ends with a polite kill.

What it keeps is counts by binding and day; every ten seconds they go to the tally's file. Nothing else that is struck is kept, in
memory or anywhere: events are read into a buffer that is wiped, a strike that belongs to no binding is told from none but by
its being there, and no other program may read this process's memory.
"""

from __future__ import annotations

import signal
import sys
import time
from collections.abc import Callable, Iterator
from datetime import date
from math import inf
from pathlib import Path
from typing import Final

from msgspec.structs import replace

from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import Strike
from glimber.core.practice.counting import Count, Counting, count
from glimber.core.practice.watched import Watched, watched
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import folio_files
from glimber.store.settings import load_settings
from glimber.store.system.device import key_records
from glimber.store.system.wiped_buffer import close_memory
from glimber.store.tally import change_tally
from glimber.store.work.running import claim, note_problem

WRITTEN_EVERY_S: Final = 10.0
LOOKED_EVERY_S: Final = 15.0


class Counter:
    """Counts strikes by the folio as it is now. ``today`` gives the day in ISO, ``clock`` seconds for when to write."""

    def __init__(
        self,
        folder: Path,
        today: Callable[[], str] = lambda: date.today().isoformat(),
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.folder, self._today, self._clock = folder, today, clock
        self._state = Counting()
        self._counts: list[Count] = []
        self.has_begun = False
        self._days: set[str] = set()
        self._written = self._looked = clock()
        self._files: dict[str, bytes] = {}
        self.watched = self._read()

    def _read(self) -> Watched:
        from glimber.store.toml.reading import read_files

        self._files = folio_files(self.folder)
        return watched(read_files(self.folder, self._files).folio, load_settings().computer_name)

    def is_step(self, strike: Strike) -> bool:
        """Return True if a strike is a step of a binding that is counted."""
        return strike in self.watched.steps

    def strike(self, strike: Strike | None, t_ms: float, front_at: Callable[[float], tuple[str, ...] | None]) -> None:
        """Take one strike, None for a key that is no step; ``front_at`` gives the classes of the window in front at a moment,
        None where nobody knows it."""
        if strike is None or not self.is_step(strike):
            self._state = replace(self._state, begun=(), program=None, last=None)
            return
        classes = front_at(t_ms)
        front = None if classes is None else self.watched.program_of(classes)
        self._state, found = count(self.watched, self._state, strike, t_ms, front, self._today(), classes is not None)
        self._counts += found

    def rest(self, at_once: bool = False) -> None:
        """Write what was counted, and look whether the folio is another, where it is time. Raises StoreError."""
        self.has_begun = True
        now = self._clock()
        if now - self._looked >= LOOKED_EVERY_S:
            self._looked = now
            try:
                if folio_files(self.folder) != self._files:
                    self.watched = self._read()
            except (FolioError, StoreError):
                pass  # broken for a moment: it is counted by the folio as it was
        today = self._today()
        fresh = today not in self._days
        if at_once or fresh or (self._counts and now - self._written >= WRITTEN_EVERY_S):
            counts, self._counts = self._counts, []
            self._days.add(today)
            self._written = now
            change_tally(self.folder, lambda tally: tally.with_counts(counts, [today]))


def strikes_of_device(
    descriptor: int, is_step: Callable[[Strike], bool], wait_s: float = 0.5
) -> Iterator[tuple[Strike | None, float] | None]:
    """Yield the strikes of a device with the modifiers held at each, and the moment in ms of the kernel's clock; None whenever
    nothing came for a while. Of a key for which ``is_step`` is False nothing is kept but that some key was struck.

    Ends when the device is gone.
    """
    held: dict[str, str] = {}
    for seconds, micros, code, value in key_records(descriptor, wait_s):
        if code is None:
            yield None
        elif code in MODIFIER_CODES:
            if value:
                held[code] = MODIFIER_CODES[code]
            else:
                held.pop(code, None)
        elif value:
            strike = frozenset(held.values()), code
            yield (strike, seconds * 1000 + micros / 1000) if is_step(strike) else (None, 0.0)


def run(folder: Path, device: Path | None = None) -> int:
    """Count until a polite kill, or until the display or the device is gone; the exit status."""
    ended = [False]
    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(number, lambda *_: ended.__setitem__(0, True))
    with claim(folder) as mine:
        if not mine:
            return 0  # another counts already
        try:
            counter = Counter(folder)
            try:
                if device is not None:
                    _count_device(counter, device, ended)
                else:
                    _count_display(counter, ended)
            finally:
                if counter.has_begun:  # else whoever waits for the first tally would take a failed start for a begun one
                    counter.rest(at_once=True)
        except (FolioError, StoreError) as error:
            note_problem(folder, str(error))
            return 2
    return 0


def _count_display(counter: Counter, ended: list[bool]) -> None:
    from glimber.store.work.x_server import XServer, problem

    why = problem()
    if why is not None:
        raise StoreError(why)
    server = XServer()
    try:
        # The first that comes says that it is recorded: only then it is said to count.
        for struck in server.strikes(lambda: ended[0], counter.is_step):
            if struck is not None:
                counter.strike(struck.strike, struck.t_ms, server.front)
            counter.rest()
    finally:
        server.close()


def _count_device(counter: Counter, device: Path, ended: list[bool]) -> None:
    import os

    from glimber.store.system.device import open_device
    from glimber.store.work.x_server import XServer, problem

    descriptor = open_device(device)
    server = XServer() if problem() is None else None

    def front(_: float) -> tuple[str, ...] | None:  # the kernel's clock is another than the server's
        return server.front(inf) if server is not None else None

    try:
        counter.rest()
        for found in strikes_of_device(descriptor, counter.is_step):
            if ended[0]:
                return
            if found is not None:
                counter.strike(*found, front)
            counter.rest()
    finally:
        os.close(descriptor)
        if server is not None:
            server.close()


if __name__ == "__main__":
    close_memory()
    sys.exit(run(Path(sys.argv[1]), Path(sys.argv[3]) if sys.argv[2:3] == ["--device"] else None))
