"""Find anything: commands, keys, cards, actions. ``/`` opens it; Enter goes there. Keys are found as they are pressed, or as they
are written."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from msgspec import Struct
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.keys import Strike
from glimber.core.notation.ranking import best_first
from glimber.ui.capture.keystrokes import code_of

SHOWN = 9
_CTRL, _SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
_ALT, _SUPER = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.MetaModifier
_HELD: Final = {"Ctrl": _CTRL, "Alt": _ALT, "Shift": _SHIFT, "Super": _SUPER}
_EDITING: Final = frozenset({
    Qt.Key.Key_A, Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_X, Qt.Key.Key_Z, Qt.Key.Key_Y, Qt.Key.Key_Left, Qt.Key.Key_Right,
    Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Backspace, Qt.Key.Key_Delete,
})  # fmt: skip
"""With Ctrl these edit the text; what they do is found as it is written, or by Ctrl+I."""


class Found(Struct, frozen=True):
    """One thing that can be gone to: what is read, what else it answers to, and how to go there; None for what only says
    something."""

    text: str
    detail: str
    words: str
    go: Callable[[], object] | None
    uses: float = 0.0


def folio_items(
    folio: Folio, weigh: Callable[[str], None], card: Callable[[str], None], bench: Callable[[str], None]
) -> list[Found]:
    """Return every binding of a command by its names, commands on the bench, and cards."""
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


def key_items(folio: Folio, keys: Keys, weigh: Callable[[str], None], computer: str | None = None) -> list[Found]:
    """Return everything that keys do, and where they are free."""
    from glimber.core.model.what_is import what_is

    return [Found(one.text, f"{keys} · {one.detail}", "", _go(weigh, one.binding) if one.binding else None)
            for one in what_is(folio, keys, computer)]  # fmt: skip


def _go(to: Callable[[str], None], id: str) -> Callable[[], None]:
    return lambda: to(id)


def matches(text: str, items: list[Found]) -> list[Found]:
    """Return the items that fit what was typed, best first: by any part of a name, other word or key."""
    if not text.strip():
        return []
    return best_first(text, items, lambda one: one.text, lambda one: one.words, lambda one: one.uses)[:SHOWN]


class PressedKeys:
    """Keys as they are pressed or written in the find field. ``folio`` gives the open one, ``weigh`` goes to a binding."""

    def __init__(self, folio: Callable[[], Folio], weigh: Callable[[str], None], computer: Callable[[], str | None]) -> None:
        self._folio, self._weigh, self._computer = folio, weigh, computer

    def found(self, text: str) -> list[Found]:
        """Return everything that the keys do which a text spells; nothing for one that is a name."""
        from glimber.core.model.what_is import keys_written

        keys = keys_written(self._folio(), text)
        return key_items(self._folio(), keys, self._weigh, self._computer()) if keys is not None else []

    def strike_of(self, event: QKeyEvent) -> Strike | None:
        """Return what was struck, for a chord or a function key; None for what writes or edits text."""
        held = event.modifiers()
        code, is_function = code_of(event), Qt.Key.Key_F1 <= event.key() <= Qt.Key.Key_F35
        chord = bool(held & (_CTRL | _ALT | _SUPER))
        if code is None or code in MODIFIER_CODES or not (chord or is_function):
            return None
        if held & ~Qt.KeyboardModifier.KeypadModifier in (_CTRL, _CTRL | _SHIFT) and event.key() in _EDITING:
            return None
        names = [name for name, flag in _HELD.items() if held & flag]
        return frozenset(names), code

    def pressed(self, event: QKeyEvent, before: str) -> str:
        """Return the keys after one more was pressed, as they are written; empty for a key that writes or edits text."""
        from glimber.core.model.what_is import keys_written, one_more

        strike = self.strike_of(event)
        return str(one_more(self._folio(), keys_written(self._folio(), before), strike)) if strike is not None else ""


class FindPanel(QFrame):
    """The list under the find field."""

    def __init__(
        self,
        parent: QWidget,
        field: QLineEdit,
        items: Callable[[], list[Found]],
        closed: Callable[[], None],
        keys: PressedKeys,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setAutoFillBackground(True)
        self._field, self._items, self._closed, self._keys = field, items, closed, keys
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
        self._shown = [*self._keys.found(text), *matches(text, self._all)][:SHOWN]
        self.list.clear()
        for found in self._shown:
            item = QListWidgetItem(f"{found.text}\n{found.detail}")
            self.list.addItem(item)
        if text.strip() and not self._shown:
            self.list.addItem(QListWidgetItem(f"Nothing is called {text.strip()}."))
        self.list.setCurrentRow(next((row for row, found in enumerate(self._shown) if found.go is not None), 0))
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
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._keys.strike_of(event):
            event.accept()  # it is looked for, and does nothing here
            return True
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            pressed = self._keys.pressed(event, self._field.text())
            if pressed:
                self._field.setText(pressed)
                self._search(pressed)
                return True
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
        if found is not None and found.go is not None:
            found.go()

    def close_panel(self) -> None:
        self.hide()
        self._field.clear()
        self._all = []
        self._closed()
