"""What is remembered, under several forms of forgetting at once, weighed by the person's own log.

Under each of 48 hypotheses a binding has a strength S in days and a last strike, and is known after a gap of t days with chance
R(S, t) = (1 + t/(dS))^−d. The tries of the log move the strengths and weigh the hypotheses. Source: docs/measures.md, "Memory and
the next round". Arrays are (h,) over hypotheses, (h, b) over hypotheses and bindings.
"""

from __future__ import annotations

from itertools import product
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.practice.columns import BLANK, HIT, SLIP, Bools, Floats, Ints
from glimber.core.stats.grouping import Selected

GROWTHS: Final = (0.7, 1.5, 3.0)
SHAPES: Final = (0.3, 0.6, 1.5, 10.0)
FLOORS: Final = (0.25, 0.8)
WORKS: Final = (0.0, 1.0)
_GRID: Final = np.array(list(product(GROWTHS, SHAPES, FLOORS, WORKS)))
G: Final = _GRID[:, 0:1]
D: Final = _GRID[:, 1:2]
F: Final = _GRID[:, 2:3]
W: Final = _GRID[:, 3:4]
"""The hypotheses side by side, (48, 1): how a strike strengthens, the shape of forgetting, the least strength, and whether work
counts as practice."""
FIRST_KNOWN_DAYS: Final = 3.5
POWER: Final = 0.2
"""A try weighs a hypothesis by its chance to this power: tries of one person are not independent."""
CLIP: Final = (0.01, 0.99)
FIRST_EVER: Final = (1.0, 4.0)
"""Known first-ever tries of all of them before there are any: 1 of 4."""
SAID_KNOWN: Final = (9.5, 10.0)
MOST_WORK_DAYS: Final = 90
MOST_USES: Final = 4
_DAY_US: Final = 86_400_000_000


def retention(strength: Floats, gap: Floats | float, shape: Floats = D) -> Floats:
    """Return the chance of knowing after a gap of days: (1 + t/(dS))^−d."""
    return np.asarray((1.0 + np.maximum(gap, 0.0) / (shape * strength)) ** -shape)


def after_known(strength: Floats, p: Floats) -> Floats:
    """Return the strength after a strike that was known, with chance ``p`` just before."""
    return np.asarray(strength * (1.0 + G * (1.0 - p)) + 0.05)


def after_unknown(strength: Floats) -> Floats:
    """Return the strength after a strike that was not known."""
    return np.asarray(np.maximum(F, 0.7 * strength) + 0.15)


