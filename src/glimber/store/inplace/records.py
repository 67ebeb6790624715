"""Records of what was set: what each place held before and after, in a folder of the person's own.

Records are numbered and never reused, so a clock that is put back cannot make a new record look like the oldest one. Whoever
writes a place holds the lock of the records, which ends with the process.
"""

from __future__ import annotations

import fcntl
import os
import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Final

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from glimber.store.faults import StoreError
from glimber.store.files import read_file, stamp_of, write_atomically

FILE: Final = "record.json"
RECORDS_KEPT: Final = 50
BEGUN, DONE, BACK = "begun", "done", "back"
_NAME: Final = re.compile(r"(?:(\d{6,})-)?\d{4}-\d\d-\d\d-\d{6}(?:-\d+)?")
_LOCK: Final = "lock"
_WAIT_S: Final = 5.0
_POLL_S: Final = 0.02


class RecordedPlace(Struct, frozen=True):
    """A place that is set: the kind of its writer, its file (None: the desktop's settings), and whether it was there before."""

    kind: str
    path: str | None
    there: bool


class Record(Struct, frozen=True):
    """A record of what is set of a folio, how far it has come, and the changes that are ticked off with it."""

    folio: str
    at: str
    state: str
    places: list[RecordedPlace]
    changes: list[str]


def records_folder() -> Path:
    """Return where the records are: the person's folder for the state of programs. The files are theirs, not the folio's."""
    from platformdirs import user_state_path

    return user_state_path("glimber") / "set"


@contextmanager
def locked(wait_s: float = _WAIT_S) -> Iterator[bool]:
    """Hold the lock of the records; yields False where another process held it for ``wait_s`` seconds. Raises StoreError."""
    folder = records_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        handle = os.open(folder / _LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    except OSError as error:
        raise StoreError(f"{folder}: cannot be written ({error.strerror}); nothing was set") from error
    try:
        yield _acquire(handle, time.monotonic() + wait_s)
    finally:
        os.close(handle)


def _acquire(handle: int, until: float) -> bool:
    while True:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return True
        except BlockingIOError:
            if time.monotonic() >= until:
                return False
            time.sleep(_POLL_S)


def record_folders() -> list[Path]:
    """Return the folders of the records, the newest first; those from before records had numbers are the oldest."""
    folder = records_folder()
    if not folder.is_dir():
        return []
    found = [(match, one) for one in folder.iterdir() if (match := _NAME.fullmatch(one.name)) is not None]
    return [one for _, one in sorted(found, key=lambda pair: (int(pair[0][1] or 0), pair[1].name), reverse=True)]


def new_record(now: datetime) -> Path:
    """Make the folder of a new record. Raises StoreError."""
    newest = next(iter(record_folders()), None)
    match = _NAME.fullmatch(newest.name) if newest is not None else None
    number = 1 + int(match[1] or 0) if match is not None else 1
    folder = records_folder() / f"{number:06d}-{stamp_of(now)}"
    try:
        folder.mkdir(parents=True, mode=0o700)
    except OSError as error:
        raise StoreError(f"{folder}: cannot be made ({error.strerror}); nothing was set") from error
    return folder


def write_record(folder: Path, record: Record) -> None:
    """Write what a record says. Raises StoreError."""
    write_atomically(folder / FILE, msgspec.json.format(msgspec.json.encode(record)))


def read_record(folder: Path) -> Record:
    """Read what a record says. Raises StoreError."""
    try:
        return msgspec.json.decode(read_file(folder / FILE), type=Record)
    except (OSError, msgspec.MsgspecError, StoreError) as error:
        raise StoreError(f"{folder / FILE}: cannot be read as a record of what was set ({error})") from error


def set_state(folder: Path, state: str) -> None:
    """Note how far a record has come. Raises StoreError."""
    write_record(folder, replace(read_record(folder), state=state))


def in_state(*states: str) -> Iterator[tuple[Path, Record]]:
    """Yield the records in one of these states, the newest first; one that cannot be read is left out."""
    for folder in record_folders():
        try:
            record = read_record(folder)
        except StoreError:
            continue
        if record.state in states:
            yield folder, record


def prune() -> None:
    """Delete all but the newest records."""
    import shutil

    for old in record_folders()[RECORDS_KEPT:]:
        shutil.rmtree(old, ignore_errors=True)
