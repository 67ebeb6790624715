"""Costs ahead, in seconds and in closed form: how errors fade, what a binding will cost over the horizon, here or elsewhere.

Sources: docs/measures.md, "Verdict", steps 1 to 3. Not knowing falls by the power law of practice (Newell & Rosenbloom 1981),
k(u) = max(floor, k₀·((n₀ + u)/n₀)^−β) after u uses, unless it lasts; errors of the hand stay as they are. Arrays are over draws
or over places, and broadcast.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import ceil
from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from glimber.core.practice.slip_kinds import HAND_KINDS
from glimber.core.stats.ledger import Ledger, Weighed

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

DRAWS: Final = 2000
LEAST_TRIES: Final = 8.0
CARRIED_KNOWING: Final = frozenset({"layer", "old habit"})
CARRIED_HAND: Final = frozenset({"gesture", "modifiers"})
ONE_CHORD: Final = 0.7
"""A chord that drew so many of the modifier slips is where they go."""
LEAST_TIME: Final = 0.4
"""No place makes a use take less than this part of its time."""
_TIME_DEVIATION: Final = 0.35
"""Deviation of the logarithm of a single time; that of the mean of n is smaller by √n."""


def unknown_uses(
    start: Floats | float, floor: Floats | float, tries: Floats | float, slope: float, uses: Floats | float
) -> Floats:
    """Return how many of the ``uses`` to come are not known: the integral of k(u), with ``start`` now and ``tries`` behind."""
    start, floor, n = np.asarray(start), np.minimum(start, floor), np.asarray(tries, dtype=np.float64)
    with np.errstate(divide="ignore", over="ignore"):
        until = n * ((start / np.maximum(floor, 1e-12)) ** (1 / slope) - 1)
    falling = np.minimum(np.asarray(uses, dtype=np.float64), until)
    area = start * n / (1 - slope) * ((1 + falling / n) ** (1 - slope) - 1)
    return np.asarray(area + floor * np.maximum(0.0, uses - falling))


class Standing(Struct, frozen=True):
    """Bindings as they are, (n,) over bindings or over draws of one: seconds a use, knowing and hand errors, persistence (in
    the means: its probability), uses a day, tries so far, seconds each kind of error costs."""

    time_s: Floats
    knowing: Floats
    hand: Floats
    lasts: Floats
    uses_day: Floats
    tries: Floats
    knowing_s: Floats
    hand_s: Floats

    def of(self, rows: Ints) -> Standing:
        """Some of the bindings."""
        return Standing(*(getattr(self, name)[rows] for name in self.__struct_fields__))

    def broadcast(self, rows: Ints) -> Standing:
        """Return some of the draws as columns, (n, 1), to be laid against days."""
        return Standing(
            *(np.broadcast_to(getattr(self, name), (DRAWS,))[rows, None] for name in self.__struct_fields__)
        )

    def unknown(self, ledger: Ledger, days: Floats | float) -> Floats:
        """Return how many uses are not known in the ``days`` ahead."""
        uses = self.uses_day * days
        floor = np.minimum(self.knowing, ledger.calm_knowing)
        passing = unknown_uses(self.knowing, floor, np.maximum(LEAST_TRIES, self.tries), ledger.slope, uses)
        return np.asarray(self.lasts * self.knowing * uses + (1 - self.lasts) * passing)

    def total_s(self, ledger: Ledger, days: Floats | float) -> Floats:
        """Return what they cost as they are."""
        steady = self.uses_day * days * (self.time_s + self.hand * self.hand_s)
        return np.asarray(steady + (1 - self.hand) * self.unknown(ledger, days) * self.knowing_s)

    def moved_s(
        self,
        ledger: Ledger,
        days: Floats | float,
        gain_s: Floats | float,
        hand: Floats | float,
        knowing: Floats | float,
        along: tuple[Floats | float, Floats | float],
        unknown_here: Floats,
    ) -> Floats:
        """Return what they cost at other places: ``gain_s`` less reach a use, ``hand`` errors there, ``knowing`` at first;
        ``along``: which parts of the errors of knowing and of the hand go along, and fade or stay as they would here;
        ``unknown_here``: ``self.unknown`` of the same days, which is the same for every place."""
        uses = self.uses_day * days
        unknown = unknown_uses(knowing, ledger.calm_knowing, 1.0, ledger.slope, uses) + along[0] * unknown_here
        slips = 1 - (1 - np.asarray(hand)) * (1 - along[1] * self.hand)
        time = np.maximum(LEAST_TIME * self.time_s, self.time_s - gain_s)
        return np.asarray(uses * (time + slips * self.hand_s) + (1 - slips) * unknown * self.knowing_s)


def standing(rows: Sequence[Weighed]) -> Standing:
    """Return bindings by their means, (b,)."""
    values = [((row.time_ms or 0.0) / 1000, row.knowing.mean, row.hand.mean, row.lasting, row.uses_week / 7, float(row.count),
               row.knowing_s, row.recovery_s) for row in rows]  # fmt: skip
    return Standing(*np.array(values, dtype=np.float64).reshape(-1, 8).T)


def drawn(row: Weighed) -> Standing:
    """Return a binding by draws (2000,) from its posteriors, the same for the same tries, so that a verdict does not flicker."""
    rng = rng_for(row)
    spread = _TIME_DEVIATION / np.sqrt(max(1.0, row.effective))
    time = (row.time_ms or 0.0) / 1000 * rng.lognormal(-spread * spread / 2, spread, DRAWS)
    knowing, hand = (rng.beta(one.a, one.b, DRAWS) for one in (row.knowing, row.hand))
    lasts = (rng.random(DRAWS) < row.lasting).astype(np.float64)
    rest = (np.asarray(value) for value in (row.uses_week / 7, float(row.count), row.knowing_s, row.recovery_s))
    return Standing(time, knowing, hand, lasts, *rest)


def rng_for(row: Weighed, more: str = "") -> np.random.Generator:
    """Draws that are the same for the same binding and tries."""
    from zlib import crc32

    return np.random.default_rng([crc32(row.binding.id.encode()), row.count, crc32(more.encode())])


class Carried(Struct, frozen=True):
    """The errors of a binding that may carry over to a new place, as counts.

    ``knowing`` and ``hand`` are how many of the errors of each kind carry over unless a place takes them away; ``of`` how many
    there are of each; ``taken`` what going to a trigger takes away, knowing and hand; ``gesture`` the gesture slips, which a key
    without another gesture takes away.
    """

    knowing: float
    hand: float
    of: tuple[float, float]
    taken: Mapping[str, tuple[float, float]]
    gesture: float

    def shares(self, to: str | None = None, without_gesture: bool = False) -> tuple[float, float]:
        """Return the shares of the errors of knowing and of the hand that carry over to ``to``."""
        knowing, hand = self.taken.get(to or "", (0.0, 0.0))
        hand += self.gesture if without_gesture else 0.0
        return (
            min(1.0, max(0.0, self.knowing - knowing) / max(1.0, self.of[0])),
            min(1.0, max(0.0, self.hand - hand) / max(1.0, self.of[1])),
        )


def carried(row: Weighed) -> Carried:
    """Return the errors that carry over to a new place, and what each place takes away by its own count.

    Slips of gesture, layer, modifiers and old habit carry over, and so do those at a place that draws the hand. Taken away are:
    place and layer slips at the trigger they went to, modifier slips at the chord that drew 70 % of them, an old habit at the
    old place. Source: docs/measures.md, "Verdict", step 2.
    """
    slips = row.slips
    kinds, went = slips.kinds, slips.went
    hand_kinds = float(sum(kinds.get(kind, 0) for kind in HAND_KINDS))
    other_kinds = float(slips.total - hand_kinds + slips.blanks)
    knowing = float(sum(kinds.get(kind, 0) for kind in CARRIED_KNOWING))
    hand = float(sum(kinds.get(kind, 0) for kind in CARRIED_HAND))
    taken: dict[str, tuple[float, float]] = {}

    def take(trigger: str, more_knowing: float = 0.0, more_hand: float = 0.0) -> None:
        before = taken.get(trigger, (0.0, 0.0))
        taken[trigger] = before[0] + more_knowing, before[1] + more_hand

    for kind in CARRIED_KNOWING:
        for trigger, count in went.get(kind, {}).items():
            take(trigger, more_knowing=count)
    modifiers = went.get("modifiers", {})
    for trigger, count in modifiers.items():
        if count >= ONE_CHORD * sum(modifiers.values()):
            take(trigger, more_hand=count)
    if row.place is not None and row.causes["place"] > 0.5:
        if row.place_beside:
            hand += row.place_count
            take(row.place, more_hand=row.place_count)
        else:
            knowing += row.place_count
            take(row.place, more_knowing=row.place_count)
    return Carried(knowing, hand, (other_kinds, hand_kinds), taken, float(kinds.get("gesture", 0)))


class Gain(Struct, frozen=True):
    """The gain of a set of moves over the horizon against keeping."""

    total_s: float
    per_week_s: float
    share: float
    p_better: float
    break_even_day: int | None


EVEN_SHARE: Final = 0.8
"""A change is even on the day by which so many of the draws are."""


DOUBT: Final = 0.04
"""The chance that a change comes out the other way though all draws agree: people are of other forms than the model."""


def gain_of(before: Floats, after: Floats, running: Floats) -> Gain:
    """Return the gain from the costs of the whole horizon in each draw, (n,), and from what some of the draws have saved by the
    end of each day, (m, days)."""
    days = running.shape[1]
    totals = before - after
    mean_before = float(np.mean(before))
    total = float(np.mean(totals))
    return Gain(
        total,
        total / (days / 7),
        total / mean_before if mean_before > 0 else 0.0,
        DOUBT + (1 - 2 * DOUBT) * float((totals > 0).mean()),
        break_even_day(running) if total > 0 else None,
    )


def break_even_day(running: Floats) -> int | None:
    """Return the day by which 80 % of the draws are even and stay so, None where that is beyond the horizon. ``running``
    (m, days): what each draw has saved by the end of each day."""
    days = running.shape[1]
    # Once ahead a draw must stay ahead: a day on which the sum is above 0 by chance of the first days is no break-even.
    behind = running < 0
    last = np.where(behind.any(axis=1), days - np.argmax(behind[:, ::-1], axis=1), 0)
    day = int(np.sort(last + 1)[ceil(EVEN_SHARE * len(last)) - 1])
    return day if day <= days else None
