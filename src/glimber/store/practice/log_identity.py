"""Detect that a log's file is no longer the one that was opened: a checkout or a sync program may have replaced it."""

from __future__ import annotations

import ctypes
from pathlib import Path
from typing import TYPE_CHECKING

from glimber.store.faults import StoreError

if TYPE_CHECKING:
    import sqlalchemy as sa

_Identity = tuple[int, int]


class LogReplacedError(StoreError):
    """The file of the log is another one than was opened, or gone; nothing more may be written through the old one."""


def _identity(path: Path) -> _Identity | None:
    try:
        state = path.stat()
    except OSError:
        return None
    return state.st_dev, state.st_ino


class SameFile:
    """Device and inode of a log's file, and of what SQLite keeps beside it, as they were when it was opened."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._wal = path.with_name(f"{path.name}-wal")
        self._was, self._wal_was = _identity(path), _identity(self._wal)

    def replaced(self) -> bool:
        """Return True if there is another file in its place, or none."""
        return _identity(self._path) != self._was

    def check(self) -> None:
        """Raises LogReplacedError. Also notes what lies beside the file as long as it is the same one."""
        now = _identity(self._path)
        if now == self._was:
            self._wal_was = _identity(self._wal) or self._wal_was
            return
        what = "deleted" if now is None else "replaced by another file"
        raise LogReplacedError(
            f"{self._path}: the practice log was {what} while it was open; nothing was written to it"
        )

    def belongs_to_another(self) -> bool:
        """Return True if what lies beside the name now was made for the file that took its place: closing would remove it."""
        beside = _identity(self._wal)
        return self.replaced() and beside is not None and beside != self._wal_was

    @staticmethod
    def keep_for_ever(connection: sa.Connection) -> None:
        """Leave a connection open until the process ends: SQLite removes files by name when it closes the last one."""
        driver = connection.connection.driver_connection
        if driver is not None:
            ctypes.pythonapi.Py_IncRef(ctypes.py_object(driver))
