"""The base of every room's desk: the folio, edits that are sent and reported when they fail, a message in the bottom line."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio
from glimber.store.faults import StoreError
from glimber.ui.session.session import Session


class Desk(QObject):
    """The selection of a room, without widgets."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    @property
    def folio(self) -> Folio:
        return self.session.folio

    def edit(self, name: str, change: Callable[[Folio], Folio]) -> bool:
        """Send an edit; show the error where it cannot be made."""
        try:
            self.session.edit(name, change)
        except (EditError, StoreError) as error:
            self.tell(str(error))
            return False
        return True

    def tell(self, words: str) -> None:
        """Say something in the bottom line."""
        self.session.notified.emit(words)
