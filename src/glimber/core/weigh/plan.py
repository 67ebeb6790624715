"""The next round: which bindings, how many clean hits each, and why; by what another second of practice is worth.

Source: docs/measures.md, "The next round".
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from datetime import timedelta
from heapq import heapify, heappop, heappush
from typing import TYPE_CHECKING, Final

from glimber.core.drill.tries import utc

if TYPE_CHECKING:
    from glimber.core.weigh.measures import Ledger, Weighed

MINUTES: Final = (1, 3, 5, 10)
USUAL_MINUTES: Final = 3
LEAST_HITS: Final = 2
PICKED_MINUTES: Final = 0.4
"""For each binding that is picked by hand, a minute at least: who picks one wants to drill it."""
PRESSING_BELOW: Final = 0.85
MOVED_DAYS: Final = 14


@dataclass(frozen=True)
class Due:
    """One binding of the next round. ``p_now``: chance of a clean hit now; ``new``: never tried at this trigger; ``hits``
    planned, what they are worth in seconds a week, and the seconds they take."""

    binding: str
    why: str
    p_now: float
    new: bool
    hits: int = LEAST_HITS
    worth_s_week: float = 0.0
    seconds: float = 0.0


def plan_round(ledger: Ledger, minutes: float = USUAL_MINUTES, size: int | None = None,
               may: Callable[[str], bool] = lambda id: True) -> list[Due]:  # fmt: skip
    """What to drill in so many minutes, at most ``size`` bindings of those that ``may`` be asked.

    What slipped last time, was missed at work or moved is in; hits are then given out greedily by worth a second until the
    time is used, 2 to 8 for a binding. What is worth nothing is not asked for."""
    from glimber.core.weigh.worth import MOST_HITS, hit_seconds, hit_worths

    rows = [row for row in ledger.rows.values() if may(row.binding.id)]
    if not rows:
        return []
    worths = hit_worths(ledger, rows)
    takes = [hit_seconds(row) for row in rows]
    pressed = _pressed(ledger)
    left, hits = minutes * 60.0, dict[int, int]()

    def give(place: int) -> bool:
        """The next hits of a binding: two at first. Whether there is time for them."""
        nonlocal left
        more = 1 if place in hits else LEAST_HITS
        cost = more * takes[place]
        if cost > left + 1e-9 and hits:
            return False
        left -= cost
        hits[place] = hits.get(place, 0) + more
        return True

    def value(place: int) -> float:
        """Worth a second of what a binding would be given next."""
        had = hits.get(place, 0)
        more = 1 if had else LEAST_HITS
        return float(worths[had : had + more, place].sum()) / (more * takes[place])

    first = sorted(
        (place for place, row in enumerate(rows) if row.binding.id in pressed), key=lambda place: -value(place)
    )
    for place in first[:size]:
        if not give(place):
            break
    # A worth that grows less with each hit makes greedy right.
    waiting = [(-value(place), place) for place in range(len(rows)) if hits.get(place, 0) < MOST_HITS]
    heapify(waiting)
    while waiting:
        worth, place = heappop(waiting)
        if worth >= 0:
            break
        if place not in hits and size is not None and len(hits) >= size:
            continue
        if give(place) and hits[place] < MOST_HITS:
            heappush(waiting, (-value(place), place))
    found = []
    for place, count in hits.items():
        found.append(_due(rows[place], pressed, count, float(worths[:count, place].sum()), count * takes[place]))
    return sorted(found, key=lambda one: (one.binding not in pressed, -one.worth_s_week))


def planned_hits(ledger: Ledger | None, bindings: Sequence[str]) -> dict[str, int]:
    """How many clean hits bindings picked by hand need: as in a round of them alone, at least 2; 4 before anything is weighed."""
    if ledger is None:
        return dict.fromkeys(bindings, 2 * LEAST_HITS)
    wanted = set(bindings)
    planned = {
        one.binding: one.hits
        for one in plan_round(ledger, max(1.0, PICKED_MINUTES * len(wanted)), may=lambda id: id in wanted)
    }
    return {id: planned.get(id, LEAST_HITS) for id in bindings}


def due_now(ledger: Ledger) -> int:
    """How many bindings press: those that slipped last, were missed or moved, or whose chance of a clean hit is low."""
    weak = {row.binding.id for row in ledger.rows.values() if row.count and row.p_clean < PRESSING_BELOW}
    return len(weak | _pressed(ledger).keys())


def _due(row: Weighed, pressed: dict[str, str], hits: int, worth: float, seconds: float) -> Due:
    new = not row.count
    why = pressed.get(row.binding.id) or ("new" if new else "weak" if row.p_clean < PRESSING_BELOW else "to keep")
    return Due(row.binding.id, why, row.p_clean, new and why == "new", hits, worth, seconds)


def _pressed(ledger: Ledger) -> dict[str, str]:
    """What must be in the next round, with why."""
    found = dict.fromkeys(_slipped_last(ledger), "slipped last time")
    found |= dict.fromkeys(_missed(ledger), "missed at work")
    return {**found, **dict.fromkeys(_moved(ledger), "moved")}


def _slipped_last(ledger: Ledger) -> Collection[str]:
    """Bindings that went wrong in the last round."""
    import numpy as np  # the Drill room's first frame has no ledger

    from glimber.core.drill.columns import HIT, VOID
    from glimber.core.weigh.selected import micros

    c = ledger.practice.columns
    seen = np.flatnonzero((c.at_us <= micros(ledger.at)) & (c.outcome != VOID))
    if not len(seen):
        return []
    last = c.round.codes[seen[np.argmax(c.at_us[seen])]]
    wrong = seen[(c.round.codes[seen] == last) & c.first[seen] & (c.outcome[seen] != HIT)]
    return {name for code in c.binding.codes[wrong] if (name := c.binding.names[code]) in ledger.rows}


def _missed(ledger: Ledger) -> list[str]:
    """Bindings that were noted as missed at work since they were last tried."""
    found = []
    for change in ledger.practice.changes:
        row = ledger.rows.get(change.binding)
        if change.verdict != "missed" or row is None or utc(change.at) > ledger.at:
            continue
        if not row.count or utc(row.tries[-1].at) < utc(change.at):
            found.append(change.binding)
    return found


def _moved(ledger: Ledger) -> list[str]:
    """Bindings moved within two weeks that were not yet tried at their new place, the newest first."""
    since = ledger.at - timedelta(days=MOVED_DAYS)
    moved = [change.binding for change in ledger.practice.changes
             if since <= utc(change.applied or change.at) <= ledger.at and change.to_trigger]  # fmt: skip
    return [id for id in dict.fromkeys(reversed(moved)) if id in ledger.rows and not ledger.rows[id].count]
