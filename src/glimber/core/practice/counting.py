"""Counting: strikes one after the other in, counts by binding and day out. What is no binding leaves no trace, not even here:
between two strikes the state holds the beginning of a sequence of the folio's own, and which binding was struck last.
"""

from __future__ import annotations

from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import EVERYWHERE
from glimber.core.notation.keys import Strike
from glimber.core.practice.watched import Watched

UNDONE_WITHIN_MS: Final = 2_000.0
"""An undo so soon after a binding says that it was a slip, most likely."""
NEXT_STEP_MS: Final = 5_000.0
"""Time that a program is assumed to wait for the next step of a sequence."""


class Count(Struct, frozen=True):
    """A binding was struck on a day, or undone at once (on the day it was struck)."""

    what: Literal["struck", "undone"]
    binding: str
    day: str


class Counting(Struct, frozen=True):
    """``begun``: the beginning of a sequence, of ``program``, until ``until_ms``; ``last``: what was counted last, and when."""

    begun: tuple[Strike, ...] = ()
    program: str | None = None
    until_ms: float = 0.0
    last: tuple[str, str | None, str] | None = None
    last_ms: float = 0.0


def count(
    watched: Watched,
    state: Counting,
    strike: Strike,
    t_ms: float,
    front: str | None,
    day: str,
    known_front: bool = True,
) -> tuple[Counting, list[Count]]:
    """One strike: modifiers and place, at ``t_ms``, with the program ``front`` before the person (None: none of the folio's).

    ``known_front`` False: nobody knows which program is in front; then only what a single program has is counted.
    """
    here = not known_front or state.program in (front, EVERYWHERE)
    going_on = state.begun if state.begun and t_ms <= state.until_ms and here else ()
    for strikes in ((*going_on, strike), (strike,)) if going_on else ((strike,),):
        programs = (EVERYWHERE, front) if known_front else (watched.only_program(strikes),)
        for program in programs:
            if program is None or program not in watched.strikes:
                continue
            begins = strikes in watched.stems[program]
            after = Counting(
                strikes if begins else (), program if begins else None, t_ms + NEXT_STEP_MS, state.last, state.last_ms
            )
            binding = watched.strikes[program].get(strikes)
            if binding is not None:
                return _counted(watched, after, binding, program, t_ms, day)
            if begins:
                return after, []
    # Something else was struck: what comes next does not undo what was before it.
    return replace(state, begun=(), program=None, last=None), []


def _counted(
    watched: Watched, state: Counting, binding: str, program: str, t_ms: float, day: str
) -> tuple[Counting, list[Count]]:
    found = [Count("struck", binding, day)]
    last = state.last
    if binding in watched.undo:
        if last is not None and last[1] == program and t_ms - state.last_ms <= UNDONE_WITHIN_MS:
            found.append(Count("undone", last[0], last[2]))
        return replace(state, last=None), found
    return replace(state, last=(binding, program, day), last_ms=t_ms), found
