"""Edits of layers and of what is on their keys: a folio in, a new folio out."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, Final

from glimber.core.edit import EditError, check_spot, free_id, map_bindings, with_binding, with_spots
from glimber.core.folio import Binding, Folio, Layer, Layout, Unbound
from glimber.core.gather import slug_of
from glimber.core.keys import Gesture, Sent, Spot, parse_sent
from glimber.core.starters import STARTERS

SAID: Final = ("reason", "label", "icon", "picture", "set_at", "computers", "pinned", "share")
"""What is said of a binding, whatever it does: it stays when what the key does is changed."""


@dataclass(frozen=True)
class Does:
    """What a spot does; only what is not None or empty is set. Fields as those of a Binding."""

    command: str | None = None
    sends: Sent | None = None
    steps: tuple[Any, ...] = ()
    repeat_ms: int | None = None
    release: tuple[Sent, ...] = ()
    enters: str | None = None
    mode: Any = None
    leaves: bool = False
    bundle: str | None = None


# What is on a spot


def set_spot(folio: Folio, spot: Spot, does: Does) -> Folio:
    """Let a spot do something else; its id, reason, icon and history stay where it was bound before. Raises EditError."""
    check_spot(folio, spot)
    if does.command is not None and does.command not in folio.commands:
        raise EditError(f"{does.command} is not a command of this folio")
    layout = folio.layouts[spot.board]
    if does.enters is not None and layout.layer(does.enters) is None:
        raise EditError(f"{does.enters} is not a layer of {spot.board}; it has {', '.join(_ids(layout))}")
    if does.enters is not None and does.mode is None:
        raise EditError("say how the layer comes in: while, switch, once or stay")
    if does.bundle is not None and does.bundle not in folio.bundles:
        raise EditError(f"{does.bundle} is not a bundle of this folio; it has {', '.join(folio.bundles) or 'none'}")
    there = folio.by_trigger.get(spot)
    values = {field.name: getattr(does, field.name) for field in fields(does)}
    if there is None:
        return with_binding(folio, Binding(free_id(folio, default_id(spot)), spot, **values, given_id=True))
    _unpinned(there)
    made = replace(there, **values, given_id=True)
    return map_bindings(folio, lambda binding: made if binding.id == there.id else binding)


def default_id(spot: Spot) -> str:
    """The id a binding of a spot has where none is given."""
    return f"{spot.layer}-{spot.key}-{spot.gesture}".replace("&", "-").lower()


def type_on(folio: Folio, spot: Spot, text: str) -> Folio:
    """Let a spot send what was typed: a chord or a sequence in our notation, or a text in quotes. Raises EditError."""
    try:
        sent = parse_sent(text, folio.bundles)
    except ValueError as error:
        raise EditError(str(error)) from error
    return set_spot(folio, spot, Does(sends=sent))


def clear_spots(folio: Folio, spots: Iterable[Spot]) -> Folio:
    """Take bindings off spots; their commands wait on the bench if that was their last one. Raises EditError."""
    chosen = {binding.id: binding for spot in spots if (binding := folio.by_trigger.get(spot)) is not None}
    if not chosen:
        raise EditError("nothing is bound there")
    for binding in chosen.values():
        _unpinned(binding)
    return map_bindings(folio, lambda binding: None if binding.id in chosen else binding)


def _unpinned(binding: Binding) -> None:
    if binding.pinned:
        raise EditError(f"{binding.id} on {binding.trigger} is pinned; take the pin off first")


# Keys, with all their gestures


def of_key(folio: Folio, board: str, layer: str, key: str) -> dict[str, Binding]:
    """The bindings of one key of a layer, by gesture."""
    layout = folio.layouts.get(board)
    found = layout.layer(layer) if layout else None
    return dict(found.by_key.get(key, {})) if found else {}


def swap_keys(folio: Folio, one: tuple[str, str, str], other: tuple[str, str, str]) -> Folio:
    """Exchange everything on two keys, each given as (board, layer, key). Raises EditError."""
    if one == other:
        raise EditError("choose another key to swap with")
    here, there = of_key(folio, *one), of_key(folio, *other)
    if not here and not there:
        raise EditError("nothing is bound on either key")
    moves = {b.id: _onto(folio, b, other) for b in here.values()} | {b.id: _onto(folio, b, one) for b in there.values()}
    return with_spots(folio, moves)


def move_key(folio: Folio, start: tuple[str, str, str], to: tuple[str, str, str], put: bool = False) -> Folio:
    """Put everything on a key onto another one. What is there goes back to where it came from, or to the bench with ``put``.

    Raises EditError.
    """
    there = of_key(folio, *to)
    if not of_key(folio, *start):
        raise EditError("nothing is bound there to lift")
    if there and put:
        folio = clear_spots(folio, [binding.spot for binding in there.values()])
    return swap_keys(folio, start, to)


def _onto(folio: Folio, binding: Binding, to: tuple[str, str, str]) -> Binding:
    _unpinned(binding)
    board, layer, key = to
    spot = Spot(board, layer, tuple(sorted(key.split("&"))), binding.spot.gesture)
    check_spot(folio, spot)
    if binding.enters is not None and (board != binding.spot.board or layer == binding.enters):
        raise EditError(f"{binding.id} brings in {binding.enters}; it cannot be put there")
    return replace(binding, trigger=spot, given_id=True)


def copy_to(folio: Folio, start: Spot, targets: Sequence[Spot]) -> Folio:
    """Put what a spot does on other spots too, in place of what is there. Raises EditError."""
    binding = folio.by_trigger.get(start)
    if binding is None:
        raise EditError("nothing is bound there to copy")
    does = Does(**{field.name: getattr(binding, field.name) for field in fields(Does)})
    for spot in targets:
        if spot != start:
            folio = set_spot(folio, spot, does)
    return folio


# Layers


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
    id, number = slug_of(name), 1
    while layout.layer(id) is not None:
        number += 1
        id = f"{slug_of(name)}-{number}"
    made = Layer(id, name)
    folio = _with_layout(folio, replace(layout, layers=(*layout.layers, made)))
    for key, text in STARTERS[starter].items():
        if shape.has(key):
            folio = type_on(folio, Spot(board, id, (key,), "tap"), text)
    return folio, id


def rename_layer(folio: Folio, board: str, layer: str, name: str) -> Folio:
    """Call a layer otherwise; its id, and so every spot on it, stays. Raises EditError."""
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
        _unpinned(binding)
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
    """Let a layer come in by itself while a program is in front; None: it no longer does. Raises EditError."""
    if program is not None and program not in folio.programs:
        raise EditError(f"{program} is not a program of this folio")
    here = _layer(folio, board, layer)
    if here is folio.layouts[board].base:
        raise EditError(f"{here.name} is always in")
    return _with_layer(folio, board, replace(here, front=program))


def add_layout(folio: Folio, board: str) -> Folio:
    """A first, empty layer for a board that is not laid out yet. Raises EditError."""
    if board not in folio.boards:
        raise EditError(f"{board} is not a board of this folio")
    if board in folio.layouts:
        raise EditError(f"{board} is laid out already")
    return _with_layout(folio, Layout(board, (Layer("base", "Base"),)))


def each(folio: Folio, change: Callable[[Folio, Spot], Folio], spots: Iterable[Spot]) -> Folio:
    """One edit for several spots."""
    for spot in spots:
        folio = change(folio, spot)
    return folio


def spot_of(board: str, layer: str, key: str, gesture: Gesture = "tap") -> Spot:
    """The spot of a key, or of two joined by ``&``."""
    return Spot(board, layer, tuple(sorted(key.split("&"))), gesture)


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
