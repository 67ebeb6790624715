"""Days of practice by the simulated person, through the same drill and judge as the window's."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from random import Random

from glimber.core.drill import machine as drill
from glimber.core.drill.judge import Judge, listener_for
from glimber.core.drill.machine import Drill
from glimber.core.drill.tries import Change, KeyEvents, Record, Round, Try
from glimber.core.folio.folio import Folio
from glimber.standin.person import Person
from glimber.store.practice.uuid7 import uuid7


def seeded_ids(seed: int) -> Callable[[datetime], str]:
    """Ids that are the same for the same seed and order of calls."""
    random = Random(seed)
    return lambda at: uuid7(at, random.getrandbits(74))


def play_round(
    person: Person,
    folio: Folio,
    bindings: Sequence[str],
    at: datetime,
    computer: str,
    changes: Sequence[Change],
    new_id: Callable[[datetime], str],
    seed: int,
) -> tuple[list[Record], datetime]:
    """One round from ``at``: its records, and the moment it ended."""
    going = drill.begin(folio, bindings, "press", computer, changes, at, seed, new_id)
    records: list[Record] = []
    now = at
    for _ in range(90):
        if going.done:
            break
        going.next_prompt()
        now += timedelta(milliseconds=400)
        now = _prompt(person, going, now, records)
    whole = Round(going.round_id, at, computer, "press", tuple(bindings), now)
    return [whole, *records], now


def _prompt(person: Person, going: Drill, now: datetime, records: list[Record]) -> datetime:
    """One prompt, and the strike that must follow a slip."""
    binding = going.binding
    assert binding is not None
    forced = False
    while True:
        events = person.forced(binding) if forced else person.answer(binding)[0]
        question = going.question(now)
        judge = Judge(question, listener_for(question))
        answer = next((found for event in events if (found := judge.feed(event))), None) or judge.settle()
        took = (answer.recall_ms or going.deadline_ms) + (answer.motor_ms or 0.0)
        now += timedelta(milliseconds=took + (0 if answer.outcome == "hit" else 1400))
        one = going.record(answer, now.astimezone(UTC))
        kept = tuple((event.t, event.kind, event.key) for event in events)
        records += [one, KeyEvents(going.new_id(now), going.round_id, now, question.on_board, kept)]
        person.learn(binding.id, clean=answer.outcome == "hit" and not forced)
        if not going.forced:
            return now
        forced = True


def tries_of(records: Sequence[Record]) -> list[Try]:
    """The tries among records."""
    return [record for record in records if isinstance(record, Try)]
