"""The key engine: in, timed key events; out, timed acts. A deterministic machine without a clock.

Time comes with the events and with ``advance``. While a key is undecided, later events wait in a queue and are handled
after the decision, in order, each keeping its own time. The rule numbers in the comments are those of docs/engine.md.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.engine.decision import Decision, Undecided, decide
from glimber.core.engine.events import Act, Event, Struck
from glimber.core.engine.keymap import Effect, Keymap
from glimber.core.engine.layers import Layers, Shift
from glimber.core.notation.keys import Gesture, Spot

FOREVER = float("inf")
_NO_PAIRS: Mapping[str, Mapping[str, Effect]] = {}


class _Active(Struct):
    """A gesture that lasts: what ends with it."""

    effect: Effect
    keys: tuple[str, ...]
    entry: int | None = None
    next_repeat: float = FOREVER


class Machine:
    """One board's engine. ``feed`` events in order of time; each call returns the acts it brought about."""

    def __init__(self, keymap: Keymap, front: str | None = None) -> None:
        self.keymap = keymap
        self._layers = Layers(keymap, front)
        self._down: set[str] = set()  # as the hand has it, ahead of the queue
        self._queue: deque[Event] = deque()
        self._undecided: Undecided | None = None
        self._active: dict[str, _Active] = {}
        self._ignored: set[str] = set()  # keys whose next up ended with their partner's
        self._certain = -FOREVER  # of every act and decision so far (rule 1)
        self._acts: list[Act] = []
        self._struck: list[Struck] = []

    # What is seen from outside

    def copy(self) -> Machine:
        """Return another machine in the same state; what happens to the one does not happen to the other."""
        other = Machine(self.keymap)
        other._layers = self._layers.copy()
        other._down, other._ignored, other._queue = set(self._down), set(self._ignored), deque(self._queue)
        other._undecided, other._certain = self._undecided, self._certain
        # Two keys struck together share one gesture.
        twins = {id(active): replace(active) for active in self._active.values()}
        other._active = {key: twins[id(active)] for key, active in self._active.items()}
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
            acts += self._run(self._undecided.due + 1e-6)
        return acts

    def pending_until(self) -> float | None:
        """Return the time at which something is due if no event comes; None when nothing is pending."""
        due = [active.next_repeat for active in self._active.values() if active.next_repeat < FOREVER]
        if self._undecided is not None:
            due.append(self._undecided.due)
        return min(due) if due else None

    def release_all(self, t: float) -> list[Act]:
        """Let time run to ``t``; then drop what is undecided, release what is pressed, leave every layer but base (rule 7)."""
        acts = self._run(t)
        self._undecided = None
        self._queue.clear()
        self._down.clear()
        self._ignored.clear()
        for held in {id(active): active for active in self._active.values()}.values():
            if _is_held(held.effect):
                self._emit(t, "release", held.effect.spot, sends=held.effect.sends)
        self._active.clear()
        self._shift(self._layers.leave_all(), t)
        return acts + self._taken()

    def live_layers(self) -> list[str]:
        """Return ids of the layers now in, lowest first."""
        return self._layers.ids()

    def struck(self) -> list[Struck]:
        """The gestures decided since this was last asked."""
        struck, self._struck = self._struck, []
        return struck

    # The run

    def _run(self, until: float) -> list[Act]:
        while True:
            if self._undecided is not None:
                decision = decide(self._undecided, self._queue, until)
                if decision is None:
                    break
                self._take(self._undecided, decision)
            elif self._queue:
                self._handle(self._queue.popleft())
            else:
                break
        self._repeat(until)
        return self._taken()

    def _taken(self) -> list[Act]:
        acts, self._acts = self._acts, []
        return acts

    def _emit(
        self,
        t: float,
        do: Literal["press", "release", "enter", "leave"],
        spot: Spot | None,
        *,
        layer: str | None = None,
        sends: str | None = None,
    ) -> None:
        self._certain = max(t, self._certain)
        self._acts.append(Act(self._certain, do, spot, layer, sends))

    def _shift(self, shifts: Iterable[Shift], t: float) -> None:
        for shift in shifts:
            self._emit(t, shift.do, shift.spot, layer=shift.layer)

    def _handle(self, event: Event) -> None:
        self._repeat(event.t)
        if event.kind == "down":
            pairs, limits = self._layers.partners(event.key)
            if pairs:
                self._undecided = Undecided(event.key, event.t, {}, limits, "together", event.t, pairs)
            else:
                self._single(event.key, event.t)
        elif event.kind == "up":
            self._up(event.key, event.t)
        elif event.kind == "turn":
            knob, _, way = event.key.partition(":")
            found = self._layers.find(knob)
            effect = found.gestures.get(way)
            self._note((knob,), "left" if way == "left" else "right", event.t, event.t, effect, found.layers)
            if effect is not None:
                self._end(self._begin(effect, (), event.t), event.t)
        else:
            self._shift(self._layers.change_front(event.key or None), event.t)

    def _single(self, key: str, down: float) -> None:
        found = self._layers.find(key)
        only: Gesture = "press" if key in self.keymap.knobs else "tap"
        if found.gestures.keys() & {"hold", "double", "tap-hold"} and only == "tap":
            self._undecided = Undecided(key, down, found.gestures, found.limits, "first", down, _NO_PAIRS, found.layers)
            return
        effect = found.gestures.get(only)  # rule 3
        self._note((key,), only, down, down, effect, found.layers, plain=found.plain)
        if effect is not None:
            self._begin(effect, (key,), down)

    def _note(
        self,
        keys: tuple[str, ...],
        gesture: Gesture,
        down: float,
        t: float,
        effect: Effect | None,
        layers: tuple[str, ...],
        plain: bool = False,
    ) -> None:
        self._struck.append(Struck(down, max(t, self._certain), keys, gesture, layers, effect, plain))

    def _up(self, key: str, t: float) -> None:
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

    def _take(self, pending: Undecided, decision: Decision) -> None:
        """Carry a decision out."""
        t = decision.t
        self._repeat(t)  # in order of time, so that advancing in one go is as advancing in steps
        self._certain = max(t, self._certain)
        self._undecided = None
        if decision.what == "single":
            self._single(pending.key, pending.down)
            return
        if decision.what == "pair":
            self._pair(pending, decision)
            return
        if decision.uses is not None:
            del self._queue[decision.uses]
        if decision.what in ("again", "second"):
            self._undecided = replace(pending, stage=decision.what, since=t)
            return
        effect = pending.gestures.get(decision.gesture)
        for _ in range(decision.times):
            self._note((pending.key,), decision.gesture, pending.down, t, effect, pending.layers)
            if effect is None:
                continue
            if decision.what == "lasts":
                self._begin(effect, (pending.key,), t)
            else:
                self._end(self._begin(effect, (), t), t)

    def _pair(self, pending: Undecided, decision: Decision) -> None:
        t, partner, place = decision.t, decision.partner, decision.uses
        assert place is not None
        del self._queue[place]
        # An earlier press of the partner whose up still waits ends first: its key would otherwise stay down for ever.
        for at in [at for at in range(place) if self._queue[at].kind == "up" and self._queue[at].key == partner]:
            del self._queue[at]
            self._up(partner, t)
        gestures = pending.pairs[partner]
        effect = gestures.get("tap") or next(iter(gestures.values()))
        self._note(effect.spot.keys, "tap", pending.down, t, effect, (effect.spot.layer,))
        self._begin(effect, (pending.key, partner), t)

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
            active.next_repeat = max(t, self._certain) + effect.repeat_ms
        if effect.leaves:
            self._shift(self._layers.leave(effect.spot), t)
        if effect.enters is not None:
            active.entry, shifts = self._layers.enter(effect)
            self._shift(shifts, t)
        return active

    def _press(self, effect: Effect, t: float, sends: str | None = None) -> None:
        self._emit(t, "press", effect.spot, sends=effect.sends if sends is None else sends)
        self._shift(self._layers.end_once(), t)  # rule 7

    def _play(self, effect: Effect, t: float) -> None:
        at = max(t, self._certain)
        for pause, sends in effect.steps:
            at += pause
            self._press(effect, at, sends)
            self._emit(at, "release", effect.spot, sends=sends)

    def _end(self, active: _Active, t: float) -> None:
        effect = active.effect
        active.next_repeat = FOREVER
        if _is_held(effect):
            self._emit(t, "release", effect.spot, sends=effect.sends)
        for sends in effect.release:
            self._press(effect, t, sends)
            self._emit(t, "release", effect.spot, sends=sends)
        if active.entry is not None and effect.mode == "while":
            self._shift(self._layers.end(active.entry), t)

    def _repeat(self, until: float) -> None:
        """Play the repeats due by ``until``, the earliest first; a waiting ``up`` of one of its keys ends a gesture's repeats."""
        if not any(active.next_repeat <= until for active in self._active.values()):
            return
        ups: dict[str, float] = {}
        for event in self._queue:
            if event.kind == "up":
                ups.setdefault(event.key, event.t)
        while True:
            due = [
                active
                for active in self._active.values()
                if active.next_repeat <= min(until, *(ups.get(key, FOREVER) for key in active.keys))
            ]
            if not due:
                return
            active = min(due, key=lambda held: held.next_repeat)
            t, effect = active.next_repeat, active.effect
            if effect.steps:
                self._play(effect, t)
                active.next_repeat = max(t, self._certain) + (effect.repeat_ms or FOREVER)
            else:
                self._press(effect, t)
                self._emit(t, "release", effect.spot, sends=effect.sends)
                active.next_repeat = t + (effect.repeat_ms or FOREVER)


def _is_held(effect: Effect) -> bool:
    """Return True if what it sends stays pressed until the gesture ends."""
    return effect.visible and not effect.steps and effect.repeat_ms is None


def run(keymap: Keymap, events: Iterable[Event], front: str | None = None) -> list[Act]:
    """Return all acts of a list of events in order of time; after the last one time runs on until nothing is pending."""
    machine = Machine(keymap, front)
    acts: list[Act] = []
    for event in events:
        acts += machine.feed(event)
    return acts + machine.settle()
