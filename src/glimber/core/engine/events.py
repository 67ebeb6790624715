"""What goes into the key engine and what comes out of it."""

from __future__ import annotations

from typing import Literal

from glimber.core.engine.keymap import Effect
from glimber.core.notation.keys import Gesture, Spot
from glimber.core.values import dataclass

EventKind = Literal["down", "up", "turn", "front"]


@dataclass(frozen=True, slots=True)
class Event:
    """What a hand (or the desktop, for ``front``) did at ``t`` ms. A turn's key is ``knob-1:left``."""

    t: float
    kind: EventKind
    key: str


@dataclass(frozen=True, slots=True)
class Act:
    """What the machine did at ``t`` ms. ``layer`` is the one that came or went; ``spot`` the one that did it."""

    t: float
    do: Literal["press", "release", "enter", "leave"]
    spot: Spot | None
    layer: str | None = None
    sends: str | None = None


@dataclass(frozen=True, slots=True)
class Struck:
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
