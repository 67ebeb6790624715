"""The cards a folio has: those with a file of their own, and the automatic ones."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from msgspec import Struct

from glimber.core.model.card_bindings import chords_of, chosen, sequences_of
from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Binding, Card, Command, Folio
from glimber.core.notation.keys import Chord

Bound = Sequence[tuple[Binding, Command]]
_ROWS_ON_A5, _SETS_ACROSS_PORTRAIT = 36, 3
_SHELVES: DerivedCache[Folio, str, dict[str, Shelved]] = DerivedCache()


class Shelved(Struct, frozen=True):
    """A card on the shelf: under which heading, and whether it has a file of its own."""

    card: Card
    heading: str
    own: bool


def shelf(folio: Folio) -> dict[str, Shelved]:
    """Return all cards of a folio by id, under headings: its programs, its boards, its task runs.

    An automatic card is left out where a file shows the same thing.
    """
    return _SHELVES.get(folio, "shelf", lambda: _shelf(folio))


def _shelf(folio: Folio) -> dict[str, Shelved]:
    own = {id: Shelved(card, _heading(folio, card), True) for id, card in folio.cards.items()}
    shown = {_subject(folio, card) for card in folio.cards.values()}
    automatic = {
        card.id: Shelved(card, _heading(folio, card), False)
        for card in _automatic(folio)
        if card.id not in own and _subject(folio, card) not in shown
    }
    programs, boards = folio.programs.values(), folio.boards.values()
    headings = dict.fromkeys([*(program.name for program in programs), *(board.name for board in boards)])
    order = {heading: place for place, heading in enumerate(headings)}
    return dict(sorted({**own, **automatic}.items(), key=lambda one: order.get(one[1].heading, len(order))))


def _automatic(folio: Folio) -> Iterator[Card]:
    """Sheet, keyboard, grid and branch cards for programs, a board card for every layer that binds something, strips of runs."""
    for id, program in folio.programs.items():
        found = chosen(folio, Card("", "", "grid", program=id))
        if found:
            yield _sheet_card(id, program.name, found)
        chords = chords_of(found)
        if chords:
            yield Card(f"keyboard-{id}", f"{program.name} on the keyboard", "keyboard", program=id, paper="A4",
                       shows=("labels", "legend"))  # fmt: skip
            paper, landscape = _paper_for(len({str(chord) for _, _, chord in chords}), chords)
            yield Card(f"grid-{id}", program.name, "grid", program=id, paper=paper, landscape=landscape,
                       shows=("labels", "legend"))  # fmt: skip
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


def _sheet_card(id: str, name: str, found: Bound) -> Card:
    rows = len({command.ref for _, command in found})
    paper = "A5" if rows <= _ROWS_ON_A5 else "A4"
    return Card(f"sheet-{id}", name, "sheet", program=id, paper=paper, shows=("labels",))


def _paper_for(count: int, chords: Iterable[tuple[Binding, Command, Chord]]) -> tuple[str, bool]:
    """Return a sheet that a grid of so many chords fills and does not crowd: landscape for many sets of modifiers."""
    if count <= 12:
        return "A6", True
    sets = len({chord.modifiers for _, _, chord in chords})
    return "A5" if count <= 40 else "A4", sets > _SETS_ACROSS_PORTRAIT


def _subject(folio: Folio, card: Card) -> tuple[object, ...]:
    """Return what a card is about: two with the same subject show the same thing."""
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
        card.most_used,
        card.changed_since,
        card.run,
    )


def _heading(folio: Folio, card: Card) -> str:
    if card.program is not None and card.program in folio.programs:
        return folio.programs[card.program].name
    if card.board is not None and card.board in folio.boards:
        return folio.boards[card.board].name
    return "Task runs" if card.run is not None else "Others"
