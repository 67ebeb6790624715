"""Practice records that wait in a file of this computer until a server has them.

Nothing is lost between the two: a record is on disk before ``add`` returns, what is delivered is moved aside first, and only what
a server has committed is removed. Several processes may add and deliver at once. A record delivered twice is known by its id.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import IO

from msgspec import Struct

from glimber.core.practice.tries import Record, Round
from glimber.store.faults import StoreError
from glimber.store.files import set_mode
from glimber.store.practice.jsonl import Lines, parse_lines, to_json
from glimber.store.practice.log import Log


class Delivery(Struct, frozen=True):
    """The result of a delivery: records that were new to the server, and lines that could not be read, which are kept in
    ``set_aside``."""

    new: int = 0
    unreadable: int = 0
    set_aside: Path | None = None


def waiting_file_of(shown: str) -> WaitingFile:
    """Return the waiting file of a server, by its address without a password."""
    from platformdirs import user_state_path

    name = hashlib.sha256(shown.encode()).hexdigest()[:16]
    return WaitingFile(user_state_path("glimber") / "waiting" / f"{name}.jsonl")


class WaitingFile:
    """A file of JSON Lines, the part of it that is being delivered, and the lines that could not be read."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.delivering = path.with_suffix(".delivering.jsonl")
        self.unreadable = path.with_suffix(".unreadable.jsonl")

    @property
    def is_empty(self) -> bool:
        """True if nothing waits."""
        return not any(part.exists() and part.stat().st_size for part in (self.path, self.delivering))

    def add(self, records: Iterable[Record]) -> None:
        """Append records. Raises StoreError where they cannot be written; then the file is as it was before."""
        data = "".join(f"{to_json(record)}\n" for record in records).encode()
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            with self._locked(""), self.path.open("ab") as file:
                set_mode(self.path, 0o600)
                self._append(file, data)
        except OSError as error:
            raise StoreError(
                f"{self.path}: cannot be written ({error.strerror or error}); nothing of this was kept"
            ) from error

    def _append(self, file: IO[bytes], data: bytes) -> None:
        """Write at the end, on a line of its own even after a torn one; a refused write leaves nothing. Raises OSError."""
        size = file.seek(0, os.SEEK_END)
        try:
            file.write(data if self._ends_a_line(size) else b"\n" + data)
            file.flush()
            os.fsync(file.fileno())
        except OSError:
            os.ftruncate(file.fileno(), size)
            with contextlib.suppress(OSError):
                file.close()  # what is still in its buffer is refused again
            with contextlib.suppress(OSError):
                os.truncate(self.path, size)
            raise

    def _ends_a_line(self, size: int) -> bool:
        if not size:
            return True
        with self.path.open("rb") as file:
            file.seek(size - 1)
            return file.read(1) == b"\n"

    def records(self) -> list[Record]:
        """Return what waits, in the order in which it came; lines that cannot be read are passed over."""
        return [record for part in (self.delivering, self.path) for record in _read(part).records]

    def deliver(self, log: Log) -> Delivery:
        """Write everything that waits to a log. Raises StoreError; then everything still waits.

        Another process that is delivering already is left to it.
        """
        with self._delivering_alone() as alone:
            if not alone:
                return Delivery()
            found = Delivery()
            # What a process that was killed had moved aside comes first: the rest came after it.
            while self._move_aside():
                lines = _read(self.delivering)
                new = _write(log, lines.records)
                kept = self._keep_unreadable(lines)
                self.delivering.unlink()
                found = Delivery(found.new + new, found.unreadable + kept, self.unreadable if kept else found.set_aside)
            return found

    def _move_aside(self) -> bool:
        """Return True if there is a part to deliver; what is added from now on goes into a new file."""
        if self.delivering.exists():
            return True
        with self._locked(""):
            if not self.path.exists():
                return False
            self.path.replace(self.delivering)
        return True

    def _keep_unreadable(self, lines: Lines) -> int:
        if not lines.bad:
            return 0
        bad = {one["line"] for one in lines.bad}
        raw = self.delivering.read_bytes().split(b"\n")
        with self.unreadable.open("ab") as file:
            file.write(b"".join(line + b"\n" for number, line in enumerate(raw, start=1) if number in bad))
            file.flush()
            os.fsync(file.fileno())
        return len(bad)

    @contextlib.contextmanager
    def _locked(self, what: str, wait: bool = True) -> Iterator[bool]:
        self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with self.path.with_suffix(f"{what}.lock").open("ab") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
            except BlockingIOError:
                yield False
            else:
                yield True

    def _delivering_alone(self) -> contextlib.AbstractContextManager[bool]:
        return self._locked(".delivering", wait=False)


def _read(path: Path) -> Lines:
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        return Lines()
    except OSError as error:
        raise StoreError(f"{path}: cannot be read ({error.strerror or error}); what waits there stays") from error
    # A line torn inside a letter is no text; the others are.
    return parse_lines(data.decode("utf-8", "replace"))


def _write(log: Log, waiting: list[Record]) -> int:
    last = {record.id: record for record in waiting}  # a round that has ended comes after itself
    known = log.ids()
    new = [record for id, record in last.items() if id not in known]
    ended = [
        record for id, record in last.items() if id in known and isinstance(record, Round) and record.ended is not None
    ]
    if new or ended:
        log.write(new, ended)
    return len(new)
