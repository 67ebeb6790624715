"""Edits of cards: a card gets a file of its own when something of it is changed, and can be given back to the shelf."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glimber.core.edits.edit import EditError
from glimber.core.folio.folio import Card, Folio

SHOWN = ("labels", "icons", "holds", "legend", "reasons", "grip", "blanks")
"""What a card can show, in the order it is offered."""


def change_card(folio: Folio, card: Card, **changes: Any) -> Folio:
    """The folio with a card changed; one that it had by itself has a file from now on. Raises EditError."""
    changed = replace(folio.cards.get(card.id, card), **changes)
    if not changed.title.strip():
        raise EditError("a card needs a title")
    if not {"labels", "icons"} & set(changed.shows):
        raise EditError("a card shows labels or icons, or both")
    return replace(folio, cards={**folio.cards, changed.id: changed})


def toggle_shown(folio: Folio, card: Card, what: str) -> Folio:
    """The folio with something shown on a card, or no longer. Raises EditError."""
    has = folio.cards.get(card.id, card).shows
    shows = tuple(one for one in has if one != what) if what in has else (*has, what)
    return change_card(folio, card, shows=shows)


def forget_card(folio: Folio, id: str) -> Folio:
    """The folio without a card's own file: what the folio shows by itself comes back as it was. Raises EditError."""
    if id not in folio.cards:
        raise EditError(f"{id} has no file of its own")
    return replace(folio, cards={other: card for other, card in folio.cards.items() if other != id})
