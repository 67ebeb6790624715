"""What the rounds bring, as a share of what somebody gains who knows the true memory; and how a beginner's first rounds go."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Final

from benchmarks.figures import Figure, office
from benchmarks.learners.learner import FAMILIES, Answer, Family, Learner, Start, uses_of
from benchmarks.learners.ways import MINUTES, ByUse, InTurn, Oracle, Way, clean_uses, days_s, practise
from glimber.core.decide.next_round import pacing_of
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Command, Folio, Program, Settings
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Try
from glimber.core.stats.measures import measure

EACH: Final = 8
SIZES: Final = (40, 120)
LIMITS: Final = {(40, "power"): 0.95, (40, "two-part"): 0.95, (40, "exponential"): 0.86,
                 (120, "power"): 0.97, (120, "two-part"): 0.91, (120, "exponential"): 0.74}  # fmt: skip
"""The shares of docs/measures.md less .03."""
STARTS: Final[tuple[Start, ...]] = ("nothing", "half", "slow")
FIRST_ROUNDS: Final = 3
BEGAN: Final = datetime(2026, 11, 2, tzinfo=UTC)
RIVALS: Final[tuple[Callable[[], Way], ...]] = (ByUse, InTurn)
_HELD: Final = ("Ctrl+Alt+", "Alt+Shift+", "Super+Alt+", "Super+Shift+", "Ctrl+Alt+Shift+")
_KEYS: Final = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def folio_of(uses: dict[str, float], boards: dict[str, Board]) -> Folio:
    """A program with a chord for each binding that nobody knows beforehand, and its uses a day as set figures."""
    triggers = [parse_trigger(held + key, {}) for held in _HELD for key in _KEYS]
    commands = {
        id: Command(id, "shoalwright", f"Command {id}", uses_per_day=used, slow_way=("menu Chart", "click"))
        for id, used in uses.items()
    }
    bindings = tuple(Binding(id, trigger, f"shoalwright/{id}") for id, trigger in zip(uses, triggers, strict=False))
    program = Program("shoalwright", "Shoalwright", commands=commands, bindings=bindings)
    return Folio(Settings("Learners"), boards, programs={"shoalwright": program})


def planned(learner: Learner, folio: Folio, rounds: int | None = None) -> tuple[float, list[float]]:
    """Rounds as Glimber asks them; uses a week that would be clean two weeks later, and the clean share of each round."""
    tries: list[Try] = []
    shares, end = list[float](), 0.0
    for day, began in enumerate(days_s()[:rounds]):
        at = BEGAN + timedelta(seconds=began)
        ledger = measure(folio, Practice(tuple(tries)), at, "bench")
        pacing, now, mine = pacing_of(ledger, list(ledger.rows)), began, list[Try]()
        while now - began < MINUTES * 60 and (prompt := pacing.next()) is not None:
            id = prompt.binding
            if prompt.shown:
                took = learner.showing(id, now)
                pacing.answer(prompt, "hit", None, took)
            else:
                answer = learner.answer(id, now)
                took = answer.seconds
                when = BEGAN + timedelta(seconds=now + took)
                mine += _tries(folio, id, answer, f"round-{day}", len(mine), when, mine)
                slip = ("neighbour" if answer.of_hand else "stray") if answer.outcome == "slip" else None
                pacing.answer(prompt, answer.outcome, slip, took)  # type: ignore[arg-type]
            now += took
        firsts = [one for one in mine if one.first]
        shares.append(sum(one.outcome == "hit" for one in firsts) / max(1, len(firsts)))
        tries += mine
        end = now
    return clean_uses(learner, end), shares


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


def _boards() -> dict[str, Board]:
    from glimber.store.toml.reading import open_folio

    return dict(open_folio(office()).folio.boards)


def _gains(what: tuple[Family, int, int]) -> list[float]:
    """What one person gains over no practice: as Glimber asks, by each rival, and by the oracle."""
    family, size, seed = what
    uses = uses_of(seed, size)
    without = clean_uses(Learner(family, seed, uses), days_s()[-1] + MINUTES * 60)
    found = [planned(Learner(family, seed, uses), folio_of(uses, _boards()))[0]]
    found += [practise(Learner(family, seed, uses), way()) for way in (*RIVALS, Oracle)]
    return [one - without for one in found]


def _first_rounds(what: tuple[Start, Family, int]) -> list[float]:
    start, family, seed = what
    uses = uses_of(seed, SIZES[1])
    return planned(Learner(family, seed, uses, start), folio_of(uses, _boards()), FIRST_ROUNDS)[1]


def figures() -> list[Figure]:
    """What script/bench learners prints."""
    office()
    found = []
    with ProcessPoolExecutor() as pool:
        for size in SIZES:
            for family in FAMILIES:
                rows = list(pool.map(_gains, [(family, size, seed) for seed in range(EACH)]))
                ours, *rivals, oracle = (sum(column) for column in zip(*rows, strict=True))
                shares = [one / oracle for one in rivals]
                note = ", ".join(f"{way.name} {share:.2f}" for way, share in zip((ByUse, InTurn), shares, strict=True))
                name = f"{size} bindings, {family}: share of what the oracle gains"
                found.append(Figure(name, ours / oracle, "x", LIMITS[size, family], True, note))
        for start in STARTS:
            people = [(start, family, seed) for family in FAMILIES for seed in range(EACH)]
            rounds = list(zip(*pool.map(_first_rounds, people), strict=True))
            means = [sum(one) / len(one) for one in rounds]
            note = f"rounds 1 to {FIRST_ROUNDS}: {', '.join(f'{one:.2f}' for one in means)}; at most 0.85"
            least = 0.6 if start == "slow" else 0.7
            name = f"clean of a beginner, {start}: the least of the first rounds"
            found.append(Figure(name, min(means), "", least, True, note))
    return found
