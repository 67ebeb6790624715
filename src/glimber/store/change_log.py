"""Triggers that differ become changes of the history, whoever made them; verdicts that change no file are noted too."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import move_binding
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Trigger
from glimber.core.practice.tries import Change
from glimber.core.session import changes as history
from glimber.store.folder import Opened
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import Log, open_log
from glimber.store.practice.uuid7 import uuid7
from glimber.store.saving import Note
from glimber.store.toml.writing import save_folio

WINDOW_WAIT_S: Final = 1.0


class Taken(Struct, frozen=True):
    """A folio after a change, and the records of it (two for a swap): new ones, and those of changes that it takes back."""

    opened: Opened
    changes: tuple[Change, ...]
    taken_back: tuple[Change, ...] = ()


def take_move(
    opened: Opened,
    log: Log,
    binding: str,
    to: Trigger,
    note: history.Note,
    now: datetime,
    computer: str,
    swap: bool = False,
) -> Taken:
    """Move a binding: its layout or program file is edited and the change recorded, or neither. Raises EditError, StoreError."""
    moved = move_binding(opened.folio, binding, to, swap)
    notes = {binding: note} if moved.swapped is None else {binding: note, moved.swapped: note}
    added, updated = _to_note(log, opened.folio, moved.folio, notes, now, computer)
    after = save_folio(opened, moved.folio, now, note=_note(log, opened.folio.settings.log, added, updated))
    return Taken(after, tuple(added), tuple(one for one in updated if one.reverted == now))


def record(
    log: Log, before: Folio, after: Folio, notes: Mapping[str, history.Note], now: datetime, computer: str
) -> tuple[Change, ...]:
    """Note every trigger that differs between two values in the history; the changes that are new. Raises StoreError."""
    added, updated = _to_note(log, before, after, notes, now, computer)
    if added or updated:
        log.write(added, updated)
    return tuple(added)


def record_in(
    folder: Path, before: Folio, after: Folio, notes: Mapping[str, history.Note], now: datetime, computer: str
) -> None:
    """The same in the folio's own log, which is only opened where something differs. Raises StoreError."""
    if history.differences(before, after):
        with open_log(folder, after.settings.log) as log:
            record(log, before, after, notes, now, computer)


@contextmanager
def noting(
    folder: Path, before: Folio, after: Folio, notes: Mapping[str, history.Note], now: datetime, computer: str
) -> Iterator[Note | None]:
    """Return what the history is to say of an edit, to be written together with its files; None where no trigger differs.

    The log is open meanwhile: one that cannot be written is known before any file is. Raises StoreError.
    """
    if not history.differences(before, after):
        yield None
        return
    setting = after.settings.log
    with open_log(folder, setting, wait_s=WINDOW_WAIT_S) as log:
        yield _note(log, setting, *_to_note(log, before, after, notes, now, computer))


def _to_note(
    log: Log, before: Folio, after: Folio, notes: Mapping[str, history.Note], now: datetime, computer: str
) -> tuple[list[Change], list[Change]]:
    differing = history.differences(before, after)
    if not differing:
        return [], []
    ids = [uuid7(now) for _ in differing]
    return history.settle(differing, log.records(Change), notes, now, computer, ids)


def _note(log: Log, setting: str, added: Sequence[Change], updated: Sequence[Change]) -> Note | None:
    if not added and not updated:
        return None
    return Note(setting, tuple(map(to_json, [*added, *updated])), lambda: log.write(added, updated))


def tick(log: Log, changes: Iterable[Change], now: datetime | None) -> list[Change]:
    """Note that changes are set in their programs or on their boards (None: not yet after all). Raises StoreError."""
    ticked = [replace(one, applied=now) for one in changes]
    if ticked:
        log.write((), ticked)
    return ticked


def note_verdict(
    log: Log,
    binding: Binding,
    verdict: str,
    why: str,
    now: datetime,
    computer: str,
    until: datetime | None = None,
    swap_with: str | None = None,
) -> Change:
    """Record a verdict that changes no file: keep, practise, rebind without a place yet, a change confirmed, set aside
    ``until`` a day, or the answer about a pair with ``swap_with``. Raises StoreError."""
    change = Change(uuid7(now), now, computer, binding.id, verdict, binding.command, str(binding.trigger), None, why,
                    swap_with=swap_with, until=until)  # fmt: skip
    log.add(change)
    return change
