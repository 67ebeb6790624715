"""The page on the desk and what is beside it: which row is in front, what is decided about it, where to go next."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QModelIndex, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from glimber.ui.gather.importing import Importing
from glimber.ui.gather.views.checking import VERBS, CheckPane
from glimber.ui.gather.views.page import PageView
from glimber.ui.session.host import Host

_BESIDE = 0.44
_LEAST_BESIDE, _MOST_BESIDE = 320, 640


class DeskPage(QWidget):
    """``front`` carries the command of the folio that the row in front is about; ``ask_keys`` has the row's keys pressed."""

    front = Signal(object)

    def __init__(self, importing: Importing, host: Host, ask_keys: Callable[[], object], parent: QWidget) -> None:
        super().__init__(parent)
        self.importing, self.host, self._ask_keys = importing, host, ask_keys
        self.page, self.check = PageView(importing, self), CheckPane(importing, self)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(32)
        layout.addWidget(self.page, 1)
        layout.addWidget(self.check)
        does: dict[str, Callable[[], object]] = {"K": ask_keys, "E": self.ask_name, "X": self.turn, "Del": self.drop}
        self.check.add_verbs([(key, words, does[key]) for key, words in VERBS])
        self.check.offer.clicked.connect(lambda: self.carry_out_offer())
        self.check.decided.connect(self.decide)
        self.page.moved.connect(self._moved)
        self.page.next_wanted.connect(self.go_to_check)

    def show_page(self) -> None:
        """Show the source in front, the first thing to check first."""
        self.page.show_page()
        opened = self.importing.open_checks()
        if opened:
            self.bring(opened[0].read_as)
        else:
            self.page.clearSelection()
            self.page.setCurrentIndex(QModelIndex())
            self.page.step(1)
            self._moved()

    def fit(self, width: int) -> None:
        """Share the width between the page and what is beside it."""
        self.check.setFixedWidth(round(min(_MOST_BESIDE, max(_LEAST_BESIDE, width * _BESIDE))))

    def current_name(self) -> str | None:
        """Return the command in front, as it was read."""
        return self.page.front

    def bring(self, name: str | None) -> None:
        """Bring a command to the front, as it was read."""
        self.page.bring(name)
        self._show(name)

    def _moved(self) -> None:
        names = self.page.names()
        if self.page.front not in names:
            self.page.front = names[0] if names else None
        self._show(self.page.front)

    def _show(self, name: str | None) -> None:
        self.check.show_front(name)
        place = self.importing.place_of(name) if name is not None else None
        self.front.emit(self.importing.rows.differences[place].command if place is not None else None)

    # What is done

    def go_to_check(self, by: int = 1) -> None:
        """Go to the next thing to check on the page, or with -1 to the one before; after the last comes the first."""
        opened = self.importing.open_checks()
        if not opened:
            return
        front = (self.page.front or "").casefold()
        here = next((place for place, one in enumerate(opened) if one.read_as.casefold() == front), None)
        if here is None:
            block = self.page.currentIndex().row()
            places = [self.page.content.block_of(one.read_as) for one in opened]
            after = [place for place, at in enumerate(places) if at is None or at > block]
            here = (after[0] if after else 0) - (1 if by > 0 else 0)
        self.bring(opened[(here + by) % len(opened)].read_as)

    def decide(self, take: bool) -> None:
        """Take the page's way for the row in front, or keep the folio's; then the next thing to check comes forward."""
        name, check = self.page.front, self.check.check()
        if name is None:
            return
        if check is not None and check.kind == "unread":
            if take:
                self._ask_keys()
            else:
                self.drop()
            return
        self.importing.decide(name, take)
        if check is not None:
            self.go_to_check()
        else:
            self._show(name)

    def tick(self) -> None:
        """Import the row in front, or leave it out."""
        place = self.importing.place_of(self.page.front) if self.page.front is not None else None
        if place is not None:
            self.importing.rows.toggle(place)

    def drop(self) -> None:
        """The row in front is no shortcut; once more, and it is one again."""
        if self.page.front is not None:
            self.importing.drop(self.page.front)
            self._show(self.page.front)

    def turn(self) -> None:
        """Exchange the command and the keys of the row in front."""
        name = self.page.front
        if name is not None and not self.importing.turn(name):
            self.check.message.setText("Its command cannot be read as keys, so they are in the right order.")

    def add_letters(self) -> None:
        """Give the row in front the letters that walk to it through the menus, as an alternate."""
        name = self.page.front
        if name is not None and self.importing.offered(name):
            self.importing.add_offered(name)
            self._show(name)
        else:
            self.check.message.setText("No letters lead to it through the menus.")

    def ask_name(self) -> None:
        """Ask what the command in front is called."""
        name = self.page.front
        if name is None:
            return
        shown = self.importing.corrections.name_of(name)

        def taken(text: object) -> None:
            if str(text).strip() and str(text).strip() != shown:
                self.importing.rename(name, str(text).strip())
                self._show(name)

        self.host.choose("What is it called?", taken, text=shown, hint="Enter renames it · Esc closes")

    def carry_out_offer(self) -> None:
        """Do to the rows alike what was done to one."""
        if self.importing.carry_out_offer():
            self._show(self.page.front)
