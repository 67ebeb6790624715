"""History records that belong to a save, written with the files or after a kill: by id, each only once."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from glimber.core.practice.tries import Record
from glimber.store.practice.jsonl import parse_lines
from glimber.store.practice.log import open_log


def note_lines(folder: Path, log: str, lines: Iterable[str]) -> None:
    """Write the records of JSON lines: those whose ids are there are replaced, the others added. Raises StoreError."""
    records: list[Record] = parse_lines("\n".join(lines)).records
    with open_log(folder, log) as opened:
        known = opened.ids()
        opened.write([one for one in records if one.id not in known], [one for one in records if one.id in known])
