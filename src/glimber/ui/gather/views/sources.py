"""The linked sources of a folio: each with its state."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from glimber.ui.gather.desk import SourceState
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.widgets.text_list import TextList, TextRow


class SourcesPane(QFrame):
    """The list of sources. ``chosen`` names the one that is to be read and brought to the front."""

    chosen = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("side")
        head = Label("Sources")
        head.setProperty("role", "quiet")
        self.list = TextList()
        self.list.setAccessibleName("Sources")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for signal in (self.list.activated, self.list.clicked):
            signal.connect(lambda _: self.bring_current())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 14, 0)
        layout.addWidget(head)
        layout.addWidget(self.list, 1)
        self.setFixedWidth(236)

    def current(self) -> str | None:
        """Return the id of the source under the cursor."""
        id = self.list.current_value()
        return str(id) if id is not None else None

    def bring_current(self) -> None:
        """Bring the source under the cursor to the front."""
        id = self.current()
        if id is not None:
            self.chosen.emit(id)

    def show_states(self, states: Mapping[str, SourceState], front: str | None) -> None:
        """Show what is known of each source, the one in front chosen."""
        here = self.list.currentRow()
        self.list.show_rows([TextRow(f"{id}\n{state.words()}", id, tip(state.words())) for id, state in states.items()])
        if front is not None and front in states:
            here = list(states).index(front)
        self.list.setCurrentRow(here if 0 <= here < self.list.count() else 0)
