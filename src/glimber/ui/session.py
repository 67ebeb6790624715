"""What the rooms show and where their edits go: one folio, its practice, its last ledger, undo and redo."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.edits.edit import EditError
from glimber.core.folio.folio import Folio
from glimber.core.notation.keys import Trigger
from glimber.core.weigh.summary import Summary
from glimber.store.cache.kept import keep, open_quickly
from glimber.store.cache.snapshot import load_snapshot, save_snapshot
from glimber.store.faults import Fault, FolioError, StoreError
from glimber.store.folder import Opened, folio_files
from glimber.store.settings import UserSettings
from glimber.store.system.watch import FolioWatch
from glimber.ui.edits import Edits, Step

if TYPE_CHECKING:
    from glimber.core.drill.tries import Record, Round
    from glimber.core.weigh.measures import Ledger
    from glimber.core.weigh.verdict import Verdict
    from glimber.store.practice.log import Log


_REST_MS = 500


class _SupersededError(Exception):
    """A newer weighing has begun."""


class Session(QObject):
    """The open folio. Signals tell the rooms that what they show is no longer so."""

    folio_changed = Signal()
    faults_changed = Signal()
    weighed = Signal()
    told = Signal(str)
    steps_changed = Signal()
    _disk_changed = Signal()
    _weighing_done = Signal(int, object)

    def __init__(self, opened: Opened, settings: UserSettings, now: Callable[[], datetime] | None = None) -> None:
        super().__init__()
        self.settings = settings
        self.now = now or (lambda: datetime.now(UTC))
        self.edits = Edits(opened, lambda: self.now())
        self.edits.changed.connect(self.folio_changed)
        self.edits.written.connect(self._written)
        self.edits.told.connect(self.told)
        self.edits.steps_changed.connect(self.steps_changed)
        self.faults: tuple[Fault, ...] = ()
        self.summary: Summary | None = load_snapshot(opened.folder)
        self.ledger: Ledger | None = None
        self.verdicts: dict[str, Verdict] = {}
        self._log: Log | None = None
        self._watch: FolioWatch | None = None
        self._weighing = 0
        self._may_weigh = threading.Event()
        self._may_weigh.set()
        self._after_round = QTimer(self)
        self._after_round.setSingleShot(True)
        self._after_round.setInterval(_REST_MS)
        self._after_round.timeout.connect(self._may_weigh.set)
        self._threads: list[threading.Thread] = []
        self._disk_changed.connect(self.read_again)
        self._weighing_done.connect(self._take_weighing)

    # The folio

    @property
    def opened(self) -> Opened:
        """The folio as the files have it."""
        return self.edits.opened

    @property
    def folio(self) -> Folio:
        """The folio as it is now, edits that are not written yet included."""
        return self.edits.folio

    @property
    def folder(self) -> Path:
        return self.opened.folder

    @property
    def computer(self) -> str:
        return self.settings.computer_name

    def start_work(self) -> None:
        """What the first painted frame does not need: watching the files and weighing."""
        self._watch = FolioWatch(self.folder, self._disk_changed.emit)
        self._watch.start()
        self.weigh_later()

    def close(self) -> None:
        """Write what waits, end the threads and close the log."""
        self.edits.end()
        if self._watch is not None:
            self._watch.stop()
        self._weighing += 1
        self._may_weigh.set()
        for thread in self._threads:
            thread.join()
        if self._log is not None:
            self._log.close()
            self._log = None

    def open_folder(self, folder: Path) -> None:
        """Go over to another folio. Raises FolioError or StoreError; then this one stays."""
        opened = open_quickly(folder)
        self.close()
        self.faults = ()
        self.summary, self.ledger, self.verdicts = load_snapshot(opened.folder), None, {}
        self.faults_changed.emit()
        self.edits.open(opened)
        self.start_work()

    def read_again(self) -> None:
        """A file changed on disk: take it in, or keep the last good value and say what is wrong."""
        if self.edits.saving():
            return  # it is Glimber's own; what else there may be is found when it is written
        try:
            from glimber.store.toml.reading import read_files

            files = folio_files(self.folder)
            if files == dict(self.opened.texts):
                self._clear_faults()
                return
            opened = read_files(self.folder, files)
        except FolioError as error:
            self.faults = tuple(error.faults)
            self.faults_changed.emit()
            return
        except StoreError as error:
            self.faults = (Fault("folio.toml", 0, str(error)),)
            self.faults_changed.emit()
            return
        self._clear_faults()
        self.edits.read(opened)
        self.weigh_later()

    def _clear_faults(self) -> None:
        if self.faults:
            self.faults = ()
            self.faults_changed.emit()

    def _put(self, opened: Opened) -> None:
        self.edits.wrote(opened)
        self.weigh_later()

    # Practice

    def log(self) -> Log:
        """The practice log, opened at the first need. Raises StoreError."""
        if self._log is None:
            from glimber.store.practice.log import open_log

            self._log = open_log(self.folder, self.folio.settings.log)
        return self._log

    def keep_ids(self, ids: set[str]) -> None:
        """Write default ids into the files before their first try. Raises StoreError."""
        from glimber.store.toml.writing import keep_ids

        self.edits.flush()
        opened = keep_ids(self.opened, ids, self.now())
        if opened is not self.opened:
            self._put(opened)

    def record(self, *records: Record) -> None:
        """Commit records at once. Raises StoreError."""
        self.log().add(*records)

    def end_round(self, whole: Round) -> None:
        """Note that a round has ended or was interrupted."""
        self.log().update(replace(whole, ended=self.now()))
        self.weigh_later()

    # Weighing, off the interface's thread

    def hold_weighing(self, held: bool) -> None:
        """While a round is on nothing is weighed: it would take time from the keys."""
        if held:
            self._after_round.stop()
            self._may_weigh.clear()
        else:
            self._after_round.start()  # not at once: the next round may begin with the next key

    def weigh_later(self) -> None:
        """Weigh everything anew; ``weighed`` tells when it is done. Only the newest weighing counts."""
        self._weighing += 1
        number, folio, computer, at = self._weighing, self.folio, self.computer, self.now()
        opened, folder, setting = self.opened, self.folder, folio.settings.log
        self._threads = [thread for thread in self._threads if thread.is_alive()]

        def work() -> None:
            from glimber.core.drill.tries import Practice
            from glimber.core.weigh.measures import measure
            from glimber.core.weigh.summarise import summarise
            from glimber.core.weigh.verdict import verdicts
            from glimber.store.cache.icons import keep_icons
            from glimber.store.practice.log import open_log

            def between() -> None:
                self._may_weigh.wait()
                if number != self._weighing:
                    raise _SupersededError

            try:
                between()
                practice = Practice()
                if "://" in setting or (folder / setting).exists():
                    with open_log(folder, setting) as log:
                        practice = log.practice()
                ledger = measure(folio, practice, at, computer, between)
                found = verdicts(ledger, between)
                summary = summarise(ledger, found)
                save_snapshot(folder, summary)
                keep(opened)
                keep_icons()
                self._weighing_done.emit(number, (ledger, found, summary))
            except _SupersededError:
                return
            except StoreError as error:
                self._weighing_done.emit(number, error)

        thread = threading.Thread(target=work, name="weighing", daemon=True)
        self._threads.append(thread)
        thread.start()

    def _take_weighing(self, number: int, result: object) -> None:
        if number != self._weighing:
            return
        if isinstance(result, StoreError):
            self.told.emit(str(result))
            return
        assert isinstance(result, tuple)
        self.ledger, self.verdicts, self.summary = result
        self.weighed.emit()

    # Edits

    def _fresh(self) -> None:
        """Write what waits and take in what has changed on disk. Raises StoreError while a file is broken."""
        self.edits.flush()
        self.read_again()
        if self.faults:
            raise StoreError(f"{self.faults[0]}; nothing was changed. Mend the file first")

    def _name(self, binding: str) -> str:
        """The name of a binding's command. Raises EditError for one that is gone since it was weighed."""
        chosen = self.folio.bindings.get(binding)
        command = self.folio.command_of(chosen) if chosen else None
        if command is None:
            raise EditError(f"{binding} is no longer a binding of this folio")
        return command.name

    def edit(self, name: str, change: Callable[[Folio], Folio]) -> None:
        """Make an edit that can be undone: in memory at once, in the files a moment later. Raises EditError, StoreError."""
        if self.faults:
            raise StoreError(f"{self.faults[0]}; nothing was changed. Mend the file first")
        self.edits.edit(name, change)

    def _written(self) -> None:
        self.weigh_later()
        self.read_again()  # what somebody else may have changed while Glimber wrote

    def flush(self) -> None:
        """Write what waits, now. Raises StoreError."""
        self.edits.flush()

    def take_move(self, binding: str, to: Trigger, swap: bool, why: str, verdict: str = "move") -> None:
        """Move a binding, in its file and in the history. Raises EditError, StoreError."""
        from glimber.store.practice.changing import take_back, take_move

        self._fresh()
        name = self._name(binding)
        taken = take_move(self.opened, self.log(), binding, to, why, self.now(), self.computer, swap, verdict)

        def undo() -> None:
            self._put(take_back(self.opened, self.log(), taken, self.now()))

        self.edits.did(Step(f"move {name}", undo, lambda: self.take_move(binding, to, swap, why, verdict)))
        self._put(taken.opened)

    def take_retire(self, binding: str, why: str) -> None:
        """Take a binding away. Raises EditError, StoreError."""
        from glimber.store.practice.changing import take_back, take_retire

        self._fresh()
        name = self._name(binding)
        taken = take_retire(self.opened, self.log(), binding, why, self.now(), self.computer)

        def undo() -> None:
            self._put(take_back(self.opened, self.log(), taken, self.now()))

        self.edits.did(Step(f"retire {name}", undo, lambda: self.take_retire(binding, why)))
        self._put(taken.opened)

    def note_verdict(self, binding: str, verdict: str, why: str) -> None:
        """Keep a verdict that changes no file. Raises EditError, StoreError."""
        from glimber.store.practice.changing import note_verdict

        name, chosen = self._name(binding), self.folio.bindings[binding]
        note_verdict(self.log(), binding, chosen.command, verdict, chosen.trigger, why, self.now(), self.computer)
        self.told.emit(f"Noted for {name}: {verdict}.")

    def undo_name(self) -> str | None:
        return self.edits.undo_name()

    def undo(self) -> None:
        """Take the last edit back."""
        self._step(self.edits.undo, "Nothing to undo.", "Undone")

    def redo(self) -> None:
        """Do the last undone edit again."""
        self._step(self.edits.redo, "Nothing to redo.", "Done again")

    def _step(self, go: Callable[[], str | None], nothing: str, done: str) -> None:
        try:
            name = go()
        except (EditError, StoreError) as error:
            self.told.emit(str(error))
            return
        self.told.emit(nothing if name is None else f"{done}: {name}.")


def later(work: Callable[[], None]) -> None:
    """After the frame now being painted."""
    QTimer.singleShot(0, work)
