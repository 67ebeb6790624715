"""Every action once: menus, keys, the ``?`` card, find and the bottom line are all made from this registry."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from glimber.core.edit.ownkeys import OwnAction

if TYPE_CHECKING:
    from PySide6.QtGui import QAction, QKeySequence

ROOMS = ("gather", "arrange", "cards", "drill", "weigh")
ANYWHERE = "anywhere"


class Action(Struct, frozen=True):
    """One thing the application does. ``keys`` in Glimber's notation; ``room`` where it works; ``brief`` for the
    bottom line, with ``brief_keys`` where one word stands for several keys; ``when`` it makes sense to offer it there;
    ``scope`` the pane that must have the focus, where it is not the whole room. What does not apply is disabled; where
    ``refusal`` gives a reason, its key reports that instead."""

    id: str
    name: str
    keys: tuple[str, ...]
    run: Callable[[], object]
    room: str = ANYWHERE
    brief: str = ""
    brief_keys: str = ""
    when: Callable[[], bool] = lambda: True
    scope: QWidget | None = None
    refusal: Callable[[], str] = lambda: ""


_QT_NAMES = {
    "Escape": "Esc", "PageUp": "PgUp", "PageDown": "PgDown", "Delete": "Del", "Enter": "Return", "NumEnter": "Enter",
}  # fmt: skip


def qt_keys(keys: str) -> QKeySequence:
    """Return a chord, or a sequence of them, of our notation as Qt writes it."""
    from PySide6.QtGui import QKeySequence

    return QKeySequence(", ".join(_qt_chord(chord) for chord in keys.split(" ")))


def _qt_chord(chord: str) -> str:
    parts = [_QT_NAMES.get(part, part) for part in chord.split("+")] if chord != "+" else ["+"]
    return "+".join("Meta" if part == "Super" else part for part in parts)


def with_keypad(keys: Iterable[str], taken: Collection[str] = ()) -> list[str]:
    """Return the keys of an action, the keypad's Enter beside every Enter, but for those that are ``taken``."""
    found = []
    for one in keys:
        found.append(one)
        head, enter = one[: -len("Enter")], one.endswith("Enter") and not one.endswith("NumEnter")
        if enter and f"{head}NumEnter" not in taken:
            found.append(f"{head}NumEnter")
    return found


class Registry:
    """The actions of a window, with the shortcuts that carry them out. ``add`` returns its own undo."""

    def __init__(self, window: QWidget, tell: Callable[[str], object] = lambda text: None) -> None:
        """``tell`` shows a message in the bottom line."""
        self._window, self._tell = window, tell
        self._actions: dict[str, Action] = {}
        self._defaults: dict[str, tuple[Action, QWidget | None]] = {}
        self._own: Mapping[str, tuple[str, ...]] = {}
        self._enabled = True
        self._but: frozenset[str] = frozenset()
        self._begun = False
        self._made: dict[str, tuple[QAction, QWidget]] = {}

    def begin(self) -> None:
        """Let keys carry actions out. Before the first frame there is nobody to strike one, and none is made."""
        self._begun = True
        for id in self._defaults:
            self._bind(id)

    def add(self, action: Action, scope: QWidget | None = None) -> Callable[[], None]:
        """Register an action; its keys work in the window, or only while ``scope`` is shown."""
        self._refuse_taken_keys(action)
        self._defaults[action.id] = (action, scope)
        self._bind(action.id)

        def undo() -> None:
            self._actions.pop(action.id, None)
            self._defaults.pop(action.id, None)
            self._drop(action.id)

        return undo

    def _refuse_taken_keys(self, action: Action) -> None:
        """Raise ValueError if a default key of an action already belongs to another one in the same scope."""
        for other, _ in self._defaults.values():
            taken = set(action.keys) & set(other.keys)
            same_scope = action.scope is other.scope and action.room == other.room
            if taken and same_scope and action.id != other.id:
                raise ValueError(f"{action.id}: {min(taken)} already runs {other.id} in {action.room}")

    def use(self, own: Mapping[str, tuple[str, ...]]) -> None:
        """Let actions have other keys than they come with: those of the folio's program Glimber."""
        before, self._own = self._own, own
        for id in list(self._defaults):
            if before.get(id) != own.get(id):
                self._bind(id)

    def _bind(self, id: str) -> None:
        """Give an action its keys: its own, or the person's."""
        action, scope = self._defaults[id]
        self._drop(id)
        own = self._own.get(id)
        if own is not None and own != action.keys:
            action = replace(action, keys=own, brief_keys="")
        self._actions[id] = action
        if not self._begun:
            return
        from PySide6.QtGui import QAction

        where = action.scope or scope or self._window
        made = QAction(action.name, where)
        enters = any(one.endswith("Enter") for one in action.keys)
        made.setShortcuts(list(map(qt_keys, with_keypad(action.keys, self._all_keys()) if enters else action.keys)))
        if where is not self._window:
            made.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        made.triggered.connect(lambda: self._carry_out(action))
        made.setEnabled(self._applies(id))
        where.addAction(made)
        self._made[id] = (made, where)

    def _all_keys(self) -> set[str]:
        """Return every key that some action comes with or was given."""
        return {key for action, _ in self._defaults.values() for key in self._own.get(action.id, action.keys)}

    def _carry_out(self, action: Action) -> None:
        if action.when():
            action.run()
        elif reason := action.refusal():
            self._tell(reason)

    def _drop(self, id: str) -> None:
        if id in self._made:
            made, where = self._made.pop(id)
            where.removeAction(made)
            made.deleteLater()

    def look(self, room: str) -> None:
        """See which actions of a room, and of all rooms, apply just now; the others are disabled."""
        if not self._begun:
            return
        for action in self.of_room(room):
            self._made[action.id][0].setEnabled(self._applies(action.id))

    def own_actions(self) -> list[OwnAction]:
        """Return every action with the keys it comes with."""
        return [OwnAction(action.id, action.name, action.room, action.keys) for action, _ in self._defaults.values()]

    def all(self) -> list[Action]:
        return list(self._actions.values())

    def of_room(self, room: str) -> list[Action]:
        """Return the actions that work in a room: its own first."""
        own = [action for action in self._actions.values() if action.room == room]
        return own + [action for action in self._actions.values() if action.room == ANYWHERE]

    def offered(self, room: str) -> list[Action]:
        """Return the actions that would do something in a room just now: its own first; none while every key is an answer."""
        return [action for action in self.of_room(room) if self._enabled and action.when()]

    def carry_out(self, id: str) -> None:
        """Do as the action's key would."""
        self._carry_out(self._actions[id])

    def run(self, id: str) -> None:
        self._actions[id].run()

    def set_enabled(self, enabled: bool, but: Iterable[str] = ()) -> None:
        """Let shortcuts through, or none ``but`` those of some actions: in a round every key is an answer."""
        self._enabled, self._but = enabled, frozenset(but)
        for id, (made, _) in self._made.items():
            made.setEnabled(self._applies(id))

    def _applies(self, id: str) -> bool:
        action = self._actions[id]
        return (self._enabled or id in self._but) and (action.when() or bool(action.refusal()))
