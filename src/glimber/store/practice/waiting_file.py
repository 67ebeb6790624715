"""Records that a server could not be given: they wait in a file of this computer and are delivered later, none of them twice."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from pathlib import Path

from glimber.core.practice.tries import Record, Round
from glimber.store.faults import StoreError
from glimber.store.practice.jsonl import parse_lines, to_json
from glimber.store.practice.log import Log


def queue_of(shown: str) -> Queue:
    """The queue of a server, by its address without a password."""
    from platformdirs import user_state_path

    name = hashlib.sha256(shown.encode()).hexdigest()[:16]
    return Queue(user_state_path("glimber") / "waiting" / f"{name}.jsonl")


class Queue:
    """A file of JSON Lines. Each record is on disk before ``add`` returns."""

    def __init__(self, path: Path) -> None:
        self.path = path

    @property
    def empty(self) -> bool:
        return not self.path.exists() or self.path.stat().st_size == 0

    def add(self, records: Iterable[Record]) -> None:
        """Keep records. Raises StoreError where they cannot be written."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            with self.path.open("a", encoding="utf-8") as file:
                file.write("".join(f"{to_json(record)}\n" for record in records))
                file.flush()
                os.fsync(file.fileno())
        except OSError as error:
            raise StoreError(
                f"{self.path}: cannot be written ({error.strerror or error}); nothing of this was kept"
            ) from error

    def records(self) -> list[Record]:
        """Return what waits, in the order in which it came; a last line that a killed process left half is passed over."""
        return parse_lines(self.path.read_text("utf-8")).records if not self.empty else []

    def deliver(self, log: Log) -> int:
        """Give everything to a log, and how many records were new there. A record that came through after all, because the answer
        was lost and not the record, is known by its id. Raises StoreError; then everything still waits."""
        waiting = self.records()
        if not waiting:
            return 0
        last = {record.id: record for record in waiting}  # a round that has ended comes after itself
        known = log.ids()
        new = [record for id, record in last.items() if id not in known]
        ended = [
            record
            for id, record in last.items()
            if id in known and isinstance(record, Round) and record.ended is not None
        ]
        log.write(new, ended)
        self.path.unlink()
        return len(new)
