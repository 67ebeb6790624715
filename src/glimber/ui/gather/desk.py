"""The selection of the Gather room: the source that was read, the command, and the linked sources with their state."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QTimer, Signal

from glimber.core.model.folio import Source
from glimber.ui.session.desk import Desk
from glimber.ui.session.jobs import Work, words_of
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.readers.found import Found
    from glimber.store.system.watch import FilesWatch

_JOB = "reading"
_PROGRAMS_EVERY_MS = 10_000
"""Interval at which Glimber checks whether a watched program was started."""


class WaysToRead(Struct, frozen=True):
    """Choices that override how a source is read: its kind, what a comma separates, whether a bare capital means Shift."""

    kind: str | None = None
    comma: Literal["steps", "alternates"] | None = None
    capitals: bool | None = None


class Reading(Struct, frozen=True):
    """A source that was read: what it is called, of which kind it is, and what was found in it.

    ``path``: where it lies, for one that is a file; ``source``: the linked one that it is; ``running``: the program whose menus
    it is.
    """

    name: str
    kind: str
    found: Found
    path: Path | None = None
    source: str | None = None
    second: str | None = None
    other: WaysToRead = WaysToRead()
    running: str | None = None

    @property
    def program(self) -> str:
        """The program that the source is of, as far as it says so itself; empty otherwise."""
        from glimber.core.edit.program_name import program_named

        return program_named(self.found.title, self.path.stem if self.path is not None else "")


class SourceState(Struct, frozen=True):
    """The state of one linked source: its last good rows stay when it breaks."""

    source: Source
    name: str = ""
    kind: str = ""
    found: Found | None = None
    read_at: str = ""
    wrong: str = ""
    absent: bool = False
    """The program whose menus it is does not run now."""

    def words(self) -> str:
        """Its state in a line."""
        if self.wrong:
            return f"broken: {self.wrong}"
        if self.absent:
            return f"read when {self.source.running} is started" if self.source.watch else f"{self.source.running} does not run"
        if self.found is None:
            return "not read yet"
        return f"read {self.read_at}, {len(self.found.rows)} rows" + (" · watched" if self.source.watch else "")


class GatherDesk(Desk):
    """``read`` tells that another source is in front, or the same read again; ``progressed`` how far a reading is;
    ``sources_changed`` that a linked source is in another state; ``front_changed`` that another command is in front."""

    read = Signal()
    progressed = Signal(str)
    sources_changed = Signal()
    front_changed = Signal()
    _saved = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.reading: Reading | None = None
        self.states: dict[str, SourceState] = {}
        self.front: str | None = None
        self._data: tuple[str, bytes, Path | None] | None = None
        self._running: str | None = None
        self._watch: FilesWatch | None = None
        self._watching = False
        self._seen: dict[str, str] = {}
        self._looking: QTimer | None = None
        self._saved.connect(self._read_saved)
        self._states_of_folio()

    def bring(self, ref: str | None) -> None:
        """Bring a command to the front."""
        self.front = ref
        self.front_changed.emit()

    # What is read

    def read_bytes(
        self,
        name: str,
        data: bytes,
        path: Path | None = None,
        column: str | None = None,
        other: WaysToRead = WaysToRead(),
        running: str | None = None,
    ) -> None:
        """Read a source that is at hand, by a job: a long list must not hold up the window. The newest one counts."""
        self._data = (name, data, path)
        self._running = running
        self.progressed.emit(f"Reading {name}… Esc stops.")
        system, bundles = self.session.settings.system, self.session.folio.bundles

        def work(work: Work) -> Reading:
            from glimber.readers.found import Options, StoppedError
            from glimber.readers.process import read_apart

            def watch(count: int) -> None:
                if work.stopped:
                    raise StoppedError
                if count % 1000 == 0:
                    work.tell(0.0, f"{count:,}")

            options = Options(column, watch, other.comma, other.capitals, page=True, system=system, bundles=bundles)
            chosen = read_apart(name, data, options, other.kind)
            return Reading(name, chosen.kind, chosen.found, path, second=chosen.second, other=other, running=running)

        job = self.session.jobs.run(_JOB, work, self._take)

        def tell(share: float, rows: str) -> None:
            if not job.work.stopped:
                self.progressed.emit(f"Reading {name}, {rows} rows so far… Esc stops.")

        job.work.progressed.connect(tell)

    def read_again(self, column: str) -> None:
        """The same source by another of its columns."""
        if self.reading is not None and self.reading.source is not None:
            self.read_source(self.reading.source, column)
        elif self._data is not None:
            name, data, path = self._data
            other = self.reading.other if self.reading is not None else WaysToRead()
            self.read_bytes(name, data, path, column, other, self._running)

    def read_in_ways(self, other: WaysToRead) -> None:
        """The source that is shown, read in another way."""
        if self._data is not None and self.reading is not None and self.reading.source is None:
            name, data, path = self._data
            self.read_bytes(name, data, path, None, other, self._running)

    def put_away(self) -> None:
        """Leave the source, or stop reading it."""
        self.session.jobs.stop(_JOB)
        self.reading = None
        self.read.emit()

    def _take(self, reading: Reading) -> None:
        self.reading = reading
        self.read.emit()

    # Linked sources

    def refresh(self) -> None:
        """The folio may name other sources now."""
        if self._states_of_folio():
            self._watch_files()
            self.sources_changed.emit()

    def _states_of_folio(self) -> bool:
        sources = self.folio.settings.sources
        if {id: state.source for id, state in self.states.items()} == dict(sources):
            return False
        known = self.states
        self.states = {id: replace(known.get(id, SourceState(source)), source=source) for id, source in sources.items()}
        return True

    def begin(self) -> None:
        """Watch the files from now on."""
        self._watching = True
        self._watch_files()

    def end(self) -> None:
        """End the watching for good."""
        self._watching = False
        self._watch_files()

    def _watch_files(self) -> None:
        if self._watch is not None:
            self._watch.stop()
            self._watch = None
        self._watch_programs()
        if not self._watching:
            return
        from glimber.store.system.sources import path_of
        from glimber.store.system.watch import FilesWatch

        watched = [state.source for state in self.states.values() if state.source.watch]
        paths = {source.id: path_of(source, self.session.folder) for source in watched}
        files = {path.resolve(): id for id, path in paths.items() if path is not None}
        if files:
            self._watch = FilesWatch(
                files, lambda saved: self._saved.emit([files[p.resolve()] for p in saved if p.resolve() in files])
            )
            self._watch.start()

    def _watch_programs(self) -> None:
        """Look now and then whether a program whose menus are watched was started; nothing is asked where there is none."""
        wanted = self._watching and any(one.source.watch and one.source.running for one in self.states.values())
        if not wanted:
            if self._looking is not None:
                self._looking.stop()
            return
        if self._looking is None:
            self._looking = QTimer(self, interval=_PROGRAMS_EVERY_MS)
            self._looking.timeout.connect(self._look_for_programs)
        if not self._looking.isActive():
            self._looking.start()
            self._look_for_programs()

    def _look_for_programs(self) -> None:
        def look(work: Work) -> dict[str, str]:
            from glimber.store.faults import StoreError
            from glimber.store.system.running_menus import programs

            work.give_way()
            try:
                return {one.name.casefold(): one.ref[0] for one in programs(titles=False)}
            except StoreError:
                return {}  # the bus is off: nothing that is watched runs

        self.session.jobs.run("programs that run", look, self._saw)

    def _saw(self, there: Mapping[str, str]) -> None:
        for id, state in list(self.states.items()):
            name = (state.source.running or "").casefold()
            if state.source.watch and name and there.get(name) != self._seen.get(id):
                self._seen[id] = there.get(name, "")
                if name in there:
                    self._start(id, None, self.reading is not None and self.reading.source == id)
                elif not state.absent:
                    self.states[id] = replace(state, absent=True)
                    self.sources_changed.emit()

    def _read_saved(self, ids: list[str]) -> None:
        for id in ids:
            if id in self.states:
                self._start(id, None, self.reading is not None and self.reading.source == id)

    def read_source(self, id: str, column: str | None = None) -> None:
        """Bring a linked source to the front, read again."""
        self._start(id, column, True)

    def _start(self, id: str, column: str | None, to_front: bool) -> None:
        source, folder, system = self.states[id].source, self.session.folder, self.session.settings.system
        bundles = self.session.folio.bundles

        def work(work: Work) -> tuple[str, str, Found]:
            from glimber.readers.found import Options, StoppedError
            from glimber.readers.process import read_apart
            from glimber.store.agreements import refuse_unagreed
            from glimber.store.system.sources import read_source

            refuse_unagreed(source, folder)
            name, data = read_source(source, folder)

            def watch(count: int) -> None:
                if work.stopped:
                    raise StoppedError

            options = Options(column or source.column, watch, page=True, system=system, bundles=bundles)
            chosen = read_apart(name, data, options)
            return name, chosen.kind, chosen.found

        def done(result: tuple[str, str, Found]) -> None:
            name, kind, found = result
            if not found.rows:
                self._broken(id, _why_none(found), to_front)
                return
            at = f"{self.session.now().astimezone():%H:%M}"
            if id in self.states:
                self.states[id] = SourceState(self.states[id].source, name, kind, found, at)
                self._show(id, to_front)

        def failed(error: Exception) -> bool:
            from glimber.store.system.accessibility import BusOffError, NotRunningError

            if source.running is not None and isinstance(error, (BusOffError, NotRunningError)) and id in self.states:
                self.states[id] = replace(self.states[id], absent=True, wrong="")
                if to_front:
                    self.tell(words_of(error))
                self.sources_changed.emit()
            else:
                self._broken(id, words_of(error), to_front)
            return True

        self.session.jobs.run(f"reading {id}", work, done, failed)

    def _broken(self, id: str, wrong: str, to_front: bool) -> None:
        if id in self.states:
            self.states[id] = replace(self.states[id], wrong=wrong)
            if to_front:
                self.tell(f"{id} is {self.states[id].words()}")
            self._show(id, to_front)

    def _show(self, id: str, to_front: bool) -> None:
        state = self.states[id]
        self.sources_changed.emit()
        if to_front and state.found is not None:
            self.session.jobs.stop(_JOB)
            self._take(Reading(id, state.kind, state.found, source=id, running=state.source.running))


def _why_none(found: Found) -> str:
    """Return why a source that was read has no rows: its first problem, or why its first line is no binding."""
    for one in found.problems[:1]:
        return f"line {one.line}: {one.text}" if one.line else one.text
    for other in found.not_bindings[:1]:
        return f"no binding in it; line {other.line} is {other.why}" if other.line else f"no binding in it; {other.why}"
    return "there is nothing in it"
