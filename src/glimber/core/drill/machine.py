"""The drill: rounds of prompts, their judging and the records they leave. One path for the window, replay and stand-in.

Nothing here reads a clock or draws an id: moments and ids come with the calls.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from random import Random

from glimber.core.drill import round as rounds
from glimber.core.drill.answer import Answer, Question, habits_of
from glimber.core.drill.tries import AnswerMode, Change, Try
from glimber.core.folio.folio import Binding, Folio
from glimber.core.notation.keys import Spot

NewId = Callable[[datetime], str]


@dataclass
class Drill:
    """A round under way. ``folio`` stays as it was at its beginning."""

    folio: Folio
    round_id: str
    mode: AnswerMode
    computer: str
    changes: Sequence[Change]
    random: Random
    new_id: NewId
    state: rounds.RoundState
    deadline_ms: float = 4000.0
    strict: bool = False
    tries: list[Try] = field(default_factory=list)
    forced: bool = False
    aids: int = 0

    @property
    def binding(self) -> Binding | None:
        return self.folio.bindings.get(self.state.asked) if self.state.asked else None

    @property
    def done(self) -> bool:
        return self.state.done and not self.forced

    def next_prompt(self) -> Binding:
        """Ask for the next binding. Raises ValueError when the round is done."""
        self.state = rounds.ask(self.state, self.random)
        self.forced, self.aids = False, 0
        binding = self.binding
        assert binding is not None
        return binding

    def question(self, at: datetime) -> Question:
        """The present prompt as the judge takes it: spots on their own board, the rest on the ordinary keyboard."""
        binding = self.binding
        assert binding is not None
        board = binding.trigger.board if isinstance(binding.trigger, Spot) else None
        return Question(
            self.folio,
            binding,
            computer=self.computer,
            on_board=board,
            strict=self.strict,
            deadline_ms=self.deadline_ms,
            habits=habits_of(self.folio, binding, self.changes, self.computer, at),
        )

    def record(self, answer: Answer, at: datetime, void_why: str | None = None) -> Try:
        """The answer as a try, and the round moved on by it. After a slip or blank the wanted one must be struck."""
        binding = self.binding
        assert binding is not None
        first = not self.forced
        credited = answer.credited if answer.outcome == "hit" else None
        struck = self.folio.bindings[credited] if credited else binding
        outcome = "void" if void_why else answer.outcome
        one = Try(
            self.new_id(at), self.round_id, self.state.nth, at, self.computer, struck.id, str(struck.trigger), self.mode,
            outcome, self.strict, answer.slip if outcome == "slip" else None,
            None if answer.pressed is None else str(answer.pressed), answer.would_do, answer.offset_u, answer.recall_ms,
            answer.motor_ms, self.deadline_ms, first, first and self._is_cold(struck.id), self.aids, void_why,
        )  # fmt: skip
        self.tries.append(one)
        if outcome == "void":
            self.state = replace(self.state, asked=None)
        elif first:
            self.state = rounds.answered(self.state, outcome == "hit", credited)
            self.forced = outcome != "hit"
        elif outcome == "hit":
            self.forced = False
        return one

    def _is_cold(self, binding: str) -> bool:
        return not any(one.binding == binding and one.first and one.outcome != "void" for one in self.tries)


def begin(folio: Folio, bindings: Sequence[str], mode: AnswerMode, computer: str, changes: Sequence[Change],
          at: datetime, seed: int, new_id: NewId) -> Drill:  # fmt: skip
    """A drill of these bindings, before its first prompt."""
    return Drill(folio, new_id(at), mode, computer, changes, Random(seed), new_id, rounds.begin(bindings))
