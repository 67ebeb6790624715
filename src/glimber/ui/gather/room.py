"""The Gather room: sources, their rows against the folio, the commands, and all that is said of the one in front."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication, QResizeEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edits.defaults import departures
from glimber.core.edits.edit import EditError
from glimber.core.folio.folio import EVERYWHERE
from glimber.core.gather.compare import Difference, Incoming, compare, likely_program, merged, take
from glimber.core.notation.ids import slug_of
from glimber.readers.found import Found, Options, StoppedError
from glimber.store.faults import StoreError
from glimber.ui.actions import Action
from glimber.ui.gather.bench import BenchPane
from glimber.ui.gather.doing import Doing
from glimber.ui.gather.keys import gather_actions
from glimber.ui.gather.model import IncomingRows
from glimber.ui.gather.rows import RowsTable
from glimber.ui.gather.sources import SourcesPane
from glimber.ui.room import Room
from glimber.ui.session import Session

if TYPE_CHECKING:
    from glimber.ui.gather.command import CommandPane
    from glimber.ui.window import Window

_FIRST = "O reads a file, Ctrl+V what was copied: a page, a table, a list, settings. Enter on a source shows its rows."
_KINDS = ("new", "changed", "conflict", "renamed", "gone", "yours", "same")
_NARROW = 1180
COMMAND_WIDTH = 336


class GatherRoom(Room):
    """Rows of one source at a time; until there is one, the commands."""

    id = "gather"
    _read_done = Signal(int, str, object)
    _so_far = Signal(int, int)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: Found | None = None
        self.kind = ""
        self._name, self._data, self._reading = "", b"", 0
        self.path: Path | None = None
        self.title, self.note = QLabel("Take stock"), QLabel(_FIRST)
        self.title.setProperty("role", "title")
        self.note.setProperty("role", "quiet")
        self.note.setWordWrap(True)
        self.file, self.paste = QPushButton("Read a file…"), QPushButton("Read what was copied")
        self.file.clicked.connect(self.ask_file)
        self.paste.clicked.connect(self.read_clipboard)
        self.program, self.column = QComboBox(), QComboBox()
        self.program.setEditable(True)
        self.program.setAccessibleName("Program the commands belong to")
        self.program.setMinimumWidth(150)
        self.column.setAccessibleName("Column that has the keys")
        self.program.currentTextChanged.connect(lambda _: self._compare())
        self.column.activated.connect(lambda _: self._read_again())
        self.merging = QCheckBox("New version")
        self.merging.setToolTip("The program's own set after a new version: only what both it and you changed is asked")
        self.merging.toggled.connect(lambda _: self._compare())
        self.take_button = QPushButton("Take in")
        self.take_button.setProperty("role", "chosen")
        self.take_button.clicked.connect(self.take_in)
        self.rows = IncomingRows()
        self.rows.dataChanged.connect(lambda *_: self._count())
        self.table = RowsTable(self.rows)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._row_in_front())
        self.list_head, self.list = QLabel(), QListWidget()
        self.list_head.setProperty("role", "quiet")
        self.list.setAccessibleName("Not taken")
        self.bench = BenchPane(session)
        self.bench.chosen.connect(lambda ref: self._show_command(ref or None))
        self.doing = Doing(self)
        self._front: str | None = None
        self.right = QFrame()
        self.right.setFixedWidth(COMMAND_WIDTH)
        self.numbers_changed: Callable[[], None] = lambda: None
        self.sources = SourcesPane(session)
        self.sources.shown.connect(self._show_source)
        self._lay_out()
        self._read_done.connect(self._take_reading)
        self._so_far.connect(self._tell_so_far)
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
        choices.addWidget(self.merging)
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
        layout.setContentsMargins(28, 20, 28, 16)
        layout.setSpacing(8)
        top = QHBoxLayout()
        top.addWidget(self.title)
        top.addStretch(1)
        top.addLayout(buttons)
        layout.addLayout(top)
        layout.addWidget(self.note)
        middle = QHBoxLayout()
        middle.setSpacing(14)
        middle.addWidget(self.sources)
        middle.addWidget(panel, 1)
        inner = QVBoxLayout(self.right)
        inner.setContentsMargins(0, 0, 0, 0)
        middle.addWidget(self.right)
        layout.addLayout(middle, 1)

    @cached_property
    def command(self) -> CommandPane:
        """All that is said of the command in front; its many fields are made after the first frame."""
        from glimber.ui.gather.command import CommandPane

        made = CommandPane(self.session)
        made.press, made.spell = self.doing.press_it, self.doing.spell_it
        inner = self.right.layout()
        assert inner is not None
        inner.addWidget(made)
        return made

    def complete(self) -> None:
        self.command.show_command(self._front)
        self.sources.begin()

    def _show_command(self, ref: str | None) -> None:
        self._front = ref
        if "command" in self.__dict__:
            self.command.show_command(ref)

    # As a room

    def number(self) -> int | None:
        """New rows of the source that is read."""
        return sum(one.kind == "new" for one in self.rows.differences) if self.found is not None else None

    def panes(self) -> list[QWidget]:
        return [
            self.sources.list,
            self.file,
            self.table,
            self.list,
            self.bench.field,
            self.bench.list,
            self.command.name,
        ]

    def wire(self, window: Window) -> None:
        self.numbers_changed = window.show_numbers
        self.doing.window = window

    def close_down(self) -> None:
        self._reading += 1
        self.sources.end()

    def enter(self) -> None:
        (self.table if self.found is not None else self.bench.list if self.bench.stakes else self.file).setFocus()

    def actions_here(self) -> list[Action]:
        return gather_actions(self)

    def refresh(self) -> None:
        self.sources.refresh()
        chosen = self.program.currentText()
        self.program.blockSignals(True)
        self.program.clear()
        self.program.addItems([program.name for program in self.session.folio.programs.values()])
        self.program.setCurrentText(chosen or self.program.itemText(0))
        self.program.blockSignals(False)
        self.bench.refresh()
        if self.found is not None:
            self._compare()
        else:
            self._show_bench()

    def _show_bench(self) -> None:
        self.note.setText(_FIRST)
        for widget in (self.choices, self.table, self.list_head, self.list):
            widget.hide()
        self.bench.show()
        self._fit()

    def _fit(self) -> None:
        """In a small window what is said of a command makes room for the rows of a source."""
        self.right.setVisible(self.found is None or self.width() >= _NARROW)
        self.sources.setVisible(bool(self.sources.states) and (self.width() >= 900))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def choose(self, ref: str) -> None:
        """Bring a command to the front."""
        if self.found is not None:
            self.put_away()
        self.bench.bring(ref)
        self.bench.list.setFocus()

    def find(self) -> None:
        """Put the cursor where a command is looked for."""
        if self.found is None:
            self.bench.field.setFocus()
            self.bench.field.selectAll()

    def edit_front(self) -> None:
        """Put the cursor into what is said of the command in front."""
        if self.command.ref is not None and self.command.isVisible():
            self.command.name.setFocus()

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
        self.path = path.resolve()

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
        self._name, self._data, self.path = name, data, None
        self.column.clear()
        self._read(None)

    def _read_again(self) -> None:
        column = self.column.currentText() or None
        if self.sources.in_front is not None:
            self.sources.read(self.sources.in_front, column)
        else:
            self._read(column)

    def _read(self, column: str | None) -> None:
        """On a thread of its own: a long list must not hold up the window. A newer reading makes an older one stop."""
        self._reading += 1
        number, name, data = self._reading, self._name, self._data
        self.note.setText(f"Reading {name}… Esc stops.")

        def watch(count: int) -> None:
            if number != self._reading:
                raise StoppedError
            if count % 1000 == 0:
                self._so_far.emit(number, count)

        def work() -> None:
            from glimber.readers.registry import kind_of, read

            kind = kind_of(name, data)
            try:
                self._read_done.emit(number, kind, read(kind, data, Options(column, watch)))
            except StoppedError:
                return

        threading.Thread(target=work, name="reading", daemon=True).start()

    def _tell_so_far(self, number: int, count: int) -> None:
        if number == self._reading:
            self.note.setText(f"Reading {self._name}, {count:,} rows so far… Esc stops.")

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
        first = self.found is None
        self._name, self._data, self.found, self.kind = id, b"", state.found, state.kind
        program = self.session.folio.programs.get(state.source.program or "")
        self.column.clear()
        self._choose(program.name if program else state.source.program)
        self._compare()
        if first and not self.sources.list.hasFocus():
            self.table.setFocus()  # what had the focus made room for it

    # Differences

    def program_id(self) -> str:
        """The id of the program chosen or typed."""
        name = self.program.currentText().strip()
        ids = {program.name.casefold(): id for id, program in self.session.folio.programs.items()}
        return ids.get(name.casefold()) or slug_of(name)

    def _incoming(self) -> list[Incoming]:
        return [Incoming(row.command, row.triggers, row.group) for row in self.found.rows] if self.found else []

    def _compare(self) -> None:
        found, id = self.found, self.program_id()
        if found is None:
            return
        folio, rows = self.session.folio, self._incoming()
        self.merging.setVisible(bool(id in folio.programs and folio.programs[id].defaults))
        merging = self.merging.isChecked() and not self.merging.isHidden()
        lines = {row.command.casefold(): row.line for row in reversed(found.rows)}
        differences = compare(folio, id, rows, merging)
        ordered = [lines[row.name.casefold()] for row in merged(rows)]
        here = self.table.currentIndex().row()
        self.rows.show(differences, ordered + [0] * (len(differences) - len(ordered)), merging)
        self.bench.hide()
        for widget in (self.choices, self.table, self.list_head):
            widget.show()
        self.table.fit()
        self._fit()
        self._show_not_taken(found)
        if self.rows.rowCount():
            self.table.setCurrentIndex(self.rows.index(max(0, min(here, self.rows.rowCount() - 1)), 0))
        self._count()

    def _show_not_taken(self, found: Found) -> None:
        told = [f"line {one.line}: no key binding: {one.text} ({one.why})" if one.line
                else f"no key binding: {one.text} ({one.why})" for one in found.not_bindings]  # fmt: skip
        told += [f"line {one.line}: {one.text}" if one.line else one.text for one in found.problems]
        self.list.clear()
        self.list.addItems(told)
        self.list.setVisible(bool(told))
        self.list_head.setText(f"Not taken: {len(told)}" if told else "Everything in it could be read.")

    def _row_in_front(self) -> None:
        """What the folio says of the command that the row in front is about."""
        row = self.table.currentIndex().row()
        one: Difference | None = self.rows.differences[row] if 0 <= row < len(self.rows.differences) else None
        self._show_command(one.command if one else None)

    def _count(self) -> None:
        kinds = [one.kind for one in self.rows.differences]
        counts = ", ".join(f"{kinds.count(kind)} {kind}" for kind in _KINDS if kinds.count(kind))
        departed = (
            departures(self.session.folio, self.program_id())
            if self.program_id() in self.session.folio.programs
            else []
        )
        own = f"; {len(departed)} differ from what it came with" if departed else ""
        self.note.setText(f"{self._name}, read as {self.kind}: {counts or 'no rows'}{own}")
        ticked = len(self.rows.ticked)
        self.take_button.setText(f"Take in {ticked}" if ticked else "Take in")
        self.take_button.setEnabled(bool(ticked))
        self.numbers_changed()

    def tick_all(self) -> None:
        """Tick everything that differs, or nothing where everything is ticked already."""
        differing = {place for place in range(self.rows.rowCount()) if self.rows.can_be_ticked(place)}
        for place in sorted(differing - self.rows.ticked or differing):
            self.rows.toggle(place)

    def put_away(self) -> None:
        """Leave the source, or stop reading it."""
        self._reading += 1
        self.found, self.sources.in_front = None, None
        self.rows.show([], [])
        self.refresh()
        self.numbers_changed()
        self.enter()

    def enter_pressed(self) -> None:
        """On the list of sources Enter reads the one in front."""
        if self.sources.list.hasFocus():
            self.sources.bring_current()
        else:
            self.take_in()

    def take_in(self) -> None:
        """Take what is ticked into the folio, in one edit that can be undone."""
        chosen, id, name = self.rows.chosen(), self.program_id(), self.program.currentText().strip()
        if self.found is None or not chosen:
            return
        same = [one for one in self.rows.differences if one.kind == "same"]
        own = self._incoming() if self.merging.isChecked() and not self.merging.isHidden() else None
        try:
            self.session.edit(f"take in {len(chosen)} from {self._name}",
                              lambda folio: take(folio, id, [*chosen, *same], name, own))  # fmt: skip
        except (EditError, StoreError) as error:
            self.session.told.emit(str(error))
            return
        self.session.told.emit(f"Taken in: {len(chosen)}. Ctrl+Z takes it back.")
