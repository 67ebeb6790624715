"""The process that counts: ``python -m glimber.store.work.counter FOLIO [--device PATH]``. It ends with a polite kill.

What it keeps is counts by binding and day, and which commands were chosen in menus; every ten seconds they go to the tally's
file. Nothing else that is struck is kept, in memory or anywhere: events are read into a buffer that is wiped, a strike that
belongs to no binding leaves nothing but its being there, and no other program may read this process's memory.
"""

from __future__ import annotations

import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from datetime import date
from itertools import groupby
from math import inf
from pathlib import Path
from typing import TYPE_CHECKING, Final

from msgspec.structs import replace

from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import Strike
from glimber.core.practice.counting import Count, Counting, count
from glimber.core.practice.tally import ANOTHER_ENTRY, MenuChoice, Tally
from glimber.core.practice.watched import Watched, watched
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import folio_files
from glimber.store.settings import load_settings
from glimber.store.system.device import key_records
from glimber.store.system.wiped_buffer import close_memory
from glimber.store.tally import change_tally
from glimber.store.work.running import claim, note_problem

if TYPE_CHECKING:
    from glimber.store.work.menu_bus import HeardChoice, MenuBus

HINT_AT: Final = 3
"""The choice by menu in a day that brings a hint, where the person wants them."""
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
        self._happened: list[Count | MenuChoice] = []
        self.has_begun = False
        self._days: set[str] = set()
        self._written = self._looked = clock()
        self._files: dict[str, bytes] = {}
        self.menus: MenuBus | None = None
        self._chosen_today: dict[tuple[str, str], int] = {}
        self.show_hint: Callable[[str, str], object] = _show_hint
        self.watched = self._read()

    def _read(self) -> Watched:
        from glimber.store.toml.reading import read_files

        self._files = folio_files(self.folder)
        folio = read_files(self.folder, self._files).folio
        self._command_of_binding = {id: one.command for id, one in folio.bindings.items() if one.command is not None}
        self._entries: dict[str, dict[str, list[tuple[str, tuple[str, ...]]]]] = {}
        for command in folio.commands.values():
            menus = tuple(step.removeprefix("menu ").casefold() for step in command.slow_way if step.startswith("menu "))
            for name in (command.name, *command.was):
                entries = self._entries.setdefault(command.program, {})
                entries.setdefault(name.casefold(), []).append((command.ref, menus))
        self._keys_of = {ref: (folio.commands[ref].name, " or ".join(str(one.trigger) for one in bindings))
                         for ref, bindings in folio.bindings_of.items() if bindings and ref in folio.commands}  # fmt: skip
        return watched(folio, load_settings().computer_name)

    def is_step(self, strike: Strike) -> bool:
        """Return True if a strike is a step of a binding that is counted."""
        return strike in self.watched.steps

    def is_watched(self, strike: Strike) -> bool:
        """Return True if a strike is looked at: a step of a binding, or Escape while a menu of the folio's programs is open."""
        return self.is_step(strike) or (strike[1] == "Escape" and self.menus is not None and self.menus.is_open)

    def choose(self, choice: HeardChoice) -> None:
        """Take an entry that was chosen in a menu; what is no command of the folio is only another entry."""
        from glimber.store.work.menu_bus import command_of

        command = command_of(choice, self._entries.get(choice.program, {})) or ANOTHER_ENTRY
        today = self._today()
        entry = (choice.program, *choice.path, choice.name) if command == ANOTHER_ENTRY and load_settings().menu_names else ()
        self._happened.append(MenuChoice(command, choice.took_ms / 1000, today, command in self._keys_of, entry))
        if command in self._keys_of:
            times = self._chosen_today.get((today, command), 0) + 1
            self._chosen_today = {**{key: n for key, n in self._chosen_today.items() if key[0] == today}, (today, command): times}
            if times == HINT_AT and load_settings().hints:
                self.show_hint(*self._keys_of[command])

    def strike(self, strike: Strike | None, t_ms: float, front_at: Callable[[float], tuple[str, ...] | None]) -> None:
        """Take one strike, None for a key that is no step; ``front_at`` gives the classes of the window in front at a moment,
        None where nobody knows it."""
        if strike is not None and strike[1] == "Escape" and self.menus is not None:
            self.menus.escape(_on_own_clock(t_ms))
        if strike is None or not self.is_step(strike):
            self._state = replace(self._state, begun=(), program=None, last=None)
            return
        classes = front_at(t_ms)
        front = None if classes is None else self.watched.program_of(classes)
        self._state, found = count(self.watched, self._state, strike, t_ms, front, self._today(), classes is not None)
        self._happened += found

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
        if at_once or fresh or (self._happened and now - self._written >= WRITTEN_EVERY_S):
            happened, self._happened = self._happened, []
            self._written = now
            commands = self._command_of_binding
            try:
                change_tally(self.folder, lambda tally: _with_all(tally.with_counts((), [today]), happened, commands))
            except StoreError:
                self._happened = happened + self._happened  # written with the next, where there is one
                raise
            self._days.add(today)


