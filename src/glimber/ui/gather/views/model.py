"""The incoming rows as a table: a tick, what each is against the folio, command, triggers, group and line."""

from __future__ import annotations

from collections.abc import Collection, Sequence, Set
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

from glimber.ui.paint.plain_text import tip
from glimber.ui.paint.style import theme

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference

HEADS = ("", "Is", "Command", "Keys", "Stood there", "Line", "Group")
CHANGES = ("changed", "yours", "conflict", "gone")
"""The kinds of a row where the folio has other keys than the source."""
_Index = QModelIndex | QPersistentModelIndex


class Origin(Struct, frozen=True):
    """The origin of a row: its line, the text of its keys, the part that was left out, whether it was read surely, and the
    command as it stands in the source."""

    line: int = 0
    keys: str = ""
    remark: str = ""
    sure: bool = True
    read_as: str = ""


class IncomingRows(QAbstractTableModel):
    """Differences with what stood in the source for each; new ones are ticked to begin with, the person's own are their choice.

    ``merging``: the rows are a new version's own set; then what only the program changed is ticked as well.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.differences: list[Difference] = []
        self.origins: list[Origin] = []
        self.ticked: set[int] = set()

    def show(self, differences: Sequence[Difference], origins: Sequence[Origin], merging: bool = False) -> None:
        """Show other rows, the doubtful ones first; those are not ticked until they were looked at."""
        self.beginResetModel()
        both = sorted(zip(differences, origins, strict=True), key=lambda pair: pair[1].sure)
        self.differences, self.origins = [one for one, _ in both], [origin for _, origin in both]
        ticked = ("new", "changed") if merging else ("new",)
        self.ticked = {place for place, (one, origin) in enumerate(both) if one.kind in ticked and origin.sure}
        self.endResetModel()

    def tick_sure(self) -> None:
        """Tick what differs and leaves no doubt, and nothing else."""
        self.ticked = {
            place
            for place in range(len(self.differences))
            if self.can_be_ticked(place) and self.origins[place].sure
        }
        self.dataChanged.emit(self.index(0, 0), self.index(max(0, len(self.differences) - 1), 0))

    def tick_of(self, names: Set[str], kinds: Collection[str] | None = None) -> None:
        """Tick what there is to take of these commands, where it is of one of the kinds, and nothing else."""
        self.ticked = {
            place
            for place, one in enumerate(self.differences)
            if one.row.name in names and self.can_be_ticked(place) and (kinds is None or one.kind in kinds)
        }
        self.dataChanged.emit(self.index(0, 0), self.index(max(0, len(self.differences) - 1), 0))

    def chosen(self) -> list[Difference]:
        """The ticked differences."""
        return [self.differences[place] for place in sorted(self.ticked)]

    def can_be_ticked(self, place: int) -> bool:
        """Return True if a row has anything to take."""
        return self.differences[place].to_take

    def toggle(self, place: int) -> None:
        """Tick a row or take its tick away; what is the same has nothing to take."""
        if not self.can_be_ticked(place):
            return
        self.ticked ^= {place}
        index = self.index(place, 0)
        self.dataChanged.emit(index, index)

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.differences)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        return (
            HEADS[section] if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal else None
        )

    def flags(self, index: _Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if index.column() == 0 and self.can_be_ticked(index.row()):
            flags |= Qt.ItemFlag.ItemIsUserCheckable
        return flags

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        one = self.differences[index.row()]
        if role == Qt.ItemDataRole.CheckStateRole and index.column() == 0 and one.to_take:
            return Qt.CheckState.Checked if index.row() in self.ticked else Qt.CheckState.Unchecked
        if role == Qt.ItemDataRole.ForegroundRole and index.column() == 1 and one.kind in ("conflict", "gone"):
            return QColor(theme().slip)
        if role == Qt.ItemDataRole.ForegroundRole and index.column() == 4 and not self.origins[index.row()].sure:
            return QColor(theme().slip)
        if role == Qt.ItemDataRole.ForegroundRole and not one.to_take:
            return QColor(theme().quiet)
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(one, index)
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip(self._text(one, index))
        return None

    def _text(self, one: Difference, index: _Index) -> str:
        keys = " or ".join(one.row.triggers) or "no key"
        if one.kind in CHANGES:
            keys = f"{' or '.join(one.was) or 'no key'} → {keys}"
        if one.taken_by:
            keys += f", which is {one.taken_by} here"
        name = one.row.name
        if one.kind == "renamed":
            name = f"{one.was[0]} → {name}"
        origin = self.origins[index.row()]
        told = origin.keys if not origin.remark else f"{origin.keys}: {origin.remark}"
        line = str(origin.line) if origin.line else ""
        is_ = one.kind if origin.sure else f"{one.kind}?"
        return ("", is_, name, keys, told, line, one.row.group or "")[index.column()]

    def setData(self, index: _Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.CheckStateRole or index.column() != 0:
            return False
        self.toggle(index.row())
        return True
