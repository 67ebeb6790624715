"""The folio as it is worked on: its value, what waits to be written, undo and redo. No files, no clock, no interface.

The value runs ahead of the files by what is not written yet. What waits is a net difference between the two: an edit that
was undone before it was written is nothing at all. Going back lays a step's difference over the value as it is, so that what
came since, from other steps or from other hands, stays.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Final

from msgspec import Struct, field

from glimber.core.edit.edit import EditError, state_ids
from glimber.core.model.folio import Folio
from glimber.core.session.changes import Note
from glimber.core.session.merge import ClashError, over

STEPS_KEPT: Final = 400


class Step(Struct, frozen=True):
    """One edit that can be undone. ``notes``: the verdicts and reasons of the bindings whose triggers it changes."""

    id: int
    name: str
    before: Folio
    after: Folio
    notes: Mapping[str, Note] = field(default_factory=dict)


class Stacks(Struct, frozen=True):
    """The undo and redo stacks, the newest entry last."""

    undo: tuple[Step, ...] = ()
    redo: tuple[Step, ...] = ()


class History:
    """``value`` is the folio now, ``written`` the folio as the files have it."""

    def __init__(self, folio: Folio) -> None:
        self.value = folio
        self.written = folio
        self.stacks = Stacks()
        self._written_stacks = self.stacks
        self._stated: frozenset[str] = frozenset()
        self._steps = 0
        self._going: tuple[Folio, Stacks] | None = None

    # Edits

    def edit(self, name: str, change: Callable[[Folio], Folio], notes: Mapping[str, Note] | None = None) -> bool:
        """Make an edit; whether it changed anything. Raises EditError; then nothing has changed."""
        before = self.value
        after = change(before)
        if after is before:
            return False
        self._steps += 1
        step = Step(self._steps, name, before, after, notes or {})
        self.value = after
        self.stacks = Stacks((*self.stacks.undo, step)[-STEPS_KEPT:])
        return True

    def state(self, ids: Iterable[str]) -> None:
        """State ids of bindings, for good: whatever is undone later, the files keep them."""
        self._stated |= frozenset(ids)
        self.value = self._with_ids(self.value)

    def undo(self) -> Step | None:
        """Take the last step back; None where there is none. Raises EditError where what it did has been edited since."""
        if not self.stacks.undo:
            return None
        step = self.stacks.undo[-1]
        self._go(step, step.after, step.before)
        self.stacks = Stacks(self.stacks.undo[:-1], (*self.stacks.redo, step))
        return step

    def redo(self) -> Step | None:
        """Do the last undone step again; None where there is none. Raises EditError."""
        if not self.stacks.redo:
            return None
        step = self.stacks.redo[-1]
        self._go(step, step.before, step.after)
        self.stacks = Stacks((*self.stacks.undo, step), self.stacks.redo[:-1])
        return step

    def recall(self, name: str, before: Folio, after: Folio, undone: bool = False) -> Step:
        """Put a step of an earlier day below all others: the next to be taken back, or ``undone`` the next to be done again."""
        self._steps += 1
        step = Step(self._steps, name, before, after)
        for stacks in ("stacks", "_written_stacks"):
            here: Stacks = getattr(self, stacks)
            setattr(self, stacks, Stacks(here.undo, (step, *here.redo)) if undone else Stacks((step, *here.undo), here.redo))
        return step

    def _go(self, step: Step, start: Folio, to: Folio) -> None:
        try:
            self.value = self._with_ids(over(start, to, self.value))
        except ClashError as clash:
            raise EditError(
                f"{step.name}: {clash}; take it back there, or put a copy from backups/ in place"
            ) from clash

    def _with_ids(self, folio: Folio) -> Folio:
        missing = {id for id in self._stated if id in folio.bindings and not folio.bindings[id].given_id}
        return state_ids(folio, missing) if missing else folio

    # The files

    @property
    def waits(self) -> bool:
        """Return True if the files do not have the value yet."""
        return self.value is not self.written and self.value != self.written

    def waiting(self) -> list[Step]:
        """Return the steps that differ from what is written: made and not written yet, or written and undone since."""
        now, then = self.stacks.undo, self._written_stacks.undo
        known, here = {one.id for one in then}, {one.id for one in now}
        return [one for one in now if one.id not in known] + [one for one in then if one.id not in here]

    def notes(self) -> dict[str, Note]:
        """Return the notes of the bindings that waiting steps change; undone steps have none."""
        here = {one.id for one in self.stacks.undo}
        return {id: note for one in self.waiting() if one.id in here for id, note in one.notes.items()}

    def begin_write(self) -> Folio:
        """Return the value that is going to be written now."""
        self._going = (self.value, self.stacks)
        return self.value

    def wrote(self, result: Folio | None = None) -> None:
        """Record that the pending value is in the files, which hold ``result`` (the value itself unless given)."""
        assert self._going is not None
        value, stacks = self._going
        self.written, self._written_stacks, self._going = result or value, stacks, None
        if self.value is value:
            self.value = self.written

    def refused(self) -> list[str]:
        """Return what was begun cannot be written: the value goes back to what the files have. Names of what is taken back."""
        lost = [one.name for one in self.waiting()]
        self.value, self.stacks, self._going = self.written, self._written_stacks, None
        return lost

    def read(self, fresh: Folio) -> list[str]:
        """The files were changed by somebody else: their value, with what waits laid over it. Names of what did not fit."""
        base, mine, steps = self.written, self.value, self.waiting()
        self.written, self._going = fresh, None
        try:
            self.value = self._with_ids(over(base, mine, fresh))
            return []
        except ClashError:
            pass
        # One by one, so that what does fit stays.
        here = {one.id for one in self.stacks.undo}
        value, lost = fresh, []
        for step in steps:
            start, to = (step.before, step.after) if step.id in here else (step.after, step.before)
            try:
                value = over(start, to, value)
            except ClashError:
                lost.append(step)
        gone = {one.id for one in lost}
        self.stacks = Stacks(tuple(one for one in self.stacks.undo if one.id not in gone),
                             tuple(one for one in self.stacks.redo if one.id not in gone))  # fmt: skip
        self.value = self._with_ids(value)
        return [one.name for one in lost]
