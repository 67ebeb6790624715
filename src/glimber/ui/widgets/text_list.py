"""A list of texts on a model: unlike one of item objects it may be filled again at any moment, even twice in one go."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from PySide6.QtCore import QAbstractListModel, QModelIndex, QObject, QPersistentModelIndex, Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QListView

_Index = QModelIndex | QPersistentModelIndex


class TextRow(Struct, frozen=True):
    """A row: its text, what it stands for, its tip, and whether it can be brought to the front."""

    text: str
    value: object = None
    tip: str = ""
    is_choice: bool = True


class _Rows(QAbstractListModel):
    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: Sequence[TextRow] = ()

    def show_rows(self, rows: Sequence[TextRow]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def flags(self, index: _Index) -> Qt.ItemFlag:
        whole = super().flags(index)
        return whole if not index.isValid() or self.rows[index.row()].is_choice else Qt.ItemFlag.NoItemFlags

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return row.text
        return row.tip if role == Qt.ItemDataRole.ToolTipRole else None


class TextList(QListView):
    """``moved`` carries the place of the row in front, -1 where none is."""

    moved = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._rows = _Rows(self)
        self.setModel(self._rows)
        self.setProperty("role", "list")
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.selectionModel().currentRowChanged.connect(lambda now, before: self.moved.emit(now.row()))

    def show_rows(self, rows: Sequence[TextRow]) -> None:
        """Show other rows; none is in front then."""
        self._rows.show_rows(rows)

    def count(self) -> int:
        """Return how many rows there are."""
        return len(self._rows.rows)

    def row(self, place: int) -> TextRow:
        """Return a row."""
        return self._rows.rows[place]

    def texts(self) -> list[str]:
        """Return what all rows say."""
        return [row.text for row in self._rows.rows]

    def currentRow(self) -> int:
        """Return the place of the row in front; -1 where none is."""
        return self.currentIndex().row()

    def setCurrentRow(self, place: int) -> None:
        """Bring a row to the front."""
        self.setCurrentIndex(self._rows.index(place, 0) if 0 <= place < self.count() else QModelIndex())

    def current_value(self) -> object:
        """Return what the row in front stands for; None where none is."""
        place = self.currentRow()
        return self.row(place).value if 0 <= place < self.count() else None
