"""The cost of a trigger to the hand, in milliseconds, and of the slow way, in seconds.

Sources: press times by finger and the weights of held keys as given in docs/measures.md; distance by Fitts' law (Fitts
1954) in the Shannon form; leaving the home block and the slow way by the keystroke-level model (Card, Moran & Newell
1980). Lengths are in key units (u, 19.05 mm).
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import combinations, product
from math import hypot, log2
from typing import Final

from msgspec import Struct

from glimber.core.model.board import Board, Key
from glimber.core.model.folio import Folio, Layer
from glimber.core.notation.keycodes import MODIFIER_PLACES
from glimber.core.notation.keys import Sequence, Spot, Strike, Trigger, Typed, strike_of

PRESS_MS: Final = {"index": 120.0, "middle": 125.0, "ring": 145.0, "little": 170.0, "thumb": 115.0}
FITTS_MS: Final = 75.0
REACH_MARK_MS: Final = {"stretch": 60.0, "avoid": 250.0}
NO_HOME_U: Final = 2.0
KNOB_MS: Final = 300.0
OTHER_HAND_SHARE: Final = 0.6
SPAN_FREE_U: Final = 4.0
SPAN_MS_PER_U: Final = 40.0
SAME_FINGER_MS: Final = 200.0
OFF_HOME_U: Final = 1.5
OFF_HOME_MS: Final = 400.0
AWAY_MS: Final = 800.0
CHARACTER_MS: Final = 200.0

THINK_S: Final = 1.35
HOMING_S: Final = 0.4
POINT_S: Final = 1.1
BUTTON_S: Final = 0.2
KEY_S: Final = 0.2
SCROLL_S: Final = 0.8


class Cost(Struct, frozen=True):
    """A reach in its terms, in ms: the fingers' press times, the distances, and everything else."""

    finger_ms: float = 0.0
    distance_ms: float = 0.0
    other_ms: float = 0.0

    def __add__(self, other: Cost) -> Cost:
        return Cost(
            self.finger_ms + other.finger_ms,
            self.distance_ms + other.distance_ms,
            self.other_ms + other.other_ms,
        )

    def __mul__(self, share: float) -> Cost:
        return Cost(self.finger_ms * share, self.distance_ms * share, self.other_ms * share)

    @property
    def ms(self) -> float:
        return self.finger_ms + self.distance_ms + self.other_ms

    def scaled(self, finger: float, distance: float) -> float:
        """In ms, with the finger and distance terms scaled to a person."""
        return self.finger_ms * finger + self.distance_ms * distance + self.other_ms


