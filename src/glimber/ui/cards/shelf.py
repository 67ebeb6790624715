"""The shelf: thumbnails of all cards under headings, drawn one after the other so that no key waits for them."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glimber.core.cards.frame import CannotDraw
from glimber.core.drawing.drawing import Drawing
from glimber.core.model.shelf import Shelved
from glimber.ui.paint.draw import to_pixmap
from glimber.ui.paint.plain_text import Label

WIDTH = 210
THUMB = 169
_MOST_HEIGHT = 150
ROUND_ITEM = 22
"""px that the list keeps round an item, above and below."""
_ID = Qt.ItemDataRole.UserRole
_TITLE = Qt.ItemDataRole.UserRole + 1


class Shelf(QListWidget):
    """``chosen`` tells that another card is in front. ``draw`` gives the first sheet of a card, or raises CannotDraw."""

    chosen = Signal()

    def __init__(self, draw: Callable[[str], Drawing]) -> None:
        super().__init__()
        self._draw = draw
        self.setAccessibleName("Shelf of cards")
        self.setSpacing(2)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.currentItemChanged.connect(lambda *_: self.chosen.emit())
        self._waiting: list[QListWidgetItem] = []
        self._last: dict[str, Drawing] = {}
        self._begun = False
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._next_thumb)

    def show_cards(self, cards: Mapping[str, Shelved], front: str | None) -> None:
        """Lay the shelf again with a card in front; the first where that one is not there."""
        self.blockSignals(True)
        self.clear()
        heading = None
        for id, shelved in cards.items():
            if shelved.heading != heading:
                heading = shelved.heading
                self._put_heading(heading)
            item = QListWidgetItem(shelved.card.title)
            item.setData(_ID, id)
            item.setData(_TITLE, shelved.card.title)
            item.setSizeHint(QSize(WIDTH - 24, 30))
            self.addItem(item)
        rows = self._rows()
        if rows:
            self.setCurrentRow(rows.get(front or "", next(iter(rows.values()))))
        self.blockSignals(False)
        for row in rows.values():  # what was seen stays until it is drawn again
            item = self.item(row)
            if item is not None and item.data(_ID) in self._last:
                self._put(item, self._last[item.data(_ID)])
        if self.currentItem() is not None:
            self.scrollToItem(self.currentItem())
        self._waiting = [item for row in rows.values() if (item := self.item(row)) is not None]

    def _put_heading(self, text: str) -> None:
        """A line that is none of the cards; a long name goes on on the next line."""
        label = Label(text)
        label.setProperty("role", "quiet")
        label.setWordWrap(True)
        label.setContentsMargins(4, 8, 4, 2)
        head = QListWidgetItem()
        head.setFlags(Qt.ItemFlag.NoItemFlags)
        head.setSizeHint(QSize(WIDTH - 24, label.heightForWidth(THUMB - 8) + ROUND_ITEM))
        self.addItem(head)
        self.setItemWidget(head, label)

    def start(self) -> None:
        """Begin to draw the thumbnails."""
        self._begun = True
        self._timer.start()

    def _rows(self) -> dict[str, int]:
        """Return where each card is, in order."""
        return {id: row for row in range(self.count()) if (id := self.item(row).data(_ID)) is not None}

    def ids(self) -> list[str]:
        """Return the cards in order."""
        return list(self._rows())

    def current_id(self) -> str | None:
        """Return the card in front."""
        item = self.currentItem()
        found: str | None = item.data(_ID) if item is not None else None
        return found

    def put_in_front(self, id: str) -> None:
        """Bring a card to the front, where it is there."""
        row = self._rows().get(id)
        if row is not None:
            self.setCurrentRow(row)

    def step(self, by: int) -> None:
        """The next card, or one before."""
        ids = self.ids()
        if ids:
            here = self.current_id()
            self.put_in_front(ids[(ids.index(here) + by) % len(ids) if here in ids else 0])

    def showEvent(self, event: QShowEvent) -> None:
        """Cards are drawn while they are looked at: no key struck in another room waits for one."""
        super().showEvent(event)
        if self._begun:
            self._timer.start()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        """The thumbnails go along: Qt leaves them where they were if a card comes to the front while the list is laid out."""
        super().scrollContentsBy(dx, dy)
        self.updateEditorGeometries()

    @property
    def is_drawing(self) -> bool:
        """Return True while thumbnails are still to be drawn."""
        return self._timer.isActive()

    def _next_thumb(self) -> None:
        if not self._waiting or not self.isVisible():
            self._timer.stop()
            if self.currentItem() is not None and not self._waiting:  # thumbnails above it may have pushed it out of view
                self.scrollToItem(self.currentItem())
            return
        item = self._waiting.pop(0)
        try:
            drawing = self._draw(item.data(_ID))
        except CannotDraw:
            return
        if self._last.get(item.data(_ID)) != drawing or self.itemWidget(item) is None:
            self._last[item.data(_ID)] = drawing
            self._put(item, drawing)

    def _put(self, item: QListWidgetItem, drawing: Drawing) -> None:
        box = self._thumb(drawing, item.data(_TITLE))
        item.setText("")
        item.setSizeHint(box.minimumSize())
        self.setItemWidget(item, box)

    def _thumb(self, drawing: Drawing, title: str) -> QWidget:
        box = QWidget()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(2, 8, 2, 6)
        layout.setSpacing(6)
        picture, name = Label(), Label(title)
        name.setWordWrap(True)
        name.setFixedWidth(THUMB)
        width = round(min(THUMB, _MOST_HEIGHT * drawing.width / drawing.height))
        picture.setPixmap(to_pixmap(drawing, width, self.devicePixelRatioF()))
        picture.setFixedSize(width, max(1, round(width * drawing.height / drawing.width)))
        picture.setAccessibleName(drawing.title)
        picture.setAccessibleDescription(drawing.description)
        layout.addWidget(picture)
        layout.addWidget(name)
        box.setMinimumSize(THUMB + 8, picture.height() + name.heightForWidth(THUMB) + ROUND_ITEM)
        return box
