"""The session shown by the rooms and edited through them: one folio, its practice, its last ledger, undo and redo."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.edit.edit import EditError, move_binding, move_together, retire_binding
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Trigger
from glimber.core.session.changes import Note, OldTrigger
from glimber.core.session.read_again import read_again_words
from glimber.store.cache.folio_cache import keep, open_quickly
from glimber.store.faults import Fault, FolioError, StoreError
from glimber.store.folder import Opened, folio_files
from glimber.store.settings import UserSettings
from glimber.store.system.watch import FolioWatch
from glimber.ui.session.delivery import ServerDelivery
from glimber.ui.session.edits import Edits
from glimber.ui.session.jobs import Jobs, Work, words_of

if TYPE_CHECKING:
    from glimber.core.decide.summary import Summary
    from glimber.core.decide.verdict import Verdict
    from glimber.core.practice.tries import Change, Record, Round, Try
    from glimber.core.stats.ledger import Ledger
    from glimber.store.practice.log import Log
    from glimber.store.practice.log_identity import LogReplacedError
    from glimber.store.practice.set_aside import Aside
    from glimber.store.toml.edit_process import SaveHelper


_REST_MS = 500
_READ_SOON_MS = 60
_LOG_WAIT_S = 0.02


class Session(QObject):
    """The open folio. Signals tell the rooms that what they show is no longer so."""

    folio_changed = Signal()
    faults_changed = Signal()
    weighed = Signal()
    notified = Signal(str)
    steps_changed = Signal()
    settings_changed = Signal()
    played = Signal(str, str, object)
    """Free play or a device: the board, the layer in use, the keys that are down; no layer when it ends."""
    _disk_changed = Signal()

    def __init__(self, opened: Opened, settings: UserSettings, now: Callable[[], datetime] | None = None) -> None:
        super().__init__()
        self.settings = settings
        self.now = now or (lambda: datetime.now(UTC))
        self.jobs = Jobs(self)
        self.jobs.failed.connect(lambda name, words: self.notified.emit(f"{name.capitalize()} failed: {words}"))
        self.edits = Edits(opened, lambda: self.now(), self.jobs, settings.computer_name)
        self.edits.changed.connect(self._put_off_work)
        self.edits.changed.connect(self.folio_changed)
        self.edits.written.connect(self._written)
        self.edits.notified.connect(self.notified)
        self.edits.steps_changed.connect(self.steps_changed)
        self.faults: tuple[Fault, ...] = opened.faults
        self._summary: Summary | None = None
        self._summary_read = False
        self.ledger: Ledger | None = None
        self._weighed_for: tuple[Path, str] | None = None
        self.verdicts: dict[str, Verdict] = {}
        self._log: Log | None = None
        self._aside: Aside | None = None
        self._delivery = ServerDelivery(self.jobs, lambda: (self.folder, self.folio.settings.log), self)
        self._delivery.notified.connect(self.notified)
        self._delivery.arrived.connect(lambda: None if self._round_on else self.weigh_later())
        self._helper: SaveHelper | None = None
        self._watch: FolioWatch | None = None
        self._round_on: bool = False
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(lambda: self.jobs.hold(False))
        self._disk_changed.connect(self.read_again)

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

    @property
    def summary(self) -> Summary | None:
        """The last ledger as it is shown: that of the last time until it has been weighed again."""
        if not self._summary_read:  # by the first room that shows it
            from glimber.store.cache.snapshot import load_snapshot

            self.summary = load_snapshot(self.folder)
        return self._summary

    @summary.setter
    def summary(self, summary: Summary | None) -> None:
        self._summary, self._summary_read = summary, True

    def start_work(self) -> None:
        """Start what the first painted frame does not need: watching the files and weighing."""
        self._watch = FolioWatch(self.folder, self._disk_changed.emit)
        self._watch.start()
        self.jobs.run("the log's copy", self._copy_log)
        self._delivery.start()
        self.weigh_later()

    def _copy_log(self, work: Work) -> None:
        """Once a day a copy of the log among the backups; what a killed save has left is swept up."""
        from glimber.store.practice.backups import copy_daily
        from glimber.store.saving import tidy

        tidy(self.folder)
        copy_daily(self.folder, self.folio.settings.log, self.now())

    def start_helper(self) -> None:
        """From now on texts are edited by a process of its own."""
        from glimber.store.toml.edit_process import SaveHelper

        self._helper = SaveHelper()
        self._helper.start()
        self.edits.editor = self._helper.edit

    def close(self) -> None:
        """Write what waits, end what goes on and close the log."""
        self._leave()
        self.jobs.close()
        if self._helper is not None:
            self._helper.close()

    def _leave(self) -> None:
        self.edits.end()
        if self._watch is not None:
            self._watch.stop()
        self.jobs.hold(False)
        self.jobs.stop("weighing")
        if self._log is not None:
            self._log.close()
            self._log = None

    def open_folder(self, folder: Path) -> None:
        """Go over to another folio. Raises FolioError or StoreError; then this one stays."""
        opened = open_quickly(folder)
        self._leave()
        self.faults = opened.faults
        self._summary, self._summary_read = None, False
        self.ledger, self.verdicts = None, {}
        self.faults_changed.emit()
        self.edits.open(opened)
        self.start_work()

    def read_again(self) -> None:
        """A file changed on disk: take it in, or keep the last good value and say what is wrong. Parsed by a job."""
        if self.edits.saving():
            self._read_soon()  # it may be Glimber's own; what else there is, is seen when that is written
            return
        before = self.opened

        def read(work: Work) -> Opened | None:
            from glimber.store.backups import keep_replaced
            from glimber.store.saving import recover
            from glimber.store.toml.reading import read_files

            recover(before.folder)
            files = folio_files(before.folder)
            if files == dict(before.texts):
                return None
            keep_replaced(before.folder, before.texts, files, self.now())
            return read_files(before.folder, files)

        def done(found: Opened | None) -> None:
            if self.opened is not before or self.edits.saving():
                self._read_soon()  # Glimber wrote, or another folio was opened, while it was read
                return
            if found is not None:
                self.edits.read(found)
            self._clear_faults()
            if found is not None:
                names = [name for name in {**found.texts, **before.texts} if found.texts.get(name) != before.texts.get(name)]
                self.notified.emit(read_again_words(names, before.folio, found.folio))
                self.weigh_later()

        def failed(error: Exception) -> bool:
            if self.folder != before.folder:
                return True  # of another folio, that is not open any more
            if isinstance(error, FolioError):
                self.faults = tuple(error.faults)
            else:
                self.faults = (Fault("folio.toml", 0, words_of(error)),)
            self.faults_changed.emit()
            return True

        self.jobs.run("reading the folio", read, done, failed)

    def _read_soon(self) -> None:
        QTimer.singleShot(_READ_SOON_MS, self, self.read_again)

    def _clear_faults(self) -> None:
        if self.faults != self.opened.faults:
            self.faults = self.opened.faults
            self.faults_changed.emit()

    # Practice

    def log(self) -> Log:
        """Return the practice log, opened at the first need. Raises StoreError."""
        if self._log is None:
            from glimber.store.practice.log import open_log

            self._log = open_log(self.folder, self.folio.settings.log, wait_s=_LOG_WAIT_S)
        if self._aside is not None:
            from glimber.store.practice.log import merge

            merge(self._log, self._aside.records)
            self._aside = None
        return self._log

    def confirm_server(self) -> None:
        """Agree that this folio keeps its practice on the server it names."""
        from glimber.store.practice.location import confirm_server, setting_of

        try:
            shown = confirm_server(setting_of(self.folder, self.folio.settings.log))
        except StoreError as error:
            self.notified.emit(str(error))
            return
        self.notified.emit(f"{shown}: confirmed on this computer.")
        self.weigh_later()

    def has_unagreed_places(self) -> bool:
        """Return True if the folio came in a pack that names places outside it, and nobody agreed to them."""
        from glimber.store.agreements import unagreed

        return bool(unagreed(self.folder))

    def agree_places(self) -> None:
        """Agree that the folio reads and writes the places outside it that its pack names."""
        from glimber.store.agreements import agree, unagreed

        places = unagreed(self.folder)
        agree(self.folder, places)
        self.notified.emit(f"Agreed to on this computer: {', '.join(places)}.")

    def _lost_log(self, error: LogReplacedError, *waiting: Record) -> StoreError:
        """Put aside what was written to a log whose file was replaced, and return the error to show."""
        from glimber.store.practice.set_aside import put_aside, report_of

        assert self._log is not None
        self._aside = put_aside(self._log, waiting, self.folder, self.now())
        self._log = None
        return StoreError(report_of(self._aside, error, len(waiting)))

    def keep_ids(self, ids: set[str]) -> None:
        """Write default ids into the files before their first try. Raises StoreError."""
        self.edits.flush()
        if any(id in self.folio.bindings and not self.folio.bindings[id].given_id for id in ids):
            self.edits.state(ids)
            self.weigh_later()

    def record(self, *records: Record) -> None:
        """Commit records at once; nothing is waited for. Raises StoreError, LogBusyError while another program writes.

        Records for a server are committed to a file of this computer and delivered from there, off the interface thread.
        """
        from glimber.store.practice.log_identity import LogReplacedError

        if self._delivery.on_server:
            self._delivery.add(records)
            return
        try:
            self.log().add(*records)
        except LogReplacedError as error:
            raise self._lost_log(error, *records) from error

    def before_round(self) -> tuple[list[Change], int]:
        """Return all changes, and the number of the next round; of a server as they were last weighed, with what waits. Raises
        StoreError."""
        from glimber.core.practice.log import Practice
        from glimber.core.practice.tries import Change, Round

        if not self._delivery.on_server:
            log = self.log()
            return log.records(Change), log.count(Round) + 1
        practice = self.ledger.practice if self.ledger is not None else Practice()
        records = {one.id: one for one in (*practice.changes, *practice.rounds, *self._delivery.waiting().records())}
        rounds = sum(isinstance(one, Round) for one in records.values())
        return [one for one in records.values() if isinstance(one, Change)], rounds + 1

    def round_so_far(self, round_id: str) -> tuple[list[Try], list[Change], int]:
        """Return the tries of an interrupted round, all changes, and how many rounds there are. Raises StoreError."""
        from glimber.core.practice.tries import Change, Round, Try

        if not self._delivery.on_server:
            log = self.log()
            return log.tries_of_round(round_id), log.records(Change), log.count(Round)
        changes, number = self.before_round()
        known = self.ledger.practice.tries if self.ledger is not None else ()
        waiting = [one for one in self._delivery.waiting().records() if isinstance(one, Try)]
        tries = {one.id: one for one in (*known, *waiting) if one.round == round_id}
        return sorted(tries.values(), key=lambda one: one.at), changes, number - 1

    def end_round(self, whole: Round) -> None:
        """Note that a round has ended or was interrupted. Raises StoreError."""
        from glimber.store.practice.log_identity import LogReplacedError

        ended = replace(whole, ended=self.now())
        if self._delivery.on_server:
            self._delivery.add([ended])
            return
        try:
            self.log().update(ended)
        except LogReplacedError as error:
            self.notified.emit(str(self._lost_log(error)))
            self.log().update(ended)
        self.rest_log()
        self.weigh_later()

    def rest_log(self) -> None:
        """Nobody is at the keys: what waits beside the log's file is taken into it."""
        if self._log is not None:
            self._log.rest()

    # Weighing, off the interface's thread

    def hold_work(self, held: bool) -> None:
        """While a round is on nothing is weighed or worked out beside it: it would take time from the keys."""
        self._round_on = held
        self._put_off_work()

    def _put_off_work(self) -> None:
        """Postpone background work until keys have rested for a moment: the next edit or round may begin with the next key."""
        self.jobs.hold(True)
        if self._round_on:
            self._rest.stop()
        else:
            self._rest.start()

    def weigh_later(self) -> None:
        """Weigh everything again; ``weighed`` tells when it is done. Only the newest weighing counts."""
        folio, computer, at = self.folio, self.computer, self.now()
        opened, folder, setting = self.opened, self.folder, folio.settings.log
        before, judged = (self.ledger, self.verdicts) if self._weighed_for == (folder, computer) else (None, {})

        def weigh(work: Work) -> tuple[Ledger, dict[str, Verdict], Summary]:
            from glimber.core.decide.reuse import of_folio, still_good
            from glimber.core.decide.summarise import summarise
            from glimber.core.decide.verdict import verdicts
            from glimber.core.stats.measures import measure
            from glimber.store.cache.icons import keep_icons
            from glimber.store.cache.snapshot import save_snapshot
            from glimber.store.practice.log import read_practice

            work.give_way()
            practice = read_practice(folder, setting)
            if before is not None and still_good(before, folio, practice, at):
                ledger, found = of_folio(before, judged, folio)
            else:
                ledger = measure(folio, practice, at, computer, work.give_way)
                found = verdicts(ledger, work.give_way, computer)
            summary = summarise(ledger, found)
            save_snapshot(folder, summary)
            keep(opened)
            keep_icons()
            return ledger, found, summary

        self._delivery.start()

        def take(result: tuple[Ledger, dict[str, Verdict], Summary]) -> None:
            self._weighed_for = (folder, computer)
            self._take_weighing(result)

        self.jobs.run("weighing", weigh, take)

    def _take_weighing(self, result: tuple[Ledger, dict[str, Verdict], Summary]) -> None:
        self.ledger, self.verdicts, self.summary = result
        self.weighed.emit()

    # Edits

    def _name(self, binding: str) -> str:
        """Return the name of a binding's command. Raises EditError for one that is gone since it was weighed."""
        chosen = self.folio.bindings.get(binding)
        command = self.folio.command_of(chosen) if chosen else None
        if command is None:
            raise EditError(f"{binding} is no longer a binding of this folio")
        return command.name

    def edit(self, name: str, change: Callable[[Folio], Folio], notes: Mapping[str, Note] | None = None) -> None:
        """Make an edit that can be undone: in memory at once, in the files a moment later. Raises EditError, StoreError."""
        if self.faults:
            raise StoreError(f"{self.faults[0]}; nothing was changed. Fix the file first")
        self.edits.edit(name, change, notes)

    def _written(self) -> None:
        self.weigh_later()
        self.read_again()  # what somebody else may have changed while Glimber wrote

    def flush(self) -> None:
        """Write what waits, now. Raises StoreError."""
        self.edits.flush()

    def take_move(
        self, binding: str, to: Trigger, swap: bool, why: str, verdict: str = "move", old: OldTrigger = "dead"
    ) -> None:
        """Move a binding; the history keeps the verdict and the why. Raises EditError, StoreError."""
        swapped = move_binding(self.folio, binding, to, swap).swapped
        notes = {id: Note(verdict, why, old) for id in (binding, swapped) if id is not None}
        name = self._name(binding)
        self.edit(f"move {name}", lambda folio: move_binding(folio, binding, to, swap).folio, notes)

    def take_retire(self, binding: str, why: str) -> None:
        """Take a binding away; its command waits on the bench. Raises EditError, StoreError."""
        name = self._name(binding)
        self.edit(f"retire {name}", lambda folio: retire_binding(folio, binding), {binding: Note("retire", why)})

    def take_steps(self, name: str, steps: Mapping[str, Trigger], why: str) -> None:
        """Move several bindings at once, as one step of history. Raises EditError, StoreError."""
        notes = {id: Note("move", why) for id in steps}
        self.edit(name, lambda folio: move_together(folio, steps), notes)

    def tick(self, changes: Iterable[Change], done: bool = True) -> None:
        """Note that changes are set where they belong, or are not after all. Raises StoreError."""
        from glimber.store.change_log import tick

        tick(self.log(), changes, self.now() if done else None)
        self.weigh_later()

    def note_verdict(
        self, binding: str, verdict: str, why: str, until: datetime | None = None, swap_with: str | None = None
    ) -> None:
        """Keep a verdict that changes no file. Raises EditError, StoreError."""
        from glimber.store.change_log import note_verdict

        name = self._name(binding)
        note_verdict(self.log(), self.folio.bindings[binding], verdict, why, self.now(), self.computer, until, swap_with)
        self.notified.emit(f"Noted for {name}: {verdict}.")

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
            self.notified.emit(str(error))
            return
        self.notified.emit(nothing if name is None else f"{done}: {name}.")


def later(work: Callable[[], None]) -> None:
    """After the frame now being painted."""
    QTimer.singleShot(0, work)
