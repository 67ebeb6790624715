"""Differences in triggers between two folios, from which the history of changes is made."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import is_move
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Trigger

if TYPE_CHECKING:
    from glimber.core.practice.tries import Change


OldTrigger = Literal["works", "dead", "reminds"]


class Note(Struct, frozen=True):
    """Details given when a change was made: the verdict taken, the reason, and the fate of the old trigger until the change
    is set. Such a change waits on the change sheet."""

    verdict: str
    why: str
    old: OldTrigger = "dead"


class Difference(Struct, frozen=True):
    """A binding that answers to another trigger than before; None: it was not there, or is no longer."""

    binding: str
    command: str | None
    before: Trigger | None
    after: Trigger | None
    swap_with: str | None = None

    @property
    def verdict(self) -> str:
        """Return what it is called where nobody took a verdict."""
        if self.before is None or self.after is None:
            return "retire"
        return "move" if is_move(self.before, self.after) else "rebind"


def differences(before: Folio, after: Folio) -> list[Difference]:
    """Return every binding of a command whose trigger differs, in folio order; two that changed places name each other."""
    if before is after:
        return []
    old, new = before.bindings, after.bindings
    found = [
        Difference(id, one.command, one.trigger, new[id].trigger if id in new else None)
        for id, one in old.items()
        if one.command is not None and (id not in new or new[id].trigger != one.trigger)
    ]
    found += [
        Difference(id, one.command, None, one.trigger) for id, one in new.items() if one.command and id not in old
    ]
    went: dict[tuple[Trigger | None, Trigger | None], str]
    went = {(one.before, one.after): one.binding for one in found if one.before is not None and one.after is not None}
    return [replace(one, swap_with=went.get((one.after, one.before))) for one in found]


def settle(
    differing: Sequence[Difference],
    known: Sequence[Change],
    notes: Mapping[str, Note],
    now: datetime,
    computer: str,
    new_id: Sequence[str],
) -> tuple[list[Change], list[Change]]:
    """Return the changes to add to the history and those to update, for triggers that differ from what they were.

    A binding that went back to where its last change took it from has that change reverted. What is in the history already
    (noted by another window or a command) is not noted again; it only gains the why it lacks. ``new_id``: an id for each.
    """
    from glimber.core.practice.tries import Change

    added: list[Change] = []
    updated: list[Change] = []
    for one, id in zip(differing, new_id, strict=True):
        start, to = (None if t is None else str(t) for t in (one.before, one.after))
        last = next((c for c in reversed(known) if c.binding == one.binding and c.reverted is None and _moved(c)), None)
        note = notes.get(one.binding)
        if last is not None and (last.from_trigger, last.to_trigger) == (to, start):
            updated.append(replace(last, reverted=now))
        elif last is not None and (last.from_trigger, last.to_trigger) == (start, to):
            if note is not None and not last.why:
                updated.append(replace(last, verdict=note.verdict, why=note.why))
        elif start is not None:
            # A verdict that was taken is still to be set in the program or on the board; an edit by hand is as it should be.
            noted = Note(one.verdict, "") if note is None else note
            applied = now if note is None else None
            added.append(Change(id, now, computer, one.binding, noted.verdict, one.command, start, to, noted.why, one.swap_with,
                                applied, old_trigger=noted.old))  # fmt: skip
    return added, updated


def _moved(change: Change) -> bool:
    """Return True if a change of the history says that a trigger became another one, and not only what was thought of it."""
    return change.to_trigger is not None or change.verdict == "retire"
