"""The simulated person: hands with noise, knowledge that grows and fades, habits, and troubles planted on purpose.

Memory is a plain strength that each success raises and each night lowers, and the hand scatters round the wanted key
like a dart: neither has the form of the model that measures them.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import exp, hypot
from random import Random
from typing import Final

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.perform import CannotPerform, perform
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Sequence, Spot, Trigger, chord_of, strikes_of

SCATTER_U: Final = {"index": 0.19, "middle": 0.19, "ring": 0.22, "little": 0.24, "thumb": 0.15}


class Trouble(Struct, frozen=True):
    """A fault planted in the person: with ``chance`` the hand does one of ``instead`` (None: nothing at all).

    ``slower_ms`` is added to every recall; ``most_tries`` ends the practice of the binding after so many prompts.
    ``reason`` is what the verdict should find.
    """

    binding: str
    reason: str
    chance: float = 0.0
    instead: tuple[Trigger | None, ...] = ()
    weights: tuple[float, ...] = ()
    slower_ms: float = 0.0
    most_tries: int | None = None


class Person(Struct, dict=True):
    """One simulated person. The same seed gives the same practice."""

    folio: Folio
    seed: int = 7
    troubles: Mapping[str, Trouble] = field(default_factory=dict)
    strength: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.random = Random(self.seed)

    def sleep(self) -> None:
        """A night passes: what is weak fades most."""
        for id, strength in self.strength.items():
            self.strength[id] = strength * (0.80 + 0.17 * min(1.0, strength / 3))

    def learn(self, id: str, clean: bool) -> None:
        """Every strike of the right trigger teaches something; a clean recall teaches more."""
        self.strength[id] = min(4.0, self.strength.get(id, 0.0) + (0.34 if clean else 0.22))

    def knows(self, id: str) -> float:
        """Chance that the trigger comes to mind now."""
        return 1 - 0.75 * exp(-1.9 * self.strength.get(id, 0.0)) - 0.01

    def answer(self, binding: Binding) -> tuple[list[Event], float]:
        """Key events of an answer to a prompt shown at t = 0, and the recall in ms; no events: nothing came to mind."""
        known = self.knows(binding.id)
        recall = 420 + 1500 * (1 - known) * self.random.random() + self.random.lognormvariate(5.3, 0.35)
        trouble = self.troubles.get(binding.id)
        if trouble is not None:
            recall += trouble.slower_ms
            if trouble.instead and self.random.random() < trouble.chance:
                wrong = self.random.choices(trouble.instead, trouble.weights or None)[0]
                return self._do(wrong, recall * 1.1), recall * 1.1
        if self.random.random() > known:
            wrong = self._mistaken(binding)
            return self._do(wrong, recall * 1.6), recall * 1.6
        return self._do(self._scattered(binding.trigger), recall), recall

    def forced(self, binding: Binding) -> list[Event]:
        """Return the right strike after a slip."""
        return self._do(binding.trigger, 500 + 400 * self.random.random())

    def _do(self, trigger: Trigger | None, begin: float) -> list[Event]:
        if trigger is None:
            return []
        try:
            return perform(self.folio, trigger, begin, pace=0.85 + 0.3 * self.random.random())
        except CannotPerform:
            return []

    def _mistaken(self, binding: Binding) -> Trigger | None:
        """Return what comes to mind when the right trigger does not: nothing, a sibling's key, or any of the layer's."""
        if self.random.random() < 0.45:
            return None
        command = self.folio.command_of(binding)
        same = [
            other
            for other in self.folio.drillable()
            if other.id != binding.id and type(other.trigger) is type(binding.trigger) and _alike(other, binding)
        ]
        siblings = [o for o in same if (c := self.folio.command_of(o)) and command and c.group == command.group]
        pool = siblings if siblings and self.random.random() < 0.6 else same
        return self.random.choice(pool).trigger if pool else None

    def _scattered(self, trigger: Trigger) -> Trigger:
        """Return the trigger with its last key struck where the hand really lands."""
        if isinstance(trigger, Spot):
            board = self.folio.boards[trigger.board]
            if len(trigger.keys) > 1 or trigger.keys[0] not in board.by_id:
                return trigger
            return replace(trigger, keys=(self._landed(board, trigger.keys[0]),))
        strikes = strikes_of(trigger, self.folio.legend, self.folio.bundles)
        board = self.folio.keyboard
        if not strikes or len(strikes) != 1 or strikes[0][1] not in board.by_id:
            return trigger
        landed = self._landed(board, strikes[0][1])
        if landed == strikes[0][1]:
            return trigger
        return Sequence((chord_of((strikes[0][0], landed), self.folio.legend),))

    def _landed(self, board: Board, id: str) -> str:
        key = board.by_id[id]
        scatter = SCATTER_U[key.digit or "index"]
        x = key.centre[0] + self.random.gauss(0, scatter) * 0.95
        y = key.centre[1] + self.random.gauss(0, scatter) * 0.75
        if abs(x - key.centre[0]) <= key.w / 2 and abs(y - key.centre[1]) <= key.h / 2:
            return id
        near = [board.by_id[other] for other in board.neighbours[id]]
        return min([key, *near], key=lambda k: (hypot(x - k.centre[0], y - k.centre[1]), k.id)).id


def _alike(one: Binding, other: Binding) -> bool:
    """Of the same board and layer, or both of the ordinary keyboard."""
    a, b = one.trigger, other.trigger
    if isinstance(a, Spot) and isinstance(b, Spot):
        return (a.board, a.layer) == (b.board, b.layer)
    return True
