"""How often what was planted is what is found: by reason, with intervals, and what the promised gains are truly worth."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import cache
from math import sqrt
from typing import Final

from benchmarks.figures import Figure, office
from benchmarks.people.person import NOW, TROUBLES, Known, Person
from benchmarks.people.sorts import SORTS
from glimber.core.decide.verdict import Verdict, verdicts
from glimber.core.model.folio import Folio
from glimber.core.practice.log import Practice
from glimber.core.stats.measures import measure

EACH: Final = 26
EARLY: Final = 60
LATE: Final = 120
LATE_ONES: Final = ("stuck", "still-learning")
QUIET: Final = ("solid", "long-reach", "unused", "thin-evidence")


@dataclass
class Tally:
    """Successes of trials."""

    right: int = 0
    of: int = 0

    def add(self, right: bool) -> None:
        self.right += right
        self.of += 1

    @property
    def share(self) -> float:
        return self.right / self.of if self.of else float("nan")

    @property
    def interval(self) -> tuple[float, float]:
        """The 95 % interval of Wilson (1927)."""
        if not self.of:
            return 0.0, 1.0
        z, n, p = 1.96, self.of, self.share
        middle, half = p + z * z / (2 * n), z * sqrt(p * (1 - p) / n + z * z / (4 * n * n))
        return (middle - half) / (1 + z * z / n), (middle + half) / (1 + z * z / n)


@dataclass
class Score:
    """What was found of one person, or of all."""

    named: dict[str, Tally] = field(default_factory=lambda: defaultdict(Tally))
    called: dict[tuple[str, str], int] = field(default_factory=lambda: defaultdict(int))
    alarms: dict[str, Tally] = field(default_factory=lambda: defaultdict(Tally))
    spot: Tally = field(default_factory=Tally)
    steady: Tally = field(default_factory=Tally)
    learning: Tally = field(default_factory=Tally)
    better: Tally = field(default_factory=Tally)
    predicted_s: float = 0.0
    true_s: float = 0.0

    def add(self, other: Score) -> None:
        for mine, theirs in ((self.named, other.named), (self.alarms, other.alarms)):
            for key, tally in theirs.items():
                mine[key].right += tally.right
                mine[key].of += tally.of
        for key, count in other.called.items():
            self.called[key] += count
        for name in ("spot", "steady", "learning", "better"):
            mine_, theirs_ = getattr(self, name), getattr(other, name)
            mine_.right += theirs_.right
            mine_.of += theirs_.of
        self.predicted_s += other.predicted_s
        self.true_s += other.true_s


def first_tries(practice: Practice, count: int) -> Practice:
    """The practice until every binding has so many tries."""
    seen: dict[str, int] = defaultdict(int)
    kept = []
    for one in practice.tries:
        seen[one.binding] += 1
        if seen[one.binding] <= count:
            kept.append(one)
    return Practice(tuple(kept), practice.changes)


def score(folio: Folio, person: Person) -> Score:
    """What is found of a person after 60 tries of each binding and, of what lasts or not, after 120."""
    found, practice = Score(), person.practice()
    for tries in (EARLY, LATE):
        if tries > person.sort.tries:
            continue
        ledger = measure(folio, first_tries(practice, tries), NOW, "bench")
        said = verdicts(ledger, computer="bench", only=list(person.known))
        for id, known in person.known.items():
            _add(found, person, known, said[id], tries)
    return found


def _add(found: Score, person: Person, known: Known, verdict: Verdict, tries: int) -> None:
    trouble, early = known.trouble, tries == EARLY
    if trouble is None and early:
        found.alarms[person.sort.name].add(verdict.reason not in QUIET)
        found.called["none", verdict.reason] += 1
    elif trouble is not None and early != (trouble in LATE_ONES):
        found.named[trouble].add(verdict.reason == trouble)
        found.called[trouble, verdict.reason] += 1
    if trouble == "hand-goes-elsewhere" and early:
        found.spot.add(verdict.row.place == str(known.to[0]))
    if verdict.row.posterior is not None and early:
        low, high = verdict.row.posterior.interval()
        truth = person.clean(known, tries)
        moving = known.unknown(tries - 20) - known.unknown(tries) > 0.02
        (found.learning if moving or trouble == "still-learning" else found.steady).add(low <= truth <= high)
    if verdict.best is not None and verdict.best.gain.p_better >= 0.8 and early:
        row, days = verdict.row, 56
        args = (row.uses_week / 7, days, row.recovery_s, row.blank_s, tries)
        saved = person.cost_s(known, None, *args) - person.cost_s(known, verdict.best.to, *args)
        found.better.add(saved > 0)
        found.predicted_s += verdict.best.gain.total_s
        found.true_s += saved


@cache
def _folio() -> Folio:
    from glimber.store.toml.reading import open_folio

    return open_folio(office()).folio


def _of(sort: int, numbers: Sequence[int]) -> Score:
    whole, folio = Score(), _folio()
    for number in numbers:
        whole.add(score(folio, Person(folio, SORTS[sort], number)))
    return whole


def all_people(each: int = EACH) -> Score:
    """Every sort, so many of each, on all processors."""
    whole = Score()
    with ProcessPoolExecutor() as pool:
        for one in pool.map(
            _of, *zip(*((s, list(range(k, each, 4))) for s in range(len(SORTS)) for k in range(4)), strict=True)
        ):
            whole.add(one)
    return whole


def figures() -> list[Figure]:
    """What script/bench people prints."""
    found = all_people()
    return list(_figures(found))


def _figures(found: Score) -> Iterable[Figure]:
    early = Tally()
    for trouble in TROUBLES:
        tally, late = found.named[trouble], trouble in LATE_ONES
        low, high = tally.interval
        if not late:
            early.right, early.of = early.right + tally.right, early.of + tally.of
        others = [
            (n, reason) for (planted, reason), n in found.called.items() if planted == trouble and reason != trouble
        ]
        count, most = max(others, default=(0, "nothing else"))
        note = f"{100 * low:.0f} to {100 * high:.0f} of {tally.of}; else mostly {most}, {count} times"
        name = f"{trouble} named right after {LATE if late else EARLY} tries"
        yield Figure(name, 100 * tally.share, "%", 80 if late else None, True, note)
    name = f"planted reasons named right after {EARLY} tries"
    yield Figure(name, 100 * early.share, "%", 93, True, f"of {early.of}")
    whole = Tally(sum(t.right for t in found.alarms.values()), sum(t.of for t in found.alarms.values()))
    by_sort = ", ".join(f"{sort} {100 * tally.share:.1f}" for sort, tally in found.alarms.items())
    note = f"of {whole.of}; {by_sort}"
    yield Figure("wrong alarms on bindings without a trouble", 100 * whole.share, "%", 3, note=note)
    yield _of_all("where the hand goes, found with its place", found.spot, 90)
    yield _of_all("90 % interval of accuracy holds the truth, steady", found.steady, 87)
    yield _of_all("90 % interval of accuracy holds the truth, learning", found.learning, 80)
    yield _of_all("changes with P(better) of 0.8 and more that are better", found.better, 85)
    ratio = found.predicted_s / found.true_s if found.true_s else float("nan")
    yield Figure("predicted gain over true gain", ratio, "x", 1.25, note="at least 0.8")


def _of_all(name: str, tally: Tally, least: float) -> Figure:
    return Figure(name, 100 * tally.share, "%", least, True, f"of {tally.of}")
