"""Changes to the selected card, each asked for or toggled; a step of history each."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from msgspec import Struct

from glimber.core.drawing.paper import PAPERS_MM
from glimber.core.edit.cards import (
    add_card,
    change_card,
    change_kind,
    dress_group,
    forget_card,
    order_group,
    toggle_shown,
)
from glimber.core.edit.edit import EditError
from glimber.core.model.card_options import OPTION_OF
from glimber.core.model.card_subjects import About, about_fields, about_of_text, abouts
from glimber.core.model.folio import INKS, MARKS, Card, Folio, Group
from glimber.store.faults import StoreError
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.session import Session

PAPERS: Final = {"index": "index card, 127 × 76 mm", "strip": "along an edge, 297 × 30 mm", "screen": "1280 × 800 pixels",
                 "large-screen": "2560 × 1440 pixels"}  # fmt: skip
KINDS: Final = {
    "sheet": "every shortcut by group, keys beside the full name",
    "keyboard": "the ordinary keyboard with a program's chords on its keys",
    "board": "a board's keys with words on them",
    "grid": "chords as a table, keys down and modifiers across",
    "branch": "sequences as a tree, from first key to command",
    "strip": "few keys in order, along an edge",
    "facing": "a layer before and after, or two layers, of one board or of two",
}


class _Of(Struct, frozen=True):
    """A group with the id and the name of its program."""

    program: str
    name: str
    group: Group


class CardChanges:
    """Changes of the card that ``card`` gives; ``made`` is called with the id of a new one."""

    def __init__(
        self, session: Session, host: Host, card: Callable[[], Card | None], made: Callable[[str], object]
    ) -> None:
        self._session, self._host, self._card, self._made = session, host, card, made
        self._asks: dict[str, Callable[[Card], None]] = {
            "title": self._title, "paper": self._paper, "turn": lambda card: self.edit("turn", landscape=not card.landscape),
            "about": self._about, "kind": self._kind,
            "beside": self._beside, "group": self._group, "order": self._order,
        }  # fmt: skip

    def change(self, what: str) -> None:
        """Change something of the card in front: a field of it, its groups, or something it shows."""
        card = self._card()
        if card is None:
            return
        if what in OPTION_OF:
            self.apply(f"{what} on {card.title}", lambda folio: toggle_shown(folio, card, what))
        else:
            self._asks[what](card)

    def edit(self, name: str, **changes: object) -> None:
        """Change fields of the card in front."""
        card = self._card()
        if card is not None:
            self.apply(f"{name} of {card.title}", lambda folio: change_card(folio, card, **changes))

    def forget(self, id: str) -> None:
        """Take a card's own file away: it is automatic again."""
        self.apply(f"reset card {id}", lambda folio: forget_card(folio, id))

    def new(self) -> None:
        """A card of its own: what it is about is asked, the kind that suits it is taken."""

        def taken(value: object) -> None:
            about = self._read(value, None)
            made: list[str] = []

            def add(folio: Folio) -> Folio:
                folio, id = add_card(folio, about.text, dict(about.fields))
                made.append(id)
                return folio

            if self.apply(f"a card of {about.text}", add):
                self._made(made[-1])

        self._ask_about("A new card of", taken)

    def apply(self, name: str, change: Callable[[Folio], Folio]) -> bool:
        """Return one step of history; report what went wrong."""
        try:
            self._session.edit(name, change)
        except (EditError, StoreError) as error:
            self._session.notified.emit(str(error))
            return False
        return True

    # What is asked

    def _title(self, card: Card) -> None:
        self._host.choose("Title of the card", lambda text: self.edit("title", title=str(text)), text=card.title)

    def _paper(self, card: Card) -> None:
        choices = [Choice(name, PAPERS.get(name, f"{short:g} × {long:g} mm"), value=name)
                   for name, (short, long) in PAPERS_MM.items()]  # fmt: skip
        self._host.choose("Paper of the card", lambda name: self.edit("paper", paper=str(name)), choices)

    def _kind(self, card: Card) -> None:
        self._host.choose(
            "Drawn as",
            lambda kind: self.apply(f"kind of {card.title}", lambda folio: change_kind(folio, card, str(kind))),
            [Choice(kind, words, value=kind) for kind, words in KINDS.items()],
        )

    def _beside(self, card: Card) -> None:
        layouts = self._session.folio.layouts
        others = [Choice(f"{layer.name} of {board}", "set against it", value=f"{board}:{layer.id}")
                  for board, layout in layouts.items() if board != card.board for layer in layout.layers]  # fmt: skip
        if not others:
            self._session.notified.emit("There is no other board with a layout; two layers of one are chosen with A.")
            return
        itself = Choice("itself", "before its changes; or two layers of its own board", value="")
        self._host.choose(
            f"{card.title} against", lambda beside: self.edit("facing", beside=str(beside) or None, layers=card.layers[:1]),
            [*others, itself],
        )  # fmt: skip

    def _about(self, card: Card) -> None:
        def taken(value: object) -> None:
            self.edit("what is on it", **about_fields(card, self._read(value, card.board)))

        self._ask_about("What is on the card", taken)

    def _read(self, value: object, board: str | None) -> About:
        """Return what was chosen, or what a written text asks for."""
        return value if isinstance(value, About) else about_of_text(str(value), self._session.folio, board)

    def _ask_about(self, title: str, taken: Callable[[object], None]) -> None:
        choices = [Choice(about.text, about.detail, value=about) for about in abouts(self._session.folio)]
        self._host.choose(
            title, taken, choices, free=True, hint="or any text to be found, weakest 12, most used 20, since 2026-11-20, keys S D"
        )

    def _groups(self, card: Card) -> list[_Of]:
        """Return the groups a card can show, with their program."""
        programs = self._session.folio.programs
        return [_Of(id, program.name, group) for id, program in programs.items() if card.program in (None, id)
                for group in program.groups.values()]  # fmt: skip

    def _group(self, card: Card) -> None:
        groups = self._groups(card)
        if not groups:
            self._session.notified.emit("No command on this card is in a group; put some into one with G in Gather.")
            return
        self._host.choose("Ink or mark of which group", self._dress, [
            Choice(of.group.name, f"{of.name}: {of.group.ink}, {of.group.mark}", value=of) for of in groups])  # fmt: skip

    def _dress(self, of: object) -> None:
        assert isinstance(of, _Of)
        group = of.group

        def taken(wanted: object) -> None:
            ink, mark = (wanted, None) if wanted in INKS else (None, wanted)
            self.apply(f"ink and mark of {group.name}",
                       lambda folio: dress_group(folio, of.program, group.id, ink=ink, mark=mark))  # type: ignore[arg-type]  # fmt: skip

        choices = [Choice(name, "ink", value=name) for name in INKS] + [
            Choice(name, "mark", value=name) for name in MARKS
        ]
        self._host.choose(f"{group.name} is {group.ink}, {group.mark}", taken, choices)

    def _order(self, card: Card) -> None:
        groups = self._groups(card)
        if len(groups) < 2:
            self._session.notified.emit("There are no two groups to be put in order.")
            return

        def chosen(of: object) -> None:
            assert isinstance(of, _Of)
            name = f"order of {of.group.name}"
            others = [other for other in groups if other.program == of.program and other.group.id != of.group.id]
            self._host.choose(
                f"Where {of.group.name} comes",
                lambda before: self.apply(
                    name, lambda folio: order_group(folio, of.program, of.group.id, str(before) or None)
                ),
                [
                    *(Choice(f"before {other.group.name}", value=other.group.id) for other in others),
                    Choice("last", value=""),
                ],
            )

        self._host.choose(
            "Which group comes elsewhere", chosen, [Choice(of.group.name, of.name, value=of) for of in groups]
        )
