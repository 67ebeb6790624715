"""Every action once: menus, keys, the ``?`` card, find and the bottom line are all made from this registry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

ROOMS = ("gather", "arrange", "cards", "drill", "weigh")
ANYWHERE = "anywhere"


@dataclass(frozen=True)
class Action:
    """One thing the application does. ``keys`` in Glimber's notation; ``room`` where it works; ``brief`` for the
    bottom line, with ``brief_keys`` where one word stands for several keys; ``when`` it makes sense to offer it there;
    ``scope`` the pane that must have the focus, where it is not the whole room."""

    id: str
    name: str
    keys: tuple[str, ...]
    run: Callable[[], None]
    room: str = ANYWHERE
    brief: str = ""
    brief_keys: str = ""
    when: Callable[[], bool] = lambda: True
    scope: QWidget | None = None


_QT_NAMES = {
    "Escape": "Esc", "PageUp": "PgUp", "PageDown": "PgDown", "Delete": "Del", "Enter": "Return", "NumEnter": "Enter",
}  # fmt: skip


def qt_keys(keys: str) -> QKeySequence:
    """A chord of our notation as Qt writes it."""
    parts = [_QT_NAMES.get(part, part) for part in keys.split("+")] if keys != "+" else ["+"]
    return QKeySequence("+".join("Meta" if part == "Super" else part for part in parts))


class Registry:
    """The actions of a window, with the shortcuts that carry them out. ``add`` returns its own undo."""

    def __init__(self, window: QWidget) -> None:
        self._window = window
        self._actions: dict[str, Action] = {}
        self._shortcuts: dict[str, list[QShortcut]] = {}

    def add(self, action: Action, scope: QWidget | None = None) -> Callable[[], None]:
        """Register an action; its keys work in the window, or only while ``scope`` is shown."""
        self._actions[action.id] = action
        made = []
        for keys in action.keys:
            shortcut = QShortcut(qt_keys(keys), action.scope or scope or self._window)
            if scope is not None or action.scope is not None:
                shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(action.run)
            made.append(shortcut)
        self._shortcuts[action.id] = made

        def undo() -> None:
            self._actions.pop(action.id, None)
            for shortcut in self._shortcuts.pop(action.id, []):
                shortcut.setEnabled(False)
                shortcut.deleteLater()

        return undo

    def all(self) -> list[Action]:
        return list(self._actions.values())

    def of_room(self, room: str) -> list[Action]:
        """The actions that work in a room: its own first."""
        own = [action for action in self._actions.values() if action.room == room]
        return own + [action for action in self._actions.values() if action.room == ANYWHERE]

    def run(self, id: str) -> None:
        self._actions[id].run()

    def set_enabled(self, enabled: bool) -> None:
        """Let shortcuts through, or none of them: in a round every key is an answer."""
        for shortcuts in self._shortcuts.values():
            for shortcut in shortcuts:
                shortcut.setEnabled(enabled)
