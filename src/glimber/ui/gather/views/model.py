"""The incoming rows as a table: a tick, what each is against the folio, command, triggers, group and line."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
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

    @property
    def is_button(self) -> bool:
        """Return True for a button of a running program."""
        from glimber.readers.menus import A_BUTTON

        return self.remark == A_BUTTON


class IncomingRows(QAbstractTableModel):
    """Differences with what stood in the source for each. New ones are ticked unless somebody chose otherwise.

    A choice outlives the next comparison: a row that was left out stays so, and one that was ticked is ticked as long as it
    would change the same thing.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.differences: list[Difference] = []
        self.origins: list[Origin] = []
        self.ticked: set[int] = set()
        self._places: dict[str, int] = {}
        self._chosen: dict[str, Difference] = {}
        self._left_out: set[str] = set()

    def show(
        self, differences: Sequence[Difference], origins: Sequence[Origin], merging: bool = False, tick: Iterable[str] = ()
    ) -> None:
        """Show other rows, the doubtful ones first; those are not ticked until somebody looked at them.

        ``merging``: the rows are a new version's own set; then what only the program changed is ticked as well. ``tick`` names
        commands that were just chosen.
        """
        self.beginResetModel()
        both = sorted(zip(differences, origins, strict=True), key=lambda pair: pair[1].sure)
        self.differences, self.origins = [one for one, _ in both], [origin for _, origin in both]
        self._places = {one.row.name.casefold(): place for place, one in enumerate(self.differences)}
        self._choose((self._places[name] for name in map(str.casefold, tick) if name in self._places), True)
        usual = ("new", "more", "changed") if merging else ("new", "more")
        self.ticked = {place for place, (one, origin) in enumerate(both)
                       if self._is_chosen(one, one.kind in usual and origin.sure)}  # fmt: skip
        self.endResetModel()

    def forget_choices(self) -> None:
        """Another source follows: nothing was chosen of it yet."""
        self._chosen, self._left_out = {}, set()

    def leave_out(self, name: str) -> None:
        """Do not tick a command when the rows are compared next."""
        self._left_out.add(name.casefold())

    def place_of(self, name: str) -> int | None:
        """Return the place of a command among the rows; None where it is none of them."""
        return self._places.get(name.casefold())

    def tick_sure(self) -> None:
        """Tick what differs and leaves no doubt, and nothing else; of a running program its buttons too, or again not."""
        sure = set(filter(self.can_be_ticked, (place for place, origin in enumerate(self.origins) if origin.sure)))
        buttons = set(filter(self.can_be_ticked, (place for place, origin in enumerate(self.origins) if origin.is_button)))
        self._tick_only(sure if buttons and buttons <= self.ticked else sure | buttons)

    def tick_all(self) -> None:
        """Tick everything that differs, or nothing where everything is ticked already."""
        differing = set(filter(self.can_be_ticked, range(len(self.differences))))
        self._tick_only(differing if differing - self.ticked else set())

    def _tick_only(self, places: set[int]) -> None:
        self.ticked = set(filter(self.can_be_ticked, places))
        self._choose(self.ticked, True)
        self._choose(set(range(len(self.differences))) - self.ticked, False)
        self.dataChanged.emit(self.index(0, 0), self.index(max(0, len(self.differences) - 1), 0))

    def _choose(self, places: Iterable[int], ticked: bool) -> None:
        """Note what somebody chose."""
        for place in places:
            one = self.differences[place]
            name = one.row.name.casefold()
            if ticked:
                self._left_out.discard(name)
                self._chosen[name] = one
            elif one.to_take:
                self._left_out.add(name)

    def _is_chosen(self, one: Difference, usual: bool) -> bool:
        name = one.row.name.casefold()
        return one.to_take and name not in self._left_out and (usual or self._chosen.get(name) == one)

    def chosen(self) -> list[Difference]:
        """Return the ticked differences."""
        return [self.differences[place] for place in sorted(self.ticked)]

    def can_be_ticked(self, place: int) -> bool:
        """Return True if a row has anything to take."""
        return self.differences[place].to_take

    def toggle(self, place: int) -> None:
        """Tick a row or take its tick away; what is the same has nothing to take."""
        if not self.can_be_ticked(place):
            return
        self.ticked ^= {place}
        self._choose([place], place in self.ticked)
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
        stood = origin.keys if not origin.remark else f"{origin.keys}: {origin.remark}"
        line = str(origin.line) if origin.line else ""
        is_ = one.kind if origin.sure else f"{one.kind}?"
        return ("", is_, name, keys, stood, line, one.row.group or "")[index.column()]

    def setData(self, index: _Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.CheckStateRole or index.column() != 0:
            return False
        self.toggle(index.row())
        return True
