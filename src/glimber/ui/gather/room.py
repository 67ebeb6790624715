"""The Gather room: a source read, its rows against the folio, and what is ticked taken in."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QListWidget,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit import EditError
from glimber.core.folio import EVERYWHERE
from glimber.core.gather import Incoming, compare, likely_program, merged, slug_of, take
from glimber.readers.found import Found, Options
from glimber.store.faults import StoreError
from glimber.ui.actions import Action
from glimber.ui.gather.bench import BenchPane
from glimber.ui.gather.model import IncomingRows
from glimber.ui.gather.sources import SourcesPane
from glimber.ui.room import Room
from glimber.ui.session import Session

if TYPE_CHECKING:
    from glimber.ui.window import Window

_FIRST = "O reads a file, Ctrl+V what was copied: a page, a table, a list, settings. Enter on a source shows its rows."


class _Rows(QTableView):
    """Space ticks the row in front."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        model = self.model()
        if event.key() == Qt.Key.Key_Space and isinstance(model, IncomingRows) and self.currentIndex().isValid():
            model.toggle(self.currentIndex().row())
            return
        super().keyPressEvent(event)


class GatherRoom(Room):
    """Rows of one source at a time; until there is one, the bench."""

    id = "gather"
    _read_done = Signal(int, str, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: Found | None = None
        self.kind = ""
        self._name, self._data, self._reading = "", b"", 0
        self.title, self.note = QLabel("Take stock"), QLabel(_FIRST)
        self.title.setProperty("role", "title")
        self.note.setProperty("role", "quiet")
        self.note.setWordWrap(True)
        self.file = QPushButton("Read a file…")
        self.file.clicked.connect(self.ask_file)
        self.paste = QPushButton("Read what was copied")
        self.paste.clicked.connect(self.read_clipboard)
        self.program, self.column = QComboBox(), QComboBox()
        self.program.setEditable(True)
        self.program.setAccessibleName("Program the commands belong to")
        self.program.setMinimumWidth(170)
        self.column.setAccessibleName("Column that has the keys")
        self.program.currentTextChanged.connect(lambda _: self._compare())
        self.column.activated.connect(lambda _: self._read_again())
        self.take_button = QPushButton("Take in")
        self.take_button.setProperty("role", "chosen")
        self.take_button.clicked.connect(self.take_in)
        self.rows = IncomingRows()
        self.rows.dataChanged.connect(lambda *_: self._count())
        self.table = _Rows()
        self.table.setModel(self.rows)
        self.table.setAccessibleName("Incoming rows")
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().setDefaultSectionSize(28)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.list_head, self.list = QLabel(), QListWidget()
        self.list_head.setProperty("role", "quiet")
        self.list.setAccessibleName("Not taken")
        self.bench = BenchPane(session)
        self._numbers_changed: Callable[[], None] = lambda: None
        self.sources = SourcesPane(session)
        self.sources.shown.connect(self._show_source)
        self._lay_out()
        self._read_done.connect(self._take_reading)
        self.refresh()

    def _lay_out(self) -> None:
        buttons, choices = QHBoxLayout(), QHBoxLayout()
        for widget in (self.file, self.paste):
            buttons.addWidget(widget)
        buttons.addStretch(1)
        self.choices = QWidget()
        for text, widget in (("Program", self.program), ("Keys from", self.column)):
            label = QLabel(text)
            label.setProperty("role", "quiet")
            choices.addWidget(label)
            choices.addWidget(widget)
        choices.addStretch(1)
        choices.addWidget(self.take_button)
        choices.setContentsMargins(0, 0, 0, 0)
        self.choices.setLayout(choices)
        panel = QFrame()
        panel.setObjectName("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addWidget(self.choices)
        inside.addWidget(self.table, 4)
        inside.addWidget(self.list_head)
        inside.addWidget(self.list, 2)
        inside.addWidget(self.bench, 4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 24, 28, 20)
        layout.setSpacing(10)
        layout.addWidget(self.title)
        layout.addWidget(self.note)
        layout.addLayout(buttons)
        middle = QHBoxLayout()
        middle.setSpacing(14)
        middle.addWidget(self.sources)
        middle.addWidget(panel, 1)
        layout.addLayout(middle, 1)

    # As a room

    def number(self) -> int | None:
        """New rows of the source that is read."""
        return sum(one.kind == "new" for one in self.rows.differences) if self.found is not None else None

    def panes(self) -> list[QWidget]:
        return [self.sources.list, self.file, self.table, self.list, self.bench.list]

    def wire(self, window: Window) -> None:
        self._numbers_changed = window.show_numbers
        self.bench.ask_keys = window.ask_keys

    def close_down(self) -> None:
        self.sources.stop()

    def enter(self) -> None:
        (self.table if self.found is not None else self.file).setFocus()

    def actions_here(self) -> list[Action]:
        return [
            Action("gather-file", "Read a file", ("o",), self.ask_file, self.id, "read a file", "O"),
            Action(
                "gather-paste",
                "Read what was copied",
                ("Ctrl+V",),
                self.read_clipboard,
                self.id,
                "read what was copied",
            ),
            Action("gather-take", "Take in what is ticked", ("Enter",), self._enter_pressed, self.id, "take in"),
            Action(
                "gather-key",
                "Press a key for a command of the bench",
                ("k",),
                self.press_it,
                self.id,
                "press a key for it",
                "K",
            ),
            Action("gather-all", "Tick all or none", ("a",), self.tick_all, self.id, "tick all or none", "A"),
            Action("gather-away", "Put the source away", ("Escape",), self.put_away, self.id),
        ]

    def refresh(self) -> None:
        self.sources.refresh()
        chosen = self.program.currentText()
        self.program.blockSignals(True)
        self.program.clear()
        self.program.addItems([program.name for program in self.session.folio.programs.values()])
        self.program.setCurrentText(chosen or self.program.itemText(0))
        self.program.blockSignals(False)
        if self.found is not None:
            self._compare()
        else:
            self._show_bench()

    def _show_bench(self) -> None:
        self.note.setText(_FIRST)
        for widget in (self.choices, self.table, self.list_head, self.list):
            widget.hide()
        self.bench.refresh()
        self.bench.show()

    def press_it(self) -> None:
        """The command of the bench in front gets the keys that are pressed."""
        if self.found is not None:
            self.session.told.emit("Put the source away (Esc) to come to the bench.")
            return
        self.bench.press_it()

    # Reading

    def ask_file(self) -> None:
        """Ask for a file and read it."""
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getOpenFileName(self, "Read shortcuts")
        if name:
            self.read_file(Path(name))

    def read_file(self, path: Path) -> None:
        """Read a file; one that cannot be read is told."""
        try:
            data = path.read_bytes()
        except OSError as error:
            self.session.told.emit(f"{path}: cannot be read ({error.strerror})")
            return
        self.read_bytes(path.name, data)

    def read_clipboard(self) -> None:
        """Read what was copied: as a page where it is one, otherwise as text."""
        copied = QGuiApplication.clipboard().mimeData()
        text = copied.html() if copied is not None and copied.hasHtml() else QGuiApplication.clipboard().text()
        if not text.strip():
            self.session.told.emit("Nothing was copied that could be read.")
            return
        self.read_bytes("what was copied", text.encode())

    def read_bytes(self, name: str, data: bytes) -> None:
        """Read a source that is at hand."""
        self._name, self._data = name, data
        self.column.clear()
        self._read(None)

    def _read_again(self) -> None:
        column = self.column.currentText() or None
        if self.sources.in_front is not None:
            self.sources.read(self.sources.in_front, column)
        else:
            self._read(column)

    def _read(self, column: str | None) -> None:
        """On a thread of its own: a long list must not hold up the window. A newer reading makes an older one void."""
        self._reading += 1
        number, name, data = self._reading, self._name, self._data
        self.note.setText(f"Reading {name}… Esc stops.")

        def work() -> None:
            from glimber.readers.registry import kind_of, read

            kind = kind_of(name, data)
            self._read_done.emit(number, kind, read(kind, data, Options(column)))

        threading.Thread(target=work, name="reading", daemon=True).start()

    def _take_reading(self, number: int, kind: str, found: object) -> None:
        if number != self._reading or not isinstance(found, Found):
            return
        self.found, self.kind = found, kind
        self.sources.in_front = None
        self._choose(None)
        self._compare()
        self.table.setFocus()

    def _choose(self, program: str | None) -> None:
        """The program and the column of what was read, as far as they can be told."""
        found = self.found
        assert found is not None
        if program is None:
            rows = [Incoming(row.command, row.triggers) for row in found.rows]
            likely = EVERYWHERE if self.kind == "gsettings" else likely_program(self.session.folio, rows)
            known = self.session.folio.programs.get(likely or "")
            program = known.name if known else "Everywhere" if likely else None
        if program is not None:
            self.program.setCurrentText(program)
        if not self.column.count():
            self.column.addItems(found.columns)
        self.column.setEnabled(self.column.count() > 1)

    def _show_source(self, id: str) -> None:
        """Rows of a linked source: new after it was brought to the front, or after its file was saved."""
        state = self.sources.states[id]
        if state.wrong:
            self.session.told.emit(f"{id} is {state.words()}")
        if state.found is None:
            return
        self._reading += 1
        self._name, self._data, self.found, self.kind = id, b"", state.found, state.kind
        program = self.session.folio.programs.get(state.source.program or "")
        self.column.clear()
        self._choose(program.name if program else state.source.program)
        self._compare()

    # Differences

    def _program(self) -> str:
        """The id of the program chosen or typed."""
        name = self.program.currentText().strip()
        ids = {program.name.casefold(): id for id, program in self.session.folio.programs.items()}
        return ids.get(name.casefold()) or slug_of(name)

    def _compare(self) -> None:
        found = self.found
        if found is None:
            return
        rows = [Incoming(row.command, row.triggers, row.group) for row in found.rows]
        lines = {row.command.casefold(): row.line for row in reversed(found.rows)}
        self.rows.show(
            compare(self.session.folio, self._program(), rows), [lines[row.name.casefold()] for row in merged(rows)]
        )
        self.bench.hide()
        for widget in (self.choices, self.table, self.list_head):
            widget.show()
        header = self.table.horizontalHeader()
        for column in range(self.rows.columnCount()):
            fits = QHeaderView.ResizeMode.Stretch if column in (2, 3) else QHeaderView.ResizeMode.ResizeToContents
            header.setSectionResizeMode(column, fits)
        told = [f"line {one.line}: no key binding: {one.text} ({one.why})" for one in found.not_bindings]
        told += [f"line {one.line}: {one.text}" if one.line else one.text for one in found.problems]
        self.list.clear()
        self.list.addItems(told)
        self.list.setVisible(bool(told))
        self.list_head.setText(f"Not taken: {len(told)}" if told else "Everything in it could be read.")
        if self.rows.rowCount() and not self.table.currentIndex().isValid():
            self.table.setCurrentIndex(self.rows.index(0, 0))
        self._count()

    def _count(self) -> None:
        kinds = [one.kind for one in self.rows.differences]
        counts = ", ".join(
            f"{kinds.count(kind)} {kind}" for kind in ("new", "changed", "renamed", "same") if kinds.count(kind)
        )
        self.note.setText(f"{self._name}, read as {self.kind}: {counts or 'no rows'}")
        ticked = len(self.rows.ticked)
        self.take_button.setText(f"Take in {ticked}" if ticked else "Take in")
        self.take_button.setEnabled(bool(ticked))
        self._numbers_changed()

    def tick_all(self) -> None:
        """Tick everything that differs, or nothing where everything is ticked already."""
        differing = {place for place, one in enumerate(self.rows.differences) if one.kind != "same"}
        for place in sorted(differing - self.rows.ticked or differing):
            self.rows.toggle(place)

    def put_away(self) -> None:
        """Leave the source, or stop reading it."""
        self._reading += 1
        self.found, self.sources.in_front = None, None
        self.rows.show([], [])
        self.refresh()
        self._numbers_changed()
        self.enter()

    def _enter_pressed(self) -> None:
        """On the list of sources Enter reads the one in front."""
        item = self.sources.list.currentItem()
        if self.sources.list.hasFocus() and item is not None:
            self.sources.bring(str(item.data(Qt.ItemDataRole.UserRole)))
        else:
            self.take_in()

    def take_in(self) -> None:
        """Take what is ticked into the folio, in one edit that can be undone."""
        chosen, id, name = self.rows.chosen(), self._program(), self.program.currentText().strip()
        if self.found is None or not chosen:
            return
        same = [one for one in self.rows.differences if one.kind == "same"]
        try:
            self.session.edit(f"take in {len(chosen)} from {self._name}",
                              lambda folio: take(folio, id, [*chosen, *same], name))  # fmt: skip
        except (EditError, StoreError) as error:
            self.session.told.emit(str(error))
            return
        self.session.told.emit(f"Taken in: {len(chosen)}. Ctrl+Z takes it back.")
