"""Every kind of card and the one function that draws any of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw, Kit
from glimber.core.drawing.drawing import Drawing, Icons, Picture
from glimber.core.drawing.metrics import Faces
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known
from glimber.core.model.folio import Card, Folio
from glimber.core.model.group_marks import with_distinct_groups

Kind = Callable[[Folio, Card, Kit], list[Drawing]]


# Each kind is loaded when a card of it is drawn: the first painted frame shows one.


def _board(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    if card.keys:
        from glimber.core.cards.through import through_card

        return through_card(folio, card, kit)
    from glimber.core.cards.board import board_card

    return board_card(folio, card, kit)


def _sheet(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.reference_sheet import sheet_card

    return sheet_card(folio, card, kit)


def _keyboard(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.keyboard import keyboard_card

    return keyboard_card(folio, card, kit)


def _facing(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.facing import facing_card

    return facing_card(folio, card, kit)


def _grid(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.grid_sheet import grid_card

    return grid_card(folio, card, kit)


def _branch(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.branch import branch_card

    return branch_card(folio, card, kit)


def _strip(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    from glimber.core.cards.strip import strip_card

    return strip_card(folio, card, kit)


KINDS: Mapping[str, Kind] = {
    "sheet": _sheet, "keyboard": _keyboard, "board": _board, "grid": _grid, "branch": _branch, "strip": _strip,
    "facing": _facing,
}  # fmt: skip
"""Every kind of card that can be drawn. A new one is one file and a line here."""


MEASURED = frozenset({"sheet", "keyboard", "grid"})
"""Kinds whose layout follows the length of the labels."""


def draw_card(
    folio: Folio,
    card: Card,
    faces: Faces,
    stamp: str = "",
    icons: Icons = lambda name: None,
    known: Known = NOTHING_KNOWN,
) -> list[Drawing]:
    """Return the sheets of a card: one, or as many as it takes at a readable size. Raises CannotDraw."""
    program = folio.programs.get(card.program or "")
    sign = icons(program.picture) if program is not None and program.picture is not None else None
    kit = Kit(faces, stamp, icons, known, sign=sign if isinstance(sign, Picture) else None)
    kind = KINDS.get(card.kind)
    folio = with_distinct_groups(folio)
    if kind is None:
        raise CannotDraw(f"{card.id} is a {card.kind} card; expected one of {', '.join(KINDS)}")
    if not {"blanks", "weak-blanks"} & set(card.shows):
        return kind(folio, card, kit)
    from glimber.core.cards.blanks import blank_sheets, weak, without_labels, without_some_labels

    hidden = ("blanks", "weak-blanks", "reasons", "grip")
    plain = replace(card, shows=tuple(what for what in card.shows if what not in hidden))
    weakest = weak(known) if "blanks" not in card.shows else frozenset[str]()
    if card.kind in MEASURED:  # their layout follows the labels, so the labels are there and not drawn
        blank_kit = replace(kit, hidden=weakest or frozenset(folio.bindings))
        return blank_sheets(kind(folio, plain, blank_kit), kind(folio, plain, kit))
    blank = without_some_labels(folio, weakest) if weakest else without_labels(folio)
    return blank_sheets(kind(blank, plain, kit), kind(folio, plain, kit))
