"""The key engine: in, timed key events; out, timed acts. A deterministic machine without a clock.

Time comes with the events and with ``advance``. While a key is undecided, later events wait in a queue and are handled
after the decision, in order, each keeping its own time. The rule numbers in the comments are those of docs/engine.md.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from glimber.core.engine.events import Act, Event, Struck
from glimber.core.engine.keymap import Effect, Keymap, LayerMap, Limits
from glimber.core.notation.keys import Gesture, Spot

FOREVER = float("inf")


@dataclass(frozen=True, slots=True)
class _Found:
    """What a key resolves to: its gestures, their limits and the layers looked through."""

    gestures: Mapping[str, Effect]
    limits: Limits
    layers: tuple[str, ...]
    plain: bool = False


@dataclass(slots=True)
class _Undecided:
    """The key that waits for its decision."""

    key: str
    down: float
    gestures: Mapping[str, Effect]
    limits: Limits
    stage: Literal["together", "first", "again", "second"] = "first"
    since: float = 0.0  # down of the present press, or the up that began the wait
    pairs: Mapping[str, Mapping[str, Effect]] = field(default_factory=dict)
    layers: tuple[str, ...] = ()

    def due(self) -> float:
        """When it is decided if nothing happens."""
        if self.stage == "together":
            return self.down + self.limits.together_ms
        return self.since + (self.limits.again_ms if self.stage == "again" else self.limits.hold_ms)

    @property
    def inclusive(self) -> bool:
        """Whether an event exactly at the limit still counts."""
        return self.stage in ("together", "again")


@dataclass(slots=True)
class _Active:
    """A gesture that lasts: what ends with it."""

    effect: Effect
    keys: tuple[str, ...]
    entry: int | None = None
    next_repeat: float = FOREVER


@dataclass(frozen=True, slots=True)
class _Entry:
    """One way a layer is in just now: it goes when its last entry ends."""

    number: int
    layer: str
    mode: str
    spot: Spot


class Machine:
    """One board's engine. ``feed`` events in order of time; each call returns the acts it brought about."""

    def __init__(self, keymap: Keymap, front: str | None = None) -> None:
        self.keymap = keymap
        self._by_id = {layer.id: layer for layer in keymap.layers}
        self._down: set[str] = set()  # as the hand has it, ahead of the queue
        self._queue: deque[Event] = deque()
        self._undecided: _Undecided | None = None
        self._active: dict[str, _Active] = {}
        self._ignored: set[str] = set()  # keys whose next up ended with their partner's
        self._entries: list[_Entry] = []
        self._order: list[str] = []  # layers that came in by entries, in order of entry
        self._front = front
        self._number = 0
        self._last_act = -FOREVER
        self._acts: list[Act] = []
        self._struck: list[Struck] = []

    # What is seen from outside

    def copy(self) -> Machine:
        """Another machine in the same state; what happens to the one does not happen to the other."""
        other = Machine(self.keymap, self._front)
        other._down, other._ignored, other._queue = set(self._down), set(self._ignored), deque(self._queue)
        other._undecided = None if self._undecided is None else replace(self._undecided)
        # Two keys struck together share one gesture.
        twins = {id(active): replace(active) for active in self._active.values()}
        other._active = {key: twins[id(active)] for key, active in self._active.items()}
        other._entries, other._order = list(self._entries), list(self._order)
        other._number, other._last_act = self._number, self._last_act
        other._acts, other._struck = list(self._acts), list(self._struck)
        return other

    def feed(self, event: Event) -> list[Act]:
        """Take one event. Auto-repeats and ups without a down are ignored (rule 1)."""
        # Time passes first: what was due by now must not come after what the event decides.
        acts = self._run(event.t)
        if event.kind == "down":
            if event.key in self._down:
                return acts
            self._down.add(event.key)
        elif event.kind == "up":
            if event.key not in self._down:
                return acts
            self._down.discard(event.key)
        self._queue.append(event)
        return acts + self._run(event.t)

    def advance(self, t: float) -> list[Act]:
        """Let time pass to ``t``: everything due is decided. Calling it often or rarely makes the same acts."""
        return self._run(t)

    def settle(self) -> list[Act]:
        """Let time run until nothing is undecided and no event waits; repeats of held keys do not go on."""
        acts: list[Act] = []
        while self._undecided is not None:
            acts += self._run(self._undecided.due() + 1e-6)
        return acts

    def pending_until(self) -> float | None:
        """When something will be due if no event comes; None when nothing is pending."""
        due = [active.next_repeat for active in self._active.values() if active.next_repeat < FOREVER]
        if self._undecided is not None:
            due.append(self._undecided.due())
        return min(due) if due else None

    def release_all(self, t: float) -> list[Act]:
        """Drop what is undecided, release what is pressed, leave every layer but base (rule 7)."""
        self._run(t)
        self._undecided = None
        self._queue.clear()
        self._down.clear()
        self._ignored.clear()
        for held in {id(active): active for active in self._active.values()}.values():
            if held.effect.visible and not held.effect.steps and held.effect.repeat_ms is None:
                self._emit(t, "release", held.effect.spot, sends=held.effect.sends)
        self._active.clear()
        for layer in [*self._order, *self._front_layers()]:
            self._emit(t, "leave", None, layer=layer)
        self._entries.clear()
        self._order.clear()
        self._front = None
        return self._taken()

    def live_layers(self) -> list[str]:
        """Ids of the layers now in, lowest first."""
        return [layer.id for layer in self._live()]

    def struck(self) -> list[Struck]:
        """The gestures decided since this was last asked."""
        struck, self._struck = self._struck, []
        return struck

    # The run

    def _run(self, until: float) -> list[Act]:
        while True:
            if self._undecided is not None:
                if not self._decide(until):
                    break
            elif self._queue:
                self._handle(self._queue.popleft())
            else:
                break
        self._repeat(until)
        return self._taken()

    def _taken(self) -> list[Act]:
        acts, self._acts = self._acts, []
        return acts

    def _emit(self, t: float, do: Literal["press", "release", "enter", "leave"], spot: Spot | None, *,
              layer: str | None = None, sends: str | None = None) -> None:  # fmt: skip
        self._last_act = max(t, self._last_act)
        self._acts.append(Act(self._last_act, do, spot, layer, sends))

    def _handle(self, event: Event) -> None:
        self._repeat(event.t)
        if event.kind == "down":
            self._down_event(event.key, event.t)
        elif event.kind == "up":
            self._up_event(event.key, event.t)
        elif event.kind == "turn":
            knob, _, way = event.key.partition(":")
            found = self._find(knob)
            effect = found.gestures.get(way)
            self._note((knob,), "left" if way == "left" else "right", event.t, event.t, effect, found.layers)
            if effect is not None:
                self._end(self._begin(effect, (), event.t), event.t)
        else:
            self._change_front(event.key or None, event.t)

    def _down_event(self, key: str, t: float) -> None:
        pairs, limits = self._find_pairs(key)
        if pairs:
            self._undecided = _Undecided(key, t, {}, limits, "together", t, pairs)
        else:
            self._single(key, t)

    def _single(self, key: str, down: float) -> None:
        found = self._find(key)
        only: Gesture = "press" if key in self.keymap.knobs else "tap"
        if found.gestures.keys() & {"hold", "double", "tap-hold"} and only == "tap":
            self._undecided = _Undecided(key, down, found.gestures, found.limits, "first", down, layers=found.layers)
            return
        effect = found.gestures.get(only)  # rule 3
        self._note((key,), only, down, down, effect, found.layers, plain=found.plain)
        if effect is not None:
            self._begin(effect, (key,), down)

    def _note(self, keys: tuple[str, ...], gesture: Gesture, down: float, t: float, effect: Effect | None,
              layers: tuple[str, ...], plain: bool = False) -> None:  # fmt: skip
        self._struck.append(Struck(down, max(t, self._last_act), keys, gesture, layers, effect, plain))

    def _up_event(self, key: str, t: float) -> None:
        if key in self._ignored:
            self._ignored.discard(key)
            return
        active = self._active.pop(key, None)
        if active is not None:
            self._end(active, t)
            for other in active.keys:
                if other != key and self._active.pop(other, None) is not None:
                    self._ignored.add(other)

    # Decisions

    def _decide(self, until: float) -> bool:
        """Try to decide the undecided key from the waiting events and the time; False if it must wait on."""
        pending = self._undecided
        assert pending is not None
        due = pending.due()
        went_down: set[str] = set()
        for place, event in enumerate(self._queue):
            if event.t > due or (event.t == due and not pending.inclusive):
                break
            if self._weigh_event(pending, place, event, went_down):
                return True
        else:
            # Every waiting event came before the limit: only time itself can decide. A limit that counts events at
            # its own time must be strictly past, since such an event may still come.
            if until < due or (until == due and pending.inclusive):
                return False
        self._repeat(due)  # in order of time, so that advancing in one go is as advancing in steps
        self._time_out(pending, due)
        return True

    def _weigh_event(self, pending: _Undecided, place: int, event: Event, went_down: set[str]) -> bool:
        """Whether this waiting event decides; it is taken from the queue when the decision uses it up."""
        own = event.key == pending.key
        strikes = event.kind == "turn" or (event.kind == "down" and not own)
        if strikes:
            went_down.add(event.key)
        if pending.stage == "together":
            return self._weigh_together(pending, place, event, own, strikes)
        if pending.stage == "again":
            if strikes:
                self._finish(pending, event.t, "tap")
                return True
            if own and event.kind == "down":
                del self._queue[place]
                self._second_press(pending, event.t)
                return True
            return False
        if own and event.kind == "up":
            del self._queue[place]
            self._early_up(pending, event.t, bool(went_down))
            return True
        if pending.stage == "first" and "hold" not in pending.gestures:
            if strikes:
                self._last(pending, event.t, "tap")
                return True
            return False
        held: Gesture = "hold" if pending.stage == "first" else "tap-hold"
        if (strikes and pending.limits.policy == "eager") or (
            event.kind == "up" and event.key in went_down and pending.limits.policy == "crossed"
        ):
            self._last(pending, event.t, held)
            return True
        return False

    def _weigh_together(self, pending: _Undecided, place: int, event: Event, own: bool, strikes: bool) -> bool:
        if event.kind == "down" and event.key in pending.pairs:
            del self._queue[place]
            self._undecided = None
            gestures = pending.pairs[event.key]
            effect = gestures.get("tap") or next(iter(gestures.values()))
            self._note(effect.spot.keys, "tap", pending.down, event.t, effect, (effect.spot.layer,))
            self._begin(effect, (pending.key, event.key), event.t)
            return True
        if strikes or (own and event.kind == "up"):
            self._undecided = None
            self._single(pending.key, pending.down)
            return True
        return False

    def _early_up(self, pending: _Undecided, t: float, others_went_down: bool) -> None:
        gestures = pending.gestures
        if pending.stage == "second":
            if "double" in gestures:
                self._finish(pending, t, "double")
            else:
                self._finish(pending, t, "tap", times=2)
        elif not gestures.keys() & {"double", "tap-hold"} or ("hold" in gestures and others_went_down):
            self._finish(pending, t, "tap")
        else:
            pending.stage, pending.since = "again", t

    def _second_press(self, pending: _Undecided, t: float) -> None:
        if "tap-hold" in pending.gestures:
            pending.stage, pending.since = "second", t
        else:
            self._last(pending, t, "double")

    def _time_out(self, pending: _Undecided, due: float) -> None:
        if pending.stage == "together":
            self._undecided = None
            self._single(pending.key, pending.down)
        elif pending.stage == "again":
            self._finish(pending, due, "tap")
        elif pending.stage == "second":
            self._last(pending, due, "tap-hold")
        else:
            self._last(pending, due, "hold" if "hold" in pending.gestures else "tap")

    def _last(self, pending: _Undecided, t: float, gesture: Gesture) -> None:
        """Decided as a gesture that lasts until the key comes up."""
        self._undecided = None
        effect = pending.gestures.get(gesture)
        self._note((pending.key,), gesture, pending.down, t, effect, pending.layers)
        if effect is not None:
            self._begin(effect, (pending.key,), t)

    def _finish(self, pending: _Undecided, t: float, gesture: Gesture, times: int = 1) -> None:
        """Decided as a gesture that is already over: pressed and released at that moment."""
        self._undecided = None
        effect = pending.gestures.get(gesture)
        for _ in range(times):
            self._note((pending.key,), gesture, pending.down, t, effect, pending.layers)
            if effect is not None:
                self._end(self._begin(effect, (), t), t)

    # Effects

    def _begin(self, effect: Effect, keys: tuple[str, ...], t: float) -> _Active:
        active = _Active(effect, keys)
        for key in keys:
            self._active[key] = active
        self._repeat(t)
        if effect.steps:
            self._play(effect, t)
        elif effect.visible:
            self._press(effect, t)
            if effect.repeat_ms is not None:
                self._emit(t, "release", effect.spot, sends=effect.sends)
        if effect.repeat_ms is not None and keys:
            active.next_repeat = max(t, self._last_act) + effect.repeat_ms
        if effect.leaves:
            self._leave_all(effect.spot, t)
        if effect.enters is not None:
            active.entry = self._enter(effect, t)
        return active

    def _press(self, effect: Effect, t: float, sends: str | None = None) -> None:
        self._emit(t, "press", effect.spot, sends=effect.sends if sends is None else sends)
        for entry in [entry for entry in self._entries if entry.mode == "once"]:  # rule 7
            self._drop(entry, t)

    def _play(self, effect: Effect, t: float) -> None:
        at = max(t, self._last_act)
        for pause, sends in effect.steps:
            at += pause
            self._press(effect, at, sends)
            self._emit(at, "release", effect.spot, sends=sends)

    def _end(self, active: _Active, t: float) -> None:
        effect = active.effect
        active.next_repeat = FOREVER
        if effect.visible and not effect.steps and effect.repeat_ms is None:
            self._emit(t, "release", effect.spot, sends=effect.sends)
        for sends in effect.release:
            self._press(effect, t, sends)
            self._emit(t, "release", effect.spot, sends=sends)
        if active.entry is not None and effect.mode == "while":
            for entry in [entry for entry in self._entries if entry.number == active.entry]:
                self._drop(entry, t)

    def _repeat(self, until: float) -> None:
        """Play the repeats due by ``until``, the earliest first; a waiting ``up`` ends its key's at its own time."""
        ups = {event.key: event.t for event in self._queue if event.kind == "up"}
        while True:
            due = [
                active
                for key, active in self._active.items()
                if active.next_repeat <= min(until, ups.get(key, FOREVER))
            ]
            if not due:
                return
            active = min(due, key=lambda held: held.next_repeat)
            t, effect = active.next_repeat, active.effect
            if effect.steps:
                self._play(effect, t)
                active.next_repeat = max(t, self._last_act) + (effect.repeat_ms or FOREVER)
            else:
                self._press(effect, t)
                self._emit(t, "release", effect.spot, sends=effect.sends)
                active.next_repeat = t + (effect.repeat_ms or FOREVER)

    # Layers

    def _front_layers(self) -> list[str]:
        return [layer.id for layer in self.keymap.layers[1:] if layer.front is not None and layer.front == self._front]

    def _live(self) -> list[LayerMap]:
        base = self.keymap.layers[0]
        return [base, *(self._by_id[id] for id in self._front_layers()), *(self._by_id[id] for id in self._order)]

    def _limits(self, layer: LayerMap, key: str) -> Limits:
        return layer.limits.get(key, self.keymap.limits)

    def _find(self, key: str) -> _Found:
        """All gestures of a key, from the highest live layer that binds it (rule 2)."""
        passed: list[str] = []
        for layer in reversed(self._live()):
            passed.append(layer.id)
            gestures = layer.keys.get(key)
            if gestures:
                return _Found(gestures, self._limits(layer, key), tuple(passed))
            if layer.is_dead(key):
                return _Found({}, self.keymap.limits, tuple(passed))
        sends = self.keymap.plain.get(key)
        if sends is None or key in self.keymap.knobs:
            return _Found({}, self.keymap.limits, tuple(passed))
        spot = Spot(self.keymap.board, self.keymap.layers[0].id, (key,), "tap")
        return _Found({"tap": Effect(spot, sends)}, self.keymap.limits, tuple(passed), plain=True)

    def _find_pairs(self, key: str) -> tuple[Mapping[str, Mapping[str, Effect]], Limits]:
        """Partners to wait for, from the highest live layer that says anything about the key (rule 6)."""
        for layer in reversed(self._live()):
            pairs = layer.pairs.get(key)
            if pairs:
                return pairs, self._limits(layer, key)
            if key in layer.keys or layer.is_dead(key):
                break
        return {}, self.keymap.limits

    def _enter(self, effect: Effect, t: float) -> int | None:
        layer = effect.enters
        assert layer is not None
        if effect.mode == "switch":
            mine = [entry for entry in self._entries if entry.mode == "switch" and entry.spot == effect.spot]
            if mine:
                for entry in mine:
                    self._drop(entry, t)
                return None
        self._number += 1
        self._entries.append(_Entry(self._number, layer, effect.mode, effect.spot))
        if layer not in self._order:
            if layer not in self.live_layers():
                self._emit(t, "enter", effect.spot, layer=layer)
            self._order.append(layer)
        return self._number

    def _drop(self, entry: _Entry, t: float, spot: Spot | None = None) -> None:
        if entry not in self._entries:
            return
        self._entries.remove(entry)
        if not any(other.layer == entry.layer for other in self._entries):
            self._order.remove(entry.layer)
            if entry.layer not in self.live_layers():
                self._emit(t, "leave", spot or entry.spot, layer=entry.layer)

    def _leave_all(self, spot: Spot, t: float) -> None:
        for entry in [entry for entry in self._entries if entry.layer == spot.layer]:
            self._drop(entry, t, spot)

    def _change_front(self, program: str | None, t: float) -> None:
        before = self.live_layers()
        self._front = program
        after = self.live_layers()
        for layer in dict.fromkeys(before):
            if layer not in after:
                self._emit(t, "leave", None, layer=layer)
        for layer in dict.fromkeys(after):
            if layer not in before:
                self._emit(t, "enter", None, layer=layer)


def run(keymap: Keymap, events: Iterable[Event], front: str | None = None) -> list[Act]:
    """All acts of a list of events in order of time; after the last one time runs on until nothing is pending."""
    machine = Machine(keymap, front)
    acts: list[Act] = []
    for event in events:
        acts += machine.advance(event.t)
        acts += machine.feed(event)
    return acts + machine.settle()
