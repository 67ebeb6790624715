"""Choices about a source: its program, the column with its keys, and whether it is a new version."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QWidget

from glimber.core.model.folio import Folio
from glimber.ui.gather.importing import Importing
from glimber.ui.paint.plain_text import Label
from glimber.ui.widgets.flow import Flow

_HIGH = 30
"""A widget beside a field is as high as the field, so that their texts align."""


class ChoicesBar(QWidget):
    """``column_chosen`` carries another column."""

    column_chosen = Signal(str)

    def __init__(self, importing: Importing) -> None:
        super().__init__()
        self.importing = importing
        self.program, self.column = QComboBox(), QComboBox()
        self.program.setEditable(True)
        self.program.setAccessibleName("Program the commands belong to")
        self.program.setMinimumWidth(150)
        self.column.setAccessibleName("Column that has the keys")
        self.program.currentTextChanged.connect(importing.set_program)
        self.column.activated.connect(lambda _: self.column_chosen.emit(self.column.currentText()))
        self.merging = QCheckBox("New version")
        self.merging.setToolTip("The program's own set after a new version: only what both it and you changed is asked")
        self.merging.toggled.connect(importing.set_new_version)
        self._column_label = Label("Keys from")
        layout = Flow(8, self)
        for label, widget in ((Label("Program"), self.program), (self._column_label, self.column)):
            label.setProperty("role", "quiet")
            label.setMinimumHeight(_HIGH)
            layout.addWidget(label)
            layout.addWidget(widget)
        self.merging.setMinimumHeight(_HIGH)
        layout.addWidget(self.merging)
        importing.compared.connect(self._show)

    def show_folio(self, folio: Folio) -> None:
        """Offer the programs of another folio."""
        self.program.blockSignals(True)
        self.program.clear()
        self.program.addItems([program.name for program in folio.programs.values()])
        self.program.setCurrentText(self.importing.program or self.program.itemText(0))
        self.program.blockSignals(False)
        self.importing.program = self.program.currentText()

    def show_columns(self, fresh: bool) -> None:
        """Offer the columns of the source in front."""
        found = self.importing.found
        if fresh:
            self.column.clear()
        if not self.column.count() and found is not None:
            self.column.addItems(found.columns)
        several = self.column.count() > 1
        for widget in (self.column, self._column_label):
            widget.setVisible(several)

    def _show(self) -> None:
        self.program.blockSignals(True)
        self.program.setCurrentText(self.importing.program)
        self.program.blockSignals(False)
        self.merging.setVisible(self.importing.can_merge())
