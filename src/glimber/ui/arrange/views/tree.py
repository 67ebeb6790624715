"""The sequences of a program drawn as a tree from first key to command, over the room."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPersistentModelIndex, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit.sequences import Branch, Cell, laid_out, sequence_tree
from glimber.core.model.folio import Folio
from glimber.ui.paint.fonts import font, put_text
from glimber.ui.paint.look import BODY, HEADING, SMALL
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import theme
from glimber.ui.widgets.chips import chips_width, put_chips
from glimber.ui.widgets.sheet_over import Cover

_CELL = Qt.ItemDataRole.UserRole
_HIGH, _GUTTER, _LEAST = 38, 30, 150


class SequenceTree(Cover):
    """Arrows go along it. Enter presses new keys for a sequence, F2 names a group, O keeps it open, K sets what closes it, S
    which dialog it replaces, Del removes a sequence, Esc closes.

    ``pressed``, ``named``, ``opened``, ``closed``, ``dialog`` and ``taken_off`` carry the step in front.
    """

    pressed = Signal(object)
    named = Signal(object)
    opened = Signal(object)
    closed = Signal(object)
    dialog = Signal(object)
    taken_off = Signal(object)
    left = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._folio: Folio | None = None
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head, self.hint = Label("Sequences"), Label()
        self.head.setFont(font(HEADING, 500))
        self.hint.setText(
            "Enter presses new keys · F2 names a group · O keeps it open · K sets what closes it · S sets its dialog "
            "· Del removes a sequence · Esc closes"
        )
        self.hint.setProperty("role", "quiet")
        self.program, self.tree = QComboBox(), QTableWidget()
        self.program.setAccessibleName("Program")
        self.program.activated.connect(lambda _: self._fill())
        for header in (self.tree.horizontalHeader(), self.tree.verticalHeader()):
            header.hide()
        self.tree.setShowGrid(False)
        # The step is drawn as chosen by its delegate, so that the table must not fill its cell.
        self.tree.setStyleSheet("QTableWidget { selection-background-color: transparent; }"
                                "QTableWidget::item:selected { background: transparent; }")  # fmt: skip
        self.program.setMaximumWidth(320)
        self.tree.setFrameShape(QFrame.Shape.NoFrame)
        self.tree.setTabKeyNavigation(False)
        self.tree.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.tree.setAccessibleName("Sequences")
        self.tree.setItemDelegate(_Step(self.tree))
        self.tree.installEventFilter(self)
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(22, 18, 22, 16)
        for widget in (self.head, self.program, self.tree, self.hint):
            layout.addWidget(widget)

    def open(self, folio: Folio, programs: Sequence[str], program: str | None) -> None:
        """Show the sequences of one of these programs: the one given where it is among them, else the first."""
        self._folio = folio
        self.program.clear()
        for id in programs:
            self.program.addItem(folio.programs[id].name, id)
        self.program.setCurrentIndex(programs.index(program) if program in programs else 0)
        self.program.setVisible(len(programs) > 1)
        self.show_over()
        self._fill()
        self.tree.setFocus()

    def show_folio(self, folio: Folio) -> None:
        """The folio is another: the step in front stays, wherever it has gone."""
        self._folio = folio
        if self.isVisible():
            self._fill()

    def program_id(self) -> str:
        """Return the program that is shown."""
        return str(self.program.currentData())

    def arrange(self) -> None:
        self.box.setGeometry(40, 32, self.width() - 80, self.height() - 64)

    def texts(self) -> list[str]:
        """Return every step with what it is, in reading order."""
        return [item.text() for item in self._items()]

    def _items(self) -> list[QTableWidgetItem]:
        places = [(row, column) for row in range(self.tree.rowCount()) for column in range(self.tree.columnCount())]
        found = [self.tree.item(row, column) for row, column in places]
        return [item for item in found if item is not None and _cell_of(item).branch is not None]

    def front(self) -> Branch | None:
        """Return the step in front."""
        item = self.tree.currentItem()
        return _cell_of(item).branch if item is not None else None

    def _fill(self) -> None:
        folio, id, before = self._folio, self.program_id(), self.front()
        if folio is None or id not in folio.programs:
            return
        cells = laid_out(sequence_tree(folio, id))
        self.tree.clear()
        self.tree.setRowCount(max((cell.row for cell in cells), default=-1) + 1)
        self.tree.setColumnCount(max((cell.column for cell in cells), default=-1) + 1)
        widths = [_LEAST] * self.tree.columnCount()
        for cell in cells:
            item = QTableWidgetItem("" if cell.branch is None else f"{cell.branch.trigger}: {branch_text(folio, cell.branch)}")
            item.setData(_CELL, cell)
            if cell.branch is None:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            else:
                words = branch_text(folio, cell.branch)
                item.setToolTip(tip(item.text()))
                wide = chips_width([str(cell.branch.chords[-1])], SMALL) + self.tree.fontMetrics().horizontalAdvance(
                    words
                )
                widths[cell.column] = max(widths[cell.column], round(wide) + _GUTTER + 60)
            self.tree.setItem(cell.row, cell.column, item)
        for row in range(self.tree.rowCount()):
            self.tree.setRowHeight(row, _HIGH)
            for column in range(self.tree.columnCount()):
                if self.tree.item(row, column) is None:
                    nothing = QTableWidgetItem()
                    nothing.setFlags(Qt.ItemFlag.NoItemFlags)
                    nothing.setData(_CELL, Cell(row, column, None))
                    self.tree.setItem(row, column, nothing)
        for column, wide in enumerate(widths):
            self.tree.setColumnWidth(column, wide)
        self._keep_front(before)

    def _keep_front(self, before: Branch | None) -> None:
        items = self._items()
        ids = {one.id for one in before.bindings} if before is not None else set()
        same = [item for item in items if ids & {one.id for one in _branch_of(item).bindings}]
        same = same or [item for item in items if before is not None and _branch_of(item).chords == before.chords]
        if items:
            self.tree.setCurrentItem((same or items)[0])

    # Keys

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is not self.tree or not isinstance(event, QKeyEvent):
            return super().eventFilter(watched, event)
        if event.type() not in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            return False
        does: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Return: lambda: self.pressed.emit(self.front()), Qt.Key.Key_Enter: lambda: self.pressed.emit(self.front()),
            Qt.Key.Key_F2: lambda: self.named.emit(self.front()), Qt.Key.Key_O: lambda: self.opened.emit(self.front()),
            Qt.Key.Key_K: lambda: self.closed.emit(self.front()), Qt.Key.Key_S: lambda: self.dialog.emit(self.front()),
            Qt.Key.Key_Delete: lambda: self.taken_off.emit(self.front()), Qt.Key.Key_Escape: self._leave,
        }  # fmt: skip
        run = does.get(Qt.Key(event.key()))
        if run is None or event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        else:
            run()
        return True

    def _leave(self) -> None:
        self.dismiss()
        self.left.emit()


def branch_text(folio: Folio, branch: Branch) -> str:
    """Return what a step is: its command, the name of its group, or how many sequences go on from it."""
    names = [folio.commands[binding.command or ""].name for binding in branch.bindings]
    words = " / ".join(filter(None, [*names, branch.name])) or f"{sum(1 for _ in branch.all_bindings())} sequences"
    return f"{words}, stays open" if branch.stays_open else words


def _cell_of(item: QTableWidgetItem) -> Cell:
    found = item.data(_CELL)
    assert isinstance(found, Cell)
    return found


def _branch_of(item: QTableWidgetItem) -> Branch:
    branch = _cell_of(item).branch
    assert branch is not None
    return branch


class _Step(QStyledItemDelegate):
    """The step's chord as chips, its command or group, and the lines from the step before it and to those below."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(_LEAST, _HIGH)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        cell, t, box = index.data(_CELL), theme(), QRectF(option.rect)
        if not isinstance(cell, Cell):
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, rail = box.center().y(), box.left() + 10
        painter.setPen(QPen(QColor(t.line), 1.4))
        if cell.branch is None:
            if cell.more:
                painter.drawLine(QPointF(rail, box.top()), QPointF(rail, box.bottom() + 1))
            painter.restore()
            return
        if cell.column:
            painter.drawLine(
                QPointF(box.left() if cell.first else rail, middle), QPointF(box.left() + _GUTTER - 6, middle)
            )
            if not cell.first:
                painter.drawLine(QPointF(rail, box.top()), QPointF(rail, middle))
            if cell.more:
                painter.drawLine(QPointF(rail, middle), QPointF(rail, box.bottom() + 1))
        inside = box.adjusted(_GUTTER if cell.column else 6, 0, -8, 0)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(QColor(t.light), 1.4))
            painter.setBrush(QColor(t.raised))
            painter.drawRoundedRect(inside.adjusted(-5, 3, 4, -3), 6, 6)
        group = bool(cell.branch.branches)
        words = str(index.data(Qt.ItemDataRole.DisplayRole)).partition(": ")[2]
        x = inside.left() + put_chips(painter, inside, [str(cell.branch.chords[-1])], SMALL) + 12
        used = put_text(painter, QRectF(x, box.top(), inside.right() - x, box.height()), words, BODY,
                        600 if group else 400, QColor(t.text if group else t.quiet))  # fmt: skip
        if group:
            painter.setPen(QPen(QColor(t.line), 1.4))
            painter.drawLine(QPointF(min(x + used + 10, box.right()), middle), QPointF(box.right() + 1, middle))
        painter.restore()
