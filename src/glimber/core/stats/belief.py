"""The belief about what is remembered, under several forms of forgetting at once, weighed by the person's own log.

Under each of 48 hypotheses a binding has a strength S in days and a last strike, and is known after a gap of t days with chance
R(S, t) = (1 + t/(dS))^−d. The tries of the log move the strengths and weigh the hypotheses. Source: docs/measures.md, "Memory and
the next round". Arrays are (h,) over hypotheses, (h, b) over hypotheses and bindings.
"""

from __future__ import annotations

from datetime import datetime
from itertools import pairwise, product
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.notation.keys import Sequence, Trigger
from glimber.core.notation.standard import is_standard
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
FRESH_DAYS: Final = 1.0
"""The level of knowing that was seen is that of a cold try, about a day after the last strike."""
NEWEST: Final = 400
"""Strikes of a binding that are looked at."""
_WORKING: Final = np.flatnonzero(W[:, 0])
_DAY_US: Final = 86_400_000_000


def retention(strength: Floats, gap: Floats | float, shape: Floats = D) -> Floats:
    """Return the chance of knowing after a gap of days: (1 + t/(dS))^−d."""
    return np.asarray((1.0 + np.maximum(gap, 0.0) / (shape * strength)) ** -shape)


def after_known(strength: Floats, p: Floats, growth: Floats = G) -> Floats:
    """Return the strength after a strike that was known, with chance ``p`` just before."""
    return np.asarray(strength * (1.0 + growth * (1.0 - p)) + 0.05)


def after_unknown(strength: Floats, floor: Floats = F) -> Floats:
    """Return the strength after a strike that was not known."""
    return np.asarray(np.maximum(floor, 0.7 * strength) + 0.15)


class Belief(Struct):
    """The state of all bindings.

    ``strength`` (48, b), ``last`` (48, b) the day of the last strike, at work where that counts, ``tried`` (b,), ``weight``
    (48,), ``first`` (b,) the chance that a binding is known before its first try, ``uses`` (b,) uses on a working day,
    ``working`` the share of days that are.
    """

    strength: Floats
    last: Floats
    tried: Bools
    weight: Floats
    first: Floats
    uses: Floats
    working: float

    def copy(self, bindings: Ints | None = None) -> Belief:
        """Return the same of all bindings or of some, to be changed without this one."""
        of: Ints | slice = slice(None) if bindings is None else bindings
        return Belief(self.strength[:, of].copy(), self.last[:, of].copy(), self.tried[of].copy(), self.weight.copy(),
                      self.first[of].copy(), self.uses[of].copy(), self.working)  # fmt: skip

    def strike(self, binding: int, day: float, known: bool) -> None:
        """Take one strike into account."""
        ln_chance = self.strikes(np.array([binding]), np.array([day]), np.array([known]))
        self.weigh(ln_chance)

    def weigh(self, ln_chance: Floats) -> None:
        """Weigh the hypotheses, (48,), by the logarithm of the chance of what was seen under each."""
        scaled = np.log(np.maximum(self.weight, 1e-300)) + POWER * ln_chance
        weight = np.exp(scaled - scaled.max())
        self.weight = weight / weight.sum()

    def strikes(self, of: Ints, day: Floats, known: Bools) -> Floats:
        """Take one strike of each of some bindings (n,) into account; return ln of its chance under each hypothesis, (48,)."""
        self._work(of, day)
        tried, strength = self.tried[of], self.strength[:, of]
        p = retention(strength, day - self.last[:, of])
        start = np.where(known, np.maximum(FIRST_KNOWN_DAYS, F), F)
        struck = np.where(known, after_known(strength, p), after_unknown(strength))
        self.strength[:, of] = np.where(tried, struck, start)
        self.last[:, of] = day
        self.tried[of] = True
        chance = np.log(np.clip(np.where(known, p, 1.0 - p), *CLIP))
        return np.asarray(np.where(tried, chance, 0.0).sum(axis=1))

    def _work(self, of: Ints, day: Floats) -> None:
        """Let the uses of the working days since the last strike count as practice where a hypothesis has it so."""
        uses = np.minimum(MOST_USES, self.uses[of]).astype(np.int64)
        days = np.minimum(MOST_WORK_DAYS, np.floor((day - self.last[_WORKING][0, of]) * self.working)).astype(np.int64)
        busy = np.flatnonzero(self.tried[of] & (uses >= 1) & (days >= 1))
        if not len(busy):
            return
        uses, days, gap, of, day = uses[busy], days[busy], 1.0 / self.working, of[busy], day[busy]
        column = self.strength[np.ix_(_WORKING, of)]
        growth, shape, floor = (one[_WORKING] for one in (G, D, F))
        for nth in range(int(days.max())):
            for use in range(int(uses.max())):
                works = (days > nth) & (uses > use)
                some = column[:, works]
                p = retention(some, gap if use == 0 else 0.0, shape)
                column[:, works] = p * after_known(some, p, growth) + (1.0 - p) * after_unknown(some, floor)
        self.strength[np.ix_(_WORKING, of)] = column
        self.last[np.ix_(_WORKING, of)] = np.maximum(self.last[np.ix_(_WORKING, of)], day - gap)

    def kept(self, day: float) -> Floats:
        """Return how much of what was known a day after the last strike is known now, (b,) in 0 to 1."""
        fresh = self.weight @ retention(self.strength, FRESH_DAYS)
        return np.asarray(np.clip(self.weight @ retention(self.strength, day - self.last) / fresh, 0.0, 1.0))

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
        gap = np.maximum(day - self.last[:, of], 0.0)
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


