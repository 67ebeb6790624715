"""Edits as they are made: shown at once, written a moment later on a thread of its own, each one undone by its name.

The folio in memory runs ahead of the files by what is not yet written. Files that somebody else has changed meanwhile are
read, and the edits that wait are made again on top of them.
"""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.edits.edit import EditError
from glimber.core.folio.folio import Folio
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened

SAVE_AFTER_MS: Final = 250
STATES_KEPT: Final = 400
Change = Callable[[Folio], Folio]


@dataclass(frozen=True)
class Step:
    """One thing that can be undone: what it was, how to take it back and how to do it again."""

    name: str
    undo: Callable[[], None]
    redo: Callable[[], None]


@dataclass(frozen=True)
class _Waiting:
    """An edit that is not written yet; without ``change`` it went back or forth to a value that was there before."""

    name: str
    change: Change | None


class Edits(QObject):
    """The folio in memory, its undo and redo, and its way into the files.

    ``changed`` tells that the folio is another; ``written`` that the files have caught up; ``told`` what went wrong.
    """

    changed = Signal()
    written = Signal()
    told = Signal(str)
    steps_changed = Signal()
    _saved = Signal(object, object, object)

    def __init__(self, opened: Opened, now: Callable[[], datetime]) -> None:
        super().__init__()
        self.opened = opened
        self.folio: Folio = opened.folio
        self._now = now
        self._states: list[Opened] = [opened]
        self._waiting: list[_Waiting] = []
        self._undo: list[Step] = []
        self._redo: list[Step] = []
        self._foreign = 0
        self._thread: threading.Thread | None = None
        self._saving: list[_Waiting] = []
        self._outcome: tuple[Opened, Folio, object] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SAVE_AFTER_MS)
        self._timer.timeout.connect(self._start_saving)
        self._saved.connect(self._take_saved)

    # Values

    def open(self, opened: Opened) -> None:
        """Go over to another folio; nothing of this one can be undone then."""
        self._undo.clear()
        self._redo.clear()
        self._waiting.clear()
        self._states = [opened]
        self._put(opened)
        self.steps_changed.emit()

    def read(self, opened: Opened) -> None:
        """The files were changed by somebody else: what they say now, with the edits that wait on top of it."""
        self._foreign += 1
        self._put(opened)

    def wrote(self, opened: Opened) -> None:
        """The files were changed by Glimber itself, together with the practice log."""
        self._put(opened)

    def _put(self, opened: Opened) -> None:
        self.opened = opened
        self._remember(opened)
        self.folio = opened.folio
        waiting, self._waiting = self._waiting, []
        for one in waiting:
            self._again(one)
        self.changed.emit()

    def _again(self, one: _Waiting) -> None:
        if one.change is None:
            self.told.emit(f"{one.name} could not be kept: the files were edited meanwhile.")
            return
        try:
            self.folio = one.change(self.folio)
        except EditError as error:
            self.told.emit(f"{one.name} could not be laid over the files as they are now: {error}")
            return
        self._waiting.append(one)
        self._timer.start()

    def _remember(self, opened: Opened) -> None:
        self._states.append(opened)
        del self._states[:-STATES_KEPT]

    # Edits

    def edit(self, name: str, change: Change) -> None:
        """Make an edit that can be undone. Raises EditError; then nothing has changed."""
        before, after = self.folio, change(self.folio)
        if after is before:
            return
        self._show(after, _Waiting(name, change))
        self.did(Step(name, self._going(before, name), self._going(after, name)))

    def _going(self, value: Folio, name: str) -> Callable[[], None]:
        """Going back or forth to a value, as long as nobody else has edited the files since."""
        foreign = self._foreign

        def go() -> None:
            if self._foreign != foreign:
                raise StoreError(
                    "The files have been edited since; take it back there, or put a copy from backups/ in place."
                )
            self._show(value, _Waiting(name, None))

        return go

    def _show(self, folio: Folio, waiting: _Waiting) -> None:
        self.folio = folio
        self._waiting.append(waiting)
        self._timer.start()
        self.changed.emit()

    # Undo

    def did(self, step: Step) -> None:
        """Note something that can be undone."""
        self._undo.append(step)
        self._redo.clear()
        self.steps_changed.emit()

    def undo_name(self) -> str | None:
        return self._undo[-1].name if self._undo else None

    def undo(self) -> str | None:
        """Take the last edit back; its name, None where there is none. Raises EditError, StoreError."""
        if not self._undo:
            return None
        step = self._undo[-1]
        step.undo()
        self._redo.append(self._undo.pop())
        self.steps_changed.emit()
        return step.name

    def redo(self) -> str | None:
        """Do the last undone edit again; its name, None where there is none. Raises EditError, StoreError."""
        if not self._redo:
            return None
        step, rest = self._redo[-1], self._redo[:-1]
        kept = list(self._undo)
        step.redo()
        # Doing it again may have noted a step of its own, with a way back that is newer.
        self._undo = [*kept, self._undo[-1] if len(self._undo) > len(kept) else step]
        self._redo = rest
        self.steps_changed.emit()
        return step.name

    # Writing

    def waits(self) -> bool:
        """Whether anything is not written yet."""
        return bool(self._waiting or self._saving)

    def saving(self) -> bool:
        """Whether files are being written just now."""
        return bool(self._saving)

    def flush(self) -> None:
        """Write what waits, now. Raises StoreError where it cannot be written; the edits are taken back then."""
        self._timer.stop()
        if self._thread is not None:
            self._thread.join()
            self._thread = None
        if self._outcome is not None:
            self._take_saved(*self._outcome)
            self._timer.stop()
        if not self.waits():
            return
        self._waiting, self._saving = [*self._saving, *self._waiting], []
        value = self.folio
        try:
            result = self._write(self.opened, value)
        except (StoreError, FolioError) as error:
            if not self._refuse(error):
                raise StoreError(str(error)) from error
            return
        self._waiting = []
        self._caught_up(result, value)

    def end(self) -> None:
        """Write what waits for the last time; what cannot be written is put aside and told on standard error."""
        from glimber.store.toml.writing import keep_aside

        try:
            self.flush()
        except StoreError as error:
            try:
                kept = keep_aside(self.opened, self.folio, self._now()) if self.waits() else []
            except StoreError as worse:
                print(f"{worse}. What was edited last is lost: {error}", file=sys.stderr)
                return
            for path in kept:
                print(f"{error}\nWhat was edited meanwhile is in {path}", file=sys.stderr)

    def _start_saving(self) -> None:
        if self._thread is not None and self._thread.is_alive():
            self._timer.start()
            return
        if not self._waiting:
            return
        self._saving, self._waiting = self._waiting, []
        opened, value = self.opened, self.folio

        def work() -> None:
            result: Opened | Exception
            try:
                result = self._write(opened, value)
            except (StoreError, FolioError) as error:
                result = error
            self._outcome = (opened, value, result)
            self._saved.emit(*self._outcome)

        self._thread = threading.Thread(target=work, name="saving", daemon=True)
        self._thread.start()

    def _write(self, opened: Opened, value: Folio) -> Opened:
        """A value that was in the files before goes back byte for byte; another one is edited in."""
        from glimber.store.toml.plain import to_plain
        from glimber.store.toml.writing import restore, save_folio

        known = next((state for state in reversed(self._states) if state.folio is value), None)
        if known is not None:
            return restore(opened, known, self._now())
        saved = save_folio(opened, value, self._now())
        # What was derived from the value in memory stays good where the files say the same, in whatever order.
        return replace(saved, folio=value) if to_plain(saved.folio) == to_plain(value) else saved

    def _take_saved(self, opened: Opened, value: Folio, result: object) -> None:
        self._outcome = None
        if self.opened is not opened or not self._saving:
            return  # taken already, or another folio
        if isinstance(result, Opened):
            self._saving = []
            self._caught_up(result, value)
            return
        assert isinstance(result, Exception)
        self._waiting, self._saving = [*self._saving, *self._waiting], []
        self._refuse(result)

    def _caught_up(self, result: Opened, value: Folio) -> None:
        self.opened = result
        self._remember(result)
        if self.folio is value and result.folio is not value:
            self.folio = result.folio
            self.changed.emit()
        self.written.emit()

    def _refuse(self, error: Exception) -> bool:
        """Files changed by somebody else are read first, and the edits wait on top of them; where files cannot be written the
        edits are taken back. Whether the edits still stand with files that are good."""
        from glimber.store.folder import folio_files
        from glimber.store.toml.reading import read_files
        from glimber.store.toml.writing import ChangedOnDisk

        if isinstance(error, ChangedOnDisk):
            try:
                fresh = read_files(self.opened.folder, folio_files(self.opened.folder))
            except (FolioError, StoreError) as broken:
                self.told.emit(f"Not saved yet: {broken}")
                return False
            self.read(fresh)
            return True
        lost = {one.name for one in self._waiting}
        self._waiting = []
        while self._undo and self._undo[-1].name in lost:
            self._undo.pop()
        self.folio = self.opened.folio
        self.steps_changed.emit()
        self.changed.emit()
        self.told.emit(f"{error}. Taken back: {', '.join(sorted(lost))}.")
        return False
