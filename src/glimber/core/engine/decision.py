"""Resolve an undecided key: from the key, the events after it and the time, to a decision or none yet.

Pure: nothing here is changed. The rule numbers in the comments are those of docs/engine.md.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct

from glimber.core.engine.events import Event
from glimber.core.engine.keymap import Effect, Limits
from glimber.core.notation.keys import Gesture


class Undecided(Struct, frozen=True):
    """The key that waits for its decision. ``since`` is the down of the present press, or the up that began the wait."""

    key: str
    down: float
    gestures: Mapping[str, Effect]
    limits: Limits
    stage: Literal["together", "first", "again", "second"]
    since: float
    pairs: Mapping[str, Mapping[str, Effect]]
    layers: tuple[str, ...] = ()

    @property
    def due(self) -> float:
        """The time at which it is decided if nothing happens, in ms."""
        if self.stage == "together":
            return self.down + self.limits.together_ms
        return self.since + (self.limits.again_ms if self.stage == "again" else self.limits.hold_ms)

    @property
    def inclusive(self) -> bool:
        """Return True if an event exactly at the limit still counts."""
        return self.stage in ("together", "again")


class Decision(Struct, frozen=True):
    """The resolution of a key at ``t``; ``uses`` is the index in the queue of the event it consumes.

    ``lasts``: the gesture goes on until the key comes up. ``brief``: it is over already, ``times`` times. ``pair``: it acts
    together with ``partner``. ``single``: no partner comes. ``again``, ``second``: it waits on, for a second press or for
    what the second press turns out to be.
    """

    what: Literal["lasts", "brief", "pair", "single", "again", "second"]
    t: float
    gesture: Gesture = "tap"
    uses: int | None = None
    times: int = 1
    partner: str = ""


def decide(pending: Undecided, queue: Sequence[Event], until: float) -> Decision | None:
    """Return the decision that the waiting events bring about, or time alone by ``until``; None while it is open."""
    due, inclusive = pending.due, pending.inclusive
    went_down: set[str] = set()
    for place, event in enumerate(queue):
        if event.t > due or (event.t == due and not inclusive):
            return _timed_out(pending)
        own = event.key == pending.key
        # A knob that is turned counts as another key that goes down (rule 8).
        strikes = event.kind == "turn" or (event.kind == "down" and not own)
        if strikes:
            went_down.add(event.key)
        found = _by_event(pending, place, event, own, strikes, went_down)
        if found is not None:
            return found
    # Every waiting event came before the limit: only time itself can decide. A limit that counts events at its own time
    # must be strictly past, since such an event may still come.
    if until < due or (until == due and inclusive):
        return None
    return _timed_out(pending)


def _timed_out(pending: Undecided) -> Decision:
    due = pending.due
    if pending.stage == "together":
        return Decision("single", due)
    if pending.stage == "again":
        return Decision("brief", due)
    if pending.stage == "second":
        return Decision("lasts", due, "tap-hold")
    return Decision("lasts", due, "hold" if "hold" in pending.gestures else "tap")


def _by_event(
    pending: Undecided, place: int, event: Event, own: bool, strikes: bool, went_down: set[str]
) -> Decision | None:
    t, up = event.t, event.kind == "up"
    if pending.stage == "together":  # rule 6
        if event.kind == "down" and event.key in pending.pairs:
            return Decision("pair", t, uses=place, partner=event.key)
        return Decision("single", t) if strikes or (own and up) else None
    if pending.stage == "again":
        return _after_a_tap(pending, t, place, own and not up, strikes)
    if own and up:
        return _early_up(pending, t, place, bool(went_down))
    if pending.stage == "first" and "hold" not in pending.gestures:
        return Decision("lasts", t) if strikes else None
    held: Gesture = "hold" if pending.stage == "first" else "tap-hold"
    policy = pending.limits.policy  # rule 4
    early = (strikes and policy == "eager") or (up and event.key in went_down and policy == "crossed")
    return Decision("lasts", t, held) if early else None


def _after_a_tap(pending: Undecided, t: float, place: int, own_down: bool, strikes: bool) -> Decision | None:
    """Decide a key that was tapped and may be tapped or held again (rule 5)."""
    if strikes:
        return Decision("brief", t)
    if not own_down:
        return None
    if "tap-hold" in pending.gestures:
        return Decision("second", t, uses=place)
    return Decision("lasts", t, "double", uses=place)


def _early_up(pending: Undecided, t: float, place: int, others_went_down: bool) -> Decision:
    gestures = pending.gestures
    if pending.stage == "second":
        if "double" in gestures:
            return Decision("brief", t, "double", place)
        return Decision("brief", t, "tap", place, times=2)
    if not gestures.keys() & {"double", "tap-hold"} or ("hold" in gestures and others_went_down):
        return Decision("brief", t, "tap", place)
    return Decision("again", t, uses=place)
