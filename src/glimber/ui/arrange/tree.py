"""The sequences of a program as a tree over the room: by first key, with the names of groups and subgroups."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QLabel,
    QStyledItemDelegate,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edits.edit import move_binding, retire_binding
from glimber.core.edits.sequences import Branch, name_stem, sequence_tree
from glimber.core.folio.folio import Binding, Folio
from glimber.core.notation.keys import Sequence, Trigger
from glimber.ui.chips import put_chips, put_row_ground
from glimber.ui.look import BODY, HEADING, SMALL
from glimber.ui.pressit import Asked
from glimber.ui.style import theme
from glimber.ui.type import font, put_text

if TYPE_CHECKING:
    from glimber.ui.arrange.room import ArrangeRoom

_CHIPS, _TEXT, _FOLD = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1, 18


class SequenceTree(QWidget):
    """Covers the room. Enter presses a sequence anew, F2 names a group, O lets it stay open, Del takes one off, Esc leaves."""

    def __init__(self, room: ArrangeRoom) -> None:
        super().__init__(room)
        self._room = room
        self.hide()
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head, self.hint = QLabel("Sequences"), QLabel()
        self.head.setFont(font(HEADING, 500))
        self.hint.setText(
            "Enter presses it anew · F2 names a group · O lets a group stay open · Del takes it off · Esc leaves"
        )
        self.hint.setProperty("role", "quiet")
        self.program, self.tree = QComboBox(), QTreeWidget()
        self.program.setAccessibleName("Program")
        self.program.activated.connect(lambda _: self._fill())
        self.tree.setHeaderHidden(True)
        self.tree.setIndentation(26)
        self.tree.setAccessibleName("Sequences")
        self.tree.setItemDelegate(_Step(self.tree))
        self.tree.installEventFilter(self)
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(18, 16, 18, 14)
        for widget in (self.head, self.program, self.tree, self.hint):
            layout.addWidget(widget)
        room.session.folio_changed.connect(self._again)

    def open(self, program: str | None) -> None:
        """Show a program's sequences: those of the one given, or of the first that has any."""
        folio = self._room.session.folio
        ids = [id for id in folio.programs if sequence_tree(folio, id)]
        if not ids:
            self._room.session.told.emit("No program of the folio has sequences yet.")
            return
        self.program.clear()
        for id in ids:
            self.program.addItem(folio.programs[id].name, id)
        self.program.setCurrentIndex(ids.index(program) if program in ids else 0)
        self.setGeometry(self._room.rect())
        self.show()
        self.raise_()
        self._place()
        self._fill()
        self.tree.setFocus()

    def close_it(self) -> None:
        """Leave it."""
        self.hide()
        self._room.canvas.setFocus()

    def _again(self) -> None:
        if self.isVisible():
            self._fill()

    def _fill(self) -> None:
        folio, id = self._room.session.folio, str(self.program.currentData())
        front = self._front()
        here = front.text(0).partition(":")[0] if front is not None else None
        binding = self._binding()
        self.tree.clear()
        for branch in sequence_tree(folio, id) if id in folio.programs else ():
            self._add(folio, self.tree.invisibleRootItem(), branch)
        self.tree.expandAll()
        # A sequence that was pressed anew stays in front, wherever it has gone.
        ids = {binding.id} if binding is not None else set()
        items = [item for item in self._items() if ids & {one.id for one in item.data(0, _TEXT + 1).bindings}]
        items = items or [item for item in self._items() if item.text(0).partition(":")[0] == here]
        self.tree.setCurrentItem(items[0] if items else self.tree.topLevelItem(0))

    def _items(self) -> list[QTreeWidgetItem]:
        found: list[QTreeWidgetItem] = []
        waiting = [self.tree.topLevelItem(row) for row in range(self.tree.topLevelItemCount())]
        while waiting:
            item = waiting.pop(0)
            if item is not None:
                found.append(item)
                waiting += [item.child(row) for row in range(item.childCount())]
        return found

    def _add(self, folio: Folio, above: QTreeWidgetItem, branch: Branch) -> None:
        names = [folio.commands[binding.command or ""].name for binding in branch.bindings]
        said = " / ".join(filter(None, [*names, branch.name])) or f"{sum(1 for _ in branch.all_bindings())} sequences"
        if branch.stays_open:
            said += ", stays open"
        item = QTreeWidgetItem([f"{branch.trigger}: {said}"])
        item.setData(0, _CHIPS, str(branch.chords[-1]))
        item.setData(0, _TEXT, said)
        item.setData(0, _TEXT + 1, branch)
        above.addChild(item)
        for one in branch.branches:
            self._add(folio, item, one)

    def _front(self) -> QTreeWidgetItem | None:
        try:
            return self.tree.currentItem()
        except RuntimeError:
            return None

    def _branch(self) -> Branch | None:
        item = self._front()
        return item.data(0, _TEXT + 1) if item is not None else None

    # Keys

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() not in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            return False
        does: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Return: self.press, Qt.Key.Key_Enter: self.press, Qt.Key.Key_F2: self.name, Qt.Key.Key_O: self.stay_open,
            Qt.Key.Key_Delete: self.take_off, Qt.Key.Key_Escape: self.close_it,
        }  # fmt: skip
        run = does.get(Qt.Key(event.key()))
        if run is None or event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        else:
            run()
        return True

    def _binding(self) -> Binding | None:
        branch = self._branch()
        return branch.bindings[0] if branch is not None and branch.bindings else None

    def press(self) -> None:
        """Press the sequence in front anew."""
        binding = self._binding()
        if binding is None:
            self._room.session.told.emit("A group has no keys of its own; go on to one of its sequences.")
            return
        folio = self._room.session.folio
        command = folio.commands[binding.command or ""]

        def taken(trigger: Trigger) -> None:
            self._room.doing.edit(
                f"move {command.name} to {trigger}", lambda now: move_binding(now, binding.id, trigger).folio
            )
            self.tree.setFocus()

        asked = Asked(folio, command.program, command.name, taken, command.context, self._room.session.computer)
        self._room.doing.ask_keys(asked, False)

    def name(self) -> None:
        """Name the group in front."""
        branch, id = self._branch(), str(self.program.currentData())
        if branch is None or (not branch.branches and not branch.name):
            return
        trigger = branch.trigger

        def taken(name: object) -> None:
            self._room.doing.edit(f"name {trigger}", lambda folio: name_stem(folio, id, trigger, str(name)))

        self._room.doing.choose(f"Group of {trigger}", taken, text=branch.name)

    def stay_open(self) -> None:
        """Let the group in front stay open for several presses until Escape, or close after one."""
        branch, id = self._branch(), str(self.program.currentData())
        if branch is None or not branch.branches:
            return
        trigger: Sequence = branch.trigger
        name = branch.name or str(trigger)
        self._room.doing.edit(
            f"let {name} {'close after one' if branch.stays_open else 'stay open'}",
            lambda folio: name_stem(folio, id, trigger, name, not branch.stays_open),
        )

    def take_off(self) -> None:
        """Take the sequence in front off its command."""
        binding = self._binding()
        if binding is not None:
            self._room.doing.edit(f"take {binding.trigger} off", lambda folio: retire_binding(folio, binding.id))

    # Painting

    def _place(self) -> None:
        width, height = min(640, self.width() - 80), self.height() - 80
        self.box.setGeometry((self.width() - width) // 2, 40, width, height)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), QColor(0, 0, 0, 150))


class _Step(QStyledItemDelegate):
    """The step's chord as chips, then its command or its group's name."""

    def sizeHint(self, option, index) -> QSize:  # type: ignore[no-untyped-def]
        return QSize(200, 32)

    def paint(self, painter: QPainter, option, index) -> None:  # type: ignore[no-untyped-def]
        t, box = theme(), QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        put_row_ground(painter, option.state, box)
        branch = index.data(_TEXT + 1)
        used = put_chips(painter, box.adjusted(4, 0, 0, 0), [index.data(_CHIPS)], SMALL)
        group = branch is not None and not branch.bindings
        put_text(painter, box.adjusted(used + _FOLD, 0, -6, 0), index.data(_TEXT), BODY, 500 if group else 400,
                 QColor(t.quiet if group else t.text))  # fmt: skip
        painter.restore()
