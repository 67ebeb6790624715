"""The linked sources of a folio: each with its state, read again as soon as its file is saved."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QLabel, QListWidget, QListWidgetItem, QVBoxLayout

from glimber.core.folio.folio import Source
from glimber.readers.found import Found, Options
from glimber.store.faults import StoreError
from glimber.ui.session import Session

if TYPE_CHECKING:
    from glimber.store.system.watch import FilesWatch


@dataclass(frozen=True)
class SourceState:
    """What is known of one source: its last good rows stay when it breaks."""

    source: Source
    name: str = ""
    kind: str = ""
    found: Found | None = None
    read_at: str = ""
    wrong: str = ""

    def words(self) -> str:
        """Its state in a line."""
        if self.wrong:
            return f"broken: {self.wrong}"
        if self.found is None:
            return "not read yet"
        return f"read {self.read_at}, {len(self.found.rows)} rows" + (" · watched" if self.source.watch else "")


class SourcesPane(QFrame):
    """The list of sources. ``shown`` names the one in front whenever its rows are new."""

    shown = Signal(str)
    _done = Signal(str, object)
    _saved = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("side")
        self.session = session
        self.states: dict[str, SourceState] = {}
        self.in_front: str | None = None
        self._watch: FilesWatch | None = None
        self._watching = False
        head = QLabel("Sources")
        head.setProperty("role", "quiet")
        self.list = QListWidget()
        self.list.setAccessibleName("Sources")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemActivated.connect(lambda item: self.bring(str(item.data(Qt.ItemDataRole.UserRole))))
        self.list.itemClicked.connect(lambda item: self.bring(str(item.data(Qt.ItemDataRole.UserRole))))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 14, 0)
        layout.addWidget(head)
        layout.addWidget(self.list, 1)
        self.setFixedWidth(236)
        self._done.connect(self._take)
        self._saved.connect(self._read_saved)
        self.refresh()

    def refresh(self) -> None:
        """The folio may name other sources now."""
        sources = self.session.folio.settings.sources
        if {id: state.source for id, state in self.states.items()} != dict(sources):
            self.states = {
                id: replace(self.states.get(id, SourceState(source)), source=source) for id, source in sources.items()
            }
            self._watch_files()
        self.setVisible(bool(self.states))
        self._show()

    def begin(self) -> None:
        """Watch the files from now on."""
        self._watching = True
        self._watch_files()

    def end(self) -> None:
        """End the watching for good."""
        self._watching = False
        self.stop()

    def stop(self) -> None:
        """End the watching."""
        if self._watch is not None:
            self._watch.stop()
            self._watch = None

    def _watch_files(self) -> None:
        self.stop()
        if not self._watching:
            return
        from glimber.store.system.sources import path_of
        from glimber.store.system.watch import FilesWatch

        paths = {
            state.source.id: path_of(state.source, self.session.folder)
            for state in self.states.values()
            if state.source.watch
        }
        files = {path.resolve(): id for id, path in paths.items() if path is not None}
        if files:
            self._watch = FilesWatch(
                files, lambda saved: self._saved.emit([files[p.resolve()] for p in saved if p.resolve() in files])
            )
            self._watch.start()

    def bring(self, id: str) -> None:
        """Bring a source to the front, read anew."""
        self.in_front = id
        self.read(id)

    def current(self) -> str | None:
        """The id of the source under the cursor."""
        item = self.list.currentItem()
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else None

    def bring_current(self) -> None:
        """Bring the source under the cursor to the front."""
        id = self.current()
        if id is not None:
            self.bring(id)

    def read(self, id: str, column: str | None = None) -> None:
        """Read a source on a thread of its own."""
        from glimber.store.system.sources import read_source

        source, folder = self.states[id].source, self.session.folder
        self._start(id, lambda: read_source(source, folder), Options(column or source.column))

    def _start(self, id: str, get: Callable[[], tuple[str, bytes]], options: Options) -> None:
        def work() -> None:
            from glimber.readers.registry import kind_of, read

            try:
                name, data = get()
            except StoreError as error:
                self._done.emit(id, str(error))
                return
            kind = kind_of(name, data)
            self._done.emit(id, (name, kind, read(kind, data, options)))

        threading.Thread(target=work, name="reading", daemon=True).start()

    def _read_saved(self, ids: list[str]) -> None:
        for id in ids:
            if id in self.states:
                self.read(id)

    def _take(self, id: str, result: object) -> None:
        state = self.states.get(id)
        if state is None:
            return
        if isinstance(result, str):
            self.states[id] = replace(state, wrong=result)
        elif isinstance(result, tuple):
            name, kind, found = result
            if not found.rows and found.problems:
                first = found.problems[0]
                self.states[id] = replace(state, wrong=f"line {first.line}: {first.text}" if first.line else first.text)
            else:
                at = f"{self.session.now().astimezone():%H:%M}"
                self.states[id] = SourceState(state.source, name, kind, found, at)
        self._show()
        if id == self.in_front:
            self.shown.emit(id)

    def _show(self) -> None:
        here = self.list.currentRow()
        self.list.clear()
        for id, state in self.states.items():
            item = QListWidgetItem(f"{id}\n{state.words()}")
            item.setData(Qt.ItemDataRole.UserRole, id)
            item.setToolTip(state.words())
            self.list.addItem(item)
        if self.in_front in self.states:
            here = list(self.states).index(self.in_front)
        self.list.setCurrentRow(here if 0 <= here < self.list.count() else 0)
