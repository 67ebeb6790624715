"""The Cards room: a shelf of thumbnails, one large sheet on the desk, what it shows at the right."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QHelpEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from glimber.core.cards.boardcard import CannotDraw, board_card
from glimber.core.cards.drawing import Drawing
from glimber.core.folio.folio import Card
from glimber.store.cache.fonts import faces
from glimber.store.cache.icons import icon
from glimber.store.faults import StoreError
from glimber.ui.actions import Action
from glimber.ui.draw import to_pixmap
from glimber.ui.host import Host
from glimber.ui.plain import Label, tip
from glimber.ui.room import Room
from glimber.ui.session import Session, later
from glimber.ui.style import theme

SHELF = 210
THUMB = 169


class Sheet(QWidget):
    """One drawing on the desk, as large as fits, with the only shadow there is."""

    first_painted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.painted = False
        self.drawing: Drawing | None = None
        self.message = ""
        self._pixmap: QPixmap | None = None
        self.setAccessibleName("Card")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_drawing(self, drawing: Drawing | None, message: str = "") -> None:
        self.drawing, self.message, self._pixmap = drawing, message, None
        self.setAccessibleDescription(drawing.description if drawing else message)
        self.update()

    def _place(self) -> tuple[float, float, float, float]:
        """Left, top, width, height of the sheet within the widget."""
        assert self.drawing is not None
        room_w, room_h = self.width() - 32.0, self.height() - 32.0
        width = min(room_w, room_h * self.drawing.width / self.drawing.height)
        height = width * self.drawing.height / self.drawing.width
        return (self.width() - width) / 2, 16.0 + max(0.0, (room_h - height) * 0.12), width, height

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.painted:
            self.painted = True
            self.first_painted.emit()
        painter = QPainter(self)
        if self.drawing is None:
            painter.setPen(QColor(theme().quiet))
            painter.drawText(QRectF(self.rect()).adjusted(40, 0, -40, 0),
                             Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.message)  # fmt: skip
            return
        left, top, width, height = self._place()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for spread in range(10, 0, -2):
            painter.setBrush(QColor(0, 0, 0, 14))
            painter.drawRoundedRect(
                QRectF(left - spread, top - spread + 6, width + 2 * spread, height + 2 * spread), 8, 8
            )
        ratio = self.devicePixelRatioF()
        if self._pixmap is None or abs(self._pixmap.deviceIndependentSize().width() - round(width)) > 1:
            self._pixmap = to_pixmap(self.drawing, round(width), ratio)
        painter.drawPixmap(round(left), round(top), self._pixmap)

    def name_at(self, x: float, y: float) -> str:
        """The full name of what is under a point: where the label is short, the name is still to be had."""
        if self.drawing is None:
            return ""
        left, top, width, _ = self._place()
        mm = self.drawing.width / width
        at = ((x - left) * mm, (y - top) * mm)
        for group in self.drawing.groups:
            if not group.key:
                continue
            shape = group.items[0]
            w, h = getattr(shape, "w", 0.0), getattr(shape, "h", 0.0)
            r = getattr(shape, "r", 0.0)
            cx, cy = getattr(shape, "x", 0.0) + w / 2, getattr(shape, "y", 0.0) + h / 2
            if abs(at[0] - cx) <= max(w / 2, r) and abs(at[1] - cy) <= max(h / 2, r):
                return group.name
        return ""

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        if isinstance(event, QHelpEvent) and event.type() == QHelpEvent.Type.ToolTip:
            name = self.name_at(event.pos().x(), event.pos().y())
            QToolTip.showText(event.globalPos(), tip(name), self)
            return True
        return super().event(event)


class CardsRoom(Room):
    """Shelf, sheet and options."""

    id = "cards"

    def __init__(self, session: Session, host: Host) -> None:
        super().__init__(session, host)
        self.shelf = QListWidget()
        self.shelf.setAccessibleName("Shelf of cards")
        self.shelf.setIconSize(QSize(THUMB, 112))
        self.shelf.setViewMode(QListWidget.ViewMode.ListMode)
        self.shelf.setSpacing(2)
        self.shelf.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.shelf.currentItemChanged.connect(lambda *_: self._show_current())
        self.sheet = Sheet()
        side = QFrame()
        side.setObjectName("side")
        side.setFixedWidth(SHELF)
        shelf_layout = QVBoxLayout(side)
        shelf_layout.setContentsMargins(8, 8, 4, 8)
        shelf_layout.addWidget(self.shelf)
        self.options = QFrame()
        self.options.setObjectName("panel")
        self._option_lines = QVBoxLayout(self.options)
        self._option_lines.setContentsMargins(14, 12, 14, 14)
        self._option_lines.setSpacing(8)
        right = QVBoxLayout()
        right.addWidget(self.options)
        self.write = QPushButton("Write to file…")
        self.write.clicked.connect(self.write_file)
        right.addWidget(self.write)
        right.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 14, 14)
        layout.setSpacing(6)
        layout.addWidget(side)
        layout.addWidget(self.sheet, 1)
        right_box = QWidget()
        right_box.setFixedWidth(180)
        right_box.setLayout(right)
        right.setContentsMargins(0, 16, 0, 0)
        layout.addWidget(right_box)
        self._thumbs_waiting: list[str] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._next_thumb)
        self.sheet.first_painted.connect(lambda: later(self._timer.start))
        self.refresh()

    def panes(self) -> list[QWidget]:
        return [self.shelf, self.sheet, self.write]

    def number(self) -> int | None:
        return len(self.session.folio.cards)

    def actions_here(self) -> list[Action]:
        return [
            Action("card-next", "Next card", ("Right", "Down"), lambda: self.step(1), self.id, "next card", "← →"),
            Action("card-previous", "Card before", ("Left", "Up"), lambda: self.step(-1), self.id),
            Action("card-write", "Write the card to a file", ("e",), self.write_file, self.id, "write to file", "E"),
        ]

    def enter(self) -> None:
        self.shelf.setFocus()

    def refresh(self) -> None:
        """Cards and layouts may have changed: the shelf is laid anew, the same card stays in front."""
        here = self._current_id() or self.session.settings.last_card
        cards = self.session.folio.cards
        self.shelf.blockSignals(True)
        self.shelf.clear()
        for id, card in cards.items():
            item = QListWidgetItem(f"{card.title} · {card.board or card.kind}")
            item.setData(Qt.ItemDataRole.UserRole, id)
            item.setSizeHint(QSize(SHELF - 24, 30))
            self.shelf.addItem(item)
        order = list(cards)
        first = "draw" if "draw" in order else (order[0] if order else None)
        row = order.index(here) if here in order else (order.index(first) if first else -1)
        self.shelf.setCurrentRow(row)
        self.shelf.blockSignals(False)
        self._show_current()
        self._thumbs_waiting = order
        if self.sheet.painted:
            self._timer.start()

    def _current_id(self) -> str | None:
        item = self.shelf.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def show_card(self, id: str) -> None:
        """Bring a card to the front."""
        for row in range(self.shelf.count()):
            if self.shelf.item(row).data(Qt.ItemDataRole.UserRole) == id:
                self.shelf.setCurrentRow(row)

    def step(self, by: int) -> None:
        if self.shelf.count():
            self.shelf.setCurrentRow((self.shelf.currentRow() + by) % self.shelf.count())

    def drawing_of(self, id: str) -> Drawing:
        """Draw a card. Raises CannotDraw."""
        stamp = f"{self.session.folio.settings.title}, {self.session.now():%-d %b}"
        return board_card(self.session.folio, self.session.folio.cards[id], faces(), stamp, icon)

    def _show_current(self) -> None:
        id = self._current_id()
        if id is None:
            self.sheet.show_drawing(
                None,
                "No cards yet. Make one: a file in cards/ with kind, board and layers; docs/formats.md has every field.",
            )
            self._show_options(None)
            return
        try:
            self.sheet.show_drawing(self.drawing_of(id))
        except CannotDraw as error:
            self.sheet.show_drawing(None, str(error))
        self._show_options(self.session.folio.cards[id])

    def _show_options(self, card: Card | None) -> None:
        while self._option_lines.count():
            taken = self._option_lines.takeAt(0).widget()
            if taken is not None:
                taken.deleteLater()
        self.options.setVisible(card is not None)
        self.write.setEnabled(card is not None)
        if card is None:
            return
        layout = self.session.folio.layouts.get(card.board or "")
        layers = [layer.name for layer in layout.layers if layer.id in card.layers] if layout else []
        paper = f"{card.paper}, {'landscape' if card.landscape else 'portrait'}"
        shown = ", ".join(card.shows).capitalize()
        for head, lines in (
            ("This card", [f"{card.kind.title()} card", paper]),
            ("Shows", [f"{', '.join(layers)} layer" if layers else "", shown]),
        ):
            title = Label(head)
            title.setProperty("role", "quiet")
            self._option_lines.addWidget(title)
            for line in lines:
                if line:
                    label = Label(line)
                    label.setWordWrap(True)
                    self._option_lines.addWidget(label)
            self._option_lines.addSpacing(6)

    def _next_thumb(self) -> None:
        """One thumbnail at a time, so that no key waits for them."""
        if not self._thumbs_waiting:
            self._timer.stop()
            return
        id = self._thumbs_waiting.pop(0)
        for row in range(self.shelf.count()):
            item = self.shelf.item(row)
            if item.data(Qt.ItemDataRole.UserRole) == id:
                try:
                    drawing = self.drawing_of(id)
                except (CannotDraw, KeyError):
                    return
                label = self._thumb(drawing, item.text())
                item.setText("")
                item.setSizeHint(label.minimumSize())
                self.shelf.setItemWidget(item, label)

    def _thumb(self, drawing: Drawing, title: str) -> QWidget:
        box = QWidget()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(2, 8, 2, 6)
        layout.setSpacing(6)
        picture, name = Label(), Label(title)
        width = THUMB if drawing.width >= drawing.height else round(112 * drawing.width / drawing.height)
        picture.setPixmap(to_pixmap(drawing, width, self.devicePixelRatioF()))
        picture.setFixedSize(width, round(width * drawing.height / drawing.width))
        picture.setAccessibleName(drawing.title)
        picture.setAccessibleDescription(drawing.description)
        layout.addWidget(picture)
        layout.addWidget(name)
        box.setMinimumSize(THUMB + 8, picture.height() + 42)
        return box

    def write_file(self) -> None:
        """Ask where, and write the card as SVG or PNG."""
        id = self._current_id()
        if id is None:
            return
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getSaveFileName(self, "Write card", f"{id}.svg", "Drawing (*.svg);;Picture (*.png)")
        if name:
            self.write_to(Path(name))

    def write_to(self, path: Path) -> None:
        """Write the card in front; what went wrong is told in the bottom line."""
        from glimber.ui.export import write_card

        try:
            self.session.flush()
            write_card(self.session.opened, self._current_id() or "", path)
            self.session.told.emit(f"Written to {path}.")
        except (StoreError, CannotDraw) as error:
            self.session.told.emit(str(error))
