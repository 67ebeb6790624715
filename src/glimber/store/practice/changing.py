"""Triggers that differ become changes of the history, whoever made them; verdicts that change no file are noted too."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from glimber.core.drill.tries import Change
from glimber.core.edits.edit import move_binding
from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Trigger
from glimber.core.session.changes import Note, differences, settle
from glimber.store.folder import Opened
from glimber.store.practice.log import Log, open_log
from glimber.store.practice.uuid7 import uuid7
from glimber.store.toml.writing import save_folio


@dataclass(frozen=True)
class Taken:
    """A folio after a change, and the records of it (two for a swap)."""

    opened: Opened
    changes: tuple[Change, ...]


def take_move(opened: Opened, log: Log, binding: str, to: Trigger, why: str, now: datetime, computer: str,
              swap: bool = False, verdict: str = "move") -> Taken:  # fmt: skip
    """Move a binding: its layout or program file is edited and the change recorded. Raises EditError, StoreError."""
    moved = move_binding(opened.folio, binding, to, swap)
    note = Note(verdict, why)
    notes = {binding: note} if moved.swapped is None else {binding: note, moved.swapped: note}
    after = save_folio(opened, moved.folio, now)
    return Taken(after, record(log, opened.folio, moved.folio, notes, now, computer))


def record(log: Log, before: Folio, after: Folio, notes: Mapping[str, Note], now: datetime, computer: str
           ) -> tuple[Change, ...]:  # fmt: skip
    """Note every trigger that differs between two values in the history; the changes that are new. Raises StoreError."""
    differing = differences(before, after)
    if not differing:
        return ()
    added, updated = settle(differing, log.records(Change), notes, now, computer, [uuid7(now) for _ in differing])
    if added:
        log.add(*added)
    for one in updated:
        log.update(one)
    return tuple(added)


def record_in(
    folder: Path, before: Folio, after: Folio, notes: Mapping[str, Note], now: datetime, computer: str
) -> None:
    """The same in the folio's own log, which is only opened where something differs. Raises StoreError."""
    if differences(before, after):
        with open_log(folder, after.settings.log) as log:
            record(log, before, after, notes, now, computer)


def note_verdict(log: Log, binding: str, command: str | None, verdict: str, trigger: Trigger, why: str, now: datetime,
                 computer: str) -> Change:  # fmt: skip
    """Record a verdict that changes no file: keep, practise, or rebind without a place yet."""
    change = Change(uuid7(now), now, computer, binding, verdict, command, str(trigger), None, why)
    log.add(change)
    return change
