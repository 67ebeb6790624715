"""The switch for counting: how the counting process is started, stopped and queried."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Final

from glimber.store.faults import StoreError
from glimber.store.settings import load_settings, remember
from glimber.store.tally import tally_file

BEGINS_WITHIN_S: Final = 30.0
ENDS_WITHIN_S: Final = 8.0
_LOCK_TRIES, _LOCK_AGAIN_S = 10, 0.02
_BEGUN: Final[list[subprocess.Popen[bytes]]] = []
"""Those this process has begun, to be waited for when they have ended."""


def _process_file(folder: Path) -> Path:
    return tally_file(folder).with_suffix(".running")


def _problem_file(folder: Path) -> Path:
    return tally_file(folder).with_suffix(".problem")


def _locked(file: IO[str]) -> bool:
    """Have the file for oneself. Whoever asks whether it is counted holds it for a moment as well: that is waited for."""
    for _ in range(_LOCK_TRIES):
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            time.sleep(_LOCK_AGAIN_S)
        else:
            return True
    return False


@contextmanager
def claim(folder: Path) -> Iterator[bool]:
    """Be the one that counts a folio, as long as this lasts; False where another does."""
    path = _process_file(folder)
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    with path.open("a+") as file:
        if not _locked(file):
            yield False
            return
        with suppress(OSError):
            _problem_file(folder).unlink(missing_ok=True)
        file.truncate(0)
        file.write(str(os.getpid()))
        file.flush()
        yield True
        file.truncate(0)


def note_problem(folder: Path, words: str) -> None:
    """Why nothing is counted, for whoever asks."""
    with suppress(OSError):
        _problem_file(folder).write_text(words, "utf-8")


def problem_of(folder: Path) -> str:
    """Return why the process that counts has ended; empty where it has not, or was asked to."""
    try:
        return _problem_file(folder).read_text("utf-8")
    except OSError:
        return ""


def process_of(folder: Path) -> int | None:
    """Return the process that counts a folio; None where none does."""
    try:
        with _process_file(folder).open("r+") as file:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                text = file.read().strip()
                return int(text) if text.isdigit() else None
    except OSError:
        pass
    return None


def is_on(folder: Path) -> bool:
    """Return True if the person has turned counting on for a folio."""
    return str(folder.resolve()) in load_settings().tallied.splitlines()


def _switch(folder: Path, on: bool) -> None:
    here = str(folder.resolve())
    others = [one for one in load_settings().tallied.splitlines() if one != here]
    remember(tallied="\n".join([*others, here] if on else others))


def begin(folder: Path, device: Path | None = None) -> None:
    """Count from now on, in a process of its own. Raises StoreError where nothing can be counted here; then it stays off."""
    if process_of(folder) is None:
        _start(folder, device)
    _switch(folder, True)


def _start(folder: Path, device: Path | None) -> None:
    if device is None:
        from glimber.store.work.x_server import problem

        why = problem()
        if why is not None:
            raise StoreError(why)
    arguments = [sys.executable, "-m", "glimber.store.work.counter", str(folder.resolve())]
    if device is not None:
        arguments += ["--device", str(device)]
    _BEGUN[:] = [one for one in _BEGUN if one.poll() is None]
    process = subprocess.Popen(arguments, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                               start_new_session=True)  # fmt: skip
    _BEGUN.append(process)
    end = time.monotonic() + BEGINS_WITHIN_S
    while time.monotonic() < end:
        if process_of(folder) is not None and tally_file(folder).exists():
            return
        if process.poll() is not None:
            raise StoreError(problem_of(folder) or "the counting process ended immediately; the log file may show why")
        time.sleep(0.05)
    raise StoreError("what counts did not begin in time")


def go_on(folder: Path) -> bool:
    """Count again what was turned on before, such as after a restart; whether it is counted now."""
    if is_on(folder) and process_of(folder) is None:
        with suppress(StoreError):
            _start(folder, None)
    return process_of(folder) is not None


def end(folder: Path) -> None:
    """Count no more. Raises StoreError for a process that will not end."""
    _switch(folder, False)
    process = process_of(folder)
    if process is None:
        return
    with suppress(ProcessLookupError):
        os.kill(process, signal.SIGTERM)
    limit = time.monotonic() + ENDS_WITHIN_S
    while process_of(folder) is not None:
        if time.monotonic() > limit:
            raise StoreError(f"process {process} still counts; end it by hand")
        time.sleep(0.05)
    for one in _BEGUN:
        one.poll()
