"""Taking a verdict: the file edited, the change recorded with its why."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from glimber.core.drill.tries import Change
from glimber.core.edits.edit import Moved, move_binding, retire_binding, with_binding
from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Trigger, parse_trigger
from glimber.store.folder import Opened
from glimber.store.practice.log import Log
from glimber.store.practice.uuid7 import uuid7
from glimber.store.toml.writing import restore, save_folio


@dataclass(frozen=True)
class Taken:
    """A folio before and after a change, and the records of it (two for a swap)."""

    before: Opened
    opened: Opened
    changes: tuple[Change, ...]


def take_move(opened: Opened, log: Log, binding: str, to: Trigger, why: str, now: datetime, computer: str,
              swap: bool = False, verdict: str = "move") -> Taken:  # fmt: skip
    """Move a binding: its layout or program file is edited and the change recorded. Raises EditError, StoreError."""
    moved = move_binding(opened.folio, binding, to, swap)
    return _recorded(opened, log, moved, why, now, computer, verdict)


def _recorded(opened: Opened, log: Log, moved: Moved, why: str, now: datetime, computer: str, verdict: str) -> Taken:
    after = save_folio(opened, moved.folio, now)
    pairs = [(moved.binding, moved.before, moved.after, moved.swapped)]
    if moved.swapped is not None:
        pairs.append((moved.swapped, moved.after, moved.before, moved.binding))
    changes = tuple(
        Change(
            uuid7(now),
            now,
            computer,
            id,
            verdict,
            opened.folio.bindings[id].command,
            str(old),
            str(new),
            why,
            other,
            now,
        )
        for id, old, new, other in pairs
    )
    log.add(*changes)
    return Taken(opened, after, changes)


def take_back(opened: Opened, log: Log, taken: Taken, now: datetime) -> Opened:
    """Undo what was just taken; the records say when. Raises EditError, StoreError.

    The files go back byte for byte; where they have been edited since, only the binding goes back.
    """
    if opened.texts == taken.opened.texts:
        after = restore(opened, taken.before, now)
    else:
        after = save_folio(opened, _moved_back(opened, taken), now)
    for change in taken.changes:
        log.update(replace(change, reverted=now))
    return after


def _moved_back(opened: Opened, taken: Taken) -> Folio:
    first = taken.changes[0]
    if first.to_trigger is None:
        old = taken.before.folio.bindings[first.binding]
        return with_binding(opened.folio, old)
    back = parse_trigger(first.from_trigger or "", opened.folio.bundles)
    return move_binding(opened.folio, first.binding, back, len(taken.changes) > 1).folio


def take_retire(opened: Opened, log: Log, binding: str, why: str, now: datetime, computer: str) -> Taken:
    """Take a binding away; its command waits on the bench. Raises EditError, StoreError."""
    old = opened.folio.bindings[binding]
    after = save_folio(opened, retire_binding(opened.folio, binding), now)
    change = Change(uuid7(now), now, computer, binding, "retire", old.command, str(old.trigger), None, why, applied=now)
    log.add(change)
    return Taken(opened, after, (change,))


def note_verdict(log: Log, binding: str, command: str | None, verdict: str, trigger: Trigger, why: str, now: datetime,
                 computer: str) -> Change:  # fmt: skip
    """Record a verdict that changes no file: keep, practise, or rebind without a place yet."""
    change = Change(uuid7(now), now, computer, binding, verdict, command, str(trigger), None, why)
    log.add(change)
    return change
