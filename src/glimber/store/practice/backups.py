"""Copies of the practice log in backups/, by SQLite's own backup: one a day, and one before its schema is moved on."""

from __future__ import annotations

import contextlib
import os
import sqlite3
from datetime import datetime
from pathlib import Path

from glimber.store.backups import prune
from glimber.store.faults import StoreError
from glimber.store.files import backup_path, set_mode, stamp_of
from glimber.store.practice.location import connect_reading, is_server, setting_of, told_of


def copy_log(path: Path, target: Path) -> None:
    """The whole of a log in another file, whoever writes to it meanwhile; whole or not at all. Raises StoreError."""
    unfinished = target.with_name(f".saving-{os.uname().nodename}.{os.getpid()}-{target.name}")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with (
            contextlib.closing(connect_reading(path)) as source,
            contextlib.closing(sqlite3.connect(unfinished)) as copy,
        ):
            source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
        set_mode(unfinished, path.stat().st_mode & 0o7777)
        unfinished.replace(target)
    except sqlite3.Error as error:
        raise told_of(str(target), error) from error
    except OSError as error:
        raise StoreError(f"{target}: cannot be written ({error.strerror})") from error
    finally:
        with contextlib.suppress(OSError):
            unfinished.unlink()


def copy_before_moving_on(path: Path, now: datetime) -> None:
    """A copy of a log as it was before a new version changes its tables. Raises StoreError; then it is not changed."""
    copy_log(path, backup_path(path.parent, f"log-before-{path.name}", now))
    prune(path.parent, now)


def copy_daily(folder: Path, setting: str, now: datetime) -> Path | None:
    """Today's copy of a folio's log, unless there is one or nothing to copy. Raises StoreError."""
    setting = setting_of(folder, setting)
    path = folder / setting
    if is_server(setting) or not path.is_file() or path.stat().st_size == 0:
        return None
    day = stamp_of(now)[:10]
    copies = folder / "backups"
    if copies.is_dir() and any(copies.glob(f"{day}-??????-log-{path.name}")):
        return None
    target = backup_path(folder, f"log-{path.name}", now)
    copy_log(path, target)
    prune(folder, now)
    return target
