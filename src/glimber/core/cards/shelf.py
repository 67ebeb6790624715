"""The cards a folio has: those with a file of their own, and those that it has by itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from glimber.core.cards.chosen import NOTHING_KNOWN, Known, chords_of, chosen, sequences_of
from glimber.core.cards.drawing import Drawing, Icons
from glimber.core.cards.frame import CannotDraw, Kit
from glimber.core.cards.metrics import Faces
from glimber.core.folio.folio import Card, Folio
from glimber.core.values import dataclass

Kind = Callable[[Folio, Card, Kit], list[Drawing]]


# Each kind is loaded when a card of it is drawn: the first painted frame shows one.


def _board(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    if card.keys:
        from glimber.core.cards.throughcard import through_card

        return through_card(folio, card, kit)
    from glimber.core.cards.boardcard import board_card

    return board_card(folio, card, kit)


def _facing(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.facingcard import facing_card

    return facing_card(folio, card, kit)


def _grid(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.gridcard import grid_card

    return grid_card(folio, card, kit)


def _branch(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.branchcard import branch_card

    return branch_card(folio, card, kit)


def _strip(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.stripcard import strip_card

    return strip_card(folio, card, kit)


KINDS: Mapping[str, Kind] = {"board": _board, "grid": _grid, "branch": _branch, "strip": _strip, "facing": _facing}
"""Every kind of card that can be drawn. A new one is one file and a line here."""


@dataclass(frozen=True)
class Shelved:
    """A card on the shelf: under which heading, and whether it has a file of its own."""

    card: Card
    heading: str
    own: bool


def shelf(folio: Folio) -> dict[str, Shelved]:
    """All cards of a folio by id, under headings: its programs, its boards, its task runs.

    A card that the folio has by itself is left out where a file shows the same thing.
    """
    known = folio.derived.get("shelf")
    if known is None:
        own = {id: Shelved(card, _heading(folio, card), True) for id, card in folio.cards.items()}
        shown = {_subject(folio, card) for card in folio.cards.values()}
        by_itself = {
            card.id: Shelved(card, _heading(folio, card), False)
            for card in _by_itself(folio)
            if card.id not in own and _subject(folio, card) not in shown
        }
        everything = {**own, **by_itself}
        headings = list(
            dict.fromkeys([*(p.name for p in folio.programs.values()), *(b.name for b in folio.boards.values())])
        )
        order = {heading: place for place, heading in enumerate(headings)}
        known = dict(sorted(everything.items(), key=lambda one: order.get(one[1].heading, len(order))))
        folio.derived["shelf"] = known
    found: dict[str, Shelved] = known
    return found


def draw_card(
    folio: Folio,
    card: Card,
    faces: Faces,
    stamp: str = "",
    icons: Icons = lambda name: None,
    known: Known = NOTHING_KNOWN,
) -> list[Drawing]:
    """The sheets of a card: one, or as many as it takes at a readable size. Raises CannotDraw."""
    kind, kit = KINDS.get(card.kind), Kit(faces, stamp, icons, known)
    if kind is None:
        raise CannotDraw(f"{card.id} is a {card.kind} card; expected one of {', '.join(KINDS)}")
    if not {"blanks", "weak-blanks"} & set(card.shows):
        return kind(folio, card, kit)
    from glimber.core.cards.blanks import blank_sheets, weak, without_labels, without_some_labels

    hidden = ("blanks", "weak-blanks", "reasons", "grip")
    plain = replace(card, shows=tuple(what for what in card.shows if what not in hidden))
    weakest = weak(known) if "blanks" not in card.shows else frozenset[str]()
    blank = without_some_labels(folio, weakest) if weakest else without_labels(folio)
    return blank_sheets(kind(blank, plain, kit), kind(folio, plain, kit))


def _by_itself(folio: Folio) -> Iterator[Card]:
    """A board card for every layer that binds something, grid and branch cards for programs, a strip card for each task run."""
    for id, program in folio.programs.items():
        found = chosen(folio, Card("", "", "grid", program=id))
        chords = len({str(chord) for _, _, chord in chords_of(found)})
        if chords:
            paper, landscape = _paper_for(chords)
            yield Card(
                f"grid-{id}",
                program.name,
                "grid",
                program=id,
                paper=paper,
                landscape=landscape,
                shows=("labels", "legend"),
            )
        sequences = len(sequences_of(found))
        if sequences:
            paper = "A5" if sequences <= 24 else "A4"
            yield Card(f"branch-{id}", f"{program.name}, step by step", "branch", program=id, paper=paper,
                       landscape=sequences <= 60, shows=("labels", "legend"))  # fmt: skip
    for board, layout in folio.layouts.items():
        for layer in layout.layers:
            if layer.bindings:
                yield Card(f"board-{board}-{layer.id}", layer.name, "board", board=board, layers=(layer.id,), paper="A5",
                           shows=("labels", "holds", "legend"))  # fmt: skip
    for id, run in folio.runs.items():
        if chosen(folio, Card("", "", "strip", run=id)):
            yield Card(f"strip-{id}", run.name, "strip", run=id, paper="strip", shows=("labels",))


def _paper_for(chords: int) -> tuple[str, bool]:
    """A sheet that a grid of so many chords fills and does not crowd."""
    if chords <= 12:
        return "A6", True
    return ("A5", False) if chords <= 40 else ("A4", False)


def _subject(folio: Folio, card: Card) -> tuple[object, ...]:
    """What a card is about: two with the same subject show the same thing."""
    layers = card.layers
    if card.kind == "board" and not layers and card.board is not None and card.board in folio.layouts:
        layers = (folio.layouts[card.board].base.id,)
    return (
        card.kind,
        card.board,
        layers,
        card.beside,
        card.keys,
        card.program,
        card.context,
        card.groups,
        card.find,
        card.weakest,
        card.changed_since,
        card.run,
    )


def _heading(folio: Folio, card: Card) -> str:
    if card.program is not None and card.program in folio.programs:
        return folio.programs[card.program].name
    if card.board is not None and card.board in folio.boards:
        return folio.boards[card.board].name
    return "Task runs" if card.run is not None else "Others"
