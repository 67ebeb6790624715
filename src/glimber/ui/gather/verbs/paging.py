"""Actions on the page of a source: go to what is to check, decide, correct, leave out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PySide6.QtWidgets import QWidget

from glimber.ui.gather.verbs.base import act
from glimber.ui.session.actions import Action


class Paged(Protocol):
    """The page as its actions see it."""

    def go_to_check(self, by: int = 1) -> None: ...

    def decide(self, take: bool) -> None: ...

    def tick(self) -> None: ...

    def drop(self) -> None: ...

    def turn(self) -> None: ...

    def carry_out_offer(self) -> None: ...

    def add_letters(self) -> None: ...


def page_actions(page: Callable[[], Paged], shown: Callable[[], bool], scope: QWidget) -> list[Action]:
    """Return the actions of a page; they work while it is ``shown`` and the focus is within ``scope``."""

    def on_page(id: str, name: str, keys: str, run: Callable[[], object], brief: str = "") -> Action:
        return act(id, name, keys, run, brief, keys if brief else "", shown, scope)

    return [
        on_page("next", "Next thing to check", "Tab", lambda: page().go_to_check(), "next to check"),
        on_page("first", "Take the page's keys", "1", lambda: page().decide(True)),
        on_page("second", "Keep my keys", "2", lambda: page().decide(False)),
        on_page("tick", "Import the row, or leave it out", "Space", lambda: page().tick()),
        on_page("drop", "Mark the row as no shortcut, or as one again", "Delete", lambda: page().drop()),
        on_page("turn", "Exchange its command and keys", "x", lambda: page().turn()),
        on_page("letters", "Add the letters of its menus as an alternate", "v", lambda: page().add_letters()),
        on_page("alike", "Do the same to the rows alike", "=", lambda: page().carry_out_offer()),
    ]
