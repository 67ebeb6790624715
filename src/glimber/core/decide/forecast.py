"""Costs ahead, in seconds and in closed form: how errors fade, what a binding will cost over the horizon, here or elsewhere.

Sources: docs/measures.md, "Verdict", steps 1 to 3. Not knowing falls by the power law of practice (Newell & Rosenbloom 1981),
k(u) = max(floor, k₀·((n₀ + u)/n₀)^−β) after u uses, unless it lasts; errors of the hand stay as they are. Arrays are over draws
or over places, and broadcast.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from glimber.core.stats.ledger import Ledger, Weighed

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

DRAWS: Final = 2000
LEAST_TRIES: Final = 8.0
CARRIED_KNOWING: Final = frozenset({"layer", "old habit"})
CARRIED_HAND: Final = frozenset({"gesture", "modifiers"})
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
    ) -> Floats:
        """Return what they cost at other places: ``gain_s`` less reach a use, ``hand`` errors there, ``knowing`` at first;
        ``along``: which parts of the errors of knowing and of the hand go along, and fade or stay as they would here."""
        uses = self.uses_day * days
        unknown = unknown_uses(knowing, ledger.calm_knowing, 1.0, ledger.slope, uses) + along[0] * self.unknown(
            ledger, days
        )
        slips = 1 - (1 - np.asarray(hand)) * (1 - along[1] * self.hand)
        time = np.maximum(LEAST_TIME * self.time_s, self.time_s - gain_s)
        return np.asarray(uses * (time + slips * self.hand_s) + (1 - slips) * unknown * self.knowing_s)


def standing(rows: Sequence[Weighed]) -> Standing:
    """Bindings by their means, (b,)."""
    values = [((row.time_ms or 0.0) / 1000, row.knowing.mean, row.hand.mean, row.lasting, row.uses_week / 7, float(row.count),
               row.knowing_s, row.recovery_s) for row in rows]  # fmt: skip
    return Standing(*np.array(values, dtype=np.float64).reshape(-1, 8).T)


def drawn(row: Weighed) -> Standing:
    """A binding by draws (2000,) from its posteriors, the same for the same tries, so that a verdict does not flicker."""
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


def carried(row: Weighed, to_place: bool = False) -> tuple[float, float]:
    """Return which parts of the errors of knowing and of the hand go along to a new place: those of gesture, layer,
    modifiers and old habit, and those at the place that draws the hand, unless it is ``to_place``, just there, that the
    binding goes."""
    kinds = row.slips.kinds
    hand_kinds = sum(kinds.get(kind, 0) for kind in ("neighbour", "gesture", "modifiers"))
    other_kinds = row.slips.total - hand_kinds + row.slips.blanks
    knowing = float(sum(kinds.get(kind, 0) for kind in CARRIED_KNOWING))
    hand = float(sum(kinds.get(kind, 0) for kind in CARRIED_HAND))
    if row.place is not None and not to_place and row.causes["place"] > 0.5:
        knowing += 0 if row.place_beside else row.place_count
        hand += row.place_count if row.place_beside else 0
    return min(1.0, knowing / max(1.0, other_kinds)), min(1.0, hand / max(1.0, hand_kinds))


class Gain(Struct, frozen=True):
    """The gain of a set of moves over the horizon against keeping."""

    total_s: float
    per_week_s: float
    share: float
    p_better: float
    break_even_day: int | None


def gain_of(before: Floats, after: Floats, running: Floats) -> Gain:
    """From the costs of the whole horizon in each draw, (n,), and what is saved by the end of each day, (days,)."""
    days = len(running)
    totals = before - after
    mean_before = float(np.mean(before))
    total = float(np.mean(totals))
    # Once ahead it must stay ahead: a day on which the sum is above 0 by chance of the first days is no break-even.
    behind = np.flatnonzero(running < 0)
    even = 1 if not len(behind) else int(behind[-1]) + 2
    return Gain(
        total,
        total / (days / 7),
        total / mean_before if mean_before > 0 else 0.0,
        float((totals > 0).mean()),
        even if even <= days and total > 0 else None,
    )
