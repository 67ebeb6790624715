"""Edits of what is on the keys of layers: a folio in, a new folio out."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from collections.abc import Sequence as Series

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError, check_spot, map_bindings, with_binding, with_spots
from glimber.core.model.folio import DOES, Binding, Folio
from glimber.core.notation.ids import free_id, spot_id
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Gesture, Sent, Sequence, Spot, Strike, is_slug, parse_sent, strikes_of
from glimber.core.notation.keywords import key_named, modifier_named


class Does(Struct, frozen=True):
    """The action of a spot; only fields that are not None or empty are set. Fields as those of a Binding."""

    command: str | None = None
    sends: Sent | None = None
    steps: tuple[object, ...] = ()
    repeat_ms: int | None = None
    release: tuple[Sent, ...] = ()
    enters: str | None = None
    mode: object = None
    leaves: bool = False
    bundle: str | None = None


def with_bundle(folio: Folio, name: str, held: str) -> Folio:
    """Return the folio with a name for modifiers that one key can hold, such as "Crown" for "Ctrl+Alt+Shift".

    Raises EditError for a name that another bundle, a modifier or a key has, and for modifiers that are none.
    """
    if not is_slug(name) or not name[0].isalpha() or modifier_named(name) is not None or key_named(name) is not None:
        raise EditError(f"{name!r} cannot name a bundle; expected a word that is no modifier and no key")
    words = [word.strip() for word in held.split("+")]
    modifiers = [modifier_named(word) for word in words]
    if None in modifiers:
        raise EditError(f"{words[modifiers.index(None)]!r} is no modifier; expected {', '.join(MODIFIERS)}")
    found = tuple(dict.fromkeys(filter(None, modifiers)))
    if folio.bundles.get(name, found) != found:
        raise EditError(f"{name} is {'+'.join(folio.bundles[name])} already")
    return replace(folio, settings=replace(folio.settings, bundles={**folio.bundles, name: found}))


def commands_sent(folio: Folio, spots: Iterable[Spot]) -> dict[Spot, str]:
    """Return the command that each spot's chord or sequence carries out, for those spots that send exactly one command's."""
    commands: dict[tuple[Strike, ...], set[str]] = {}
    for binding in folio.bindings.values():
        if binding.command is not None and isinstance(binding.trigger, Sequence):
            strikes = strikes_of(binding.trigger, folio.legend, folio.bundles)
            commands.setdefault(strikes or (), set()).add(binding.command)
    found = dict[Spot, str]()
    for spot in spots:
        on = folio.by_trigger.get(spot)
        sent = strikes_of(on.sends, folio.legend, folio.bundles) if on is not None and on.sends is not None else None
        if on is not None and on.command is None and sent and len(commands.get(sent, ())) == 1:
            (found[spot],) = commands[sent]
    return found


# What is on a spot


def set_spot(folio: Folio, spot: Spot, does: Does) -> Folio:
    """Let a spot do something else; its id, reason, icon and history stay where it was bound before. Raises EditError."""
    check_spot(folio, spot)
    if does.command is not None and does.command not in folio.commands:
        raise EditError(f"{does.command} is not a command of this folio")
    layout = folio.layouts[spot.board]
    if does.enters is not None and layout.layer(does.enters) is None:
        raise EditError(
            f"{does.enters} is not a layer of {spot.board}; it has {', '.join(layer.id for layer in layout.layers)}"
        )
    if does.enters is not None and does.mode is None:
        raise EditError("say how the layer comes in: while, switch, once or stay")
    if does.bundle is not None and does.bundle not in folio.bundles:
        raise EditError(f"{does.bundle} is not a bundle of this folio; it has {', '.join(folio.bundles) or 'none'}")
    there = folio.by_trigger.get(spot)
    values = {name: getattr(does, name) for name in DOES}
    if there is None:
        return with_binding(folio, Binding(free_id(spot_id(spot), folio.bindings), spot, **values, given_id=True))
    unpinned(there)
    made = replace(there, **values, given_id=True)
    return map_bindings(folio, lambda binding: made if binding.id == there.id else binding)


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
        unpinned(binding)
    return map_bindings(folio, lambda binding: None if binding.id in chosen else binding)


def unpinned(binding: Binding) -> None:
    """Raises EditError for a binding that is pinned."""
    if binding.pinned:
        raise EditError(f"{binding.id} on {binding.trigger} is pinned; take the pin off first")


# Keys, with all their gestures


def of_key(folio: Folio, board: str, layer: str, key: str) -> dict[str, Binding]:
    """Return the bindings of one key of a layer, by gesture."""
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
    unpinned(binding)
    board, layer, key = to
    spot = Spot(board, layer, tuple(sorted(key.split("&"))), binding.spot.gesture)
    check_spot(folio, spot)
    if binding.enters is not None and (board != binding.spot.board or layer == binding.enters):
        raise EditError(f"{binding.id} brings in {binding.enters}; it cannot be put there")
    return replace(binding, trigger=spot, given_id=True)


def copy_to(folio: Folio, start: Spot, targets: Series[Spot]) -> Folio:
    """Put what a spot does on other spots too, in place of what is there. Raises EditError."""
    binding = folio.by_trigger.get(start)
    if binding is None:
        raise EditError("nothing is bound there to copy")
    does = Does(**{name: getattr(binding, name) for name in DOES})
    for spot in targets:
        if spot != start:
            folio = set_spot(folio, spot, does)
    return folio


def each(folio: Folio, change: Callable[[Folio, Spot], Folio], spots: Iterable[Spot]) -> Folio:
    """Return one edit for several spots."""
    for spot in spots:
        folio = change(folio, spot)
    return folio


def spot_of(board: str, layer: str, key: str, gesture: Gesture = "tap") -> Spot:
    """Return the spot of a key, or of two joined by ``&``."""
    return Spot(board, layer, tuple(sorted(key.split("&"))), gesture)
