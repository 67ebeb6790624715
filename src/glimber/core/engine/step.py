"""The key engine as a function: ``step(state, event) → state, acts``. A state is a value, to be kept and gone on from again."""

from __future__ import annotations

from msgspec import Struct

from glimber.core.engine.engine import Machine
from glimber.core.engine.events import Act, Event
from glimber.core.engine.keymap import Keymap


class State(Struct, frozen=True):
    """The state of a board's engine. Made by ``begin`` and ``step``."""

    _machine: Machine

    @property
    def layers(self) -> tuple[str, ...]:
        """Ids of the layers now in, lowest first."""
        return tuple(self._machine.live_layers())

    @property
    def pending_until(self) -> float | None:
        """When something will be decided if no event comes, in ms; None when nothing is open."""
        return self._machine.pending_until()


def begin(keymap: Keymap, front: str | None = None) -> State:
    """The state before any event."""
    return State(Machine(keymap, front))


def step(state: State, event: Event | float) -> tuple[State, tuple[Act, ...]]:
    """The state after an event, or after time has passed to a moment in ms, and the acts of it; ``state`` stays as it was."""
    machine = state._machine.copy()
    if isinstance(event, Event):
        acts = machine.advance(event.t) + machine.feed(event)
    else:
        acts = machine.advance(event)
    return State(machine), tuple(acts)
