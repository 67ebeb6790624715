"""Several files and the history, or none of them: a small journal finishes or undoes what a kill has left half done.

A journal in the folio's folder says which files are being exchanged with which new ones, and what the history is to say of
it; it is there only meanwhile. Whoever writes holds a lock on the folder, which ends with the process.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import json
import os
import time
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final

from msgspec import Struct

from glimber.store.backups import back_up
from glimber.store.faults import StoreError
from glimber.store.files import (
    SAVING,
    backup_path,
    exchange,
    exchange_in_steps,
    move_into_free_place,
    new_beside,
    read_if_there,
    real,
    sweep,
    sync_folder,
    write_atomically,
)
from glimber.store.folder import FOLDERS, JOURNAL

SUBFOLDERS: Final = (*FOLDERS, "backups", "icons", "pictures")
_FORMAT: Final = "glimber-saving/1"
_WAIT_S: Final = 5.0
_POLL_S: Final = 0.01


class ChangedOnDisk(StoreError):
    """A file to be saved has changed since it was read; nothing was written."""


class Part(Struct, frozen=True):
    """One file of a save by its name in the folio; None: it is not there before, or not to be there after."""

    name: str
    before: bytes | None
    after: bytes | None


class Note(Struct, frozen=True):
    """History records to write with a save: ``lines`` (JSON Lines) for the journal, ``commit`` to write them to ``log`` now."""

    log: str
    lines: tuple[str, ...]
    commit: Callable[[], None]


class _Item(Struct, frozen=True):
    """A part on its way: the file itself, the name beside it that holds the other content, digests of both."""

    name: str
    target: str
    beside: str
    was: str | None
    to_be: str | None

    def done(self) -> bool:
        return _digest_at(Path(self.target)) == self.to_be

    def waits(self) -> bool:
        return _digest_at(Path(self.target)) == self.was and (
            self.to_be is None or _digest_at(Path(self.beside)) == self.to_be
        )

    def go(self) -> None:
        """Put the new content in place. Raises ChangedOnDisk, OSError; then the file is as it was."""
        target, beside = Path(self.target), Path(self.beside)
        if self.was is None:
            try:
                move_into_free_place(beside, target)
            except FileExistsError as error:
                raise _changed(self.name) from error
        elif self.to_be is None:
            if _digest_at(target) != self.was:
                raise _changed(self.name)
            target.rename(beside)
        else:
            if _digest_at(target) != self.was:
                raise _changed(self.name)
            if not exchange(beside, target):
                exchange_in_steps(beside, target)
            if _digest_at(beside) != self.was:  # somebody saved between the look and the exchange
                self._swap_back()
                raise _changed(self.name)
        sync_folder(target.parent)

    def back(self) -> None:
        """Put the old content in place again, where it was taken away and nobody wrote since. Raises OSError."""
        target, beside = Path(self.target), Path(self.beside)
        if not self.done():
            return
        if self.was is None:
            target.rename(beside)
        elif self.to_be is None:
            move_into_free_place(beside, target)
        else:
            self._swap_back()
        sync_folder(target.parent)

    def _swap_back(self) -> None:
        if not exchange(Path(self.beside), Path(self.target)):
            exchange_in_steps(Path(self.beside), Path(self.target))


def _changed(name: str) -> ChangedOnDisk:
    return ChangedOnDisk(f"{name} was changed on disk since it was read; nothing was saved. Read it again first.")


def _digest(data: bytes | None) -> str | None:
    return None if data is None else hashlib.sha256(data).hexdigest()


def _digest_at(path: Path) -> str | None:
    return _digest(read_if_there(path))


@contextlib.contextmanager
def _locked(folder: Path, wait_s: float = _WAIT_S) -> Iterator[bool]:
    """Hold the folder's lock; yields False where another process held it all the time. A kill lets it go."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        until = time.monotonic() + wait_s
        got = False
        while not got:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                got = True
            except BlockingIOError:
                if time.monotonic() >= until:
                    break
                time.sleep(_POLL_S)
            except OSError:  # a file system without locks: as good as alone
                got = True
        yield got
    finally:
        os.close(handle)


def write_together(folder: Path, parts: Sequence[Part], now: datetime, note: Note | None = None) -> None:
    """Write all parts and the note of them, or nothing. Each file is copied into backups/ first.

    Raises ChangedOnDisk when a file is no longer as it was read, StoreError when something cannot be written.
    """
    try:
        with _locked(folder) as alone:
            if not alone:
                raise StoreError(f"{folder}: another Glimber is writing there and does not end; nothing was changed")
            _recover(folder)
            _write(folder, parts, now, note)
    except OSError as error:
        where = error.filename or folder
        raise StoreError(f"{where}: cannot be written ({error.strerror}); nothing was changed") from error


