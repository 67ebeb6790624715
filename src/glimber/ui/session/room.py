"""The base class of the rooms: a widget that shows the session and declares which keys work in it."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host
from glimber.ui.session.session import Session


class Room(QWidget):
    """Base of the rooms."""

    id = ""

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        """``parent``: what it will be shown in. What is made in its place is dressed once, not once more at each move."""
        super().__init__(parent)
        self.session, self.host = session, host
        self.setObjectName("desk")
        self.setAccessibleName(self.id.title())

    def actions_here(self) -> list[Action]:
        """Return the actions that work in this room."""
        return []

    def number(self) -> int | None:
        """Return the one number that matters, for the top line; None while it is not known."""
        return None

    def enter(self) -> None:
        """The room comes into view."""

    def leave(self) -> None:
        """The room goes out of view."""

    def close_down(self) -> None:
        """The window closes: end what goes on in the background."""

    def complete(self) -> None:
        """The first frame has been painted: make what it did not need."""

    def refresh(self) -> None:
        """The folio or its ledger changed."""

    def panes(self) -> list[QWidget]:
        """Widgets that F6 goes round."""
        return [self]
