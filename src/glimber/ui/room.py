"""What every room is: a widget that shows the session and says which keys work in it."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from glimber.ui.actions import Action
from glimber.ui.session import Session


class Room(QWidget):
    """Base of the rooms. ``full`` rooms take the whole window while they say so, as a round does."""

    id = ""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("desk")
        self.setAccessibleName(self.id.title())

    def actions_here(self) -> list[Action]:
        """The actions that work in this room."""
        return []

    def number(self) -> int | None:
        """The one number that matters, for the top line; None while it is not known."""
        return None

    def enter(self) -> None:
        """The room comes into view."""

    def leave(self) -> None:
        """The room goes out of view."""

    def refresh(self) -> None:
        """The folio or its ledger changed."""

    def panes(self) -> list[QWidget]:
        """What F6 goes round."""
        return [self]


class RoomToCome(Room):
    """A room that is not built yet: it says in a sentence what will be there, and where to go meanwhile."""

    def __init__(self, session: Session, id: str, sentence: str, meanwhile: str) -> None:
        self.id = id
        super().__init__(session)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(80, 0, 80, 0)
        title, text, rest = QLabel(id.title()), QLabel(sentence), QLabel(meanwhile)
        title.setProperty("role", "title")
        text.setProperty("role", "large")
        rest.setProperty("role", "quiet")
        layout.addStretch(2)
        for label in (title, text, rest):
            label.setWordWrap(True)
            label.setMaximumWidth(680)
            layout.addWidget(label)
            layout.addSpacing(8)
        layout.addStretch(3)

    def number(self) -> int | None:
        if self.id == "gather":
            return len(self.session.folio.bench())
        if self.id == "arrange":
            from glimber.core.audit import audit

            return len(audit(self.session.folio))
        return None
