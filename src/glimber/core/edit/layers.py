"""Edits of layers: made, named, ordered, taken away, and what their unbound keys do."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from glimber.core.edit.edit import EditError, map_bindings
from glimber.core.edit.spots import type_on, unpinned
from glimber.core.edit.starters import STARTERS
from glimber.core.model.folio import Folio, Layer, Layout, Unbound
from glimber.core.notation.ids import free_id, slug_of
from glimber.core.notation.keys import Spot


def set_unbound(folio: Folio, board: str, layer: str, state: Unbound, keys: Iterable[str] | None = None) -> Folio:
    """Let unbound keys of a layer fall through or be dead: those named, or all, and then none is an exception any more."""
    here = _layer(folio, board, layer)
    if keys is None:
        return _with_layer(folio, board, replace(here, unbound=state, unset={}))
    unset = dict(here.unset)
    for key in keys:
        if key in here.by_key:
            continue
        if state == here.unbound:
            unset.pop(key, None)
        else:
            unset[key] = state
    return _with_layer(folio, board, replace(here, unset=unset))


def add_layer(folio: Folio, board: str, name: str, starter: str = "blank") -> tuple[Folio, str]:
    """A new layer at the end, and its id: blank, or with a starter's keys as far as the board has them. Raises EditError."""
    name = " ".join(name.split())
    if not name:
        raise EditError("a layer needs a name")
    if starter not in STARTERS:
        raise EditError(f"{starter} is not a starter; expected one of {', '.join(STARTERS)}")
    shape = folio.boards.get(board)
    if shape is None:
        raise EditError(f"{board} is not a board of this folio")
    layout = folio.layouts.get(board) or Layout(board, (Layer("base", "Base"),))
    id = free_id(slug_of(name), _ids(layout))
    made = Layer(id, name)
    folio = _with_layout(folio, replace(layout, layers=(*layout.layers, made)))
    for key, text in STARTERS[starter].items():
        if shape.has(key):
            folio = type_on(folio, Spot(board, id, (key,), "tap"), text)
    return folio, id


def rename_layer(folio: Folio, board: str, layer: str, name: str) -> Folio:
    """Rename a layer; its id, and so every spot on it, stays. Raises EditError."""
    name = " ".join(name.split())
    if not name:
        raise EditError("a layer needs a name")
    return _with_layer(folio, board, replace(_layer(folio, board, layer), name=name))


def move_layer(folio: Folio, board: str, layer: str, by: int) -> Folio:
    """Move a layer up or down in its order; base stays the first. Raises EditError."""
    layout = folio.layouts[board]
    _layer(folio, board, layer)
    ids = _ids(layout)
    at = ids.index(layer)
    to = at + by
    if at == 0 or to == 0:
        raise EditError(f"{layout.base.name} is the base and stays the first")
    if not 0 < to < len(ids):
        raise EditError("it is at the end of the order already")
    layers = list(layout.layers)
    layers.insert(to, layers.pop(at))
    return _with_layout(folio, replace(layout, layers=tuple(layers)))


def remove_layer(folio: Folio, board: str, layer: str) -> Folio:
    """Take a layer away; its commands wait on the bench, and the keys that brought it in are free. Raises EditError."""
    layout = folio.layouts[board]
    gone = _layer(folio, board, layer)
    if gone is layout.base:
        raise EditError(f"{gone.name} is the base of {board} and cannot be removed")
    for binding in gone.bindings:
        unpinned(binding)
    layers = tuple(one for one in layout.layers if one is not gone)
    folio = _with_layout(folio, replace(layout, layers=layers))
    folio = map_bindings(
        folio,
        lambda b: None if b.enters == layer and isinstance(b.trigger, Spot) and b.trigger.board == board else b,
    )
    cards = {
        id: replace(card, layers=tuple(one for one in card.layers if one != layer)) if card.board == board else card
        for id, card in folio.cards.items()
    }
    return replace(folio, cards={id: card for id, card in cards.items() if card.layers or not folio.cards[id].layers})


def bring_to_front(folio: Folio, board: str, layer: str, program: str | None) -> Folio:
    """Let a layer come in automatically while a program is in front; None: it no longer does. Raises EditError."""
    if program is not None and program not in folio.programs:
        raise EditError(f"{program} is not a program of this folio")
    here = _layer(folio, board, layer)
    if here is folio.layouts[board].base:
        raise EditError(f"{here.name} is always in")
    return _with_layer(folio, board, replace(here, front=program))


def add_layout(folio: Folio, board: str) -> Folio:
    """Return a first, empty layer for a board that is not laid out yet. Raises EditError."""
    if board not in folio.boards:
        raise EditError(f"{board} is not a board of this folio")
    if board in folio.layouts:
        raise EditError(f"{board} is laid out already")
    return _with_layout(folio, Layout(board, (Layer("base", "Base"),)))


def _ids(layout: Layout) -> list[str]:
    return [layer.id for layer in layout.layers]


def _layer(folio: Folio, board: str, layer: str) -> Layer:
    layout = folio.layouts.get(board)
    found = layout.layer(layer) if layout else None
    if found is None:
        raise EditError(f"{layer} is not a layer of {board}")
    return found


def _with_layer(folio: Folio, board: str, layer: Layer) -> Folio:
    layout = folio.layouts[board]
    layers = tuple(layer if one.id == layer.id else one for one in layout.layers)
    return _with_layout(folio, replace(layout, layers=layers))


def _with_layout(folio: Folio, layout: Layout) -> Folio:
    return replace(folio, layouts={**folio.layouts, layout.board: layout})
