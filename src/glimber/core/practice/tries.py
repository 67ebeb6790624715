"""The records of practice: tries, rounds and changes, as the log keeps them and the measures read them."""

from __future__ import annotations

from datetime import UTC, datetime
from math import isfinite
from typing import Final, Literal

from msgspec import Struct

from glimber.core.practice.slip_kinds import SlipKind

AnswerMode = Literal["press", "point", "name", "spell"]
Outcome = Literal["hit", "slip", "blank", "void"]
Goal = Literal["planned", "picked", "sprint", "run"]
"""Why a round was begun: planned by worth, picked by hand, as many hits as there are in its time, or a task run."""
SETTLING_DAYS: Final = 14
"""The days for which old and new are compared after a change."""
OUTCOMES: Final = ("hit", "slip", "blank", "void")
MODES: Final = ("press", "point", "name", "spell")


class Try(Struct, frozen=True):
    """One answer to a prompt. Times in ms; ``at`` is UTC; ``first`` the first strike, ``cold`` the first prompt."""

    id: str
    round: str
    nth: int
    at: datetime
    computer: str
    binding: str
    trigger: str
    mode: AnswerMode
    outcome: Outcome
    strict: bool = False
    slip: SlipKind | None = None
    pressed: str | None = None
    would_do: str | None = None
    offset_u: tuple[float, float] | None = None
    recall_ms: float | None = None
    motor_ms: float | None = None
    deadline_ms: float = 4000
    first: bool = True
    cold: bool = False
    aids: int = 0
    void_why: str | None = None
    cue: str | None = None

    @property
    def counts(self) -> bool:
        """Return True if the measures of a binding use it: a first strike, without aids, not void."""
        return self.first and not self.aids and self.outcome != "void"


class Round(Struct, frozen=True):
    """One drill session. ``bindings`` are those asked for; ``ended`` None while it can be resumed.

    ``hits``: the clean hits planned for each at the beginning; ``minutes`` None: it ends with its hits. The rest is as it was
    chosen, None where a log of an earlier version did not say.
    """

    id: str
    began: datetime
    computer: str
    mode: AnswerMode
    bindings: tuple[str, ...]
    ended: datetime | None = None
    hits: tuple[int, ...] = ()
    minutes: float | None = None
    goal: Goal = "picked"
    cue: str | None = None
    deadline: str | None = None
    strict: bool = False
    hands: str | None = None
    run: str | None = None


class KeyEvents(Struct, frozen=True):
    """The key events of one try as they came, so that anything can be worked out again later: [t_ms, kind, code]."""

    id: str
    round: str
    at: datetime
    board: str | None
    events: tuple[tuple[float, str, str], ...]


class Change(Struct, frozen=True):
    """A verdict taken. ``old_trigger``: what becomes of the former trigger."""

    id: str
    at: datetime
    computer: str
    binding: str
    verdict: str
    command: str | None = None
    from_trigger: str | None = None
    to_trigger: str | None = None
    why: str = ""
    swap_with: str | None = None
    applied: datetime | None = None
    reverted: datetime | None = None
    until: datetime | None = None
    old_trigger: Literal["works", "dead", "reminds"] = "dead"


Record = Try | Round | Change | KeyEvents


def utc(value: datetime) -> datetime:
    """Return the moment in UTC; a moment without a zone is taken as UTC."""
    if value.tzinfo is UTC:
        return value
    return value.replace(tzinfo=UTC) if value.tzinfo is None else value.astimezone(UTC)


def parse_moment(text: str) -> datetime:
    """Read an ISO 8601 moment. Raises ValueError saying what was expected."""
    try:
        return utc(datetime.fromisoformat(text))
    except (ValueError, OverflowError):
        raise ValueError(f"{text!r} is not a moment such as 2026-11-02T09:14:03Z") from None


def format_moment(value: datetime) -> str:
    """ISO 8601 in UTC with milliseconds and a Z."""
    return utc(value).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def jsonable(value: object) -> object:
    """Moments as text, tuples as lists, whole floats as integers, what is no number as null: what a JSON document holds."""
    if isinstance(value, datetime):
        return format_moment(value)
    if isinstance(value, tuple | list):
        return [jsonable(item) for item in value]
    if isinstance(value, dict):
        return {key: jsonable(item) for key, item in value.items()}
    if isinstance(value, float):
        return None if not isfinite(value) else int(value) if value.is_integer() else value
    return value
