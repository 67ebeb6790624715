"""A page laid over the room: a title, what it is about in a line, rows to go through, and what can be done at its foot."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QFrame,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from glimber.ui.paint.look import PANEL_RADIUS, PAPER
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.session.pages import Inks, Page, PageAction, PageRow
from glimber.ui.widgets.flow import Flow
from glimber.ui.widgets.page_rows import Head, inks
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.sheet_over import Cover

_KEYS: Final = {"Enter": (Qt.Key.Key_Return, Qt.Key.Key_Enter), "Space": (Qt.Key.Key_Space,), "Del": (Qt.Key.Key_Delete,)}


class PageOver(Cover):
    """Lays pages over its parent. ↑ ↓ go through the rows, Tab to the next heading, Esc closes."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.page: Page | None = None
        self.rows: list[PageRow] = []
        self.box = _Sheet(self)
        self.head, self.about = Label(), Label()
        self.head.setProperty("role", "title")
        self.about.setProperty("role", "quiet")
        self.about.setWordWrap(True)
        self.list = QListWidget()
        self.list.setItemDelegate(_Row(self))
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.installEventFilter(self)
        self.list.itemDoubleClicked.connect(lambda _: self.do("Enter"))
        self.foot = QWidget()
        self._flow = Flow(4, self.foot)
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(28, 20, 28, 14)
        layout.setSpacing(8)
        for widget, stretch in ((self.head, 0), (self.about, 0), (self.list, 1), (self.foot, 0)):
            layout.addWidget(widget, stretch)

    def show_page(self, page: Page) -> None:
        """Lay a page over the room."""
        self.page = page
        self.box.set_paper(page.paper)
        for label, quiet in ((self.head, False), (self.about, True)):
            ink = PAPER["prints" if quiet else "ink"]
            label.setStyleSheet(f"color: {ink};" if page.paper else "")
        self.head.setText(page.title)
        self.about.setText(page.about)
        self.about.setVisible(bool(page.about))
        self.list.setAccessibleName(page.title)
        self._fill(-1)
        self._fill_foot(page)
        self.show_over()
        self.list.setFocus()

    def _fill(self, place: int) -> None:
        assert self.page is not None
        self.rows = list(self.page.rows())
        self.list.clear()
        for row in self.rows:
            item = QListWidgetItem(row.spoken)
            item.setToolTip(tip(row.spoken))
            item.setSizeHint(QSize(200, row.height))
            self.list.addItem(item)
        acting = [number for number, row in enumerate(self.rows) if row.value is not None]
        first = acting[0] if acting else 0
        self.list.setCurrentRow(min(place, len(self.rows) - 1) if place >= 0 else first)

    def _fill_foot(self, page: Page) -> None:
        while (item := self._flow.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        leaving = PageAction("Esc", "closes", lambda _: None)
        for action in (*page.actions, leaving):
            button = QPushButton(f"{action.key}  {action.words}")
            button.setProperty("role", "line")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            if page.paper:
                button.setStyleSheet(f"color: {PAPER['ink']};")
            button.clicked.connect(lambda _=False, one=action: self._run(one))
            self._flow.addWidget(button)

    def row(self, place: int) -> PageRow | None:
        """Return a row of the page."""
        return self.rows[place] if 0 <= place < len(self.rows) else None

    def arrange(self) -> None:
        width = min(1040, self.width() - 80, self.window().width() - 48)
        wanted = 170 + sum(row.height + 2 for row in self.rows)
        height = min(self.height() - 48, max(280, wanted))
        self.box.setGeometry((self.width() - width) // 2, (self.height() - height) // 2, width, height)

    def do(self, key: str) -> bool:
        """Do what a key stands for on this page; False where it stands for nothing."""
        actions = {one.key: one for one in (self.page.actions if self.page is not None else ())}
        found = actions.get(key) or (actions.get("Space") if key == "Enter" else None)
        if found is None:
            return False
        self._run(found)
        return True

    def _run(self, action: PageAction) -> None:
        place = self.list.currentRow()
        row = self.row(place)
        value = row.value if row is not None else None
        if action.of_row and value is None:
            return
        if action.leaves:
            self.dismiss()
        action.run(value)
        if not action.leaves and self.isVisible():
            self._fill(place)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is not self.list or not isinstance(event, QKeyEvent):
            return bool(super().eventFilter(watched, event))
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while a page is there no key means anything else
            return True
        if event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.dismiss()
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._to_heading(1 if event.key() == Qt.Key.Key_Tab else -1)
        elif (key := _name_of(event)) is None or not self.do(key):
            return not self._moves(event)
        return True

    @staticmethod
    def _moves(event: QKeyEvent) -> bool:
        keys = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_End)
        return event.key() in keys

    def _to_heading(self, by: int) -> None:
        """Go to the first row below the next heading, or the one before."""
        here = self.list.currentRow()
        heads = [number for number, row in enumerate(self.rows) if isinstance(row, Head)]
        if not heads:
            return
        passed = [number for number in heads if number < here]
        place = next((n for n in heads if n >= here), heads[0]) if by > 0 else passed[-2] if len(passed) > 1 else heads[-1]
        self.list.setCurrentRow(min(place + 1, len(self.rows) - 1))
        self.list.scrollToItem(self.list.item(place), QListWidget.ScrollHint.PositionAtTop)


def _name_of(event: QKeyEvent) -> str | None:
    named = next((name for name, keys in _KEYS.items() if event.key() in keys), None)
    plain = not event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier)
    return named or (event.text().upper() if plain and event.text().strip() else None)


class _Sheet(QFrame):
    """The sheet itself, as a panel or as paper."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._paper = False
        self.setObjectName("panel")

    def set_paper(self, paper: bool) -> None:
        self._paper = paper
        ground = f"background: {PAPER['paper']}; border-radius: 4px;" if paper else f"border-radius: {PANEL_RADIUS}px;"
        # The row in front shows where one is: the list needs no frame of its own.
        self.setStyleSheet(f"QFrame#panel {{ {ground} }} QListWidget, QListWidget:focus {{ border: none; }}")


class _Row(PaintedRow):
    def __init__(self, page: PageOver) -> None:
        super().__init__(page.list, (200, 32))
        self._page = page

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        row = self._page.row(index.row())
        return QSize(200, row.height if row is not None else 32)

    def _inks(self) -> Inks:
        return inks(self._page.page is not None and self._page.page.paper)

    def ground(self, painter: QPainter, box: QRectF) -> None:
        row, ink = self._page.row(self._page.list.currentRow()), self._inks()
        if row is None or row.value is None:
            painter.setPen(QPen(QColor(ink.line), 1))
            painter.drawLine(box.topLeft(), box.bottomLeft())
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(ink.front))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        row = self._page.row(index.row())
        if row is not None:
            row.put(painter, box, self._inks())
