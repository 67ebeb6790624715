"""Edits of cards: a card gets a file of its own when something of it is changed, and can be given back to the shelf."""

from __future__ import annotations

from msgspec.structs import replace

from glimber.core.edit.edit import EditError, with_program
from glimber.core.model.folio import INKS, MARKS, Card, Folio
from glimber.core.notation.ids import free_id, slug_of


def change_card(folio: Folio, card: Card, **changes: object) -> Folio:
    """Return the folio with a card changed; an automatic one has a file from now on. Raises EditError."""
    changed = replace(folio.cards.get(card.id, card), **changes)
    if not changed.title.strip():
        raise EditError("a card needs a title")
    if not {"labels", "icons"} & set(changed.shows):
        raise EditError("a card shows labels or icons, or both")
    return replace(folio, cards={**folio.cards, changed.id: changed})


def toggle_shown(folio: Folio, card: Card, what: str) -> Folio:
    """Return the folio with something shown on a card, or no longer. Raises EditError."""
    has = folio.cards.get(card.id, card).shows
    shows = tuple(one for one in has if one != what) if what in has else (*has, what)
    return change_card(folio, card, shows=shows)


def change_kind(folio: Folio, card: Card, kind: str) -> Folio:
    """Return the folio with a card of another kind; one that comes to be of a board gets the first there is. Raises EditError."""
    board = card.board
    if kind in ("board", "facing") and board is None:
        board = next(iter(folio.layouts), None)
        if board is None:
            raise EditError(f"a {kind} card needs a board with a layout; this folio has none")
    return change_card(folio, card, kind=kind, board=board)


def add_card(folio: Folio, title: str, about: dict[str, object]) -> tuple[Folio, str]:
    """Return the folio with a card of its own about something, of the kind that suits it, and the card's id. Raises EditError."""
    kind = "board" if about.get("board") else "strip" if about.get("run") else "sheet"
    id = free_id(slug_of(title) or "card", folio.cards)
    return change_card(folio, Card(id, title, kind, paper="strip" if kind == "strip" else "A5"), **about), id  # type: ignore[arg-type]


def dress_group(folio: Folio, program: str, group: str, *, ink: str | None = None, mark: str | None = None) -> Folio:
    """Return the folio with a group in another ink or under another mark. Raises EditError."""
    here = folio.programs[program]
    if group not in here.groups:
        raise EditError(f"{group} is not a group of {here.name}")
    for chosen, known, kind in ((ink, INKS, "an ink"), (mark, MARKS, "a mark")):
        if chosen is not None and chosen not in known:
            raise EditError(f"{chosen} is not the name of {kind}; expected one of {', '.join(known)}")
    old = here.groups[group]
    dressed = replace(old, ink=ink or old.ink, mark=mark or old.mark)
    return with_program(folio, replace(here, groups={**here.groups, group: dressed}))


def order_group(folio: Folio, program: str, group: str, before: str | None) -> Folio:
    """Return the folio with a group of a program before another, or last: legends and lists follow. Raises EditError."""
    here = folio.programs[program]
    for id in (group, *([before] if before is not None else [])):
        if id not in here.groups:
            raise EditError(f"{id} is not a group of {here.name}")
    if group == before:
        return folio
    others = [id for id in here.groups if id != group]
    others.insert(others.index(before) if before is not None else len(others), group)
    return with_program(folio, replace(here, groups={id: here.groups[id] for id in others}))


def forget_card(folio: Folio, id: str) -> Folio:
    """Return the folio without a card's own file: the automatic card comes back as it was. Raises EditError."""
    if id not in folio.cards:
        raise EditError(f"{id} has no file of its own")
    return replace(folio, cards={other: card for other, card in folio.cards.items() if other != id})
