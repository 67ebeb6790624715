"""Task runs: their steps as bindings, the time each took, the best so far, and what the slow way would take."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct

from glimber.core.model.folio import Binding, Folio, Run
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.practice.tries import Round, Try
from glimber.core.stats.reach import slow_way_s


class RunTimes(Struct, frozen=True):
    """One passage of a task run: seconds of each step, faults mended among them, and how many steps went wrong."""

    splits: tuple[tuple[str, float], ...]
    slips: int

    @property
    def total_s(self) -> float:
        return sum(seconds for _, seconds in self.splits)


def steps_of(
    folio: Folio, run: Run, computer: str | None, may: Callable[[Binding], bool], tried: Callable[[str], int]
) -> tuple[list[str], list[str]]:
    """Return the binding of each step of a run, and the names of the commands that have none. Of those that live here and can
    be answered it is the one ``tried`` most often, which is how the person reaches the command, then the first."""
    live = {one.id for one in folio.drillable(computer)}
    order, missing = [], []
    for ref in run.commands:
        fitting = [one for one in folio.bindings_of.get(ref, ()) if one.id in live and may(one)]
        found = max(fitting, key=lambda one: tried(one.id), default=None)
        if found is not None:
            order.append(found.id)
        else:
            missing.append(folio.commands[ref].name if ref in folio.commands else ref)
    return order, missing


def run_times(tries: Iterable[Try]) -> RunTimes:
    """Return how long the steps of one passage took: recall and hand of every strike it needed, a blank its whole deadline."""
    seconds: dict[int, float] = {}
    names: dict[int, str] = {}
    wrong: set[int] = set()
    for one in tries:
        if one.outcome == "void":
            continue
        took = one.deadline_ms if one.recall_ms is None else one.recall_ms + (one.motor_ms or 0.0)
        seconds[one.nth] = seconds.get(one.nth, 0.0) + took / 1000
        names.setdefault(one.nth, one.binding)
        if one.first and one.outcome != "hit":
            wrong.add(one.nth)
    return RunTimes(tuple((names[nth], seconds[nth]) for nth in sorted(seconds)), len(wrong))


def best_before(rounds: Iterable[Round], tries: Sequence[Try], run: str, steps: int, without: str) -> RunTimes | None:
    """Return the fastest whole passage of a run so far, the round ``without`` aside."""
    ids = {one.id for one in rounds if one.run == run and one.ended is not None and one.id != without}
    by_round: dict[str, list[Try]] = {id: [] for id in ids}
    for one in tries:
        if one.round in by_round:
            by_round[one.round].append(one)
    whole = [times for mine in by_round.values() if len((times := run_times(mine)).splits) == steps]
    return min(whole, key=lambda times: times.total_s, default=None)


def run_slow_s(folio: Folio, run: Run) -> float | None:
    """Return seconds of the slow way: the run's own, else those of its commands together; None where one of them has none."""
    own = slow_way_s(run.slow_way)
    if own is not None:
        return own
    each = [slow_way_s(slow_way_steps(folio, folio.commands[ref])) for ref in run.commands if ref in folio.commands]
    return sum(one for one in each if one is not None) if each and all(one is not None for one in each) else None
