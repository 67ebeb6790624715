"""Inputs and effects of the drill's state machine."""

from __future__ import annotations

from msgspec import Struct

from glimber.core.engine.events import Event
from glimber.core.practice.tries import Record, Try

# What comes in


class Shown(Struct, frozen=True):
    """The paint that first shows the prompt has ended: its time runs from here."""


class Struck(Struct, frozen=True):
    """A key event, and how long it had to wait for the application: of the ordinary keyboard, or of ``board`` itself."""

    event: Event
    late_ms: float = 0.0
    board: str | None = None


class Pointed(Struct, frozen=True):
    """A key of the blank board was clicked."""

    key: str


class Named(Struct, frozen=True):
    """An answer naming the lit key: a command's ref, None for none of them; ``first_ms`` when its first key went down."""

    command: str | None
    first_ms: float | None = None


class Aid(Struct, frozen=True):
    """Help is asked for: one step more."""


class GaveUp(Struct, frozen=True):
    """The person does not know."""


class Pause(Struct, frozen=True):
    """Stop the clock; ``why`` makes a prompt under way void."""

    why: str | None = None


class GoOn(Struct, frozen=True):
    """Go on after a pause, or try again what could not be written."""


class Committed(Struct, frozen=True):
    """The records that were asked for are written."""


class Refused(Struct, frozen=True):
    """They could not be written, and why."""

    why: str


Input = Shown | Struck | Pointed | Named | Aid | GaveUp | Pause | GoOn | Committed | Refused | None
"""``None``: only time has passed."""


# What is to be done


class Commit(Struct, frozen=True):
    """Write these records, and answer Committed or Refused before anything else."""

    records: tuple[Record, ...]


class Show(Struct, frozen=True):
    """Something else is to be seen: the next prompt, a slip, a pause."""


class Tell(Struct, frozen=True):
    """Say this in the prompt's own place: the present try could not be written."""

    words: str


class Counted(Struct, frozen=True):
    """A first strike was a clean hit and is written; ``count`` tries are."""

    one: Try
    count: int


class Ended(Struct, frozen=True):
    """Every binding has its clean hits, or the time of the round is used."""


Effect = Commit | Show | Tell | Counted | Ended
