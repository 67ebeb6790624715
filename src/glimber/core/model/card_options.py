"""The options of a card: what can be shown on it, one entry each.

A new option is an entry here and the place in ``core/cards`` that draws it: files, keys, the list beside the card and its help
are made from this table.
"""

from __future__ import annotations

from typing import Final

from msgspec import Struct

from glimber.core.model.folio import CardKind


class CardOption(Struct, frozen=True):
    """An option. ``key`` toggles it in the Cards room; ``label`` in the list, ``action`` in help and undo; ``kinds`` of card
    that draw it. ``offered``: it is in the list; others are only written by hand."""

    id: str
    key: str
    label: str
    action: str
    kinds: tuple[CardKind, ...]
    offered: bool = True


_TABLES: Final = ("sheet", "keyboard", "board", "grid", "branch")
CARD_OPTIONS: Final = (
    CardOption("labels", "B", "labels", "Show labels", ("board", "facing")),
    CardOption("icons", "I", "icons", "Show icons", ("board", "facing")),
    CardOption("holds", "H", "other gestures", "Show gestures other than taps", ("board", "facing")),
    CardOption("legend", "L", "legend", "Show the legend", ("keyboard", "board", "grid", "branch", "facing", "strip")),
    CardOption("reasons", "R", "reasons", "Show reasons", (*_TABLES, "strip")),
    CardOption("grip", "G", "lamps of grip", "Show lamps of grip", _TABLES),
    CardOption("learn", "Y", "what to learn", "Show what is to be learnt, and faintly what never", ("sheet",)),
    CardOption("systems", "V", "other systems", "Show the keys of other systems", ("sheet",)),
    CardOption("blanks", "K", "blanks", "Leave blanks to fill in, with the answers on the back", (*_TABLES, "strip")),
    CardOption("weak-blanks", "Shift+K", "weakest", "Leave only the weakest blank", (*_TABLES, "strip")),
    CardOption("prints", "", "prints", "Show prints", (), offered=False),
)
OPTION_OF: Final = {option.id: option for option in CARD_OPTIONS}


def options_for(kind: str) -> tuple[CardOption, ...]:
    """Return the options offered for a kind of card, in their order."""
    return tuple(option for option in CARD_OPTIONS if option.offered and kind in option.kinds)
