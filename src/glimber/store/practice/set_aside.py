"""A log that was replaced or deleted while it was open: what was written to it is kept, and can be merged."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

from msgspec import Struct

from glimber.core.practice.tries import Record, Round, Try
from glimber.store.files import backup_path, write_atomically
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import Log


class Aside(Struct, frozen=True):
    """Records a window had written to a log that no longer exists. ``copy``: the whole of that log; ``lines``: these
    records."""

    records: tuple[Record, ...]
    lines: Path
    copy: Path


def put_aside(log: Log, more: Sequence[Record], folder: Path, now: datetime) -> Aside:
    """Keep what an open log had, though its file is gone, and close it. Raises StoreError; then it is open as before.

    ``more``: records that were just refused; they are in the lines as well.
    """
    records = tuple(log.added)
    lines = backup_path(folder, "tries.jsonl", now)
    write_atomically(lines, "".join(f"{to_json(one)}\n" for one in [*records, *more]).encode())
    copy = backup_path(folder, f"log-replaced-{Path(log.address).name}", now)
    log.copy_to(copy)
    log.close()
    return Aside(records, lines, copy)


def report_of(aside: Aside, error: Exception, pending: int) -> str:
    """Return the message for the person: what happened, and what Enter will do."""
    tries = sum(isinstance(one, Try) for one in aside.records)
    rounds = sum(isinstance(one, Round) for one in aside.records)
    return (
        f"{error}. {tries} tries of {rounds} rounds and {pending} that wait are kept in {aside.lines}, "
        f"the whole log as it was in {aside.copy}. Trying again puts them into the log that is there now"
    )
