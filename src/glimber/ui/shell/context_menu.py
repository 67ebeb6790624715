"""The actions that apply in a room as a menu: by right click, the Menu key or Shift+F10, for hands that rest from the keys."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPoint
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from glimber.ui.session.actions import ANYWHERE, Action, Registry
from glimber.ui.widgets.sheet_over import is_covered

_IN = 24
"""Pixels from the corner of what has the focus to the menu."""
_ARROWS = ("Left", "Right", "Up", "Down")
"""Walking and selecting need no row: the mouse does both by itself."""


class ContextMenus(QObject):
    """Shows the menu wherever a widget of the window has none of its own."""

    def __init__(self, window: QWidget, registry: Registry, room: Callable[[], str]) -> None:
        super().__init__(window)
        self._window, self._registry, self._room = window, registry, room
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QContextMenuEvent):
            return False
        menu = self.menu()
        if menu is not None:
            menu.popup(event.globalPos())
        return menu is not None

    def show(self) -> None:
        """Show it at what has the focus."""
        menu, focus = self.menu(), QApplication.focusWidget() or self._window
        if menu is not None:
            menu.popup(focus.mapToGlobal(QPoint(min(_IN, focus.width()), min(_IN, focus.height()))))

    def menu(self) -> QMenu | None:
        """Return the menu of the room in front, what works in all rooms in a menu of its own; None where nothing applies, or a
        sheet lies over it."""
        offered = [action for action in self._registry.offered(self._room()) if _focused(action) and not _walks(action)]
        if not offered or is_covered(self._window):
            return None
        menu = QMenu(self._window)
        menu.aboutToHide.connect(menu.deleteLater)
        for action in offered:
            if action.room != ANYWHERE:
                self._put(menu, action)
        menu.addSeparator()
        self._put_everywhere(menu.addMenu("In every room"))
        return menu

    def show_everywhere(self, at: QWidget) -> None:
        """Show below a widget what works in every room: undo, settings, the day's page, other folios."""
        if is_covered(self._window):
            return
        menu = QMenu(self._window)
        menu.aboutToHide.connect(menu.deleteLater)
        self._put_everywhere(menu)
        menu.popup(at.mapToGlobal(QPoint(0, at.height())))

    def _put_everywhere(self, menu: QMenu) -> None:
        for action in self._registry.offered(self._room()):
            if action.room == ANYWHERE and _focused(action) and not _walks(action):
                self._put(menu, action)

    def _put(self, menu: QMenu, action: Action) -> None:
        name = action.name.replace("&", "&&")
        row = menu.addAction(f"{name}\t{_spelt(action.keys[0])}" if action.keys else name)
        row.triggered.connect(lambda: self._registry.carry_out(action.id))


def _spelt(keys: str) -> str:
    """Return a key as the line at the foot has it: a letter as it stands on its key."""
    return keys.upper() if len(keys) == 1 else keys


def _walks(action: Action) -> bool:
    return bool(action.keys) and all(one.split("+")[-1] in _ARROWS for one in action.keys)


def _focused(action: Action) -> bool:
    """Return True for an action of the whole room, or of the pane that has the focus."""
    focus = QApplication.focusWidget()
    return action.scope is None or (focus is not None and (action.scope is focus or action.scope.isAncestorOf(focus)))
