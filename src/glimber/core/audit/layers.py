"""Audit the layers of a board: ways in and out, keycaps, crowded layers, and keys missed where they are dead."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import Final

from glimber.core.audit.finding import Cure, Finding, check, finding
from glimber.core.audit.parts import LayoutPart
from glimber.core.model.describe import key_words, place_words, what_it_does
from glimber.core.model.essentials import keys_lacking
from glimber.core.model.folio import Binding, Folio, Layer, Layout
from glimber.core.notation.keycodes import KEY_ALIASES, MODIFIER_CODES, NAMES_OF_CODES
from glimber.core.notation.keys import Spot, strikes_of

CROWDED: Final = 36
"""Commands on one layer that nobody keeps apart any more."""


@check(LayoutPart, {"crowded-layer": "note"})
def crowded_layers(part: LayoutPart) -> Iterator[Finding]:
    """Report layers with more commands than people keep apart."""
    for layer in part.layout.layers:
        commands = {b.command for b in layer.bindings if b.command is not None}
        if len(commands) > CROWDED:
            board = part.layout.board
            text = f"{layer.name} on {board} has {len(commands)} commands; more than {CROWDED} are hard to keep apart."
            yield finding("crowded-layer", f"{board}:{layer.id}", (), text)


@check(LayoutPart, {"way-out-differs": "note"})
def different_ways_out(part: LayoutPart) -> Iterator[Finding]:
    """Report a board whose layers are left in different ways."""
    folio, layout = part.folio, part.layout
    ways: dict[str, list[tuple[str, str]]] = {}
    for layer in layout.layers:
        keys = sorted(
            place_words(folio, b.trigger).removesuffix(f" on {layer.name}") for b in layer.bindings if b.leaves
        )
        if keys:
            ways.setdefault(keys[0] if len(keys) == 1 else ", ".join(keys), []).append((layer.id, layer.name))
    sets = [set(way.split(", ")) for way in ways]
    if len(sets) < 2 or set.intersection(*sets):
        return
    differences = "; ".join(f"{', '.join(name for _, name in layers)} by {way}" for way, layers in ways.items())
    ids = tuple(b.id for layer in layout.layers for b in layer.bindings if b.leaves)
    yield finding("way-out-differs", layout.board, ids, f"Layers of {layout.board} are left in different ways: {differences}.")


@check(LayoutPart, {"way-in-covered": "note"})
def covered_ways_in(part: LayoutPart) -> Iterator[Finding]:
    """Report keys that bring in other layers where a layer that stays has something else on them."""
    folio, layout = part.folio, part.layout
    ways = [b for b in layout.base.bindings if b.enters is not None]
    staying = {b.enters for layer in layout.layers for b in layer.bindings if b.enters and b.mode in ("switch", "stay")}
    for layer in layout.layers:
        if layer is layout.base or (layer.id not in staying and layer.front is None):
            continue
        for way in ways:
            there = layer.by_key.get(way.spot.key, {})
            if there and _is_covered(way, layer, there.values()):
                text = _covered_text(folio, layout, layer, way, next(iter(there.values())))
                where = f"{layout.board}:{layer.id}:{way.spot.key}:{way.spot.gesture}"
                yield finding("way-in-covered", where, (way.id,), text)


def _is_covered(way: Binding, layer: Layer, there: Collection[Binding]) -> bool:
    """Return True if what is on the key of a way in keeps it from working on a layer, and that is missed there."""
    if any(b.enters == way.enters or b.leaves for b in there):
        return False
    return way.enters != layer.id or (way.mode in ("switch", "stay") and any(b.leaves for b in layer.bindings))


def _covered_text(folio: Folio, layout: Layout, layer: Layer, way: Binding, instead: Binding) -> str:
    there_now = f"{key_words(folio, layout.board, way.spot.keys)} does {what_it_does(folio, instead)} there."
    other, here = layout.layer(way.enters or ""), f"{layer.name} on {layout.board}"
    if way.enters == layer.id:
        return f"The key that brings in {here} does not leave it: {there_now}"
    return f"{other.name if other else way.enters} cannot be brought in from {here}: {there_now}"


@check(LayoutPart, {"dead-here": "note"})
def dead_where_missed(part: LayoutPart) -> Iterator[Finding]:
    """Report modifiers, and keys that bring layers in, where a layer has them dead."""
    folio, layout = part.folio, part.layout
    board, base = folio.boards[layout.board], layout.base
    for layer in layout.layers[1:]:
        for key in board.keys:
            if key.id in layer.by_key or layer.unset.get(key.id, layer.unbound) != "dead":
                continue
            below = base.by_key.get(key.id, {})
            enters = [b for b in below.values() if b.enters is not None]
            if any(b.enters == layer.id for b in enters):
                continue
            held = key.id in MODIFIER_CODES and not below
            if held or enters or any(b.bundle for b in below.values()):
                name = key_words(folio, board.id, (key.id,))
                what = what_it_does(folio, enters[0]) if enters else name
                text = f"{what[:1].upper()}{what[1:]} is dead on {layer.name} of {layout.board}, where {name} does nothing."
                ids = tuple(b.id for b in below.values())
                spot = Spot(layout.board, layer.id, (key.id,), "tap")
                cure = Cure("fall-through", f"let {name} fall through", spot=spot)
                yield finding("dead-here", str(spot), ids, text, cure)


@check(LayoutPart, {"no-way-in": "error", "no-way-out": "error"})
def ways_in_and_out(part: LayoutPart) -> Iterator[Finding]:
    """Report layers that nothing enters, and layers that nothing leaves."""
    folio, layout = part.folio, part.layout
    ways_in = [b for layer in layout.layers for b in layer.bindings if b.enters is not None]
    reached = _reached(layout, ways_in)
    for layer in layout.layers:
        where = f"{layout.board}:{layer.id}"
        if layer.id not in reached:
            ids = tuple(b.id for b in ways_in if b.enters == layer.id)
            rest = "the keys that enter it are on layers that nothing enters" if ids else "no key enters it"
            yield finding("no-way-in", where, ids, f"{layer.name} on {layout.board} cannot be entered: {rest}.")
        stuck = [b for b in ways_in if b.enters == layer.id and not _has_way_out(layer, b)]
        if stuck and layer is not layout.base:
            ids = tuple(b.id for b in stuck)
            text = (
                f"{layer.name} on {layout.board} stays once it is entered by {place_words(folio, stuck[0].trigger)}: "
                "no key on it leaves it. Give it one with leaves = true."
            )
            name = key_words(folio, layout.board, stuck[0].spot.keys)
            cure = Cure(
                "leave", f"let {name} or Esc leave it", stuck[0].id, Spot(layout.board, layer.id, stuck[0].spot.keys, "tap")
            )
            yield finding("no-way-out", where, ids, text, cure)


def _reached(layout: Layout, ways_in: Sequence[Binding]) -> set[str]:
    """Return the layers that can be entered: from the base, with a program, or from one of these."""
    reached = {layer.id for layer in layout.layers if layer is layout.base or layer.front is not None}
    while more := {b.enters for b in ways_in if b.spot.layer in reached and b.enters} - reached:
        reached |= more
    return reached


@check(LayoutPart, {"key-missing": "error"})
def essential_keys(part: LayoutPart) -> Iterator[Finding]:
    """Report a keyboard on which a space, Enter, Backspace, Tab or Escape cannot be typed."""
    layout = part.layout
    if layout.board in part.folio.boards and any(layer.bindings for layer in layout.layers):
        lacking = keys_lacking(part.folio, layout)
        if lacking:
            names = ", ".join(lacking)
            text = f"Nothing on {layout.board} types {names}: give it a key, or leave its own key alone on {layout.base.name}."
            yield finding("key-missing", f"{layout.board}:{layout.base.id}", (), text)


def _has_way_out(layer: Layer, way: Binding) -> bool:
    """Return True if a layer can be left: one that is held or used once ends alone, one that stays needs a key that leaves, and a
    switch must not be covered."""
    if way.mode in ("while", "once") or any(b.leaves for b in layer.bindings):
        return True
    if way.mode == "stay":
        return False
    spot = way.spot
    covered = any(spot.keys == b.spot.keys for b in layer.bindings) and spot.layer != layer.id
    dead = layer.unset.get(spot.key, layer.unbound) == "dead"
    return not covered and not (dead and spot.layer != layer.id)


@check(LayoutPart, {"print-differs": "note"})
def differing_prints(part: LayoutPart) -> Iterator[Finding]:
    """Report keycaps of the base layer that differ from what the key does; other layers are meant to differ."""
    folio, layout = part.folio, part.layout
    board, layer = folio.boards[layout.board], layout.base
    for key in board.keys:
        own = folio.legend.print_of(key.id)
        printed = own if key.print is None else key.print
        if len(printed) != 1 and printed.lower() not in KEY_ALIASES:
            continue  # a word such as P1 claims nothing
        binding = layer.by_key.get(key.id, {}).get("tap")
        if binding is None:
            falls = layer.unset.get(key.id, layer.unbound) == "falls"
            if not falls or key.id in NAMES_OF_CODES or not own or printed.casefold() == own.casefold():
                continue
            cap = f"The keycap {key_words(folio, board.id, (key.id,))} on {layout.board}"
            text = f"{cap} types {own} ({folio.legend.name})."
        elif _types(folio, binding) in (key.id, printed.casefold()):
            continue
        else:
            does = what_it_does(folio, binding)
            cap = f"The keycap {key_words(folio, board.id, (key.id,))} on {layout.board}"
            text = f"{cap} does {does}."
        bindings = () if binding is None else (binding.id,)
        yield finding("print-differs", f"{layout.board}:{layer.id}:{key.id}:tap", bindings, text)


def _types(folio: Folio, binding: Binding) -> str | None:
    """Return the place whose key a binding sends bare, or its print where it is another's; None for anything more."""
    sent = folio.sent_by(binding)
    strikes = strikes_of(sent, folio.legend, folio.bundles) if sent is not None and binding.command is None else None
    if not strikes or len(strikes) != 1 or strikes[0][0]:
        return None
    code = strikes[0][1]
    return code if code == binding.spot.key else folio.legend.print_of(code).casefold()