_HINTS: Final[list[subprocess.Popen[bytes]]] = []
"""Hints that are shown, to be waited for when they have gone."""


def _show_hint(name: str, keys: str) -> None:
    """Show the key of a command for a moment, by a process of its own."""
    quiet = subprocess.DEVNULL
    _HINTS[:] = [one for one in _HINTS if one.poll() is None]
    with suppress(OSError):
        _HINTS.append(subprocess.Popen([sys.executable, "-m", "glimber.ui.shell.hint", name, keys], stdin=quiet, stdout=quiet,
                                       stderr=quiet))  # fmt: skip


def _with_all(tally: Tally, happened: Sequence[Count | MenuChoice], commands: Mapping[str, str]) -> Tally:
    """Return the tally with what happened, in its order: a strike ends a miss, a choice by menu after it is one again."""
    for _, run in groupby(happened, key=type):
        of_run = list(run)
        tally = tally.with_choices([one for one in of_run if isinstance(one, MenuChoice)])
        tally = tally.with_counts([one for one in of_run if isinstance(one, Count)], (), commands)
    return tally


def _on_own_clock(t_ms: float) -> float | None:
    """Return a moment of the X server's clock on the own one: both count from the start of the computer, the server's in 32 bits;
    None where they do not agree."""
    now = time.monotonic() * 1000
    ago = (now % 2**32) - t_ms
    return now - ago if 0 <= ago < 5_000 else None


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
        with hearing_menus(counter):
            # The first that comes says that it is recorded: only then the counter reports that it counts.
            for struck in server.strikes(lambda: ended[0], counter.is_watched):
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
        with hearing_menus(counter):
            for found in strikes_of_device(descriptor, counter.is_watched):
                if ended[0]:
                    return
                if found is not None:
                    counter.strike(*found, front)
                counter.rest()
    finally:
        os.close(descriptor)
        if server is not None:
            server.close()


@contextmanager
def hearing_menus(counter: Counter) -> Iterator[None]:
    """Hear the menus of the folio's programs meanwhile, by a thread; where the accessibility bus is off, or goes, they are not
    counted, and strikes are all the same."""
    from glimber.store.work.menu_bus import MenuBus
    from glimber.store.work.x_server import Pointer, problem

    ended = threading.Event()
    pointer = Pointer() if problem() is None else None
    try:
        pressed_at = pointer.pressed_at if pointer is not None else lambda: None
        menus = MenuBus(lambda name: counter.watched.program_of((name,)), counter.choose, pressed_at)
    except StoreError:
        if pointer is not None:
            pointer.close()
        yield
        return
    counter.menus = menus

    def listen() -> None:
        with suppress(StoreError):
            menus.listen(ended.is_set)

    thread = threading.Thread(target=listen, daemon=True, name="menus")
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join(5)
        if pointer is not None:
            pointer.close()


if __name__ == "__main__":
    close_memory()
    sys.exit(run(Path(sys.argv[1]), Path(sys.argv[3]) if sys.argv[2:3] == ["--device"] else None))
