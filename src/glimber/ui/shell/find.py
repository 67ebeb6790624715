"""Find anything: commands, keys, cards, actions. ``/`` opens it; Enter goes there."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.notation.ranking import best_first

SHOWN = 9


class Found(Struct, frozen=True):
    """One thing that can be gone to: what is read, what else it answers to, and how to go there."""

    text: str
    detail: str
    words: str
    go: Callable[[], object]
    uses: float = 0.0


def folio_items(
    folio: Folio, weigh: Callable[[str], None], card: Callable[[str], None], bench: Callable[[str], None]
) -> list[Found]:
    """Every binding of a command by its names, commands on the bench, and cards."""
    items = []
    for ref, command in folio.commands.items():
        other = " ".join((*command.words, *command.was, command.label or ""))
        program = folio.programs[command.program].name
        bindings = folio.bindings_of.get(ref, ())
        for binding in bindings:
            place = place_words(folio, binding.trigger)
            go = _go(weigh, binding.id)
            items.append(Found(command.name, f"{place} · {program}", f"{command.name} {other} {place} {program}", go,
                               command.uses_per_day or 0.0))  # fmt: skip
        if not bindings:
            items.append(
                Found(command.name, f"on the bench · {program}", f"{command.name} {other} {program}", _go(bench, ref))
            )
    for id, one in folio.cards.items():
        items.append(
            Found(one.title, f"card · {one.board or one.kind}", f"{one.title} card {one.board or ''}", _go(card, id))
        )
    return items


def _go(to: Callable[[str], None], id: str) -> Callable[[], None]:
    return lambda: to(id)


def matches(text: str, items: list[Found]) -> list[Found]:
    """The items that fit what was typed, best first: by any part of a name, other word or key."""
    if not text.strip():
        return []
    return best_first(text, items, lambda one: one.text, lambda one: one.words, lambda one: one.uses)[:SHOWN]


class FindPanel(QFrame):
    """The list under the find field."""

    def __init__(
        self, parent: QWidget, field: QLineEdit, items: Callable[[], list[Found]], closed: Callable[[], None]
    ) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setAutoFillBackground(True)
        self._field, self._items, self._closed = field, items, closed
        self._all: list[Found] = []
        self._shown: list[Found] = []
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda item: self._go(self.list.row(item)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 6, 6, 6)
        layout.addWidget(self.list)
        field.textEdited.connect(self._search)
        field.installEventFilter(self)
        self.hide()

    def open(self) -> None:
        """Put the cursor into the field."""
        self._all = self._items()
        self._field.clear()
        self._field.setFocus()

    def _search(self, text: str) -> None:
        if not self._all:
            self._all = self._items()
        self._shown = matches(text, self._all)
        self.list.clear()
        for found in self._shown:
            item = QListWidgetItem(f"{found.text}\n{found.detail}")
            self.list.addItem(item)
        if text.strip() and not self._shown:
            self.list.addItem(QListWidgetItem(f"Nothing is called {text.strip()}."))
        self.list.setCurrentRow(0)
        self.setVisible(self.list.count() > 0)
        parent = self.parentWidget()
        assert parent is not None, "the results are laid over the window"
        left = self._field.mapTo(parent, self._field.rect().bottomLeft())
        width = max(360, self._field.width())
        height = min(46 * max(1, self.list.count()) + 18, parent.height() - 80)
        x = min(left.x(), parent.width() - width - 12)
        self.setGeometry(x, left.y() + 6, width, height)
        self.raise_()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.close_panel()
                return True
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.list.count():
                by = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow((self.list.currentRow() + by) % self.list.count())
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._go(self.list.currentRow())
                return True
        if event.type() == QEvent.Type.FocusOut:
            self.hide()
        return bool(super().eventFilter(watched, event))

    def _go(self, row: int) -> None:
        found = self._shown[row] if 0 <= row < len(self._shown) else None
        self.close_panel()
        if found is not None:
            found.go()

    def close_panel(self) -> None:
        self.hide()
        self._field.clear()
        self._all = []
        self._closed()
