"""The copies in backups/: which stay, and what one of them was. All of the last day, one a day for a month, one a month after,
and no more than a stated size in all; the newest copy of each file stays whatever that size is."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from pathlib import Path
from typing import Final

from msgspec import Struct

from glimber.store.faults import StoreError
from glimber.store.files import backup_path, read_given, read_if_there, set_mode, write_atomically
from glimber.store.folder import FOLDERS
from glimber.store.settings import load_settings

USUAL_MB: Final = 50
DAY: Final = timedelta(days=1)
MONTH: Final = timedelta(days=31)
_OWN: Final = re.compile(r"(?P<stamp>\d{4}-\d\d-\d\d-\d{6})(?P<again>-\d+)?-(?P<what>.+)")


class Copy(Struct, frozen=True):
    """One copy: of which file (its place in the folio with dashes for slashes), made when, how many bytes."""

    path: Path
    what: str
    at: datetime
    size: int

    @property
    def is_log(self) -> bool:
        """Return True if it is of the practice log."""
        return self.what.startswith("log-")


def copies_in(folder: Path) -> list[Copy]:
    """Glimber's own copies in a folio's backups/, the newest first; whatever else is there is none."""
    found: list[tuple[datetime, int, Copy]] = []
    with contextlib.suppress(OSError):
        for path in (folder / "backups").iterdir():
            match = _OWN.fullmatch(path.name)
            if match is None or not path.is_file() or path.is_symlink():
                continue
            try:
                at = datetime.strptime(match["stamp"], "%Y-%m-%d-%H%M%S")
                nth = int((match["again"] or "-1")[1:])  # of the copies made in one second
                found.append((at, nth, Copy(path, match["what"], at, path.stat().st_size)))
            except (ValueError, OSError):
                continue
    return [copy for _, _, copy in sorted(found, key=lambda one: (one[0], one[1], one[2].path.name), reverse=True)]


def to_go(copies: Iterable[Copy], now: datetime, most_bytes: int) -> list[Copy]:
    """Return those that need not be kept at a moment (of the clock the stamps are of), the oldest first."""
    by_file: dict[str, list[Copy]] = {}
    for one in sorted(copies, key=lambda one: (one.at, one.path.name), reverse=True):
        by_file.setdefault(one.what, []).append(one)
    going: list[Copy] = []
    staying: list[Copy] = []
    for rows in by_file.values():
        seen: set[str] = set()
        for place, one in enumerate(rows):
            age = now - one.at
            span = "" if age <= DAY else f"{one.at:%Y-%m-%d}" if age <= MONTH else f"{one.at:%Y-%m}"
            (going if place and span and span in seen else staying).append(one)
            seen.add(span)
    newest = {id(rows[0]) for rows in by_file.values()}
    room = most_bytes - sum(one.size for one in staying if id(one) in newest)
    for one in sorted(staying, key=lambda one: one.at, reverse=True):
        if id(one) in newest:
            continue
        room -= one.size
        if room < 0:
            going.append(one)
    return sorted(going, key=lambda one: (one.at, one.path.name))


def back_up(folder: Path, name: str, now: datetime) -> None:
    """Copy a file into backups/ under the moment it was replaced. Raises StoreError."""
    data = read_if_there(folder / name)
    if data is not None:
        _keep(folder, name, data, now)
        prune(folder, now)


def keep_replaced(folder: Path, before: Mapping[str, bytes], after: Mapping[str, bytes], now: datetime) -> list[str]:
    """Copy files as they were read before somebody else replaced or removed them; return their names. Raises StoreError.

    A file whose newest copy holds the same is not copied again.
    """
    newest: dict[str, Copy] = {}
    for copy in copies_in(folder):
        newest.setdefault(copy.what, copy)
    kept = []
    for name, data in before.items():
        last = newest.get(name.replace("/", "-"))
        if after.get(name) == data or (last is not None and read_if_there(last.path) == data):
            continue
        _keep(folder, name, data, now)
        kept.append(name)
    if kept:
        prune(folder, now)
    return kept


def _keep(folder: Path, name: str, data: bytes, now: datetime) -> None:
    target = backup_path(folder, name, now)
    write_atomically(target, data)
    with contextlib.suppress(OSError):
        set_mode(target, (folder / name).stat().st_mode & 0o7777)


def put_back(folder: Path, copy: Copy, now: datetime) -> str:
    """Return a file as a copy has it; what is there now is copied first. Its place in the folio. Raises StoreError."""
    name = place_of(folder, copy)
    if name is None:
        raise StoreError(f"{copy.path.name}: it is not known which file of the folio this is a copy of")
    data = read_given(copy.path)
    back_up(folder, name, now)
    write_atomically(folder / name, data)
    return name


def place_of(folder: Path, copy: Copy) -> str | None:
    """The file a copy is of, by its place in the folio; None for a copy of the practice log, or a name that is none."""
    if copy.is_log:
        return None
    if copy.what == "folio.toml":
        return copy.what
    parent, _, name = copy.what.partition("-")
    return f"{parent}/{name}" if parent in FOLDERS and name and (folder / parent).is_dir() else None


def prune(folder: Path, now: datetime) -> None:
    """Delete the copies that need not be kept. Nothing else in backups/ is touched."""
    most = (load_settings().backups_mb or USUAL_MB) * 1_000_000
    for one in to_go(copies_in(folder), now.replace(tzinfo=None), most):
        with contextlib.suppress(OSError):
            one.path.unlink()
