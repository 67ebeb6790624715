"""Input and output of the key engine."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from glimber.core.engine.keymap import Effect
from glimber.core.notation.keys import Gesture, Spot

EventKind = Literal["down", "up", "turn", "front"]


class Event(Struct, frozen=True):
    """One input at ``t`` ms, by a hand (or the desktop, for ``front``). A turn's key is ``knob-1:left``."""

    t: float
    kind: EventKind
    key: str


class Act(Struct, frozen=True):
    """One output at ``t`` ms. ``layer`` is the one that came or went; ``spot`` the one that did it."""

    t: float
    do: Literal["press", "release", "enter", "leave"]
    spot: Spot | None
    layer: str | None = None
    sends: str | None = None


class Struck(Struct, frozen=True):
    """One decided gesture, whether or not it does anything: what the judge needs beyond the acts.

    ``layers`` are those the key was looked for on, from the highest live one to the one that answered; the last is the
    layer of the gesture. ``effect`` is None where nothing is bound to the gesture or the key is dead.
    """

    down: float
    t: float
    keys: tuple[str, ...]
    gesture: Gesture
    layers: tuple[str, ...]
    effect: Effect | None
    plain: bool = False
