"""Other ways of spending the same minutes: by how much a binding is used, in turn, and by somebody who knows the true memory."""

from __future__ import annotations

from copy import copy
from random import Random
from typing import Final

from benchmarks.learners.learner import DAY_S, Answer, Item, Learner

MINUTES: Final = 3.0
HIT_S: Final = 1.6
MISS_S: Final = 4.5
TARGETS: Final = (DAY_S, 14 * DAY_S)
NOT_AGAIN: Final = 4


def days_s() -> list[float]:
    """When the rounds are, in seconds: fourteen days, nine in the morning."""
    return [day * DAY_S + 9 * 3_600.0 for day in range(14)]


class Way:
    """A way to choose prompts. ``next`` is asked before each, ``after`` once it is answered."""

    name = ""

    def begin(self, learner: Learner, random: Random) -> None:
        self.learner, self.random, self.last = learner, random, list[str]()
        self.ids = sorted(learner.uses, key=lambda id: -learner.uses[id])

    def next(self, at_s: float) -> str:
        raise NotImplementedError

    def after(self, id: str, answer: Answer) -> None:
        self.last = [*self.last, id][-NOT_AGAIN:]


class ByUse(Way):
    """Each prompt drawn by uses, never the same twice running."""

    name = "each prompt drawn by uses"

    def next(self, at_s: float) -> str:
        weights = [0.0 if self.last[-1:] == [id] else self.learner.uses[id] for id in self.ids]
        return self.random.choices(self.ids, weights)[0]


class InTurn(Way):
    """The most used first, each until two clean hits in a row, then the next; at the end from the beginning."""

    name = "in turn, most used first"

    def begin(self, learner: Learner, random: Random) -> None:
        super().begin(learner, random)
        self.place, self.clean = 0, 0

    def next(self, at_s: float) -> str:
        return self.ids[self.place]

    def after(self, id: str, answer: Answer) -> None:
        super().after(id, answer)
        self.clean = self.clean + 1 if answer.outcome == "hit" else 0
        if self.clean == 2:
            self.place, self.clean = (self.place + 1) % len(self.ids), 0


class Oracle(Way):
    """Whoever knows the true memory: most worth a second, each coming again in two days and counted one and 14 days later."""

    name = "oracle"

    def begin(self, learner: Learner, random: Random) -> None:
        super().begin(learner, random)
        self.index: dict[str, float] = {}

    def next(self, at_s: float) -> str:
        for id in [one for one in self.ids if one not in self.index]:
            self.index[id] = self._value(id, at_s)
        return max((id for id in self.ids if id not in self.last), key=lambda id: self.index[id])

    def after(self, id: str, answer: Answer) -> None:
        super().after(id, answer)
        self.index.pop(id, None)

    def new_round(self) -> None:
        """Let a night pass: everything is worked out again."""
        self.index.clear()

    def _value(self, id: str, at_s: float) -> float:
        learner, item = self.learner, self.learner.items[id]
        known = learner.known(item, at_s)
        struck = sum(
            chance * self._later(self._after(item, known, recalled, at_s), at_s)
            for recalled, chance in ((True, known), (False, 1 - known))
        )
        gain = struck - self._later(item, at_s)
        seconds = known * HIT_S + (1 - known) * MISS_S
        return learner.uses[id] * (1 - item.hand) * gain / seconds

    def _after(self, item: Item, known: float, recalled: bool, at_s: float) -> Item:
        other = copy(item)
        self.learner.learn(other, known, recalled, at_s)
        return other

    def _later(self, item: Item, at_s: float) -> float:
        again = at_s + 2 * DAY_S
        known = self.learner.known(item, again)
        found = 0.0
        for recalled, chance in ((True, known), (False, 1 - known)):
            then = self._after(item, known, recalled, again)
            found += chance * sum(self.learner.known(then, again + gap) for gap in TARGETS) / len(TARGETS)
        return found


def practise(learner: Learner, way: Way) -> float:
    """Two weeks of rounds; uses a week that would be clean two weeks after the last one."""
    way.begin(learner, Random(f"way {learner.family} {learner.seed}"))
    end = 0.0
    for began in days_s():
        now = began
        if isinstance(way, Oracle):
            way.new_round()
        while now - began < MINUTES * 60:
            id = way.next(now)
            answer = learner.answer(id, now)
            now += answer.seconds
            way.after(id, answer)
        end = now
    return clean_uses(learner, end)


def clean_uses(learner: Learner, end_s: float) -> float:
    """Uses a week that would be clean 14 days after a moment."""
    later = end_s + 14 * DAY_S
    return sum(5 * uses * learner.clean(id, later) for id, uses in learner.uses.items())
