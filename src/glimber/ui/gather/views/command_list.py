"""The list of commands, worked through by keys: arrows choose a cell, Enter writes in it, and what was written stays in place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractItemView, QCompleter, QStyleOptionViewItem, QWidget

from glimber.core.edit.command_cells import CELL, CELLS
from glimber.core.stats.usage import Stake
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, KEY_RADIUS, SMALL
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.style import theme
from glimber.ui.widgets.chips import put_chips
from glimber.ui.widgets.field import Field
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.text_list import TextList

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio

_ROW, _HEAD = 34, 30
_KEYS: Final = "keys"
_SHARES: Final = {"name": 0.27, _KEYS: 0.22, "label": 0.15, "uses": 0.08, "reason": 0.16, "group": 0.12}
_NARROW: Final = {"name": 0.5, _KEYS: 0.5}
_WIDE_ENOUGH: Final = 720
"""Px from which there is room for all cells; below it only the name and the keys are shown."""


def seconds_of(stake: Stake) -> str:
    """Return what the slow way takes in a week."""
    return "no slow way on record" if stake.week_s is None else f"{stake.week_s:.0f} s a week"


def how_of(stake: Stake) -> str:
    """Return how those seconds come about."""
    often = f"{stake.uses_week:g} uses a week" + (", assumed" if stake.guessed else "")
    return often if stake.slow_s is None else f"{stake.slow_s:.1f} s × {often}"


def columns_in(width: float) -> dict[str, tuple[float, float]]:
    """Return where each cell of a row begins, and how wide it is, in px."""
    shares, x, found = (_SHARES if width >= _WIDE_ENOUGH else _NARROW), 12.0, {}
    for id, share in shares.items():
        found[id] = (x, share * (width - 24))
        x += share * (width - 24)
    return found


class CommandList(TextList):
    """Rows whose value is the keys of the command. ``written`` carries the commands, the id of a cell and the text that was
    written into it."""

    written = Signal(list, str, str)

    def __init__(self) -> None:
        super().__init__()
        self.folio: Folio | None = None
        self.stakes: Sequence[Stake] = ()
        self.heads: dict[int, tuple[str, str, str]] = {}
        self.cell = "label"
        self._field: _CellField | None = None
        self._writing = False
        self.setItemDelegate(_Row(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def columns(self) -> dict[str, tuple[float, float]]:
        """Return where each cell of a row begins and how wide it is at the present width."""
        return columns_in(self.viewport().width())

    def refs(self) -> list[str]:
        """Return the selected commands, the one in front at least."""
        rows = sorted({index.row() for index in self.selectedIndexes()} | {self.currentRow()})
        return [self.stakes[row].command.ref for row in rows if 0 <= row < len(self.stakes)]

    def _can_write(self) -> list[str]:
        return [cell.id for cell in CELLS if cell.id in self.columns()]

    def move_cell(self, by: int) -> None:
        """Choose the cell beside the chosen one."""
        cells = self._can_write()
        here = cells.index(self.cell) if self.cell in cells else 0
        self.cell = cells[max(0, min(len(cells) - 1, here + by))]
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if plain and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.move_cell(1 if event.key() == Qt.Key.Key_Right else -1)
        elif plain and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.write_here()
        elif event.text().strip() and plain:
            event.ignore()  # letters are the room's keys, not the beginning of a name that is looked for
        else:
            super().keyPressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        found = next((id for id, (left, wide) in self.columns().items() if left <= x < left + wide), None)
        if found in self._can_write():
            self.cell = str(found)
            self.write_here()

    # Writing

    def write_here(self) -> None:
        """Write in the chosen cell of the row in front."""
        row = self.currentRow()
        if self.folio is None or not 0 <= row < len(self.stakes):
            return
        cells = self._can_write()
        self.cell = self.cell if self.cell in cells else cells[0]
        if self._field is None:
            self._field = _CellField(self)
        cell, command = CELL[self.cell], self.stakes[row].command
        left, wide = self.columns()[self.cell]
        index = self.currentIndex()
        self.scrollTo(index)
        box = self.visualRect(index)
        top = box.bottom() + 1 - _ROW
        self._field.begin(cell.text(self.folio, command), cell.assumed(self.folio, command), self._known())
        self._field.setAccessibleName(f"{cell.head} of {command.name}")
        self._field.setGeometry(round(left - 8), top + 1, max(90, round(wide)), _ROW - 2)
        self._field.show()
        self._field.setFocus()
        self._writing = True

    def _known(self) -> list[str]:
        if self.cell != "group" or self.folio is None:
            return []
        programs = {self.stakes[self.currentRow()].command.program}
        return [group.name for id in programs for group in self.folio.programs[id].groups.values()]

    def end_writing(self, text: str | None, then: int = 0) -> None:
        """Take what was written, or with None nothing; then go ``then`` rows on and write there."""
        field = self._field
        if field is None or not self._writing:
            return
        self._writing = False  # the field loses the focus now, and must not end a second time
        row, several = self.currentRow(), CELL[self.cell].several
        refs = self.refs() if several else [self.stakes[row].command.ref]
        before = CELL[self.cell].text(self.folio, self.stakes[row].command) if self.folio is not None else None
        self.setFocus()
        field.hide()
        if text is not None and (text.strip() != before or len(refs) > 1):
            self.written.emit(refs, self.cell, text)
        if then and len(refs) == 1 and 0 <= self.currentRow() + then < self.count():
            self.setCurrentRow(self.currentRow() + then)
            self.write_here()


class _CellField(Field):
    """A line over a cell: Enter or Down takes it and writes on in the row below, Up in the one above, Tab in the cell beside it;
    Escape leaves it."""

    def __init__(self, list_: CommandList) -> None:
        super().__init__()
        self.setParent(list_.viewport())
        self._list = list_
        self.installEventFilter(_Leave(self))

    def begin(self, text: str, assumed: str, known: list[str]) -> None:
        """Begin with a text; ``known``: texts that are offered."""
        self.setText(text)
        self.setPlaceholderText(assumed)
        self.selectAll()
        completer = QCompleter(known, self) if known else None
        if completer is not None:
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setCompletionMode(QCompleter.CompletionMode.InlineCompletion)
        self.setCompleter(completer)  # type: ignore[arg-type]

    def focusNextPrevChild(self, next: bool) -> bool:
        self._list.end_writing(self.text())
        self._list.move_cell(1 if next else -1)
        self._list.write_here()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._list.end_writing(None)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Down):
            self._list.end_writing(self.text(), 1)
        elif event.key() == Qt.Key.Key_Up:
            self._list.end_writing(self.text(), -1)
        else:
            super().keyPressEvent(event)


class _Leave(QObject):
    """Takes what was written when the focus goes elsewhere."""

    def __init__(self, field: _CellField) -> None:
        super().__init__(field)
        self._field = field

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut and self._field.window().isActiveWindow():
            self._field._list.end_writing(self._field.text())
        return False


class ListHead(QWidget):
    """The names of the cells above the list."""

    def __init__(self, list_: CommandList) -> None:
        super().__init__()
        self._list = list_
        self.setFixedHeight(24)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, t = QPainter(self), theme()
        names = {cell.id: cell.head for cell in CELLS} | {_KEYS: "Keys"}
        for id, (left, wide) in self._list.columns().items():
            put_text(painter, QRectF(left, 0, wide - 8, self.height()), names[id], SMALL, 500, QColor(t.quiet))


class _Row(PaintedRow):
    """A command with its cells, and above the first of a group the group's name; one that waits shows what its slow way takes."""

    def __init__(self, list_: CommandList) -> None:
        super().__init__(list_, (200, _ROW))
        self._list = list_

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, _ROW + (_HEAD if index.row() in self._list.heads else 0))

    def ground(self, painter: QPainter, box: QRectF) -> None:
        """The row in front is marked by ``put``, below the name of its group."""

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        t, folio, stake = theme(), self._list.folio, self._list.stakes[index.row()]
        if index.row() in self._list.heads:
            self._put_head(painter, QRectF(box.left(), box.top(), box.width(), _HEAD), *self._list.heads[index.row()])
            box = box.adjusted(0, _HEAD, 0, 0)
        if folio is None:
            return
        front = index.row() == self._list.currentRow()
        if front or self._list.selectionModel().isSelected(index):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.raised))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), KEY_RADIUS, KEY_RADIUS)
        for id, (left, wide) in columns_in(box.width()).items():
            cell = QRectF(box.left() + left, box.top(), wide - 10, box.height())
            if front and id == self._list.cell and self._list.hasFocus():
                painter.setPen(QPen(QColor(t.light), 1.2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(cell.adjusted(-7, 4, 4, -4), 5, 5)
            if id == _KEYS:
                self._put_keys(painter, cell, index, stake)
            else:
                self._put_cell(painter, cell, id, stake)

    @staticmethod
    def _put_head(painter: QPainter, box: QRectF, name: str, ink: str, mark: str) -> None:
        t = theme()
        x = box.left() + 12
        if mark:
            paint_mark(painter, mark, QPointF(x + 5, box.center().y() + 4), 10, QColor(t.inks[ink]))
            x += 20
        put_text(painter, QRectF(x, box.top() + 8, box.width() - 40, box.height() - 8), name, SMALL, 600, QColor(t.quiet))

    def _put_cell(self, painter: QPainter, box: QRectF, id: str, stake: Stake) -> None:
        t, folio, cell = theme(), self._list.folio, CELL[id]
        assert folio is not None
        text = cell.text(folio, stake.command)
        ink = t.text if id == "name" else t.quiet
        if text:
            put_text(painter, box, text, BODY, 500 if id == "name" else 400, QColor(ink))
        else:
            put_text(painter, box, cell.assumed(folio, stake.command), BODY, 400, QColor(t.faint))

    def _put_keys(self, painter: QPainter, box: QRectF, index: Index, stake: Stake) -> None:
        keys = self._list.row(index.row()).value
        if isinstance(keys, tuple) and keys:
            put_chips(painter, box, keys, SMALL)
            return
        t = theme()
        wide = put_text(painter, box, seconds_of(stake), SMALL, 400, QColor(t.quiet))
        heaviest = max((one.week_s or 0.0 for one in self._list.stakes), default=0.0)
        room = box.width() - wide - 14
        if stake.week_s and heaviest and room > 30:
            x, y = box.left() + wide + 14, box.center().y()
            painter.setPen(QPen(QColor(t.quiet), 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(x, y), QPointF(x + max(2.0, room * stake.week_s / heaviest), y))
