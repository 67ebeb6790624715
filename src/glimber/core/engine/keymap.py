"""A layout compiled for the engine: per layer and key, the effect of every gesture and the limits that hold there."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

from glimber.core.model.board import Board
from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Binding, Folio, KeyTiming, Layer, Mode, Policy, Timing, Wait
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, Sequence, Spot


class Effect(Struct, frozen=True):
    """The effect of one gesture. ``steps`` are pairs of a pause in ms before it and the trigger sent."""

    spot: Spot
    sends: str | None = None
    visible: bool = True
    steps: tuple[tuple[int, str], ...] = ()
    repeat_ms: int | None = None
    release: tuple[str, ...] = ()
    enters: str | None = None
    mode: Mode = "while"
    leaves: bool = False


class Limits(Struct, frozen=True):
    """The limits of one key in ms, folio settings already filled in."""

    hold_ms: int
    again_ms: int
    together_ms: int
    policy: Policy


class LayerMap(Struct, frozen=True):
    """One layer, compiled. ``stops`` are the keys it says are dead; ``through`` those it says fall through."""

    id: str
    front: str | None
    dead: bool
    keys: Mapping[str, Mapping[str, Effect]]
    pairs: Mapping[str, Mapping[str, Mapping[str, Effect]]]
    stops: frozenset[str]
    through: frozenset[str]
    limits: Mapping[str, Limits]

    def is_dead(self, key: str) -> bool:
        return key in self.stops or (self.dead and key not in self.through)


class Keymap(Struct, frozen=True):
    """A board's layers, lowest first, as the engine reads them."""

    board: str
    layers: tuple[LayerMap, ...]
    limits: Limits
    knobs: frozenset[str] = frozenset()
    plain: Mapping[str, str] = field(default_factory=dict)
    """The keys that unbound keys send: key id -> canonical notation."""

    def layer(self, id: str) -> LayerMap:
        return next(layer for layer in self.layers if layer.id == id)


def compile_keymap(folio: Folio, board: str) -> Keymap:
    """Return the keymap of a board. A board without a layout gets one empty layer on which every key sends itself."""
    layout = folio.layouts.get(board)
    layers = layout.layers if layout else (Layer("base", "Base"),)
    default = folio.settings.timing
    shape = folio.boards.get(board) or Board(board, board, ())
    plain = {key.id: name for key in shape.keys if (name := folio.legend.key_at(key.id)) is not None}
    return Keymap(
        board,
        tuple(_layer(folio, board, layer) for layer in layers),
        _limits(default, None),
        shape.knob_ids,
        plain,
    )


def _limits(default: Timing, own: KeyTiming | None) -> Limits:
    own = own or KeyTiming()
    return Limits(
        default.hold_ms if own.hold_ms is None else own.hold_ms,
        default.again_ms if own.again_ms is None else own.again_ms,
        default.together_ms if own.together_ms is None else own.together_ms,
        default.policy if own.policy is None else own.policy,
    )


def _layer(folio: Folio, board: str, layer: Layer) -> LayerMap:
    keys: dict[str, dict[str, Effect]] = {}
    pairs: dict[str, dict[str, dict[str, Effect]]] = {}
    for binding in layer.bindings:
        effect = _effect(folio, binding)
        spot = effect.spot
        if len(spot.keys) == 1:
            keys.setdefault(spot.key, {})[spot.gesture] = effect
        else:
            one, other = spot.keys
            pairs.setdefault(one, {}).setdefault(other, {})[spot.gesture] = effect
            pairs.setdefault(other, {}).setdefault(one, {})[spot.gesture] = effect
    return LayerMap(
        layer.id,
        layer.front,
        layer.unbound == "dead",
        keys,
        pairs,
        frozenset(key for key, state in layer.unset.items() if state == "dead"),
        frozenset(key for key, state in layer.unset.items() if state == "falls"),
        {key: _limits(folio.settings.timing, timing) for key, timing in layer.timing.items()},
    )


def _effect(folio: Folio, binding: Binding) -> Effect:
    spot = binding.spot
    sent = folio.sent_by(binding)
    sends = None if sent is None else str(sent)
    if binding.bundle is not None and sends is None:
        names = [name for name in MODIFIERS if name in folio.bundles.get(binding.bundle, ())]
        sends = str(Sequence((Chord(tuple(names[:-1]), names[-1]),))) if names else None
    steps: list[tuple[int, str]] = []
    pause = 0
    for step in binding.steps:
        if isinstance(step, Wait):
            pause += step.wait_ms
        else:
            steps.append((pause, str(step)))
            pause = 0
    moves_layers = binding.enters is not None or binding.leaves
    return Effect(
        spot,
        sends,
        visible=sends is not None or binding.command is not None or not moves_layers,
        steps=tuple(steps),
        repeat_ms=binding.repeat_ms,
        release=tuple(str(step) for step in binding.release),
        enters=binding.enters,
        mode=binding.mode or "while",
        leaves=binding.leaves,
    )


def keymap_of(folio: Folio, board: str) -> Keymap:
    """Return the keymap of a board, compiled once for each folio value."""
    return _KEYMAPS.get(folio, board, lambda: compile_keymap(folio, board))


_KEYMAPS: DerivedCache[Folio, str, Keymap] = DerivedCache()
