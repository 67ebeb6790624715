"""The sheet of all settings: by groups, each with the control of its kind, and found by typing a word of it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit.edit import EditError
from glimber.core.notation.ranking import best_first
from glimber.store.faults import StoreError
from glimber.ui.paint.fonts import advance, font, put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import theme
from glimber.ui.session.host import Choice, Host
from glimber.ui.shell.find import Found
from glimber.ui.shell.settings import Setting, Settings
from glimber.ui.widgets.page_rows import Head, inks
from glimber.ui.widgets.rows import Index, PaintedRow
from glimber.ui.widgets.sheet_over import Cover

_ROW: Final = 48
_CONTROL: Final = 0.46
"""The share of a row's width that the control has."""
_SEGMENTS: Final = 4


class SettingsSheet(Cover):
    """↑ ↓ choose a setting, ← → change it, Enter writes or picks a value, Esc closes; what is typed narrows the list."""

    def __init__(self, parent: QWidget, settings: Settings, host: Host, tell: Callable[[str], None]) -> None:
        super().__init__(parent)
        self._settings, self._host, self._tell = settings, host, tell
        self._rows: list[Setting | Head] = []
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.box.setStyleSheet("QListWidget, QListWidget:focus { border: none; }")
        self.head = Label("Settings")
        self.head.setProperty("role", "title")
        self.line = QLineEdit()
        self.line.setPlaceholderText("Type to find a setting")
        self.line.setAccessibleName("Find a setting")
        self.line.textEdited.connect(lambda _: self._fill())
        self.list = QListWidget()
        self.list.setAccessibleName("Settings")
        self.list.setItemDelegate(_Row(self))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemDoubleClicked.connect(lambda _: self.enter())
        self.list.viewport().installEventFilter(self)
        self.line.installEventFilter(self)
        self.hint = Label("↑ ↓ choose · ← → change · Enter writes it · Esc closes · Ctrl+Z takes an edit of the folio back")
        self.hint.setProperty("role", "quiet")
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(28, 18, 28, 14)
        for widget, stretch in ((self.head, 0), (self.line, 0), (self.list, 1), (self.hint, 0)):
            layout.addWidget(widget, stretch)

    def found(self) -> list[Found]:
        """Return every setting, to be gone to by its name."""
        found = []
        for one in self._settings.rows():
            words = f"setting {one.group} {one.name} {one.detail}"
            found.append(Found(one.name, f"setting · {one.words(one.value())}", words, partial(self.open, one.id)))
        return found

    def refresh(self) -> None:
        """Show settings that changed elsewhere."""
        if self.isVisible():
            self._fill()

    def open(self, id: str = "") -> None:
        """Lay it over the room, with a setting in front."""
        self.line.clear()
        self._fill(id)
        self.show_over()
        self.line.setFocus()

    def _fill(self, id: str = "") -> None:
        here = self.row(self.list.currentRow())
        front = id or (here.id if here is not None else "")
        every, asked = self._settings.rows(), self.line.text().strip()
        if asked:
            self._rows = [*best_first(asked, every, lambda one: one.name, lambda one: f"{one.group} {one.detail}")]
        else:
            self._rows = []
            for group in dict.fromkeys(one.group for one in every):
                self._rows += [Head(group), *(one for one in every if one.group == group)]
        self.list.clear()
        for one in self._rows:
            message = one.spoken if isinstance(one, Head) else f"{one.name}: {one.words(one.value())}. {one.detail}"
            item = QListWidgetItem(message)
            if isinstance(one, Head):
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        places = [n for n, one in enumerate(self._rows) if isinstance(one, Setting)]
        wanted = [n for n in places if isinstance(one := self._rows[n], Setting) and one.id == front]
        place = (wanted or places or [-1])[0]
        self.list.setCurrentRow(place)
        if places and place == places[0]:
            self.list.scrollToTop()

    def row(self, place: int) -> Setting | None:
        """Return the setting that a row of the list is; None for a heading."""
        one = self._rows[place] if 0 <= place < len(self._rows) else None
        return one if isinstance(one, Setting) else None

    def heading(self, place: int) -> Head | None:
        """Return the heading that a row of the list is; None for a setting."""
        one = self._rows[place] if 0 <= place < len(self._rows) else None
        return one if isinstance(one, Head) else None

    def arrange(self) -> None:
        width = min(860, self.width() - 80, self.window().width() - 48)
        height = min(self.height() - 48, 200 + _ROW * len(self._rows))
        self.box.setGeometry((self.width() - width) // 2, (self.height() - height) // 2, width, height)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.list.viewport() and isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonRelease:
            self._click(event)
            return False
        if watched is not self.line or not isinstance(event, QKeyEvent):
            return bool(super().eventFilter(watched, event))
        if event.type() == QEvent.Type.ShortcutOverride:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and not self.line.text():
                event.ignore()  # the folio's undo works here too; the line has nothing of its own to take back
                return True
            event.accept()
            return True
        if event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.dismiss()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.step(1 if event.key() == Qt.Key.Key_Right else -1)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._move(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._move(8 if event.key() == Qt.Key.Key_PageDown else -8)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.enter()
        elif event.key() == Qt.Key.Key_Space and not self.line.text():
            self.step(1)
        else:
            return False
        return True

    def _move(self, by: int) -> None:
        places = [n for n, one in enumerate(self._rows) if isinstance(one, Setting)]
        if not places:
            return
        here = self.list.currentRow()
        at = places.index(here) if here in places else 0
        at = (at + by) % len(places) if abs(by) == 1 else min(len(places) - 1, max(0, at + by))
        self.list.setCurrentRow(places[at])
        if at == 0:
            self.list.scrollToTop()  # the heading above it is seen again

    def _click(self, event: QMouseEvent) -> None:
        """A click on the control of a row changes it: its left half one way, its right half the other."""
        place = self.list.indexAt(event.position().toPoint())
        one = self.row(place.row())
        box = QRectF(self.list.visualRect(place))
        left = box.right() - box.width() * _CONTROL
        if one is None or event.position().x() < left:
            return
        self.list.setCurrentRow(place.row())
        if one.choices() or one.step:
            self.step(1 if event.position().x() > (left + box.right()) / 2 else -1)
        else:
            self.enter()

    def step(self, by: int) -> None:
        """Give the setting in front its next value, or the one before."""
        one = self.row(self.list.currentRow())
        value = one.stepped(by) if one is not None else None
        if one is not None and value is not None:
            self.put(one, value)

    def enter(self) -> None:
        """Have a value chosen or written."""
        one = self.row(self.list.currentRow())
        if one is None:
            return

        def taken(value: object) -> None:
            self.put(one, str(value))
            self.open(one.id)

        choices = [Choice(one.words(value), value=value) for value in one.choices()]
        self.dismiss()
        free = not choices or one.id == "xkb"
        self._host.choose(one.name, taken, choices, text="" if choices else one.value(), free=free, hint=one.detail)

    def put(self, one: Setting, value: str) -> None:
        """Set the value; show what is wrong with it."""
        try:
            one.put(value)
        except (EditError, StoreError) as error:
            self._tell(str(error))
        self._fill()


class _Row(PaintedRow):
    """A heading; or name and meaning of a setting, and its control: segments, a slider, a switch, or the value written."""

    def __init__(self, sheet: SettingsSheet) -> None:
        super().__init__(sheet.list, (200, _ROW))
        self._sheet = sheet

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        head = self._sheet.heading(index.row())
        return QSize(200, head.height if head is not None else _ROW)

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        one, t = self._sheet.row(index.row()), theme()
        if one is None:
            head = self._sheet.heading(index.row())
            if head is not None:
                head.put(painter, box, inks(False))
            return
        control = QRectF(box.right() - box.width() * _CONTROL, box.top(), box.width() * _CONTROL - 14, box.height())
        words = QRectF(box.left() + 12, box.top() + 4, control.left() - box.left() - 28, 22)
        put_text(painter, words, one.name, BODY, 600, QColor(t.text))
        put_text(painter, words.translated(0, 20), one.detail, SMALL, 400, QColor(t.quiet))
        choices = list(one.choices())
        if set(choices) == {"shown", "never"}:
            _put_switch(painter, control, one.value() == "shown")
        elif 0 < len(choices) <= _SEGMENTS:
            _put_segments(painter, control, [one.words(each) for each in choices], one.words(one.value()))
        elif one.share is not None:
            _put_slider(painter, control, one.share, one.words(one.value()))
        else:
            value = one.words(one.value())
            front = choices and index.row() == self._sheet.list.currentRow()
            put_text(painter, control, f"‹ {value} ›" if front else value, BODY, 600, QColor(t.light), end=True)


def _put_switch(painter: QPainter, box: QRectF, on: bool) -> None:
    t = theme()
    track = QRectF(box.right() - 36, box.center().y() - 10, 36, 20)
    painter.setPen(QPen(QColor(t.light if on else t.quiet), 1.4))
    painter.setBrush(QColor(t.light if on else t.panel))
    painter.drawRoundedRect(track, 10, 10)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(t.on_lamp if on else t.quiet))
    painter.drawEllipse(QPointF(track.right() - 10 if on else track.left() + 10, track.center().y()), 6, 6)


def _put_segments(painter: QPainter, box: QRectF, words: list[str], chosen: str) -> None:
    t = theme()
    widths = [advance(word, BODY, 600) + 22 for word in words]
    x = box.right() - sum(widths)
    for word, wide in zip(words, widths, strict=True):
        part = QRectF(x, box.center().y() - 14, wide, 28)
        if word == chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.light))
            painter.drawRoundedRect(part, 6, 6)
        painter.setPen(QColor(t.on_lamp if word == chosen else t.quiet))
        painter.setFont(font(BODY, 600 if word == chosen else 500))
        painter.drawText(part, Qt.AlignmentFlag.AlignCenter, word)
        x += wide


def _put_slider(painter: QPainter, box: QRectF, share: float, words: str) -> None:
    t = theme()
    put_text(painter, QRectF(box.right() - 110, box.top(), 110, box.height()), words, BODY, 600, QColor(t.light), end=True)
    left, right, middle = box.left() + 8, box.right() - 124, box.center().y()
    at = left + (right - left) * min(1.0, max(0.0, share))
    painter.setPen(QPen(QColor(t.line), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(left, middle), QPointF(right, middle))
    painter.setPen(QPen(QColor(t.light), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(left, middle), QPointF(at, middle))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(t.light))
    painter.drawEllipse(QPointF(at, middle), 6, 6)
