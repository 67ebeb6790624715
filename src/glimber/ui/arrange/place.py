"""A position in the Arrange room: a board, a layer, a key with a gesture, and the keys selected with it."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.model.board import Board
from glimber.core.model.chord_boards import program_of_board
from glimber.core.model.folio import Binding, Folio, Layer, Layout
from glimber.core.model.walk import reading_order
from glimber.core.notation.keys import KEY_GESTURES, KNOB_GESTURES, Gesture, Spot


class Place(Struct, frozen=True):
    """The cursor. ``selected`` has the key in front too."""

    board: str
    layer: str
    key: str
    gesture: Gesture = "tap"
    selected: frozenset[str] = field(default_factory=frozenset)

    @property
    def keys(self) -> list[str]:
        return sorted(self.selected | {self.key})

    @property
    def spot(self) -> Spot:
        return self.on(self.key)

    def on(self, key: str) -> Spot:
        """Return the spot of a key with the gesture in front."""
        return Spot(self.board, self.layer, tuple(sorted(key.split("&"))), self.gesture)

    def spots(self) -> list[Spot]:
        return [self.on(key) for key in self.keys]

    def to(self, key: str) -> Place:
        """With another key in front, and nothing else selected."""
        return replace(self, key=key, selected=frozenset())


def settled(folio: Folio, place: Place | None) -> Place | None:
    """Return the place as far as it still is in the folio, otherwise the nearest to it; None without a layout and without
    anything bound."""
    if not any(program_of_board(board) is None or layout_count(folio, board) for board in folio.layouts):
        return None
    board = place.board if place is not None and place.board in folio.layouts else _fullest(folio)
    layout, shape = folio.layouts[board], folio.boards[board]
    layer = place.layer if place is not None and layout.layer(place.layer) else _first_layer(layout)
    key = (
        place.key
        if place is not None and (shape.has(place.key) or "&" in place.key)
        else _first(shape, layout.layer(layer))
    )
    gesture: Gesture = place.gesture if place is not None else "tap"
    if gesture not in gestures_of(shape, key):
        gesture = gestures_of(shape, key)[0]
    selected = frozenset(one for one in place.selected if shape.has(one)) if place is not None else frozenset()
    return Place(board, layer, key, gesture, selected)


def layout_count(folio: Folio, board: str) -> int:
    """Return the number of bindings on the layers of a board."""
    return sum(len(layer.bindings) for layer in folio.layouts[board].layers)


def _fullest(folio: Folio) -> str:
    """Return the board with the most bindings: the one that is worked on."""
    count = {board: layout_count(folio, board) for board in folio.layouts}
    # A layout of one's own before the ordinary keyboard, which is there in every folio, unless nothing is on it yet.
    own = [board for board in folio.layouts if program_of_board(board) is None]
    filled = [board for board in own if count[board]]
    return max(filled or ([] if any(count.values()) else own) or folio.layouts, key=lambda board: count[board])


def _first_layer(layout: Layout) -> str:
    """Return the base; of a program's chords the layer with most on it."""
    if program_of_board(layout.board) is None:
        return layout.base.id
    return max(layout.layers, key=lambda layer: len(layer.bindings)).id


def gestures_of(board: Board, key: str) -> tuple[Gesture, ...]:
    """Return what a finger can do with a key or a knob."""
    if program_of_board(board.id) is not None:
        return ("tap",)
    return KNOB_GESTURES if key in board.knob_ids else KEY_GESTURES


def _first(board: Board, layer: Layer | None) -> str:
    """Return a home key with something on it, or the first key."""
    homes = [key.id for key in board.keys if key.home]
    bound = layer.by_key if layer else {}
    return next((key for key in homes if key in bound), homes[0] if homes else reading_order(board)[0])


def layout_of(folio: Folio, place: Place) -> Layout:
    return folio.layouts[place.board]


def layer_of(folio: Folio, place: Place) -> Layer:
    """Return the layer in front."""
    found = folio.layouts[place.board].layer(place.layer)
    assert found is not None
    return found


def bindings_at(folio: Folio, place: Place, keys: Iterable[str] | None = None) -> list[Binding]:
    """Return everything bound on the selected keys, with any gesture."""
    by_key = layer_of(folio, place).by_key
    return [binding for key in (place.keys if keys is None else keys) for binding in by_key.get(key, {}).values()]
