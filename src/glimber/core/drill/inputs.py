"""What comes into the drill's machine, and what it wants done."""

from __future__ import annotations

from glimber.core.drill.tries import Record, Try
from glimber.core.engine.events import Event
from glimber.core.values import dataclass

# What comes in


@dataclass(frozen=True)
class Shown:
    """The paint that first shows the prompt has ended: its time runs from here."""


@dataclass(frozen=True)
class Struck:
    """A key event, and how long it had to wait for the application: of the ordinary keyboard, or of ``board`` itself."""

    event: Event
    late_ms: float = 0.0
    board: str | None = None


@dataclass(frozen=True)
class Pointed:
    """A key of the blank board was clicked."""

    key: str


@dataclass(frozen=True)
class Named:
    """What the lit key does was said: a command's ref, None for none of them; ``first_ms`` when the first key of it went down."""

    command: str | None
    first_ms: float | None = None


@dataclass(frozen=True)
class Aid:
    """Help is asked for: one step more."""


@dataclass(frozen=True)
class GaveUp:
    """The person does not know."""


@dataclass(frozen=True)
class Pause:
    """Stop the clock; ``why`` makes a prompt under way void."""

    why: str | None = None


@dataclass(frozen=True)
class GoOn:
    """Go on after a pause, or try again what could not be written."""


@dataclass(frozen=True)
class Committed:
    """The records that were asked for are written."""


@dataclass(frozen=True)
class Refused:
    """They could not be written, and why."""

    why: str


Input = Shown | Struck | Pointed | Named | Aid | GaveUp | Pause | GoOn | Committed | Refused | None
"""``None``: only time has passed."""


# What is to be done


@dataclass(frozen=True)
class Commit:
    """Write these records, and answer Committed or Refused before anything else."""

    records: tuple[Record, ...]


@dataclass(frozen=True)
class Show:
    """Something else is to be seen: the next prompt, a slip, a pause."""


@dataclass(frozen=True)
class Tell:
    """Say this in the prompt's own place: the present try could not be written."""

    words: str


@dataclass(frozen=True)
class Counted:
    """A first strike was a clean hit and is written; ``count`` tries are."""

    one: Try
    count: int


@dataclass(frozen=True)
class Ended:
    """Every binding has its clean hits, or the time of the round is used."""


Effect = Commit | Show | Tell | Counted | Ended
