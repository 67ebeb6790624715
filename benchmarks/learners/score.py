"""What the planner's minutes bring, beside the simpler ways: uses a week that would be clean two weeks after the last round."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Final

from benchmarks.figures import Figure, office
from benchmarks.learners.learner import FAMILIES, Answer, Family, Learner, uses_of
from benchmarks.learners.ways import MINUTES, WAYS, clean_uses, days_s, practise
from glimber.core.decide.plan import budget_of, made_anew
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Command, Folio, Program, Settings
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice import round as rounds
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.measures import measure

EACH: Final = 200
BEGAN: Final = datetime(2026, 11, 2, tzinfo=UTC)
_HELD: Final = ("Ctrl+Alt+", "Ctrl+Shift+", "Alt+Shift+", "Super+Alt+", "Super+Ctrl+")
_KEYS: Final = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def folio_of(uses: dict[str, float], boards: dict[str, Board]) -> Folio:
    """A program with a chord for each binding, and its uses a day as set figures."""
    triggers = [parse_trigger(held + key, {}) for held in _HELD for key in _KEYS]
    commands = {
        id: Command(id, "shoalwright", f"Command {id}", uses_per_day=used, slow_way=("menu Chart", "click"))
        for id, used in uses.items()
    }
    bindings = tuple(Binding(id, trigger, f"shoalwright/{id}") for id, trigger in zip(uses, triggers, strict=False))
    program = Program("shoalwright", "Shoalwright", commands=commands, bindings=bindings)
    return Folio(Settings("Learners"), boards, programs={"shoalwright": program})


def planned(learner: Learner, folio: Folio) -> float:
    """Two weeks of rounds as the planner makes them; uses a week that would be clean two weeks after the last one."""
    tries: list[Try] = []
    end = 0.0
    for day, began in enumerate(days_s()):
        at = BEGAN + timedelta(seconds=began)
        ledger = measure(folio, Practice(tuple(tries)), at, "bench")
        budget = budget_of(ledger)
        untried = {id for id, row in ledger.rows.items() if not row.count}
        state = rounds.begin([], {}).with_hits(made_anew(budget, MINUTES, untried, (), 0.0))
        now, mine = began, list[Try]()
        while not state.done:
            state = rounds.ask(state, Random(f"{learner.seed} {day} {state.nth}"))
            id = state.asked or ""
            answer = learner.answer(id, now)
            now += answer.seconds
            mine += _tries(folio, id, answer, f"round-{day}", state.nth, BEGAN + timedelta(seconds=now), mine)
            state = rounds.answered(state, answer.outcome == "hit")
            state = state.with_hits(made_anew(budget, MINUTES, untried, mine, now - began))
        tries += mine
        end = now
    return clean_uses(learner, end)


def _tries(
    folio: Folio, id: str, answer: Answer, round: str, nth: int, at: datetime, before: Sequence[Try]
) -> list[Try]:
    """The try of an answer, and the strike that had to follow a fault."""
    trigger = str(folio.bindings[id].trigger)
    cold = not any(one.binding == id for one in before)
    blank = answer.outcome == "blank"
    first = Try(
        f"{round}-{nth}", round, nth, at - timedelta(seconds=1), "bench", id, trigger, "press", answer.outcome,
        slip=("neighbour" if answer.of_hand else "stray") if answer.outcome == "slip" else None,
        recall_ms=None if blank else answer.recall_ms, motor_ms=None if blank else answer.motor_ms, cold=cold,
    )  # fmt: skip
    if answer.outcome == "hit":
        return [first]
    forced = Try(f"{round}-{nth}-forced", round, nth, at, "bench", id, trigger, "press", "hit",
                 recall_ms=500.0, motor_ms=answer.motor_ms, first=False)  # fmt: skip
    return [first, forced]


def _one(what: tuple[Family, int]) -> list[float]:
    """Clean uses a week of one person: by the planner, then by each of the simpler ways."""
    from glimber.store.toml.reading import open_folio

    family, seed = what
    uses = uses_of(seed)
    folio = folio_of(uses, dict(open_folio(office()).folio.boards))
    found = [planned(Learner(family, seed, uses), folio)]
    return found + [practise(Learner(family, seed, uses), way()) for way in WAYS]


def ratios(family: Family, each: int = EACH) -> dict[str, list[float]]:
    """The planner's clean uses over those of each simpler way, person by person."""
    office()
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(_one, [(family, seed) for seed in range(each)], chunksize=5))
    return {way.name: sorted(row[0] / max(row[n + 1], 1e-9) for row in rows) for n, way in enumerate(WAYS)}


def figures() -> list[Figure]:
    """For each family and way: the mean ratio, held to a lower 90 % bound of at least 1.05, with the spread over people."""
    found = []
    for family in FAMILIES:
        for name, values in ratios(family).items():
            mean = sum(values) / len(values)
            spread = (sum((value - mean) ** 2 for value in values) / (len(values) - 1)) ** 0.5
            low = mean - 1.2816 * spread / len(values) ** 0.5
            tenth, last = values[len(values) // 10], values[-len(values) // 10]
            note = f"mean {mean:.2f}, a tenth of the people under {tenth:.2f}, a tenth over {last:.2f}"
            found.append(Figure(f"{family}: clean uses against {name}", low, "times", 1.05, least=True, note=note))
    return found
