"""One round: which prompt comes next, and when a binding is done. A value; every answer makes the next one."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from datetime import datetime
from itertools import pairwise
from random import Random
from types import MappingProxyType
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.practice.tries import Round, Try

CLEAN_HITS: Final = 4
"""Clean hits of a binding for which nothing was planned."""
LEAST_HITS: Final = 2
MOST_HITS: Final = 8
LAGS: Final = (1, 2, 4, 8)
LAG_AFTER_SLIP: Final = 2
FIRST_S: Final = 2.0
LONGEST_S: Final = 10.0


class Lane(Struct, frozen=True):
    """One binding in a round: clean hits so far, hits in a row, first strikes in order, when it is next due, and the hits
    planned."""

    binding: str
    hits: int = 0
    streak: int = 0
    strikes: tuple[bool, ...] = ()
    due: int = 0
    wanted: int = CLEAN_HITS

    @property
    def done(self) -> bool:
        return self.hits >= self.wanted

    @property
    def slips(self) -> int:
        return self.strikes.count(False)


class RoundState(Struct, frozen=True):
    """A round under way. ``nth`` counts prompts from 1; ``asked`` is the binding of the present prompt. ``order``: of a task run,
    which is asked once from its first to its last; what went wrong is struck before the next."""

    lanes: tuple[Lane, ...]
    nth: int = 0
    asked: str | None = None
    order: tuple[str, ...] = ()

    @property
    def done(self) -> bool:
        if self.order:
            return self.nth >= len(self.order) and self.asked is None
        return all(lane.done for lane in self.lanes)

    @property
    def current(self) -> Lane | None:
        return next((lane for lane in self.lanes if lane.binding == self.asked), None)

    def with_hits(self, hits: Mapping[str, int]) -> RoundState:
        """Return the same round with other clean hits planned: a binding that is not named keeps what it has, new ones come
        in."""
        kept = tuple(replace(lane, wanted=hits.get(lane.binding, lane.hits)) for lane in self.lanes)
        known = {lane.binding for lane in kept}
        return replace(self, lanes=kept + tuple(Lane(id, wanted=n) for id, n in hits.items() if id not in known))

    def expected_prompts(self) -> int:
        """About how many prompts the round will have: those so far, and one for each hit still missing."""
        if self.order:
            return len(self.order)
        return self.nth + sum(lane.wanted - lane.hits for lane in self.lanes if not lane.done)


def begin(bindings: Sequence[str], hits: Mapping[str, int] = MappingProxyType({})) -> RoundState:
    """Return a round of these bindings, before its first prompt; ``hits`` planned for each."""
    return RoundState(tuple(Lane(binding, wanted=hits.get(binding, CLEAN_HITS)) for binding in dict.fromkeys(bindings)))


def seconds_of(tries: Sequence[Try]) -> float:
    """About how long the tries of a round took, from when each was written; a long gap was a pause."""
    at = sorted(one.at for one in tries)
    return FIRST_S * bool(at) + sum(min(LONGEST_S, (b - a).total_seconds()) for a, b in pairwise(at))


def resumed(
    bindings: Sequence[str], results: Sequence[tuple[str, bool]], hits: Mapping[str, int] = MappingProxyType({})
) -> RoundState:
    """Return a round as it stood after these first strikes: (binding, whether it was a clean hit), in order."""
    # What came into the round while it was under way is a part of it, too.
    state = begin([*bindings, *(binding for binding, _ in results)], hits)
    for binding, clean in results:
        if any(lane.binding == binding for lane in state.lanes):
            state = answered(replace(state, asked=binding, nth=state.nth + 1), clean)
    return replace(state, asked=None)


def ask(state: RoundState, random: Random) -> RoundState:
    """Draw the next prompt among those not finished: the one longest due, never the same twice unless it is the last.

    Raises ValueError when the round is done.
    """
    if state.order:
        if state.nth >= len(state.order):
            raise ValueError("the run is done")
        return replace(state, asked=state.order[state.nth], nth=state.nth + 1)
    open_lanes = [lane for lane in state.lanes if not lane.done]
    if not open_lanes:
        raise ValueError("the round is done")
    others = [lane for lane in open_lanes if lane.binding != state.asked] or open_lanes
    soonest = min(lane.due for lane in others)
    # Those overdue are equals: drawing among them keeps the order mixed instead of going round in a ring.
    limit = max(soonest, state.nth)
    chosen = random.choice([lane for lane in others if lane.due <= limit])
    return replace(state, asked=chosen.binding, nth=state.nth + 1)


def ask_for(state: RoundState, binding: str) -> RoundState:
    """Ask for a binding that was chosen; one that has its planned hits, or none planned, has one more."""
    lanes = [
        replace(lane, wanted=max(lane.wanted, lane.hits + 1)) if lane.binding == binding else lane
        for lane in state.lanes
    ]
    if all(lane.binding != binding for lane in lanes):
        lanes.append(Lane(binding, wanted=1))
    return replace(state, lanes=tuple(lanes), asked=binding, nth=state.nth + 1)


def answered(state: RoundState, clean: bool, credited: str | None = None) -> RoundState:
    """Return the round after a first strike at the present prompt.

    A hit grows the lag, a slip or blank brings the prompt back in 2. A hit ``credited`` to another binding of the round
    counts there; one credited to a binding outside the round counts nowhere and the prompt comes back.
    """
    asked = credited if clean and credited is not None else state.asked
    lanes = []
    for lane in state.lanes:
        if lane.binding == asked:
            lane = _struck(lane, clean, state.nth)
        elif lane.binding == state.asked:
            lane = replace(lane, due=state.nth + LAG_AFTER_SLIP)
        lanes.append(lane)
    return replace(state, lanes=tuple(lanes))


def _struck(lane: Lane, clean: bool, nth: int) -> Lane:
    if not clean:
        return replace(lane, streak=0, strikes=(*lane.strikes, False), due=nth + LAG_AFTER_SLIP)
    lag = LAGS[min(lane.streak, len(LAGS) - 1)]
    return replace(lane, hits=lane.hits + 1, streak=lane.streak + 1, strikes=(*lane.strikes, True), due=nth + lag)


def unfinished(rounds: Iterable[Round], now: datetime, bindings: Collection[str]) -> Round | None:
    """Return the round that was put aside and can be gone on with: the newest, where it has not ended and its bindings are there.

    A round from a clock that was ahead comes after all that began up to ``now``: it must not hide today's.
    """
    last = max(rounds, key=lambda one: (one.began <= now, one.began), default=None)
    if last is None or last.ended is not None or not set(last.bindings) <= set(bindings):
        return None
    return last


def running(order: Sequence[str]) -> RoundState:
    """Return a task run: these bindings in this order, each as often as it stands there."""
    lanes = [Lane(binding, wanted=list(order).count(binding)) for binding in dict.fromkeys(order)]
    return RoundState(tuple(lanes), order=tuple(order))


def sprinting(bindings: Sequence[str], minutes: float) -> Callable[[Sequence[Try], float], dict[str, int]]:
    """Return the plan of a sprint: always one hit more of each, until the time is over."""

    def replan(tries: Sequence[Try], gone_s: float) -> dict[str, int]:
        hits = dict.fromkeys(bindings, 0)
        for one in tries:
            if one.counts and one.outcome == "hit" and one.binding in hits:
                hits[one.binding] += 1
        more = 1 if gone_s < minutes * 60 else 0
        return {id: count + more for id, count in hits.items()}

    return replan
