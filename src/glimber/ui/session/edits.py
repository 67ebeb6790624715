"""Edits on their way into the files: shown at once, written a moment later by a job of its own.

``core/session/history`` has the values; here is the time: the file is written a quarter second after the last edit, and at
the latest one second after the first that is not written. Files that somebody else has changed meanwhile are read first.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from datetime import datetime
from time import monotonic
from typing import TYPE_CHECKING, Final

from msgspec import Struct
from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio
from glimber.core.session.changes import Note
from glimber.core.session.history import History, Step
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.ui.session.jobs import Job, Jobs, words_of
from glimber.ui.session.steps import Steps

if TYPE_CHECKING:
    from glimber.store.toml.writing import Editor

SAVE_AFTER_MS: Final = 250
SAVE_AT_LATEST_MS: Final = 1000
STATES_KEPT: Final = 400
BUSY_AT_MOST_S: Final = 60.0
END_TRIES: Final = 5
Change = Callable[[Folio], Folio]


class _Saving(Struct, frozen=True):
    """One write: from what, to what, its notes, and the edits that were made (by number) or taken back."""

    opened: Opened
    value: Folio
    notes: Mapping[str, Note]
    made: Mapping[int, str]
    reverted: tuple[int, ...]


class Edits(QObject):
    """The folio in memory, its undo and redo, and its way into the files.

    ``changed``: the folio is another; ``written``: the files have caught up; ``notified``: what went wrong.
    """

    changed = Signal()
    written = Signal()
    notified = Signal(str)
    steps_changed = Signal()

    def __init__(
        self, opened: Opened, now: Callable[[], datetime], jobs: Jobs | None = None, computer: str = ""
    ) -> None:
        super().__init__()
        self.opened = opened
        self.history = History(opened.folio)
        self.computer = computer
        self._now = now
        self._jobs = jobs or Jobs(self)
        self._states: list[Opened] = [opened]
        self._job: Job | None = None
        self._saving: _Saving | None = None
        self._unnoted: list[tuple[Folio, Folio, Mapping[str, Note]]] = []
        self.steps = Steps(opened, now, self._jobs)
        self.editor: Editor | None = None
        self._noted = 0
        self._first_unsaved: float | None = None
        self._busy_since: float | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._start_saving)

    @property
    def folio(self) -> Folio:
        """The folio as it is now, edits that are not written yet included."""
        return self.history.value

    # Values

    def open(self, opened: Opened) -> None:
        """Go over to another folio."""
        self.opened, self.history, self._states = opened, History(opened.folio), [opened]
        self.steps.open(opened)
        self._unnoted.clear()
        self.changed.emit()
        self.steps_changed.emit()

    def read(self, opened: Opened) -> None:
        """The files were changed by somebody else: what they say now, with the edits that wait on top of it."""
        before = self.opened.folio
        self.steps.see(self.opened, opened)
        self.opened, self._states = opened, [opened]  # going back must not undo what others wrote beside the values
        lost = self.history.read(opened.folio)
        self._unnoted.append((before, opened.folio, {}))
        if lost:
            self.notified.emit(f"{', '.join(lost)} could not be laid over the files as they are now.")
            self.steps_changed.emit()
        if self.history.waits:
            self._wait()
        else:
            self._note_changes()
        self.changed.emit()

    # Edits

    def edit(self, name: str, change: Change, notes: Mapping[str, Note] | None = None) -> None:
        """Make an edit that can be undone. Raises EditError; then nothing has changed."""
        if self.history.edit(name, change, notes):
            self._moved_on()

    def state(self, ids: set[str]) -> None:
        """Write these bindings' ids into the files, now, for good. Raises StoreError."""
        self.history.state(ids)
        self.flush()

    def undo_name(self) -> str | None:
        undo = self.history.stacks.undo
        return undo[-1].name if undo else self.steps.next_name()

    def undo(self) -> str | None:
        """Take the last edit back, one of an earlier day too; its name, None where there is none. Raises EditError and
        StoreError."""
        if not self.history.stacks.undo:
            self.flush()
            self.steps.recall(self.history, self.opened)
        return self._went(self.history.undo())

    def redo(self) -> str | None:
        """Do the last undone edit again, one of an earlier day too; its name, None where there is none. Raises EditError,
        StoreError."""
        if not self.history.stacks.redo:
            self.flush()
            self.steps.recall(self.history, self.opened, undone=True)
        return self._went(self.history.redo())

    def go_back(self, to: int, words: str) -> None:
        """Take back every step after a state of the journal, as one edit; what others changed since stays. Raises EditError,
        StoreError."""
        self.flush()
        target = self.steps.folio_at(to, self.opened)
        self.edit(words, lambda _: target)

    def take_back(self, step: int, words: str) -> None:
        """Take back a single step of the journal, as an edit of its own; what came since stays. Raises EditError, StoreError."""
        self.flush()
        target = self.steps.folio_without(step, self.opened)
        self.edit(words, lambda _: target)

    def _went(self, step: Step | None) -> str | None:
        if step is None:
            return None
        self._moved_on()
        return step.name

    def _moved_on(self) -> None:
        self._wait()
        self.changed.emit()
        self.steps_changed.emit()

    def _wait(self) -> None:
        """Write soon: when edits rest for a moment, but never later than a second after the first of them."""
        now = monotonic()
        if self._first_unsaved is None:
            self._first_unsaved = now
        left = SAVE_AT_LATEST_MS - (now - self._first_unsaved) * 1000
        self._timer.start(max(0, min(SAVE_AFTER_MS, int(left))))

    # Writing

    def waits(self) -> bool:
        """Return True if anything is not written yet."""
        return self.history.waits or self._saving is not None

    def saving(self) -> bool:
        """Return True if files are being written just now."""
        return self._saving is not None

    def save_now(self) -> None:
        """Write what waits, and say that everything is saved, or why it cannot be."""
        try:
            self.flush()
        except StoreError as error:
            self.notified.emit(str(error))
            return
        if not self.waits():
            self.notified.emit("Everything is saved; edits are saved automatically.")

    def flush(self) -> None:
        """Write what waits, now. Raises StoreError where it cannot be written; the edits are taken back then."""
        self._timer.stop()
        job, self._job = self._job, None
        if job is not None:
            job.stop()
            if job.future.cancelled():
                self._saving = None
            else:
                self._finish(job)
        if not self.history.waits:
            self._note_changes()
            return
        saving = self._begin()
        try:
            result = self._write(saving)
        except Exception as error:
            self._saving = None
            if not self._refuse(error):
                raise error if isinstance(error, StoreError) else StoreError(words_of(error)) from error
            return
        self._take_saved(result, saving)

    def _finish(self, job: Job) -> None:
        """Wait for a write that is under way and take what it came to."""
        error = job.future.exception()
        saving, self._saving = self._saving, None
        if saving is None:
            return
        if error is None:
            self._take_saved(job.future.result(), saving)
        elif isinstance(error, Exception):
            self._refuse(error)
        self._timer.stop()

    def end(self) -> None:
        """Write what waits for the last time; what cannot be written is put aside and reported on standard error."""
        value = self.folio
        try:
            self._end(value)
        finally:
            self.steps.keep()

    def _end(self, value: Folio) -> None:
        from glimber.store.toml.writing import keep_aside

        try:
            self._flush_patiently()
            if self.history.waits:
                self.flush()  # the files had changed: they were read, and the edits laid over them
        except StoreError as error:
            try:
                kept = keep_aside(self.opened, value, self._now())
            except StoreError as worse:
                print(f"{worse}. What was edited last is lost: {error}", file=sys.stderr)
                return
            for path in kept:
                print(f"{error}\nWhat was edited meanwhile is in {path}", file=sys.stderr)

    def _flush_patiently(self) -> None:
        """The last time: a history that another program holds is waited for. Raises StoreError."""
        from glimber.store.practice.location import LogBusyError

        for left in reversed(range(END_TRIES)):
            try:
                self.flush()
                return
            except LogBusyError:
                if not left:
                    raise

    def _begin(self) -> _Saving:
        self._first_unsaved = None
        here = {step.id for step in self.history.stacks.undo}
        made = {step.id: step.name for step in self.history.waiting() if step.id in here}
        reverted = tuple(step.id for step in self.history.waiting() if step.id not in here)
        notes = self.history.notes()
        self._saving = _Saving(self.opened, self.history.begin_write(), notes, made, reverted)
        return self._saving

    def _start_saving(self) -> None:
        if self._saving is not None:
            self._wait()
            return
        if not self.history.waits:
            self._first_unsaved = None
            self._note_changes()
            return
        saving = self._begin()

        def done(result: Opened) -> None:
            self._job = self._saving = None
            self._take_saved(result, saving)

        def failed(error: Exception) -> bool:
            self._job = self._saving = None
            self._refuse(error)
            return True

        self._job = self._jobs.run("saving", lambda work: self._write(saving), done, failed)

    def _write(self, saving: _Saving) -> Opened:
        """Return files and history, or neither. A value that was in the files before goes back byte for byte."""
        from glimber.store.change_log import noting
        from glimber.store.toml.writing import edited_texts, restore, save_folio

        opened, value, now = saving.opened, saving.value, self._now()
        known = next((state for state in reversed(self._states) if state.folio is value), None)
        with noting(opened.folder, opened.folio, value, saving.notes, now, self.computer) as note:
            if known is not None:
                return restore(opened, known, now, note)
            return save_folio(opened, value, now, self.editor or edited_texts, note)

    def _may_wait(self) -> bool:
        """The history is held by another program: the edits wait and are written when it lets go, for a while."""
        now = monotonic()
        if self._busy_since is None:
            self._busy_since = now
            self.notified.emit("Not saved yet: another program is using the practice log. Glimber tries again automatically.")
        if now - self._busy_since > BUSY_AT_MOST_S:
            self._busy_since = None
            return False
        self._wait()
        return True

    def _note_changes(self) -> None:
        """Note in the history what others changed in the files, and what could not be noted before."""
        waiting, self._unnoted = [one for one in self._unnoted if one[0] is not one[1]], []
        if not waiting:
            return
        from glimber.core.session.changes import differences

        waiting = [one for one in waiting if differences(one[0], one[1])]
        if not waiting:
            return
        folder, now = self.opened.folder, self._now()

        def note(work: object) -> None:
            from glimber.store.change_log import record_in

            for before, after, notes in waiting:
                record_in(folder, before, after, notes, now, self.computer)

        self._noted += 1
        self._jobs.run(f"history {self._noted}", note)  # a name of its own: no other must take its place

    def _take_saved(self, saved: Opened, saving: _Saving) -> None:
        self._saving = None
        self._busy_since = None
        self.steps.save(saving.made, saving.reverted, self.opened, saved)
        before = self.folio
        self.opened = saved
        self._states.append(saved)
        del self._states[:-STATES_KEPT]
        self.history.wrote(saved.folio)
        if self.folio is not before:
            self.changed.emit()
        if self.history.waits:
            self._wait()
        self.written.emit()

    def _refuse(self, error: Exception) -> bool:
        """Files changed by somebody else are read first, and the edits wait on top of them; where files cannot be written the
        edits are taken back. Whether the edits still stand with files that are good."""
        from glimber.store.folder import folio_files
        from glimber.store.practice.location import LogBusyError
        from glimber.store.saving import ChangedOnDisk
        from glimber.store.toml.reading import read_files

        if isinstance(error, ChangedOnDisk):
            try:
                fresh = read_files(self.opened.folder, folio_files(self.opened.folder))
            except (FolioError, StoreError) as broken:
                self.notified.emit(f"Not saved yet: {broken}")
                return False
            self.read(fresh)
            return True
        if isinstance(error, LogBusyError) and self._may_wait():
            return False
        lost = self.history.refused()
        self.steps_changed.emit()
        self.changed.emit()
        self.notified.emit(f"{words_of(error)}. Taken back: {', '.join(lost) or 'the last edit'}.")
        return False


__all__ = ["EditError", "Edits"]
