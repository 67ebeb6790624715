"""A second key engine, deliberately naive: it has the whole stream and looks ahead for every decision. No repeats.

Written from docs/engine.md alone, to be compared with the real one on random streams.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from glimber.core.engine.events import Event
from glimber.core.engine.keymap import Effect, Keymap

Told = tuple[float, str, str | None, str | None]


class Naive:
    """Runs one stream; ``acts`` are (t, do, layer, sends)."""

    def __init__(self, keymap: Keymap) -> None:
        self.keymap = keymap
        self.acts: list[Told] = []
        self.last = float("-inf")
        self.entries: list[tuple[int, str, str, object]] = []
        self.number = 0
        self.running: dict[str, dict[str, Any]] = {}
        self.skip_up: set[str] = set()
        self.front: str | None = None

    def run(self, stream: Sequence[Event]) -> list[Told]:
        down: set[str] = set()
        events: list[Event | None] = []
        for event in stream:
            if (event.kind == "down" and event.key in down) or (event.kind == "up" and event.key not in down):
                continue
            if event.kind == "down":
                down.add(event.key)
            if event.kind == "up":
                down.discard(event.key)
            events.append(event)
        for i in range(len(events)):
            event = events[i]
            if event is None:
                continue
            if event.kind == "down":
                self.key_down(event.key, event.t, events, i)
            elif event.kind == "up":
                self.key_up(event.key, event.t)
            elif event.kind == "turn":
                knob, way = event.key.split(":")
                self.brief(self.look_up(knob)[0].get(way), event.t)
            else:
                self.other_front(event.key or None, event.t)
        return self.acts

    def other_front(self, program: str | None, t: float) -> None:
        before = [layer.id for layer in self.live()]
        self.front = program
        after = [layer.id for layer in self.live()]
        for layer in dict.fromkeys(before):
            if layer not in after:
                self.tell(t, "leave", layer, None)
        for layer in dict.fromkeys(after):
            if layer not in before:
                self.tell(t, "enter", layer, None)

    # Look-up

    def live(self) -> list[Any]:
        base, rest = self.keymap.layers[0], self.keymap.layers[1:]
        fronts = [layer for layer in rest if layer.front is not None and layer.front == self.front]
        entered: list[str] = []
        for entry in self.entries:  # the last one that stands says where a layer is
            if entry[1] in entered:
                entered.remove(entry[1])
            entered.append(entry[1])
        return [base, *fronts, *(self.keymap.layer(id) for id in entered)]

    def is_in(self, layer: str) -> bool:
        return any(one.id == layer for one in self.live())

    def look_up(self, key: str) -> tuple[dict[str, Effect], Any]:
        for layer in reversed(self.live()):
            if layer.keys.get(key):
                return layer.keys[key], layer.limits.get(key, self.keymap.limits)
            if layer.is_dead(key):
                return {}, self.keymap.limits
        plain = self.keymap.plain.get(key)
        if plain is None or key in self.keymap.knobs:
            return {}, self.keymap.limits
        from glimber.core.notation.keys import Spot

        return {"tap": Effect(Spot(self.keymap.board, self.keymap.layers[0].id, (key,), "tap"), plain)}, self.keymap.limits

    def pairs_of(self, key: str) -> tuple[dict[str, Any], Any]:
        for layer in reversed(self.live()):
            if layer.pairs.get(key):
                return layer.pairs[key], layer.limits.get(key, self.keymap.limits)
            if layer.keys.get(key) or layer.is_dead(key):
                break
        return {}, self.keymap.limits

    # Keys

    def key_down(self, key: str, t: float, events: list[Event | None], i: int) -> None:
        pairs, limits = self.pairs_of(key)
        if not pairs:
            self.single(key, t, events, i)
            return
        over = t + limits.together_ms
        for j in range(i + 1, len(events)):
            event = events[j]
            if event is None:
                continue
            if event.t > t + limits.together_ms:
                break
            if event.kind == "down" and event.key in pairs:
                self.last = max(self.last, event.t)
                events[j] = None
                for k in range(i + 1, j):
                    earlier = events[k]
                    if earlier is not None and (earlier.kind, earlier.key) == ("up", event.key):
                        events[k] = None
                        self.key_up(event.key, event.t)
                self.lasting(pairs[event.key]["tap"], (key, event.key), event.t)
                return
            if event.kind in ("down", "turn") or (event.key == key and event.kind == "up"):
                over = event.t
                break
        self.last = max(self.last, over)
        self.single(key, t, events, i)

    def single(self, key: str, t: float, events: list[Event | None], i: int) -> None:
        gestures, limits = self.look_up(key)
        if not set(gestures) & {"hold", "double", "tap-hold"}:
            only = "press" if key in self.keymap.knobs else "tap"
            if only in gestures:
                self.lasting(gestures[only], (key,), t)
            return
        what, when, place, others = self.press_of(key, t, limits, events, i, "hold" if "hold" in gestures else None)
        if what != "up":
            self.last = max(self.last, when)
            gesture = "hold" if "hold" in gestures else "tap"
            if gesture in gestures:
                self.lasting(gestures[gesture], (key,), when)
            return
        events[place] = None
        if not set(gestures) & {"double", "tap-hold"} or ("hold" in gestures and others):
            self.brief(gestures.get("tap"), when)
            return
        for j in range(place + 1, len(events)):
            event = events[j]
            if event is None:
                continue
            if event.t > when + limits.again_ms:
                break
            if event.kind == "down" and event.key == key:
                events[j] = None
                self.second(key, gestures, limits, event.t, events, j)
                return
            if event.kind in ("down", "turn"):
                self.brief(gestures.get("tap"), event.t)
                return
        self.brief(gestures.get("tap"), when + limits.again_ms)

    def second(self, key: str, gestures: dict[str, Effect], limits: Any, t: float, events: list[Event | None], i: int) -> None:
        if "tap-hold" not in gestures:
            self.lasting(gestures["double"], (key,), t)
            return
        what, when, place, _ = self.press_of(key, t, limits, events, i, "tap-hold")
        if what != "up":
            self.last = max(self.last, when)
            self.lasting(gestures["tap-hold"], (key,), when)
            return
        events[place] = None
        if "double" in gestures:
            self.brief(gestures["double"], when)
        else:
            self.brief(gestures.get("tap"), when)
            self.brief(gestures.get("tap"), when)

    def press_of(self, key: str, t: float, limits: Any, events: list[Event | None], i: int, held: str | None
                 ) -> tuple[str, float, int, bool]:  # fmt: skip
        """How a press that began at ``t`` is decided: early "up" at an event, or "long" at a moment."""
        downs: set[str] = set()
        for j in range(i + 1, len(events)):
            event = events[j]
            if event is None:
                continue
            if event.t >= t + limits.hold_ms:
                break
            if event.key == key and event.kind == "up":
                return "up", event.t, j, bool(downs)
            if event.kind in ("down", "turn"):
                if held is None or limits.policy == "eager":
                    return "long", event.t, j, True
                downs.add(event.key)
            elif event.kind == "up" and event.key in downs and limits.policy == "crossed":
                return "long", event.t, j, True
        return "long", t + limits.hold_ms, len(events), False

    # Acts

    def tell(self, t: float, do: str, layer: str | None, sends: str | None) -> None:
        self.last = max(self.last, t)
        self.acts.append((self.last, do, layer, sends))

    def press(self, effect: Effect, t: float, sends: str | None) -> None:
        self.tell(t, "press", None, sends)
        for entry in [entry for entry in self.entries if entry[2] == "once"]:
            self.drop(entry, t)

    def begin(self, effect: Effect, t: float) -> int | None:
        if effect.visible:
            self.press(effect, t, effect.sends)
        if effect.leaves:
            for entry in [entry for entry in self.entries if entry[1] == effect.spot.layer]:
                self.drop(entry, t)
        if effect.enters is None:
            return None
        mine = [entry for entry in self.entries if entry[2] == "switch" and entry[3] == effect.spot]
        if effect.mode == "switch" and mine:
            for entry in mine:
                self.drop(entry, t)
            return None
        self.number += 1
        if not self.is_in(effect.enters):
            self.tell(t, "enter", effect.enters, None)
        self.entries.append((self.number, effect.enters, effect.mode, effect.spot))
        return self.number

    def drop(self, entry: tuple[int, str, str, object], t: float) -> None:
        if entry in self.entries:
            self.entries.remove(entry)
            if not self.is_in(entry[1]):
                self.tell(t, "leave", entry[1], None)

    def lasting(self, effect: Effect, keys: tuple[str, ...], t: float) -> None:
        run = {"effect": effect, "keys": keys}
        for key in keys:
            self.running[key] = run
        run["entry"] = self.begin(effect, t)

    def brief(self, effect: Effect | None, t: float) -> None:
        self.last = max(self.last, t)
        if effect is not None:
            self.end({"effect": effect, "keys": (), "entry": self.begin(effect, t)}, t)

    def key_up(self, key: str, t: float) -> None:
        if key in self.skip_up:
            self.skip_up.discard(key)
            return
        run = self.running.pop(key, None)
        if run is None:
            return
        self.end(run, t)
        for other in run["keys"]:
            if other != key and self.running.pop(other, None) is not None:
                self.skip_up.add(other)

    def end(self, run: dict[str, Any], t: float) -> None:
        effect = run["effect"]
        if effect.visible:
            self.tell(t, "release", None, effect.sends)
        if effect.mode == "while":
            for entry in [entry for entry in self.entries if entry[0] == run["entry"]]:
                self.drop(entry, t)
