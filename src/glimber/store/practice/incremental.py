"""The tries of the log that was read last are kept: reading it again takes only those that came since."""

from __future__ import annotations

import sqlite3
from threading import Lock
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from glimber.core.practice.columns import TryColumns


class _Latest(Struct, frozen=True):
    """The last read: the file, the number of rows, and the place and id of the last row."""

    file: tuple[str, int, int]
    count: int
    row: int
    id: str
    columns: TryColumns


_KEPT: list[_Latest] = []
_LOCK = Lock()


def latest_columns(log: sqlite3.Connection, file: tuple[str, int, int], names: list[str]) -> TryColumns:
    """Return the columns of all tries. ``file``: path, device and inode. Raises UnusualError, ValueError, TypeError,
    sqlite3.Error."""
    from glimber.store.practice.bulk_read import quick_columns
    from glimber.store.practice.table import columns_of

    with _LOCK:
        known = next((one for one in _KEPT if one.file == file), None)
    if known is None or not _still(log, known):
        columns = quick_columns(log)
    else:
        wanted = ", ".join(f'"{name}"' for name in names)
        new = log.execute(f"SELECT {wanted} FROM tries WHERE rowid > ? ORDER BY rowid", (known.row,)).fetchall()
        columns = known.columns.with_more(columns_of(new, names)) if new else known.columns
    row, id = log.execute("SELECT rowid, id FROM tries ORDER BY rowid DESC LIMIT 1").fetchone()
    with _LOCK:
        _KEPT[:] = [_Latest(file, len(columns), row, id, columns)]
    return columns


def _still(log: sqlite3.Connection, known: _Latest) -> bool:
    """Return True if the rows that were read are all still there, and no other among them."""
    count = log.execute("SELECT count(*) FROM tries WHERE rowid <= ?", (known.row,)).fetchone()[0]
    last = log.execute("SELECT id FROM tries WHERE rowid = ?", (known.row,)).fetchone()
    return bool(count == known.count and last is not None and last[0] == known.id)
