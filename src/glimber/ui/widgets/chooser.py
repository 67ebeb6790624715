"""A line to write or to choose from, laid over the room: names, reasons, commands, icons, boards."""

from __future__ import annotations

from collections.abc import Callable
from collections.abc import Sequence as Rows

from PySide6.QtCore import QEvent, QObject, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.notation.keys import Sequence, Spot
from glimber.core.notation.ranking import best_first
from glimber.ui.paint.fonts import font, put_text
from glimber.ui.paint.look import BODY, HEADING, SMALL
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import theme
from glimber.ui.session.host import Choice
from glimber.ui.widgets.chips import put_chips
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.sheet_over import Cover

SHOWN = 60


class Chooser(Cover):
    """Covers its parent until something was chosen or written, or Esc was struck. ↑ and ↓ choose, Enter takes."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._choices: Rows[Choice] = ()
        self._shown: list[Choice] = []
        self._free = False
        self._taken: Callable[[object], object] = lambda value: None
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head, self.line, self.list = Label(), QLineEdit(), QListWidget()
        self.head.setFont(font(HEADING, 500))
        self.head.setProperty("role", "heading")
        self.hint = Label()
        self.hint.setProperty("role", "quiet")
        self.hint.setWordWrap(True)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setItemDelegate(_Row(self))
        self.list.setAccessibleName("Choices")
        self.list.itemClicked.connect(lambda item: self._take(self.list.row(item)))
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(18, 16, 18, 14)
        for widget in (self.head, self.line, self.list, self.hint):
            layout.addWidget(widget)
        self.line.textEdited.connect(lambda _: self._show())
        self.line.installEventFilter(self)

    def ask(
        self,
        title: str,
        taken: Callable[[object], object],
        choices: Rows[Choice] = (),
        *,
        text: str = "",
        free: bool | None = None,
        hint: str = "",
    ) -> None:
        """Ask for one of the choices, or with ``free`` for any text (always where there are no choices)."""
        self._choices, self._taken = choices, taken
        self._free = not choices if free is None else free
        self.head.setText(title)
        self.line.setAccessibleName(title)
        self.line.setText(text)
        self.line.selectAll()
        self.hint.setText(
            hint or ("Enter accepts · Esc closes" if self._free else "↑ ↓ choose · Enter accepts · Esc closes")
        )
        self.list.setVisible(bool(choices))
        self._show()
        self.show_over()
        self.line.setFocus()

    def _show(self) -> None:
        asked = "" if self._free and not self.line.isModified() else self.line.text()
        fitting = list(self._choices)
        if asked.strip():
            fitting = best_first(asked, self._choices, lambda one: one.text, lambda one: f"{one.detail} {one.words}")
        self._shown = fitting[:SHOWN]
        self.list.clear()
        for one in self._shown:
            item = QListWidgetItem(f"{one.text}: {one.detail}" if one.detail else one.text)
            item.setToolTip(tip(item.text()))
            self.list.addItem(item)
        self.list.setCurrentRow(-1 if self._free else 0)

    def shown(self, row: int) -> Choice | None:
        """Return what a row of the list is."""
        return self._shown[row] if 0 <= row < len(self._shown) else None

    def arrange(self) -> None:
        width = min(560, self.width() - 80)
        height = min(self.height() - 120, 150 + (min(9, max(3, len(self._choices))) * 34 if self._choices else 0))
        self.box.setGeometry((self.width() - width) // 2, max(60, (self.height() - height) // 3), width, height)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kinds = (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        if watched is not self.line or not isinstance(event, QKeyEvent) or event.type() not in kinds:
            return bool(super().eventFilter(watched, event))
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while something is asked, no key means anything else
            return True
        if event.key() == Qt.Key.Key_Escape:
            self.dismiss()
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.list.count():
            by = 1 if event.key() == Qt.Key.Key_Down else -1
            row = self.list.currentRow()
            self.list.setCurrentRow(
                (row + by) % self.list.count() if row >= 0 else 0 if by > 0 else self.list.count() - 1
            )
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.list.currentRow())
        else:
            return bool(super().eventFilter(watched, event))
        return True

    def _take(self, row: int) -> None:
        taken, text = self._taken, self.line.text().strip()
        if 0 <= row < len(self._shown):
            one = self._shown[row]
            value = one.text if one.value is None else one.value
        elif self._free:
            value = text
        else:
            return
        self.dismiss()
        taken(value)


class _Row(PaintedRow):
    """The choice, a trigger as chips, and what stands beside it in quiet."""

    def __init__(self, chooser: Chooser) -> None:
        super().__init__(chooser.list, (200, 34))
        self._chooser = chooser

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        one, t = self._chooser.shown(index.row()), theme()
        if one is None:
            return
        inside = box.adjusted(12, 0, -12, 0)
        if isinstance(one.value, Sequence | Spot):
            used = put_chips(painter, inside, [one.value], SMALL)
        else:
            used = put_text(painter, inside, one.text, BODY, 500, QColor(t.text))
        put_text(painter, inside.adjusted(used + 16, 0, 0, 0), one.detail, BODY, 400, QColor(t.quiet))
