"""Perform a trigger as a hand would: the key events of holding, tapping and releasing."""

from __future__ import annotations

from typing import Final

from msgspec import Struct

from glimber.core.engine.events import Event
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keycodes import MODIFIER_PLACES
from glimber.core.notation.keys import Spot, Trigger, strikes_of

TAP_MS: Final = 70.0
BETWEEN_MS: Final = 55.0


class CannotPerform(ValueError):
    """No hand can carry out this trigger here; the message says why."""


class _Hand(Struct):
    """Writes events one after another."""

    t: float
    pace: float
    events: list[Event]

    def wait(self, ms: float) -> None:
        self.t += ms

    def down(self, key: str) -> None:
        self.events.append(Event(round(self.t, 1), "down", key))

    def up(self, key: str) -> None:
        self.events.append(Event(round(self.t, 1), "up", key))

    def tap(self, key: str) -> None:
        self.down(key)
        self.wait(TAP_MS * self.pace)
        self.up(key)


def perform(folio: Folio, trigger: Trigger, begin: float = 0.0, pace: float = 1.0) -> list[Event]:
    """Return events that carry out a trigger, the first at ``begin`` ms; spots in their board's keys, the rest in codes.

    ``pace`` stretches taps and gaps. Raises CannotPerform for a layer without a way in or a key without a place.
    """
    hand = _Hand(begin, pace, [])
    if isinstance(trigger, Spot):
        _perform_spot(folio, trigger, hand)
        return hand.events
    strikes = strikes_of(trigger, folio.legend, folio.bundles)
    if not strikes:
        raise CannotPerform(f"{trigger}: the ordinary keyboard has no key for it")
    for modifiers, code in strikes:
        held = [MODIFIER_PLACES[name][0] for name in sorted(modifiers) if MODIFIER_PLACES[name]]
        for place in held:
            hand.down(place)
            hand.wait(40 * pace)
        hand.tap(code)
        for place in reversed(held):
            hand.wait(20 * pace)
            hand.up(place)
        hand.wait(BETWEEN_MS * pace)
    return hand.events


def way_to(folio: Folio, board: str, layer: str, seen: frozenset[str] = frozenset()) -> list[Binding]:
    """Return the bindings to carry out, outermost first, that bring a layer in; empty for base and layers that come by front."""
    layout = folio.layouts[board]
    here = layout.layer(layer)
    if here is None or here is layout.base or here.front is not None:
        return []
    ways = [b for other in layout.layers for b in other.bindings if b.enters == layer and b.spot.layer not in seen]
    ways.sort(
        key=lambda b: (b.spot.layer != layout.base.id, ("while", "once", "switch", "stay").index(b.mode or "while"))
    )
    for way in ways:
        try:
            return [*way_to(folio, board, way.spot.layer, seen | {layer}), way]
        except CannotPerform:
            continue
    raise CannotPerform(f"{board}:{layer}: no key brings this layer in")


def _perform_spot(folio: Folio, spot: Spot, hand: _Hand) -> None:
    held: list[str] = []
    for way in way_to(folio, spot.board, spot.layer):
        if way.mode == "while":
            for key in way.spot.keys:
                hand.down(key)
                held.append(key)
            hand.wait(_limit(folio, way.spot) + 20 if way.spot.gesture == "hold" else BETWEEN_MS)
        else:
            _gesture(folio, way.spot, hand)
            hand.wait(BETWEEN_MS)
    _gesture(folio, spot, hand)
    for key in reversed(held):
        hand.wait(20)
        hand.up(key)


def _limit(folio: Folio, spot: Spot) -> float:
    layer = folio.layouts[spot.board].layer(spot.layer)
    own = layer.timing.get(spot.keys[0]) if layer else None
    return own.hold_ms if own and own.hold_ms is not None else folio.settings.timing.hold_ms


def _gesture(folio: Folio, spot: Spot, hand: _Hand) -> None:
    if spot.gesture in ("left", "right"):
        hand.events.append(Event(round(hand.t, 1), "turn", f"{spot.key}:{spot.gesture}"))
        return
    if spot.gesture in ("double", "tap-hold"):
        hand.tap(spot.keys[0])
        hand.wait(60 * hand.pace)
    for key in spot.keys:
        hand.down(key)
        hand.wait(8)
    long = _limit(folio, spot) + 60
    hand.wait(long if spot.gesture in ("hold", "tap-hold") else TAP_MS * hand.pace)
    for key in spot.keys:
        hand.up(key)