def day_of(moment: datetime) -> float:
    """Return a moment in days since 1970."""
    return moment.timestamp() / 86_400.0


def believe(logged: Selected, uses_day: Floats, working_days: float, stated_known: Bools) -> Belief:
    """Return the belief from the logged first strikes of all bindings. ``uses_day`` (b,); ``stated_known`` (b,): the person
    marked the binding as known."""
    c, n = logged.columns, logged.bindings
    outcome = c.outcome[logged.place]
    counts = c.first[logged.place] & (c.aids[logged.place] == 0) & np.isin(outcome, (HIT, SLIP, BLANK))
    tries = logged.where(counts).newest(NEWEST)
    known = (c.outcome[tries.place] == HIT) | c.by_hand[tries.place]
    first_ever = tries.starts[:-1][tries.counts > 0]
    right, whole = FIRST_EVER
    q = (right + float(known[first_ever].sum())) / (whole + len(first_ever))
    sure, weight = SAID_KNOWN
    first = np.where(stated_known, (q + sure) / (1 + weight), q)
    found = Belief(
        np.ones((len(_GRID), n)), np.zeros((len(_GRID), n)), np.zeros(n, dtype=bool), np.full(len(_GRID), 1.0 / len(_GRID)),
        first, np.asarray(uses_day, dtype=np.float64), max(1e-6, working_days / 7.0),
    )  # fmt: skip
    day, nth = days_of(c.at_us[tries.place]), tries.nth
    order = np.argsort(nth, kind="stable")
    steps = np.searchsorted(nth[order], np.arange(int(tries.counts.max(initial=0)) + 1))
    ln_chance = np.zeros(len(_GRID))
    for begin, end in pairwise(steps.tolist()):  # the first strikes of all bindings together, then the second ones
        some = order[begin:end]
        ln_chance += found.strikes(tries.of[some], day[some], known[some])
    found.weigh(ln_chance)
    return found


def everybody_knows(trigger: Trigger) -> bool:
    """Return True if a trigger is a chord that everybody knows, such as Ctrl+C."""
    return isinstance(trigger, Sequence) and len(trigger.chords) == 1 and is_standard(trigger.chords[0])
