"""The rows of a source against the folio: which program they are of, from which column, what is ticked, what was not read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from glimber.core.model.folio import EVERYWHERE, Folio
from glimber.core.notation.keys import Trigger
from glimber.readers.sureness import SURE
from glimber.ui.gather.desk import Reading
from glimber.ui.gather.views.model import IncomingRows, Origin
from glimber.ui.gather.views.rows import RowsTable
from glimber.ui.paint.plain_text import Label

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference, Incoming
    from glimber.readers.found import Found

_COMMAND = Qt.ItemDataRole.UserRole
_KINDS = ("new", "changed", "conflict", "renamed", "gone", "yours", "same")


class IncomingPane(QWidget):
    """``counted`` carries what there is in a line; ``front`` the command of the row in front; ``column_chosen`` another column;
    ``take_wanted`` that what is ticked is to be taken in."""

    counted = Signal(str)
    front = Signal(object)
    column_chosen = Signal(str)
    take_wanted = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._folio: Folio | None = None
        self.reading: Reading | None = None
        self._mended: dict[str, tuple[str, ...]] = {}
        self.program, self.column = QComboBox(), QComboBox()
        self.program.setEditable(True)
        self.program.setAccessibleName("Program the commands belong to")
        self.program.setMinimumWidth(150)
        self.column.setAccessibleName("Column that has the keys")
        self.program.currentTextChanged.connect(lambda _: self.compare())
        self.column.activated.connect(lambda _: self.column_chosen.emit(self.column.currentText()))
        self.merging = QCheckBox("New version")
        self.merging.setToolTip("The program's own set after a new version: only what both it and you changed is asked")
        self.merging.toggled.connect(lambda _: self.compare())
        self.take_button = QPushButton("Take in")
        self.take_button.setProperty("role", "chosen")
        self.take_button.clicked.connect(self.take_wanted)
        self.rows = IncomingRows()
        self.rows.dataChanged.connect(lambda *_: self._count())
        self.table = RowsTable(self.rows)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._row_in_front())
        self.list_head, self.list = Label(), QListWidget()
        self.list_head.setProperty("role", "quiet")
        self.list.setAccessibleName("Not taken")
        self._lay_out()

    def _lay_out(self) -> None:
        choices = QHBoxLayout()
        for text, widget in (("Program", self.program), ("Keys from", self.column)):
            label = Label(text)
            label.setProperty("role", "quiet")
            choices.addWidget(label)
            choices.addWidget(widget)
        choices.addWidget(self.merging)
        choices.addStretch(1)
        choices.addWidget(self.take_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(choices)
        layout.addWidget(self.table, 4)
        layout.addWidget(self.list_head)
        layout.addWidget(self.list, 2)

    def show_folio(self, folio: Folio) -> None:
        """The folio is another: the programs there are, and the rows against it."""
        self._folio = folio
        chosen = self.program.currentText()
        self.program.blockSignals(True)
        self.program.clear()
        self.program.addItems([program.name for program in folio.programs.values()])
        self.program.setCurrentText(chosen or self.program.itemText(0))
        self.program.blockSignals(False)
        self.compare()

    def show_reading(self, reading: Reading, program: str | None, fresh: bool) -> None:
        """Show what was read; ``program`` where it is known which it is of; ``fresh``: another source than before."""
        self.reading = reading
        folio = self._folio
        if fresh:
            self.column.clear()
            self._mended = {}
        if program is None and fresh and folio is not None:
            from glimber.core.edit.compare import Incoming, likely_program

            rows = [Incoming(row.command, row.triggers) for row in reading.found.rows]
            likely = EVERYWHERE if reading.kind == "gsettings" else likely_program(folio, rows)
            known = folio.programs.get(likely or "")
            program = known.name if known else "Everywhere" if likely else reading.program or None
        if program is not None:
            self.program.setCurrentText(program)
        if not self.column.count():
            self.column.addItems(reading.found.columns)
        self.column.setEnabled(self.column.count() > 1)
        self.compare()

    def put_away(self) -> None:
        """Nothing is read any more."""
        self.reading = None
        self.rows.show([], [])

    # Differences

    def name_program(self, name: str) -> None:
        """Another program, with no other rows ticked than were; what would change a binding of it is to be looked at first."""
        ticked = {one.row.name for one in self.rows.chosen()}
        self.program.setCurrentText(name)
        self.rows.tick_of(ticked, ("new",))

    def mend(self, name: str, trigger: Trigger) -> None:
        """The keys of a row are these, whatever was understood; it is ticked, the others stay as they are."""
        ticked = {one.row.name for one in self.rows.chosen()} | {name}
        self._mended[name.casefold()] = (str(trigger),)
        self.compare()
        self.rows.tick_of(ticked)
        if self.list.hasFocus():
            self.table.setFocus()  # it is a row now
        places = [place for place, one in enumerate(self.rows.differences) if one.row.name == name]
        self.table.setCurrentIndex(self.rows.index(places[0] if places else 0, 0))

    def current_name(self) -> str | None:
        """The command of the row in front, of those that the source has; None for what it no longer names. Where the list of what
        was not taken has the focus, the one in front there."""
        if self.list.hasFocus():
            item = self.list.currentItem()
            return str(item.data(_COMMAND)) or None if item is not None else None
        row = self.table.currentIndex().row()
        known = 0 <= row < len(self.rows.differences) and self.rows.differences[row].kind != "gone"
        return self.rows.differences[row].row.name if known else None

    def program_id(self) -> str:
        """The id of the program chosen or typed."""
        from glimber.core.edit.program_name import program_id_of

        return program_id_of(
            self.program.currentText().strip(), self._folio.programs if self._folio is not None else {}
        )

    def incoming(self) -> list[Incoming]:
        """The rows as they were read, those that were mended as they are meant."""
        from glimber.core.edit.compare import Incoming

        found = self.reading.found if self.reading is not None else None
        if found is None:
            return []
        from glimber.readers.found import for_this_system

        mended = self._mended
        rows = [
            Incoming(row.command, mended.get(row.command.casefold(), row.triggers), row.group, row.note, row.slow_way)
            for row in for_this_system(found.rows)
        ]
        there = {row.command.casefold() for row in found.rows}
        names = [*(one.command for one in found.not_bindings), *(one.command for one in found.problems)]
        left = {name.casefold(): name for name in names if name}
        return [*rows, *(Incoming(left[name], mended[name]) for name in mended if name in left and name not in there)]

    def is_merging(self) -> bool:
        """Return True if they are the program's own set after a new version."""
        return self.merging.isChecked() and not self.merging.isHidden()

    def compare(self) -> None:
        """The rows against the folio."""
        folio, reading, id = self._folio, self.reading, self.program_id()
        if folio is None or reading is None:
            return
        from glimber.core.edit.compare import compare, merged

        rows = self.incoming()
        self.merging.setVisible(bool(id in folio.programs and folio.programs[id].defaults))
        merging = self.is_merging()
        origins = _origins(reading.found)
        for name in self._mended.keys() & origins.keys():
            origins[name] = replace(origins[name], remark="", sure=True)
        differences = compare(folio, id, rows, merging)
        ordered = [origins.get(row.name.casefold(), Origin()) for row in merged(rows)]
        here = self.table.currentIndex().row()
        self.rows.show(differences, ordered + [Origin()] * (len(differences) - len(ordered)), merging)
        self.table.fit()
        self._show_not_taken(reading.found)
        if self.rows.rowCount():
            self.table.setCurrentIndex(self.rows.index(max(0, min(here, self.rows.rowCount() - 1)), 0))
        self._count()

    def _show_not_taken(self, found: Found) -> None:
        told = []
        for one in found.not_bindings:
            told.append((f"no key binding: {one.text} ({one.why})", one.line, one.command))
        told += [(one.text, one.line, one.command) for one in found.problems]
        told = [one for one in told if one[2].casefold() not in self._mended]
        self.list.clear()
        for text, line, command in told:
            item = QListWidgetItem(f"line {line}: {text}" if line else text)
            item.setData(_COMMAND, command)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.list.setVisible(bool(told))
        pressed = "; K presses the keys of the one in front" if any(command for _, _, command in told) else ""
        self.list_head.setText(f"Not taken: {len(told)}{pressed}" if told else "Everything in it could be read.")

    def _row_in_front(self) -> None:
        row = self.table.currentIndex().row()
        one: Difference | None = self.rows.differences[row] if 0 <= row < len(self.rows.differences) else None
        self.front.emit(one.command if one else None)

    def _count(self) -> None:
        folio, reading, id = self._folio, self.reading, self.program_id()
        if folio is None or reading is None:
            return
        from glimber.core.edit.defaults import departures

        kinds: list[str] = [one.kind for one in self.rows.differences]
        counts = ", ".join(f"{kinds.count(kind)} {kind}" for kind in _KINDS if kinds.count(kind))
        departed = departures(folio, id) if id in folio.programs else []
        own = f"; {len(departed)} differ from what it came with" if departed else ""
        ticked = len(self.rows.ticked)
        self.take_button.setText(f"Take in {ticked}" if ticked else "Take in")
        self.take_button.setEnabled(bool(ticked))
        doubtful = sum(not origin.sure for origin in self.rows.origins)
        doubts = f"; {doubtful} doubtful, listed first" if doubtful else ""
        second = f" (or {reading.second}: Y)" if reading.second else ""
        self.counted.emit(f"{reading.name}, read as {reading.kind}{second}: {counts or 'no rows'}{own}{doubts}")

    def tick_sure(self) -> None:
        """Tick what leaves no doubt."""
        self.rows.tick_sure()

    def tick_all(self) -> None:
        """Tick everything that differs, or nothing where everything is ticked already."""
        differing = {place for place in range(self.rows.rowCount()) if self.rows.can_be_ticked(place)}
        for place in sorted(differing - self.rows.ticked or differing):
            self.rows.toggle(place)


def _origins(found: Found) -> dict[str, Origin]:
    """Return what stood in the source, by command; one that comes several times has all of it."""
    origins: dict[str, Origin] = {}
    for row in found.rows:
        name = row.command.casefold()
        known = origins.get(name, Origin(row.line))
        keys = " or ".join(part for part in (known.keys, " ".join(row.keys.split())) if part)
        remark = "; ".join(part for part in (known.remark, row.remark) if part)
        origins[name] = Origin(known.line, keys, remark, known.sure and row.sure >= SURE)
    return origins
