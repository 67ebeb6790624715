"""One simulated learner: what is known, what a prompt does to it, what it takes, and what would be clean weeks later."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import exp
from random import Random
from typing import Final, Literal

Family = Literal["power", "two-part", "exponential"]
FAMILIES: Final[tuple[Family, ...]] = ("power", "two-part", "exponential")
Start = Literal["some", "nothing", "half", "slow"]
"""What a learner knows before any practice: some of it, nothing, half; "slow": nothing, and a showing sticks half as well."""
DAY_S: Final = 86_400.0
HOUR_S: Final = 3_600.0
DEADLINE_MS: Final = 4_000.0
BETWEEN_S: Final = 0.6
READING_S: Final = 1.4
"""What a slip is looked at for before the wanted one is struck."""


@dataclass(frozen=True)
class Answer:
    """One prompt: what came of it and the seconds it took, the strike that is wanted after a fault among them."""

    outcome: Literal["hit", "slip", "blank"]
    of_hand: bool
    recall_ms: float
    motor_ms: float
    seconds: float


@dataclass
class Item:
    """One binding in the head. ``strength`` and ``half_s`` serve the power law; ``strength`` alone, the part that lasts, the two
    parts; ``half_s`` alone, the stability, the exponential."""

    ease: float
    hand: float
    motor_ms: float
    strength: float = 0.0
    half_s: float = 0.0
    last_s: float | None = None


@dataclass
class Learner:
    """A person of a family with bindings of given uses a day. The same seed is the same person, however they practise."""

    family: Family
    seed: int
    uses: Mapping[str, float]
    start: Start = "some"
    items: dict[str, Item] = field(default_factory=dict)

    def __post_init__(self) -> None:
        random = Random(f"learner {self.family} {self.seed}")
        self.rate = random.lognormvariate(0.0, 0.3) * (0.5 if self.start == "slow" else 1.0)
        self.forgets = random.lognormvariate(0.0, 0.3)
        self.pace = random.lognormvariate(0.0, 0.2)
        clumsy, before = random.uniform(0.01, 0.06), random.uniform(0.05, 0.35)
        before = {"some": before, "half": 0.5}.get(self.start, 0.0)
        for id in self.uses:
            item = Item(random.lognormvariate(0.0, 0.35), min(0.3, clumsy * random.lognormvariate(0.0, 0.6)),
                        random.uniform(100, 450))  # fmt: skip
            if random.random() < before:  # known from earlier years
                item.strength = 0.9 if self.family == "two-part" else 2.5
                item.half_s, item.last_s = 40 * DAY_S * item.ease, 0.0
            self.items[id] = item
        self.random = Random(f"answers {self.family} {self.seed}")

    def knows(self, id: str, at_s: float) -> float:
        """The true chance that it comes to mind at a moment."""
        return self.known(self.items[id], at_s)

    def known(self, item: Item, at_s: float) -> float:
        """The same of a state of a binding."""
        if item.last_s is None:
            return 0.0
        gone = max(0.0, at_s - item.last_s)
        if self.family == "power":
            learnt = 1 - exp(-item.strength)
            return learnt * (1 + gone / item.half_s) ** (-0.4 * self.forgets)
        if self.family == "two-part":
            fresh = 0.9 * exp(-gone * self.forgets / (18 * HOUR_S))
            return 1 - (1 - fresh) * (1 - 0.97 * item.strength * exp(-gone * self.forgets / (90 * DAY_S)))
        return 0.98 * exp(-gone * self.forgets / item.half_s)

    def clean(self, id: str, at_s: float) -> float:
        """The true chance of a clean hit at a moment."""
        return self.knows(id, at_s) * (1 - self.items[id].hand)

    def answer(self, id: str, at_s: float) -> Answer:
        """Answer a prompt, and learn from it; after a fault from the strike that is wanted then."""
        item, known = self.items[id], self.knows(id, at_s)
        recalled = self.random.random() < known
        recall = self.pace * (400 + 900 * (1 - known)) * self.random.lognormvariate(0.0, 0.3)
        motor = item.motor_ms * self.random.lognormvariate(0.0, 0.15)
        by_hand = recalled and self.random.random() < item.hand
        again = READING_S + (500 + item.motor_ms) / 1000
        self.learn(item, known, recalled, at_s)
        if recalled and not by_hand:
            return Answer("hit", False, recall, motor, (recall + motor) / 1000 + BETWEEN_S)
        if not recalled and (self.random.random() < 0.5 or recall > DEADLINE_MS):
            return Answer("blank", False, DEADLINE_MS, 0.0, DEADLINE_MS / 1000 + again + BETWEEN_S)
        recall = min(recall * 1.3, DEADLINE_MS)
        return Answer("slip", by_hand, recall, motor, (recall + motor) / 1000 + again + BETWEEN_S)

    def showing(self, id: str, at_s: float) -> float:
        """See a binding and strike it once; return the seconds that takes."""
        item = self.items[id]
        self.learn(item, self.knows(id, at_s), False, at_s)
        return READING_S + (500 + item.motor_ms) / 1000 + BETWEEN_S

    def learn(self, item: Item, known: float, recalled: bool, at_s: float) -> None:
        """Change a state by one strike."""
        gone = None if item.last_s is None else max(1.0, at_s - item.last_s)
        if self.family == "power":
            item.strength += self.rate * item.ease * (0.45 if recalled else 0.35)
            if gone is None:
                item.half_s = HOUR_S * item.ease
            else:
                item.half_s *= 1 + 0.9 * min(1.0, gone / item.half_s) ** 0.5 * (1.0 if recalled else 0.5)
        elif self.family == "two-part":
            # What is nearly forgotten and comes to mind all the same goes over into what lasts.
            share = (0.5 if recalled else 0.15) * (1.1 - known) * self.rate * item.ease
            item.strength += min(1.0, share) * (1 - item.strength)
        elif gone is None:
            item.half_s = 16 * HOUR_S * item.ease * self.rate
        elif recalled:
            item.half_s *= 1.1 + 2.5 * (1 - known) * self.rate
        else:
            item.half_s = max(16 * HOUR_S * item.ease * self.rate, 0.9 * item.half_s)
        item.half_s = min(item.half_s, 180 * DAY_S)
        item.last_s = at_s


def uses_of(seed: int, bindings: int) -> dict[str, float]:
    """Uses a day of so many bindings: a few are used much, most seldom."""
    random = Random(f"uses {seed}")
    return {f"b{n}": round(random.lognormvariate(1.6, 1.2), 1) for n in range(bindings)}
