"""A spot found by how its keys are struck: two together, tapped, held, twice, or tapped and then held.

The key engine decides, as it would on the board: on a layer on which every key has every gesture.
"""

from __future__ import annotations

from itertools import combinations

from glimber.core.engine.engine import Machine
from glimber.core.engine.events import Event
from glimber.core.engine.keymap import Effect, Keymap, LayerMap, Limits
from glimber.core.model.folio import Folio, Timing
from glimber.core.notation.keys import KEY_GESTURES, KNOB_GESTURES, Gesture, Spot


class SpotCapture:
    """Listens to the keys of one board. ``keys`` and ``gesture`` are what was struck last; None before anything was."""

    def __init__(self, folio: Folio, board: str) -> None:
        self.board = board
        self.keys: tuple[str, ...] | None = None
        self.gesture: Gesture | None = None
        self._machine = Machine(_listening(folio, board))

    def feed(self, event: Event) -> bool:
        """Take one event; True where a gesture was decided."""
        self._machine.feed(event)
        return self._taken()

    def advance(self, t: float) -> bool:
        """Let time pass to ``t`` ms; True where a gesture was decided."""
        self._machine.advance(t)
        return self._taken()

    def pending_until(self) -> float | None:
        """Return the time at which something will be decided if no key comes; None when nothing is open."""
        return self._machine.pending_until()

    def clear(self) -> None:
        """Forget what was struck."""
        self.keys = self.gesture = None

    def spot(self, layer: str) -> Spot | None:
        """Return what was struck, on a layer."""
        if self.keys is None or self.gesture is None:
            return None
        return Spot(self.board, layer, tuple(sorted(self.keys)), self.gesture)

    def _taken(self) -> bool:
        struck = self._machine.struck()
        if struck:
            self.keys, self.gesture = struck[-1].keys, struck[-1].gesture
        return bool(struck)


def _listening(folio: Folio, board: str) -> Keymap:
    shape = folio.boards[board]
    timing: Timing = folio.settings.timing

    def effect(keys: tuple[str, ...], gesture: Gesture) -> Effect:
        return Effect(Spot(board, "any", keys, gesture), sends="Space")

    keys: dict[str, dict[str, Effect]] = {
        key.id: {gesture: effect((key.id,), gesture) for gesture in KEY_GESTURES} for key in shape.keys
    }
    for knob in shape.knob_ids:
        keys[knob] = {gesture: effect((knob,), gesture) for gesture in KNOB_GESTURES}
    pairs: dict[str, dict[str, dict[str, Effect]]] = {}
    for one, other in combinations(sorted(key.id for key in shape.keys), 2):
        both: dict[str, Effect] = {"tap": effect((one, other), "tap")}
        pairs.setdefault(one, {})[other] = both
        pairs.setdefault(other, {})[one] = both
    layer = LayerMap("any", None, False, keys, pairs, frozenset(), frozenset(), {})
    # A hold is decided by its time alone: nothing else is struck while one key is asked for.
    limits = Limits(timing.hold_ms, timing.again_ms, timing.together_ms, "timer")
    return Keymap(board, (layer,), limits, shape.knob_ids)
