"""The pacing of a round: which binding is asked next, and whether it is shown first. A value; every answer makes the next one."""

from __future__ import annotations

from typing import Protocol

from msgspec import Struct

from glimber.core.practice.slip_kinds import SlipKind
from glimber.core.practice.tries import Outcome


class Prompt(Struct, frozen=True):
    """The next prompt. ``shown``: the binding is shown and struck once, for study, and is no try."""

    binding: str
    new: bool
    shown: bool


class Pacing(Protocol):
    """Chooses prompts until nothing may be asked for any more."""

    def next(self) -> Prompt | None:
        """Return the next prompt."""

    def after(self, prompt: Prompt, outcome: Outcome, slip: SlipKind | None, took_s: float) -> Pacing:
        """Return the pacing after an answer; this one stays as it is. ``took_s``: seconds until the next prompt."""