class Reach:
    """Reaches of one folio's triggers. ``finger`` and ``distance`` scale those terms to the person."""

    def __init__(self, folio: Folio, finger: float = 1.0, distance: float = 1.0) -> None:
        self.folio, self.finger, self.distance = folio, finger, distance
        self._known: dict[Trigger, float | None] = {}
        self._keys: dict[tuple[str, str], Cost] = {}

    def ms(self, trigger: Trigger) -> float | None:
        """Reach of a trigger in ms; None where a key it needs is on no known board."""
        if trigger not in self._known:
            cost = self.cost(trigger)
            self._known[trigger] = None if cost is None else cost.scaled(self.finger, self.distance)
        return self._known[trigger]

    def cost(self, trigger: Trigger) -> Cost | None:
        """Return the terms of a trigger's reach; None where a key it needs is on no known board."""
        if isinstance(trigger, Typed):
            return Cost(other_ms=CHARACTER_MS * len(trigger.text))
        if isinstance(trigger, Spot):
            return self._spot(trigger)
        return self._sequence(trigger)

    # Chords on the ordinary keyboard

    def _sequence(self, sequence: Sequence) -> Cost | None:
        total = Cost()
        for chord in sequence.chords:
            strike = strike_of(chord, self.folio.legend, self.folio.bundles)
            cost = None if strike is None else self._strike(self.folio.keyboard, strike)
            if cost is None:
                return None
            total += cost
        return total

    def _strike(self, board: Board, strike: Strike) -> Cost | None:
        """Return the cheapest choice of sides for the modifiers."""
        modifiers, code = strike
        if code not in board.by_id:
            return None
        sides = [[place for place in MODIFIER_PLACES[name] if place in board.by_id] for name in sorted(modifiers)]
        if not all(sides):
            return None
        costs = [self._together(board, (code,), held) for held in product(*sides)]
        return min(costs, key=lambda cost: cost.ms)

    # Spots

    def _spot(self, spot: Spot, seen: frozenset[str] = frozenset()) -> Cost | None:
        board = self.folio.boards.get(spot.board)
        layout = self.folio.layouts.get(spot.board)
        if board is None or layout is None or not all(board.has(key) for key in spot.keys):
            return None
        layer = layout.layer(spot.layer)
        extra = self._gesture(board, layer, spot)
        if layer is None or layer == layout.base or layer.front is not None:
            return self._together(board, spot.keys, ()) + extra
        ways = [
            cost
            for binding in (b for other in layout.layers for b in other.bindings)
            if binding.enters == layer.id and binding.spot.layer not in seen | {layer.id}
            for cost in [self._by_way(board, spot, binding.spot, binding.mode or "while", seen | {layer.id})]
            if cost is not None
        ]
        if not ways:
            return None
        return min(ways, key=lambda cost: cost.ms) + extra

    def _by_way(self, board: Board, spot: Spot, way: Spot, mode: str, seen: frozenset[str]) -> Cost | None:
        """Striking the spot's keys after coming in by ``way``; the gesture of the spot itself is not in it."""
        if mode == "while":
            held = self._held_for(way, seen)
            return None if held is None else self._together(board, spot.keys, held[0]) + held[1]
        entry = self._spot(way, seen)
        # Half of the way in and half of the way out of a layer that is switched: the same spot does both.
        return None if entry is None else self._together(board, spot.keys, ()) + entry

    def _held_for(self, way: Spot, seen: frozenset[str]) -> tuple[tuple[str, ...], Cost] | None:
        """Return all keys held while a layer lasts, with what the entries below it cost in full."""
        layout = self.folio.layouts[way.board]
        layer = layout.layer(way.layer)
        if layer is None or layer == layout.base or layer.front is not None:
            return way.keys, Cost()
        best: tuple[tuple[str, ...], Cost] | None = None
        for binding in (b for other in layout.layers for b in other.bindings):
            if binding.enters != layer.id or binding.spot.layer in seen:
                continue
            if binding.mode == "while":
                below = self._held_for(binding.spot, seen | {layer.id})
                found = None if below is None else (way.keys + below[0], below[1])
            else:
                entry = self._spot(binding.spot, seen | {layer.id})
                found = None if entry is None else (way.keys, entry)
            if found is not None and (
                best is None or found[1].ms + 100 * len(found[0]) < best[1].ms + 100 * len(best[0])
            ):
                best = found
        return best

    def _gesture(self, board: Board, layer: Layer | None, spot: Spot) -> Cost:
        """Return what the gesture adds to striking the key once."""
        timing = self.folio.settings.timing
        own = layer.timing.get(spot.keys[0]) if layer else None
        hold_ms = own.hold_ms if own and own.hold_ms is not None else timing.hold_ms
        again_ms = own.again_ms if own and own.again_ms is not None else timing.again_ms
        again = Cost(finger_ms=self._key(board, spot.keys[0]).finger_ms, other_ms=again_ms / 2)
        if spot.gesture == "hold":
            return Cost(other_ms=hold_ms)
        if spot.gesture == "double":
            return again
        if spot.gesture == "tap-hold":
            return again + Cost(other_ms=hold_ms)
        if spot.gesture == "tap" and layer is not None and "double" in layer.by_key.get(spot.key, {}):
            return Cost(other_ms=again_ms)
        return Cost()

    # Keys

    def _together(self, board: Board, struck: tuple[str, ...], held: Iterable[str]) -> Cost:
        """A key struck while others are held down; the second key of a together spot counts as held."""
        others = [*struck[1:], *held]
        total = self._key(board, struck[0])
        hand = _hand(board, struck[0])
        for key in others:
            same = hand is not None and _hand(board, key) == hand
            total += self._key(board, key) * (1.0 if same else OTHER_HAND_SHARE)
        keys = [board.by_id[key] for key in (struck[0], *others) if key in board.by_id]
        return total + Cost(other_ms=_strain(keys))

    def _key(self, board: Board, id: str) -> Cost:
        """Return what striking one key costs by itself; worked out once."""
        known = self._keys.get((board.id, id))
        if known is None:
            known = self._keys[board.id, id] = self._key_alone(board, id)
        return known

    def _key_alone(self, board: Board, id: str) -> Cost:
        if id in board.knob_ids:
            return Cost(other_ms=KNOB_MS)
        key = board.by_id[id]
        digit = key.digit or "index"
        other = REACH_MARK_MS.get(key.reach or "", 0.0)
        if board.off_home_u(key.centre) > OFF_HOME_U:
            other += OFF_HOME_MS
        if key.hand is not None and key.hand == self.folio.settings.away:
            other += AWAY_MS
        away_u = _from_home_u(board, key)
        return Cost(PRESS_MS[digit], FITTS_MS * log2(away_u / min(key.w, key.h) + 1), other)


def _hand(board: Board, id: str) -> str | None:
    return board.by_id[id].hand if id in board.by_id else None


def _from_home_u(board: Board, key: Key) -> float:
    """Distance from the finger's home key, or the hand's resting point, in u."""
    if key.home:
        return 0.0
    digit = key.digit or "index"
    homes = [other for other in board.keys if other.home and other.digit == digit and key.hand in (None, other.hand)]
    points = [home.centre for home in homes]
    if not points:
        points = [board.homes[hand] for hand in ("left", "right") if hand in board.homes and key.hand in (None, hand)]
    if not points:
        return NO_HOME_U
    x, y = key.centre
    return min(hypot(x - hx, y - hy) for hx, hy in points)


def _strain(keys: list[Key]) -> float:
    """Span beyond 4 u within one hand, and one finger on two keys, in ms."""
    total = 0.0
    for hand in ("left", "right"):
        mine = [key for key in keys if key.hand == hand]
        spans = [hypot(a.centre[0] - b.centre[0], a.centre[1] - b.centre[1]) for a, b in combinations(mine, 2)]
        total += SPAN_MS_PER_U * max(0.0, max(spans, default=0.0) - SPAN_FREE_U)
        total += SAME_FINGER_MS * sum(a.finger == b.finger for a, b in combinations(mine, 2))
    return total


def slow_way_s(steps: Iterable[str]) -> float | None:
    """Return seconds of a slow way by the keystroke-level model (Card, Moran & Newell 1980); None for no steps."""
    steps = list(steps)
    if not steps:
        return None
    total, pointing = THINK_S, False
    for step in steps:
        verb, _, rest = step.partition(" ")
        if verb in ("menu", "field"):
            total += THINK_S
        if verb in ("menu", "click"):
            total += POINT_S + BUTTON_S
        elif verb == "field":
            total += KEY_S * int(rest)
        elif verb == "drag":
            total += 2 * POINT_S + 2 * BUTTON_S
        elif verb == "scroll":
            total += SCROLL_S
        elif verb == "wait":
            total += float(rest)
        pointing = pointing or verb in ("menu", "click", "drag", "scroll")
    return total + (2 * HOMING_S if pointing else 0.0)
