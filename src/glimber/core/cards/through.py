"""One key, or a few, through the layers of their board: a row for each key, a column for each layer, every gesture on it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from msgspec.structs import replace

from glimber.core.cards.board import Place, Sheet, subject
from glimber.core.cards.frame import CannotDraw, Kit, Note, numbered
from glimber.core.cards.key_face import KeyFace, key_faces, together_lines
from glimber.core.drawing.drawing import Drawing, Group
from glimber.core.model.board import Board
from glimber.core.model.describe import key_words
from glimber.core.model.folio import Card, Folio, Layer

_WIDE: Final = 1.7
_HIGH: Final = 1.3
"""Size of a key, in key units: wider than on the board, since there are few of them."""
_HEAD: Final = 1.9
"""Height of the layers' names over the columns, in sizes of the small type."""


def through_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw the keys of a card through its layers, or all layers of its board. Raises CannotDraw."""
    board, layers = subject(folio, card)
    through = layers if card.layers else list(folio.layouts[board.id].layers)
    return numbered(Through(folio, card, kit, board, through).draw())


class Through(Sheet):
    """A sheet with a board of its own: as many columns as layers, as many rows as keys."""

    def __init__(self, folio: Folio, card: Card, kit: Kit, board: Board, layers: Sequence[Layer]) -> None:
        """Raises CannotDraw for a key that the board has not."""
        self.columns, self.of = tuple(layers), board
        for key in card.keys:
            if key not in board.by_id:
                raise CannotDraw(f"{key} is not a key of {board.id}")
        table = tuple(
            replace(board.by_id[key], id=_at(key, layer), x=column * _WIDE, y=row * _HIGH, w=_WIDE, h=_HIGH, angle=0.0,
                    pivot=None, home=False)
            for row, key in enumerate(card.keys) for column, layer in enumerate(layers)
        )  # fmt: skip
        super().__init__(folio, card, kit, replace(board, keys=table, knobs=()), layers[:1])
        whole = [(layer, key_faces(folio, board, layer)) for layer in layers]
        self.key_faces: list[dict[str, KeyFace]] = [
            {_at(key, layer): replace(found[key], key=key) for layer, found in whole for key in card.keys}
        ]
        if not any(face.lines for face in self.key_faces[0].values()):
            raise CannotDraw(f"{card.title}: {', '.join(card.keys)} does nothing on any of these layers")
        if not self.can_be_read():
            raise CannotDraw(
                f"{card.title}: {len(layers)} layers cannot be read on {card.paper}; choose a larger paper or turn it"
            )

    def head(self) -> float:
        return self.frame.small * _HEAD

    def over(self, places: Sequence[Place]) -> list[Group]:
        """Return the layers' names over their columns."""
        place, size = places[0], self.frame.small
        items = []
        for column, layer in enumerate(self.columns):
            setting = self.tile.setting(layer.name, _WIDE * place.u * 0.96, size * _HEAD, size, self.paper.least_note)
            middle = place.x0 + (column + 0.5) * _WIDE * place.u
            items += self.tile.set_at(setting, middle, place.top + size * 0.8, 700, "ink")
        return [Group(tuple(items))]

    def _subtitle(self) -> str:
        return f"{self.of.id} · {key_words(self.folio, self.of.id, self.card.keys)} through {len(self.columns)} layers"

    def _together(self) -> list[Note]:
        return [Note(f"{key_words(self.folio, self.of.id, keys)}, {layer.name}", line.full)
                for layer in self.columns for keys, line in together_lines(self.folio, layer)
                if set(keys) & set(self.card.keys)]  # fmt: skip


def _at(key: str, layer: Layer) -> str:
    return f"{key}.{layer.id}"