def _write(folder: Path, parts: Sequence[Part], now: datetime, note: Note | None) -> None:
    for part in parts:
        if read_if_there(folder / part.name) != part.before:
            raise _changed(part.name)
    for part in parts:
        back_up(folder, part.name, now)
    items: list[_Item] = []
    journal = folder / JOURNAL
    needs_journal = len(parts) > 1 or note is not None
    try:
        for part in parts:
            items.append(_prepared(folder, part))
        if needs_journal:
            write_atomically(journal, _journal_text(items, note))
        gone: list[_Item] = []
        try:
            for item in items:
                gone.append(item)
                item.go()
            if note is not None:
                note.commit()
        except BaseException:
            for item in reversed(gone):
                item.back()
            raise
    finally:
        if needs_journal:
            journal.unlink(missing_ok=True)
        for item in items:
            Path(item.beside).unlink(missing_ok=True)


def _prepared(folder: Path, part: Part) -> _Item:
    target = real(folder / part.name)
    if part.after is not None:
        beside = new_beside(target, part.after)
    else:
        beside = new_beside(target, b"")
        beside.unlink()
    return _Item(part.name, str(target), str(beside), _digest(part.before), _digest(part.after))


def _journal_text(items: Sequence[_Item], note: Note | None) -> bytes:
    rows = [[item.name, Path(item.beside).name, item.was, item.to_be] for item in items]
    log_note = {"log": note.log, "lines": note.lines} if note is not None else None
    return json.dumps({"format": _FORMAT, "items": rows, "note": log_note}).encode()


# After a kill


def recover(folder: Path) -> None:
    """Finish what a killed save has left half done, or undo it where a file was changed since; sweep up after it.

    Where another process is writing just now, wait until it has. Raises StoreError.
    """
    if not (folder / JOURNAL).exists():
        return
    try:
        with _locked(folder) as alone:
            if alone:
                _recover(folder)
    except OSError as error:
        raise StoreError(f"{folder}: an edit was cut short and cannot be finished ({error.strerror})") from error


def tidy(folder: Path) -> None:
    """Finish and remove what killed saves have left; called at a start. A folder that cannot be written stays as it is."""
    if not folder.is_dir():
        return
    with contextlib.suppress(OSError, StoreError), _locked(folder, 0) as alone:
        if alone:
            _recover(folder)
            for sub in ("", *SUBFOLDERS):
                sweep(folder / sub)


def _recover(folder: Path) -> None:
    data = read_if_there(folder / JOURNAL)
    if data is None:
        return
    found = _read_journal(folder, data)
    if found is not None:
        items, log, lines = found
        if all(item.done() or item.waits() for item in items):
            for item in items:
                if not item.done():
                    item.go()
            _note_again(folder, log, lines)
        else:
            _undo(folder, items)
        for item in items:
            Path(item.beside).unlink(missing_ok=True)
    (folder / JOURNAL).unlink()


def _read_journal(folder: Path, data: bytes) -> tuple[list[_Item], str, list[str]] | None:
    """None for a journal that is none: it was cut short itself, so nothing had been exchanged yet.

    A folder may come from anywhere: a journal only ever names a folio's own files, and files that a save has made beside them.
    """
    try:
        value: dict[str, Any] = json.loads(data)
        if value["format"] != _FORMAT:
            return None
        items = []
        for name, beside, was, to_be in value["items"]:
            top, _, file = name.rpartition("/")
            if "/" in beside or not beside.startswith(SAVING) or not name.endswith(".toml"):
                return None
            if (top not in FOLDERS and name != "folio.toml") or file.startswith("."):
                return None
            target = real(folder / name)
            items.append(_Item(name, str(target), str(target.parent / beside), was, to_be))
        note = value["note"] or {"log": "", "lines": []}
        return items, str(note["log"]), [str(line) for line in note["lines"]]
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return None


def _undo(folder: Path, items: Sequence[_Item]) -> None:
    """A file was changed by somebody else since: the others go back, and what was to be written stays in backups/."""
    now = datetime.now(UTC)
    for item in items:
        unsaved = item.target if item.done() else item.beside
        data = read_if_there(Path(unsaved)) if item.to_be is not None else None
        if data is not None:
            write_atomically(backup_path(folder, f"unsaved-{item.name}", now), data)
        item.back()


def _note_again(folder: Path, log: str, lines: Sequence[str]) -> None:
    """Write the history records of an interrupted save, or set them aside where the log cannot be opened."""
    if not lines:
        return
    from glimber.store.practice.journal_records import note_lines

    try:
        note_lines(folder, log, lines)
    except StoreError:
        write_atomically(
            backup_path(folder, "changes.jsonl", datetime.now(UTC)), "".join(f"{line}\n" for line in lines).encode()
        )