class Belief(Struct):
    """The state of all bindings.

    ``strength`` (48, b), ``last`` (b,) the day of the last strike, ``tried`` (b,), ``weight`` (48,), ``first`` (b,) the chance
    that a binding is known before its first try, ``uses`` (b,) uses on a working day, ``working`` the share of days that are.
    """

    strength: Floats
    last: Floats
    tried: Bools
    weight: Floats
    first: Floats
    uses: Floats
    working: float

    def strike(self, binding: int, day: float, known: bool) -> None:
        """Take one strike into account."""
        if self.tried[binding]:
            self._work(binding, day)
            column = self.strength[:, binding : binding + 1]
            p = retention(column, day - self.last[binding])
            chance = np.clip(p if known else 1.0 - p, *CLIP)[:, 0]
            self.weight *= chance**POWER
            self.weight /= self.weight.sum()
            self.strength[:, binding : binding + 1] = after_known(column, p) if known else after_unknown(column)
        else:
            start = np.maximum(FIRST_KNOWN_DAYS, F) if known else F
            self.strength[:, binding : binding + 1] = start
            self.tried[binding] = True
        self.last[binding] = day

    def _work(self, binding: int, day: float) -> None:
        """Let the uses of the working days since the last strike count as practice where a hypothesis has it so."""
        uses = int(min(MOST_USES, self.uses[binding]))
        days = int(min(MOST_WORK_DAYS, np.floor((day - self.last[binding]) * self.working)))
        if uses < 1 or days < 1:
            return
        column, gap = self.strength[:, binding : binding + 1].copy(), 1.0 / self.working
        for _ in range(days):
            for use in range(uses):
                p = retention(column, gap if use == 0 else 0.0)
                column = p * after_known(column, p) + (1.0 - p) * after_unknown(column)
        self.strength[:, binding : binding + 1] = np.where(W > 0, column, self.strength[:, binding : binding + 1])
        # Under the hypotheses in which work counts, the last strike was at work; the others keep the round's.
        self.last[binding] = self.last[binding] if self.weight @ W[:, 0] < 0.5 else max(self.last[binding], day - gap)

    def known(self, day: float) -> Floats:
        """Return the chance (b,) that each binding is known, averaged over the hypotheses."""
        p = self.weight @ retention(self.strength, day - self.last)
        return np.where(self.tried, p, self.first)

    def gain(self, day: float) -> Floats:
        """Return what one strike now is worth in the chance of knowing in the weeks ahead, (b,)."""
        return np.asarray(self.weight @ self.gains(day))

    def gains(self, day: float, of: slice = slice(None)) -> Floats:
        """Return the same under each hypothesis, (48, n), of some bindings.

        Struck now or not, a binding comes again in two days and counts one and fourteen days after that, half each.
        """
        strength, tried, q = self.strength[:, of], self.tried[of], self.first[of]
        gap = np.maximum(day - self.last[of], 0.0)
        p = retention(strength, gap)
        struck = p * _worth(after_known(strength, p)) + (1.0 - p) * _worth(after_unknown(strength))
        old = struck - _worth(strength, gap)
        if tried.all():
            return np.asarray(old)
        fresh, weak = np.maximum(FIRST_KNOWN_DAYS, F), F * np.ones_like(F)
        now = q * _worth(fresh) + (1.0 - q) * _worth(weak)
        later = 0.5 * sum(q * retention(fresh, a) + (1.0 - q) * retention(weak, a) for a in (1.0, 14.0))
        return np.where(tried, old, now - later)


def _worth(strength: Floats, gap: Floats | float = 0.0) -> Floats:
    """V(S, t): the chance of knowing one and fourteen days after coming again in two days, half each."""
    p = retention(strength, np.asarray(gap) + 2.0)
    again = p * after_known(strength, p) + (1.0 - p) * after_unknown(strength)
    return np.asarray(0.5 * retention(again, 1.0) + 0.5 * retention(again, 14.0))


def days_of(at_us: Ints) -> Floats:
    """Return moments in days."""
    return np.asarray(at_us / _DAY_US)


def believe(logged: Selected, uses_day: Floats, working_days: float, said_known: Bools) -> Belief:
    """Return the belief from the logged first strikes of all bindings. ``uses_day`` (b,); ``said_known`` (b,): the person said
    that a binding is known."""
    c, n = logged.columns, logged.bindings
    outcome = c.outcome[logged.place]
    counts = c.first[logged.place] & (c.aids[logged.place] == 0) & np.isin(outcome, (HIT, SLIP, BLANK))
    tries = logged.where(counts)
    known = (c.outcome[tries.place] == HIT) | c.by_hand[tries.place]
    first_ever = tries.starts[:-1][tries.counts > 0]
    right, whole = FIRST_EVER
    q = (right + float(known[first_ever].sum())) / (whole + len(first_ever))
    sure, weight = SAID_KNOWN
    first = np.where(said_known, (q + sure) / (1 + weight), q)
    found = Belief(
        np.ones((len(_GRID), n)), np.zeros(n), np.zeros(n, dtype=bool), np.full(len(_GRID), 1.0 / len(_GRID)), first,
        np.asarray(uses_day, dtype=np.float64), max(1e-6, working_days / 7.0),
    )  # fmt: skip
    day = days_of(c.at_us[tries.place])
    for place in np.argsort(day, kind="stable").tolist():
        found.strike(int(tries.of[place]), float(day[place]), bool(known[place]))
    return found
