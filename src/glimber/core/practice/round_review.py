"""After a round: each binding beside the last round in which it was asked before, those that went wrong first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from statistics import median

from msgspec import Struct

from glimber.core.practice.tries import Try


class Before(Struct, frozen=True):
    """A binding's results in one round: clean first strikes of so many, and the median seconds of the clean ones."""

    clean: int
    of: int
    middle_s: float | None


def went(tries: Iterable[Try]) -> Before:
    """Return how first strikes of a binding went."""
    firsts = [one for one in tries if one.first and one.outcome != "void"]
    times = [((one.recall_ms or 0.0) + (one.motor_ms or 0.0)) / 1000 for one in firsts if one.outcome == "hit"]
    return Before(len(times), len(firsts), median(times) if times else None)


def before_round(tries: Mapping[str, Sequence[Try]], round_id: str) -> dict[str, Before]:
    """Return how each binding went in the last round before this one in which it was tried. ``tries`` by binding, in order
    of time."""
    found = {}
    for id, mine in tries.items():
        earlier = [one for one in mine if one.round != round_id]
        if earlier:
            last = earlier[-1].round
            found[id] = went(one for one in earlier if one.round == last)
    return found


def worst_first(bindings: Sequence[str], tries: Iterable[Try]) -> list[str]:
    """Return the bindings of a round, those that went wrong most often first, otherwise in their order."""
    wrong: dict[str, int] = {}
    for one in tries:
        if one.first and one.outcome in ("slip", "blank"):
            wrong[one.binding] = wrong.get(one.binding, 0) + 1
    return sorted(dict.fromkeys(bindings), key=lambda id: -wrong.get(id, 0))


HELD_HITS = 2


def newly_held(tries: Mapping[str, Sequence[Try]], round_id: str) -> list[str]:
    """Return the bindings that were first tried in a round and were struck clean twice at its end. ``tries`` by binding, in
    order of time."""
    found = []
    for id, mine in tries.items():
        firsts = [one for one in mine if one.first and one.outcome != "void"]
        last = firsts[-HELD_HITS:]
        if firsts and firsts[0].round == round_id and len(last) == HELD_HITS and all(one.outcome == "hit" for one in last):
            found.append(id)
    return found
