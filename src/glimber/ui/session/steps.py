"""The steps of a folio over restarts, beside its edits: recorded with each save, recalled when the edits of today are used up."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Mapping
from datetime import datetime
from threading import Lock
from typing import TYPE_CHECKING, Final

from glimber.core.edit.edit import EditError
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.ui.session.jobs import Jobs

if TYPE_CHECKING:
    from pathlib import Path

    from glimber.core.model.folio import Folio
    from glimber.core.session.history import History
    from glimber.core.session.journal import Entry, Files, Journal

_JOB: Final = "steps"


class Steps:
    """``where`` names the room that an edit is made in."""

    def __init__(self, opened: Opened, now: Callable[[], datetime], jobs: Jobs) -> None:
        self.where: Callable[[], str] = lambda: ""
        self._now, self._jobs = now, jobs
        self._opened = opened
        self._read: Journal | None = None
        self._kept: Journal | None = None
        self._writing = Lock()

    def open(self, opened: Opened) -> None:
        """Go over to another folio."""
        self.keep()
        self._opened, self._read, self._kept = opened, None, None

    def journal(self) -> Journal:
        """Return the journal of the folio, read at the first need."""
        if self._read is None:
            from glimber.store.steps import load_steps

            self._kept = load_steps(self._opened.folder)
            self._read = self._kept.resume(self._opened.texts, self._now())
        return self._read

    def _use(self, journal: Journal) -> None:
        self._read, folder = journal, self._opened.folder
        self._jobs.run(_JOB, lambda work: self._write(folder, journal), lambda _: None, lambda error: True)

    def _write(self, folder: Path, journal: Journal) -> None:
        """Write a journal unless there is a newer one, or another folio, by now."""
        from glimber.store.steps import save_steps

        with self._writing:
            if journal is self._read:
                save_steps(folder, journal)
                self._kept = journal

    def keep(self) -> None:
        """Write what is not written yet. A journal that cannot be written is only shorter next time."""
        self._jobs.stop(_JOB)
        if self._read is not None and self._read is not self._kept:
            with contextlib.suppress(StoreError):
                self._write(self._opened.folder, self._read)

    # What happens

    def save(self, made: Mapping[int, str], reverted: Iterable[int], before: Opened, after: Opened) -> None:
        """Record a save. Where the journal does not fit the files it begins again."""
        from glimber.core.session.journal import BrokenError, Journal

        arguments = (made, reverted, before.texts, after.texts, self._now(), self.where())
        try:
            journal = self.journal().save(*arguments)
        except BrokenError:
            journal = Journal().save(made, (), before.texts, after.texts, self._now(), self.where())
        self._opened = after
        self._use(journal)

    def see(self, before: Opened, after: Opened) -> None:
        """Record that somebody else changed the files."""
        journal = self.journal().see(before.texts, after.texts, self._now())
        self._opened = after
        self._use(journal)

    # What there was

    def next_name(self) -> str | None:
        """Return the name of the step of an earlier day that would be taken back next."""
        entry = self.journal().newest()
        return ", ".join(entry.names) if entry is not None else None

    def recall(self, history: History, opened: Opened, undone: bool = False) -> None:
        """Make the newest step of an earlier day one of today; nothing where there is none. Raises EditError."""
        journal = self.journal()
        entry = (journal.redo[-1] if journal.redo else None) if undone else journal.newest()
        if entry is None or entry.steps:
            return
        before, after = self._folios(entry, opened)
        step = history.recall(", ".join(entry.names), before, after, undone)
        self._read = journal.recalled(entry, step.id)

    def folio_at(self, to: int, opened: Opened) -> Folio:
        """Return the folio without the own steps after a state; what others changed since stays. Raises EditError."""
        journal, value = self.journal(), opened.folio
        for first, last in journal.runs_after(to):
            value = self._without(journal, first, last, opened, value)
        return value

    def folio_without(self, id: int, opened: Opened) -> Folio:
        """Return the folio without a single own step. Raises EditError."""
        journal = self.journal()
        entry = next((one for one in journal.undo if one.id == id), None)
        if entry is None:
            raise EditError("that step is not in the history any more")
        return self._without(journal, entry, entry, opened, opened.folio)

    def _without(self, journal: Journal, first: Entry, last: Entry, opened: Opened, value: Folio) -> Folio:
        """Lay the difference of a run of entries, turned round, over a value."""
        from glimber.core.session.journal import BrokenError
        from glimber.core.session.merge import ClashError, over

        try:
            after = journal.state_after(last.id, opened.texts)
            before = journal.state_after(journal.id_before(first), opened.texts)
            return over(self._folio(after), self._folio(before), value)
        except (BrokenError, ClashError) as error:
            raise EditError(f"{', '.join(first.names)}: {error}; nothing was changed") from error

    def _folios(self, entry: Entry, opened: Opened) -> tuple[Folio, Folio]:
        from glimber.core.session.journal import BrokenError

        try:
            before, after = self.journal().states_of(entry, opened.texts)
        except BrokenError as error:
            raise EditError(f"{', '.join(entry.names)}: {error}; nothing was changed") from error
        return self._folio(before), self._folio(after)

    def _folio(self, texts: Files) -> Folio:
        from glimber.store.toml.reading import read_files

        try:
            return read_files(self._opened.folder, texts, lenient=True).folio
        except FolioError as error:
            raise EditError(f"the files as they were then do not go with the others any more: {error}") from error
