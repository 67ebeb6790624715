"""Days of practice by the simulated person, through the same drill and judge as the window's."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Final

from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.model.folio import Folio
from glimber.core.practice.inputs import Commit, Committed, GoOn, Input, Shown, Struck
from glimber.core.practice.machine import Drill, begin, step
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.tries import Change, Record, Round, Try
from glimber.standin.person import Person
from glimber.store.practice.uuid7 import uuid7

MOST_PROMPTS: Final = 90
MOST_FORCED: Final = 40
"""Limit for the corrected strike after a slip; a hand that needs longer cannot do it at all."""
BETWEEN_MS: Final = 400.0
"""From an answer to the paint of the next prompt, for a person who looks up."""
READING_MS: Final = 1400.0
"""Time for reading what was wrong before the corrected strike."""


def seeded_ids(seed: int) -> Callable[[datetime], str]:
    """Return ids that are the same for the same seed and order of calls."""
    random = Random(seed)
    return lambda at: uuid7(at, random.getrandbits(74))


def play_round(
    person: Person,
    folio: Folio,
    plan: RoundPlan,
    at: datetime,
    computer: str,
    changes: Sequence[Change],
    new_id: Callable[[datetime], str],
    seed: int,
) -> tuple[list[Record], datetime]:
    """Return one round from ``at``: its records, and the moment it ended."""
    playing = _Playing(person, begin(folio, plan, computer, changes, at, seed, new_id), at)
    for _ in range(MOST_PROMPTS):
        if not playing.prompt():
            break
    whole = Round(playing.drill.round_id, at, computer, plan.options.mode, tuple(plan.bindings), playing.now)
    return [whole, *playing.records], playing.now


class _Playing:
    """The drill's machine with the person's hands at it and a clock of its own; every commit succeeds."""

    def __init__(self, person: Person, drill: Drill, at: datetime) -> None:
        self.person, self.drill = person, drill
        self.began, self.t = at, 0.0
        self.records: list[Record] = []
        self._do(GoOn())

    @property
    def now(self) -> datetime:
        return self.began + timedelta(milliseconds=self.t)

    def _do(self, what: Input) -> bool:
        """Step the machine; whether that made a try."""
        self.drill, effects = step(self.drill, what, self.t, self.now.astimezone(UTC))
        for effect in effects:
            if isinstance(effect, Commit):
                self.records += effect.records
                self._do(Committed())
                return True
        return False

    def prompt(self) -> bool:
        """Return one prompt, and the strikes that must follow a slip; False when the round is done."""
        binding = self.drill.binding
        if self.drill.done or binding is None:
            return False
        self.t += BETWEEN_MS
        forced = False
        for _ in range(MOST_FORCED):
            events = self.person.forced(binding) if forced else self.person.answer(binding)[0]
            clean = self._answer(events)
            self.person.learn(binding.id, clean=clean and not forced)
            if not self.drill.forced:
                return True
            forced = True
        raise RuntimeError(f"{binding.id}: the stand-in person cannot strike {binding.trigger}")

    def _answer(self, events: Sequence[Event]) -> bool:
        """Carry an answer out, and let time pass to its end; whether it was a clean hit."""
        begin, count = self.t, len(self.drill.tries)
        board = self.drill.question.on_board if self.drill.question is not None else None
        self._do(Shown())
        for event in events:
            self.t = begin + event.t
            self._do(Struck(replace(event, t=self.t), board=board))
        while len(self.drill.tries) == count:
            due = self.drill.wake_ms()
            if due is None:
                raise RuntimeError(
                    f"{self.drill.state.asked}: the person's hand ended without the strike that is waited for"
                )
            self.t = max(self.t, due + 1e-6)
            self._do(None)
        hit = self.drill.tries[-1].outcome == "hit"
        if not hit:
            self.t += READING_MS
        return hit


def tries_of(records: Sequence[Record]) -> list[Try]:
    """Return the tries among records."""
    return [record for record in records if isinstance(record, Try)]
