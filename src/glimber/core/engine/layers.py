"""The layers that are active, why, and how keys resolve on them (rules 2, 6 and 7 of docs/engine.md)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec import Struct

from glimber.core.engine.keymap import Effect, Keymap, LayerMap, Limits
from glimber.core.notation.keys import Spot


class Found(Struct, frozen=True):
    """The resolution of a key: its gestures, their limits and the layers searched, the highest first."""

    gestures: Mapping[str, Effect]
    limits: Limits
    layers: tuple[str, ...]
    plain: bool = False


class Entry(Struct, frozen=True):
    """One way a layer is in just now: it goes when its last entry ends."""

    number: int
    layer: str
    mode: str
    spot: Spot


class Shift(Struct, frozen=True):
    """A layer that came in or went, and the spot that did it; None for the program in front."""

    do: Literal["enter", "leave"]
    layer: str
    spot: Spot | None


class Layers:
    """The layers of one board that are in: base, those of the program in front, and the entries that stand."""

    def __init__(
        self, keymap: Keymap, front: str | None = None, entries: Iterable[Entry] = (), number: int = 0
    ) -> None:
        self.keymap = keymap
        self.front = front
        self._entries = list(entries)
        self._number = number
        self._live: list[LayerMap] | None = None

    def copy(self) -> Layers:
        """Return the same layers, in by the same entries."""
        return Layers(self.keymap, self.front, self._entries, self._number)

    # Look-up

    def live(self) -> list[LayerMap]:
        """Return the layers that are in, lowest first: base, that of the program in front, then each where its last entry puts
        it."""
        if self._live is None:
            entered = dict.fromkeys(entry.layer for entry in reversed(self._entries))
            ids = [*self._of_front(), *reversed(entered)]
            self._live = [self.keymap.layers[0], *(self.keymap.layer(id) for id in ids)]
        return self._live

    def ids(self) -> list[str]:
        """Return ids of the layers that are in, lowest first."""
        return [layer.id for layer in self.live()]

    def find(self, key: str) -> Found:
        """Return all gestures of a key, from the highest live layer that binds it (rule 2)."""
        passed: list[str] = []
        for layer in reversed(self.live()):
            passed.append(layer.id)
            gestures = layer.keys.get(key)
            if gestures:
                return Found(gestures, self._limits(layer, key), tuple(passed))
            if layer.is_dead(key):
                return Found({}, self.keymap.limits, tuple(passed))
        sends = self.keymap.plain.get(key)
        if sends is None or key in self.keymap.knobs:
            return Found({}, self.keymap.limits, tuple(passed))
        spot = Spot(self.keymap.board, self.keymap.layers[0].id, (key,), "tap")
        return Found({"tap": Effect(spot, sends)}, self.keymap.limits, tuple(passed), plain=True)

    def partners(self, key: str) -> tuple[Mapping[str, Mapping[str, Effect]], Limits]:
        """Partners to wait for, from the highest live layer that says anything about the key (rule 6)."""
        for layer in reversed(self.live()):
            pairs = layer.pairs.get(key)
            if pairs:
                return pairs, self._limits(layer, key)
            if key in layer.keys or layer.is_dead(key):
                break
        return {}, self.keymap.limits

    def _limits(self, layer: LayerMap, key: str) -> Limits:
        return layer.limits.get(key, self.keymap.limits)

    def _of_front(self) -> list[str]:
        return [layer.id for layer in self.keymap.layers[1:] if layer.front is not None and layer.front == self.front]

    # Coming and going

    def enter(self, effect: Effect) -> tuple[int | None, list[Shift]]:
        """Let a gesture bring its layer in: the entry's number (None for a switch that goes off), and what shifts."""
        layer = effect.enters
        assert layer is not None
        mine = [entry for entry in self._entries if entry.mode == "switch" and entry.spot == effect.spot]
        if effect.mode == "switch" and mine:
            return None, self._drop(mine)
        self._number += 1
        came = [] if layer in self.ids() else [Shift("enter", layer, effect.spot)]
        self._entries.append(Entry(self._number, layer, effect.mode, effect.spot))
        self._live = None
        return self._number, came

    def end(self, number: int) -> list[Shift]:
        """End one entry, if it still stands."""
        return self._drop([entry for entry in self._entries if entry.number == number])

    def end_once(self) -> list[Shift]:
        """End every entry that was for one key only."""
        return self._drop([entry for entry in self._entries if entry.mode == "once"])

    def leave(self, spot: Spot) -> list[Shift]:
        """End every entry of the layer that a spot is bound on."""
        return self._drop([entry for entry in self._entries if entry.layer == spot.layer], spot)

    def leave_all(self) -> list[Shift]:
        """Go back to base; each layer is reported once, however many ways it was in."""
        entered = dict.fromkeys(entry.layer for entry in self._entries)
        gone = [Shift("leave", layer, None) for layer in dict.fromkeys([*entered, *self._of_front()])]
        self._entries.clear()
        self.front, self._live = None, None
        return gone

    def change_front(self, program: str | None) -> list[Shift]:
        """Another program came to the front, or none."""
        before = dict.fromkeys(self.ids())
        self.front, self._live = program, None
        after = dict.fromkeys(self.ids())
        return [Shift("leave", layer, None) for layer in before if layer not in after] + [
            Shift("enter", layer, None) for layer in after if layer not in before
        ]

    def _drop(self, entries: list[Entry], spot: Spot | None = None) -> list[Shift]:
        gone: list[Shift] = []
        for entry in entries:
            self._entries.remove(entry)
            self._live = None
            if entry.layer not in self.ids():
                gone.append(Shift("leave", entry.layer, spot or entry.spot))
        return gone
