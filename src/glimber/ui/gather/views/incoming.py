"""The rows of a source against the folio as a table, and what could not be imported below it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from glimber.ui.gather.importing import Importing
from glimber.ui.gather.views.rows import RowsTable
from glimber.ui.paint.plain_text import Label
from glimber.ui.widgets.text_list import TextList, TextRow

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference
    from glimber.readers.found import Found


class IncomingPane(QWidget):
    """``front`` carries the command of the row in front."""

    front = Signal(object)

    def __init__(self, importing: Importing, parent: QWidget) -> None:
        super().__init__(parent)
        self.importing, self.rows = importing, importing.rows
        self.table = RowsTable(self.rows)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._row_in_front())
        self.list_head, self.list = Label(), TextList()
        self.list_head.setProperty("role", "quiet")
        self.list.setAccessibleName("Not imported")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.table, 4)
        layout.addWidget(self.list_head)
        layout.addWidget(self.list, 2)
        self._here: str | None = None
        importing.rows.modelAboutToBeReset.connect(self._keep_place)
        importing.compared.connect(self._compared)

    def current_name(self) -> str | None:
        """Return the command of the row in front as it was read; None for what the source no longer names. Where the list of what
        was not imported has the focus, the one in front there."""
        if self.list.hasFocus():
            return str(self.list.current_value() or "") or None
        row = self.table.currentIndex().row()
        if not 0 <= row < len(self.rows.differences) or self.rows.differences[row].kind == "gone":
            return None
        return self.rows.origins[row].read_as or self.rows.differences[row].row.name

    def bring(self, read_as: str) -> None:
        """Bring the row of a command to the front, as it was read."""
        if self.list.hasFocus():
            self.table.setFocus()  # it is a row now
        self.table.setCurrentIndex(self.rows.index(self.importing.place_of(read_as) or 0, 0))

    def _keep_place(self) -> None:
        self._here = self.current_name()

    def _compared(self) -> None:
        found = self.importing.found
        if found is None:
            return
        self.table.fit()
        self._show_left(found)
        if self.rows.rowCount():
            place = self.importing.place_of(self._here) if self._here is not None else None
            self.table.setCurrentIndex(self.rows.index(place or 0, 0))

    def _show_left(self, found: Found) -> None:
        corrections = self.importing.corrections
        left = [(f"no key binding: {one.text} ({one.why})", one.line, one.command) for one in found.not_bindings]
        left += [(one.text, one.line, one.command) for one in found.problems]
        left = [one for one in left if one[2].casefold() not in corrections.keys]
        self.list.show_rows([TextRow(f"line {line}: {text}" if line else text, command) for text, line, command in left])
        self.list.setCurrentRow(0)
        self.list.setVisible(bool(left))
        pressed = "; K presses the keys of the one in front" if any(command for _, _, command in left) else ""
        self.list_head.setText(f"Not imported: {len(left)}{pressed}" if left else "Everything in it could be read.")

    def _row_in_front(self) -> None:
        row = self.table.currentIndex().row()
        one: Difference | None = self.rows.differences[row] if 0 <= row < len(self.rows.differences) else None
        self.front.emit(one.command if one else None)
