"""The Cards room: a shelf of thumbnails, one large sheet on the desk, what it is and shows at the right."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from glimber.core.cards.frame import CannotDraw
from glimber.core.cards.kinds import draw_card
from glimber.core.drawing.drawing import Drawing
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known
from glimber.core.model.card_options import CARD_OPTIONS
from glimber.core.model.card_subjects import about_words
from glimber.core.model.folio import Card, Folio
from glimber.core.model.shelf import shelf
from glimber.core.practice.known import known_from
from glimber.store.cache.fonts import faces
from glimber.store.cache.pictures import icons_of
from glimber.store.settings import load_settings, remember
from glimber.ui.cards.changing import CardChanges
from glimber.ui.cards.options import KEYS, Options, OptionsFrame
from glimber.ui.cards.output import CardOutput
from glimber.ui.cards.sheet import STEP, Sheet
from glimber.ui.cards.shelf import WIDTH, Shelf
from glimber.ui.cards.tour import Tour
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session, later

if TYPE_CHECKING:
    from glimber.ui.cards.up import CardsUp

_NAMES = {
    "about": "Choose what the card is about", "kind": "Choose the kind of card", "beside": "Choose what to compare with",
    "title": "Rename the card", "paper": "Choose the paper", "turn": "Turn the paper",
    "group": "Ink and mark of a group", "order": "Order of the groups",
    **{option.id: option.action for option in CARD_OPTIONS if option.offered},
}  # fmt: skip


class CardsRoom(Room):
    """Shelf, sheet and options."""

    id = "cards"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.shelf = Shelf(lambda id: self.sheets_of(id)[0])
        self.shelf.chosen.connect(self._show_current)
        self.sheet = Sheet()
        self._sheets: list[Drawing] = []
        self._at = 0
        self._shown: str | None = None
        self._named: dict[str, Drawing] = {}
        self._named_of: tuple[Folio, object] | None = None
        side = QFrame(self)
        side.setObjectName("side")
        side.setFixedWidth(WIDTH)
        shelf_layout = QVBoxLayout(side)
        shelf_layout.setContentsMargins(8, 8, 4, 8)
        shelf_layout.addWidget(self.shelf)
        self.options = Options()
        self.options.wanted.connect(lambda what: self.change(what))
        self.write = QPushButton("Write to file…")
        self.write.clicked.connect(self.write_file)
        right = QVBoxLayout()
        right.addWidget(OptionsFrame(self.options))
        right.addWidget(self.write)
        right.addStretch(1)
        right.setContentsMargins(0, 16, 0, 0)
        right_box = QWidget(self)
        right_box.setFixedWidth(196)
        right_box.setLayout(right)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 14, 14)
        layout.setSpacing(6)
        layout.addWidget(side)
        self.tour = Tour(self.sheet)
        middle = QVBoxLayout()
        middle.addWidget(self.sheet, 1)
        middle.addWidget(self.tour)
        layout.addLayout(middle, 1)
        layout.addWidget(right_box)
        self.up = Lazy(self._make_up)
        self.changes = CardChanges(session, host, self.card, lambda id: later(lambda: self.show_card(id)))
        self.output = CardOutput(session, host, self, lambda: self._sheets, self.sheets_of, self._known)
        self.sheet.first_painted.connect(lambda: later(self.shelf.start))
        self.refresh()

    def panes(self) -> list[QWidget]:
        return [self.shelf, self.sheet, self.write]

    def number(self) -> int | None:
        return len(shelf(self.session.folio))

    def actions_here(self) -> list[Action]:
        def act(
            id: str,
            name: str,
            keys: tuple[str, ...],
            run: Callable[[], None],
            brief: str = "",
            brief_keys: str = "",
            when: Callable[[], bool] = self._has_card,
        ) -> Action:
            return Action(f"card-{id}", name, keys, run, self.id, brief, brief_keys, when)

        several = lambda: len(self._sheets) > 1  # noqa: E731
        return [
            act("next", "Next card", ("Right", "Down"), lambda: self.step(1), "next card", "← →"),
            act("previous", "Card before", ("Left", "Up"), lambda: self.step(-1)),
            act("tour", "Walk through the card, part by part", ("w",), self.walk, "tour", "W"),
            act("end", "End the tour, or stop writing", ("Escape",), self.end_what_is_on,
                when=lambda: self.tour.on or self.output.writing),
            act("tour-words", "Change the text of this stop", ("Enter",), self.say_stop, when=lambda: self.tour.on),
            act("sheet-next", "Next sheet of the card", ("PageDown",), lambda: self.turn_to(self._at + 1), when=several),
            act("sheet-before", "Sheet before", ("PageUp",), lambda: self.turn_to(self._at - 1), when=several),
            act("write", "Write the card to a file", ("e",), self.write_file, "write to file", "E"),
            act("up", "Put the card up over the desktop, or take it down", ("u",), self.put_up, "put up", "U"),
            act("write-all", "Write all cards into one PDF", ("Shift+E",), self.output.ask_all),
            act("print", "Print the card", ("Ctrl+P",), lambda: self.output.print_these(False), "print", "Ctrl+P"),
            act("print-all", "Print all cards", ("Ctrl+Shift+P",), lambda: self.output.print_these(True)),
            act("new", "A new card", ("n",), self.changes.new, when=lambda: True),
            act("larger", "Larger, to read closely", ("+", "="), lambda: self._zoom(STEP), "larger", "+ −"),
            act("smaller", "Smaller", ("-",), lambda: self._zoom(1 / STEP)),
            act("whole", "The whole sheet", ("0",), lambda: self.sheet.zoom_to(1.0)),
            act("true", "In true size", ("1",), lambda: self.sheet.zoom_to(self.sheet.true_size())),
            *(act(f"move-{name}", f"Move the sheet {name}", (f"Shift+{name.capitalize()}",), partial(self.sheet.move_by, x, y),
                  when=lambda: self.sheet.zoom > 1.0)
              for name, x, y in (("left", 80, 0), ("right", -80, 0), ("up", 0, 80), ("down", 0, -80))),
            act("copy", "Copy the card as a picture", ("Ctrl+C",), self.copy_picture, "copy"),
            act("forget", "Reset the card to its automatic form", ("Delete",), self.forget, when=self._is_own),
            *(act(what, name, (KEYS[what].lower(),), partial(self.change, what), "paper" if what == "paper" else "",
                  KEYS[what], when=self._is_facing if what == "beside" else self._has_card) for what, name in _NAMES.items()),
        ]  # fmt: skip

    def enter(self) -> None:
        self.shelf.setFocus()

    # What is in front

    def refresh(self) -> None:
        """Cards and layouts may have changed: the shelf is laid again, the same card stays in front."""
        front = self._current() or self.session.settings.last_card
        cards = shelf(self.session.folio)
        self.shelf.show_cards(cards, front if front in cards else "draw")
        self._show_current()
        if self.sheet.painted:
            self.shelf.start()

    def _current(self) -> str | None:
        return self.shelf.current_id()

    def card(self) -> Card | None:
        """Return the card in front."""
        found = shelf(self.session.folio).get(self._current() or "")
        return found.card if found is not None else None

    def _has_card(self) -> bool:
        return self.card() is not None

    def _is_facing(self) -> bool:
        card = self.card()
        return card is not None and card.kind == "facing"

    def _is_own(self) -> bool:
        return self._current() in self.session.folio.cards

    def show_card(self, id: str) -> None:
        """Bring a card to the front."""
        self.shelf.put_in_front(id)

    def step(self, by: int) -> None:
        """The next card or one before; on a tour the next stop."""
        if self.tour.on:
            self.tour.step(by)
        else:
            self.shelf.step(by)

    def walk(self) -> None:
        """Begin the tour of the card in front."""
        card = self.card()
        if card is None or not self._sheets:
            return
        from glimber.core.cards.tour import tour_of

        stops = tour_of(self.session.folio, card, self._known())
        if not stops:
            self.session.notified.emit("There is nothing on this card to walk through.")
            return
        self.turn_to(0)
        self.tour.begin(stops)

    def end_what_is_on(self) -> None:
        """All cards are no longer written; else the tour ends."""
        if self.output.writing:
            self.output.stop()
        else:
            self.tour.end()

    def say_stop(self) -> None:
        """Have another sentence for the stop in front; the tour is written into the card's file from then on."""
        at, stops = self.tour.at, self.tour.stops

        def on_answer(text: object) -> None:
            changed = tuple(replace(stop, text=str(text)) if place == at else stop for place, stop in enumerate(stops))
            self.changes.edit("tour", tour=changed)
            self.tour.begin(changed)
            self.tour.step(at)

        self.host.choose("Text of this stop", on_answer, text=stops[at].text)

    def sheets_of(self, id: str) -> list[Drawing]:
        """Draw a card. Raises CannotDraw."""
        from glimber.ui.paint.export import stamp_of

        stamp = stamp_of(self.session.folio, self.session.now())
        return draw_card(self.session.folio, shelf(self.session.folio)[id].card, faces(), stamp,
                         icons_of(self.session.folder), self._known())  # fmt: skip

    def drawing_of(self, id: str) -> Drawing:
        """Return the first sheet of a card. Raises CannotDraw."""
        return self.sheets_of(id)[0]

    def _make_up(self) -> CardsUp:
        from glimber.ui.cards.up import CardsUp

        return CardsUp(
            self.session,
            self._drawing_named,
            lambda: list(shelf(self.session.folio)),
            self.host.come_forward,
        )

    def _drawing_named(self, id: str) -> Drawing:
        """Return the first sheet of a card, the same object as long as nothing has changed. Raises KeyError for one that is not
        there, CannotDraw."""
        key = (self.session.folio, self.session.ledger)
        if self._named_of is None or any(one is not other for one, other in zip(self._named_of, key, strict=True)):
            self._named, self._named_of = {}, key
        if id not in self._named:
            self._named[id] = self.sheets_of(id)[0]
        return self._named[id]

    def _known(self) -> Known:
        """Return what practice says, as far as it has been weighed."""
        ledger = self.session.ledger
        if ledger is None:
            return NOTHING_KNOWN
        grips = {id: row.grip for id, row in ledger.rows.items() if row.grip is not None}
        uses = {id: row.uses_week for id, row in ledger.rows.items() if not row.uses_guessed}
        return known_from(grips, ledger.practice.changes, uses)

    def _show_current(self) -> None:
        id = self._current()
        self._sheets, message = (
            [],
            "No cards yet. Ctrl+1 brings the shortcuts they are drawn of.",
        )
        if id != self._shown and self.tour.on:
            self.tour.end()
        if id is not None:
            try:
                self._sheets = self.sheets_of(id)
            except CannotDraw as error:
                message = str(error)
        self.write.setEnabled(bool(self._sheets))
        card = self.card()
        about = about_words(self.session.folio, card) if card is not None else ""
        self.options.show_card(card, id in self.session.folio.cards, len(self._sheets), about)
        # The same card drawn again stays at the sheet that was in front.
        self._at = min(self._at, len(self._sheets) - 1) if id == self._shown and self._sheets else 0
        self._shown = id
        self.sheet.show_drawing(self._sheets[self._at] if self._sheets else None, message)
        self.host.show_numbers()

    def _zoom(self, by: float) -> None:
        self.sheet.zoom_to(self.sheet.zoom * by)

    def turn_to(self, at: int) -> None:
        """Another sheet of the card in front."""
        if self._sheets:
            self._at = at % len(self._sheets)
            self.sheet.show_drawing(self._sheets[self._at])

    # Changes

    def change(self, what: str) -> None:
        """Change something of the card in front: asked for, or turned over at once."""
        self.changes.change(what)

    def forget(self) -> None:
        """Take the card's own file away: it is automatic again."""
        id = self._current()
        if id is not None:
            self.changes.forget(id)

    # Out of the room

    def put_up(self) -> None:
        """The card in front over the desktop, or no longer."""
        id = self._current()
        if id is not None and self.sheet.drawing is not None:
            self.session.notified.emit(f"{self.up().toggle(id)}. The same from anywhere: glimber up {id}")

    def complete(self) -> None:
        self.up().listen()
        later(self._offer_tour)

    def _offer_tour(self) -> None:
        """The first time a folio with a tour is opened, it is offered."""
        toured = load_settings().toured.splitlines()
        card = next((card for card in self.session.folio.cards.values() if card.tour), None)
        if card is None or str(self.session.folder) in toured:
            return
        remember(toured="\n".join([*toured[-200:], str(self.session.folder)]))
        self.show_card(card.id)
        here = "W walks" if self.isVisible() else "Ctrl+3, then W walks"
        self.session.notified.emit(f"This folio has a tour: {here} through “{card.title}”, part by part.")

    def close_down(self) -> None:
        if self.up.made is not None:
            self.up.made.close_all()

    def copy_picture(self) -> None:
        """The sheet in front, on the clipboard as a picture and as a drawing."""
        if self.sheet.drawing is not None:
            self.output.copy(self.sheet.drawing)

    def write_file(self) -> None:
        """Ask where, and write the card as SVG, PDF or PNG."""
        id = self._current()
        if id is not None:
            self.output.ask_file(id)

    def write_to(self, path: Path) -> None:
        """Write the selected card; show an error in the bottom line."""
        self.output.write(self._current() or "", path)
