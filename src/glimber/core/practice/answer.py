"""The question a prompt asks, the answer the judge gives, and the old habits that may stand between them."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime, timedelta

from msgspec import Struct

from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.slip_kinds import SlipKind
from glimber.core.practice.tries import Change, Outcome, utc

HABIT_DAYS = 90
DEADLINE_MS = 4000.0


class Habit(Struct, frozen=True):
    """A trigger that the wanted command had until a day at most 90 days ago."""

    trigger: Trigger
    until: date


class Question(Struct, frozen=True):
    """One prompt. ``on_board``: answered on that board through the engine; None: on the ordinary keyboard."""

    folio: Folio
    wanted: Binding
    front: str | None = None
    computer: str | None = None
    on_board: str | None = None
    strict: bool = False
    deadline_ms: float = DEADLINE_MS
    habits: tuple[Habit, ...] = ()

    @property
    def program(self) -> str | None:
        if self.front is not None:
            return self.front
        return self.wanted.command.partition("/")[0] if self.wanted.command else None


class Answer(Struct, frozen=True):
    """The judgement of an answer. ``credited``: the binding a hit counts for; ``likely``: several spots send what was seen;
    ``steps_ms``: of a sequence, when each step was struck, from the first key on."""

    outcome: Outcome
    slip: SlipKind | None = None
    pressed: Trigger | None = None
    offset_u: tuple[float, float] | None = None
    neighbour: bool = False
    layer: str | None = None
    gesture: str | None = None
    missing: tuple[str, ...] = ()
    extra: tuple[str, ...] = ()
    would_do: str | None = None
    finger_wanted: str | None = None
    finger_struck: str | None = None
    recall_ms: float | None = None
    motor_ms: float | None = None
    steps_ms: tuple[float, ...] = ()
    credited: str | None = None
    likely: bool = False
    done: int = 0
    habit: Habit | None = None
    words: str = ""


class CannotAnswer(ValueError):
    """The wanted trigger cannot be answered this way; the message says how it can."""


def habits_of(
    folio: Folio, binding: Binding, changes: Iterable[Change], computer: str | None, at: datetime
) -> tuple[Habit, ...]:
    """Former triggers of the binding's command on this computer, changed at most 90 days before ``at``."""
    live = {str(b.trigger) for b in (folio.bindings_of.get(binding.command, ()) if binding.command else (binding,))}
    habits: dict[str, Habit] = {}
    for change in sorted(changes, key=lambda one: utc(one.applied or one.at)):
        same = change.command == binding.command if change.command else change.binding == binding.id
        when = utc(change.applied or change.at)
        old = change.from_trigger
        if change.reverted is not None:
            old, when = change.to_trigger, utc(change.reverted)
        if change.verdict not in ("move", "rebind", "retire") or (
            change.to_trigger is None and change.verdict != "retire"
        ):
            continue
        elsewhere = computer is not None and change.computer != computer
        if not same or elsewhere or old is None or old in live or when > utc(at):
            continue
        if utc(at) - when > timedelta(days=HABIT_DAYS):
            continue
        try:
            habits[old] = Habit(parse_trigger(old, folio.bundles), when.date())
        except NotationError:
            continue  # a trigger of a bundle that is no more
    return tuple(habits.values())
