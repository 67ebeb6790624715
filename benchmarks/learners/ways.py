"""The simpler ways of spending the same minutes: prompts drawn at random, blocks by turns, and by how much a binding is used."""

from __future__ import annotations

from random import Random
from typing import Final

from benchmarks.learners.learner import Answer, Learner

MINUTES: Final = 3.0
A_BLOCK: Final = 5
HITS: Final = 5


def days_s() -> list[float]:
    """When the rounds are, in seconds: two working weeks, nine in the morning."""
    return [day * 86_400.0 + 9 * 3_600.0 for week in (0, 7) for day in range(week, week + 5)]


class Way:
    """A way to choose prompts. ``next`` is asked before each, ``told`` after."""

    name = ""

    def begin(self, learner: Learner, random: Random) -> None:
        self.learner, self.random, self.last = learner, random, ""
        self.ids = list(learner.uses)

    def next(self) -> str:
        raise NotImplementedError

    def told(self, id: str, answer: Answer) -> None:
        self.last = id

    def _draw(self, ids: list[str], weights: list[float] | None = None) -> str:
        """One of these, never the same twice running where there is another."""
        while True:
            id = self.random.choices(ids, weights)[0]
            if id != self.last or len(ids) == 1:
                return id


class AtRandom(Way):
    name = "at random"

    def next(self) -> str:
        return self._draw(self.ids)


class ByUse(Way):
    name = "by use"

    def next(self) -> str:
        return self._draw(self.ids, [self.learner.uses[id] for id in self.ids])


class Blocks(Way):
    """Five bindings, each until it has five clean hits; then the next five, round and round, from day to day."""

    name = "blocks of five"

    def begin(self, learner: Learner, random: Random) -> None:
        super().begin(learner, random)
        self.random.shuffle(self.ids)
        self.place, self.left = 0, dict[str, int]()
        self._block()

    def _block(self) -> None:
        block = [self.ids[(self.place + n) % len(self.ids)] for n in range(A_BLOCK)]
        self.place += A_BLOCK
        self.left = dict.fromkeys(block, HITS)

    def next(self) -> str:
        return self._draw(list(self.left))

    def told(self, id: str, answer: Answer) -> None:
        super().told(id, answer)
        if answer.outcome == "hit":
            self.left[id] -= 1
            if not self.left[id]:
                del self.left[id]
        if not self.left:
            self._block()


WAYS: Final = (AtRandom, Blocks, ByUse)


def practise(learner: Learner, way: Way) -> float:
    """Two weeks of rounds; uses a week that would be clean two weeks after the last one."""
    way.begin(learner, Random(f"way {learner.family} {learner.seed}"))
    end = 0.0
    for began in days_s():
        now = began
        while now - began < MINUTES * 60:
            id = way.next()
            answer = learner.answer(id, now)
            now += answer.seconds
            way.told(id, answer)
        end = now
    return clean_uses(learner, end)


def clean_uses(learner: Learner, end_s: float) -> float:
    """Uses a week that would be clean 14 days after a moment."""
    later = end_s + 14 * 86_400.0
    return sum(5 * uses * learner.clean(id, later) for id, uses in learner.uses.items())
