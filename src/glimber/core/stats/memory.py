"""Knowing: how likely a binding is remembered, by activation with spacing-dependent decay, of all bindings in step.

Source: Pavlik & Anderson, "Practice and forgetting effects on vocabulary memory", Cognitive Science 29 (2005):
m = ln Σ tⱼ^(−dⱼ), dⱼ = c·e^(mⱼ) + a with mⱼ the activation just before strike j, p = 1 / (1 + e^((τ − m)/s)). Times in seconds on
a clock that runs at 0.025 of its pace between rounds. The decays do not depend on τ and s, so one trace serves before and after
these are fitted to the person.
"""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace
from scipy.special import expit

from glimber.core.notation.keys import Sequence, Trigger
from glimber.core.notation.standard import is_standard
from glimber.core.practice.columns import HIT
from glimber.core.stats.grouping import Selected

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]

BETWEEN_ROUNDS: Final = 0.025
STRIKES_USED: Final = 400
REFIT_FROM_TRIES: Final = 200
KNOWN_BEFORE: Final = (0.2, 10.0)
"""Success at first-ever tries before there are any, and the tries it is worth."""
KNOWN_TO_ALL: Final = 0.95
_BINS: Final = 400


class Recall(Struct, frozen=True):
    """Parameters of the memory model; ``tau`` and ``s`` are the person's, ``known`` is what is known before any practice."""

    a: float = 0.177
    c: float = 0.217
    tau: float = -0.704
    s: float = 0.255
    known: float = KNOWN_BEFORE[0]

    def p(self, activation: Floats | float, known: Floats | float | None = None) -> Floats:
        """Chance of knowing at an activation (minus infinity gives ``known``): q + (1 − q) / (1 + e^((τ − m)/s))."""
        q = self.known if known is None else known
        return np.asarray(q + (1 - q) * expit((np.asarray(activation) - self.tau) / self.s))


DEFAULT: Final = Recall()


class Traces(Struct, frozen=True):
    """The correct strikes of every binding on its scaled clock, newest 400 of each.

    ``clock_s`` and ``decay`` (s, b): strike after strike, NaN and 0 beyond a binding's last; ``strikes`` (b,) how many;
    ``last_s`` (b,) when the last was, unscaled; ``before`` (t,) the activation just before each of the tries it was made of.
    """

    clock_s: Floats
    decay: Floats
    strikes: Ints
    last_s: Floats
    before: Floats

    def activation(self, at_s: float | Floats) -> Floats:
        """Return activations (b,) at a moment between rounds, or at one of each, in unscaled seconds; minus infinity without
        strikes."""
        found = np.full(len(self.strikes), -np.inf)
        some = np.flatnonzero(self.strikes)
        if len(some):
            last = self.clock_s[self.strikes[some] - 1, some]
            at = np.broadcast_to(np.asarray(at_s, dtype=np.float64), found.shape)[some]
            now = last + np.maximum(at - self.last_s[some], 0.0) * BETWEEN_ROUNDS
            ages = np.maximum(now - self.clock_s[:, some], 1.0)
            terms = np.exp(-self.decay[:, some] * np.log(ages))
            found[some] = np.log(np.nansum(terms, axis=0))
        return found


def traces(logged: Selected, model: Recall = DEFAULT) -> Traces:
    """Build the traces of all bindings from their logged tries, in step: the first strikes of all, then the second, and so on.

    Correct strikes count, those that must follow a slip too. A try that was no strike only has its activation worked out.
    """
    c, n = logged.columns, logged.bindings
    struck = c.outcome[logged.place] == HIT
    all_hits = logged.where(struck)
    kept = all_hits.since < STRIKES_USED
    hits = all_hits.where(kept)
    steps = int(hits.counts.max(initial=0))
    times = c.at_us[hits.place] / 1e6
    rounds = c.round.codes[hits.place]
    gaps = np.zeros(len(times))
    pace = np.where(rounds[1:] == rounds[:-1], 1.0, BETWEEN_ROUNDS)
    gaps[1:] = np.where(hits.of[1:] == hits.of[:-1], np.maximum(np.diff(times), 0.0) * pace, 0.0)
    run = np.cumsum(gaps)
    clock_of = run - run[hits.starts[hits.of]]
    clock, decay = np.full((steps, n), np.nan), np.zeros((steps, n))
    clock[hits.nth, hits.of] = clock_of
    last = np.zeros(n)
    last[hits.of] = times
    # How many of the strikes kept came before each try: its activation is that of those strikes, at its own moment.
    all_before = np.cumsum(struck) - struck
    count = all_before - all_before[logged.starts[logged.of]] - (all_hits.counts - hits.counts)[logged.of]
    before = np.full(len(struck), -np.inf)
    missed = _misses(logged, hits, count, struck, clock_of, times, rounds)
    by_count = _by_count(missed.count, steps)
    place_of = np.zeros((steps, n), dtype=np.int64)
    place_of[hits.nth, hits.of] = np.flatnonzero(struck)[kept]
    decay[:1, hits.counts > 0] = model.a
    for j in range(1, steps + 1):
        late = by_count[j]
        if len(late):
            whose = missed.of[late]
            before[missed.place[late]] = _activations(missed.clock[late], clock[:j, whose], decay[:j, whose])
        if j < steps:
            here = np.flatnonzero(hits.counts > j)
            m = _activations(clock[j, here], clock[:j, here], decay[:j, here])
            before[place_of[j, here]] = m
            decay[j, here] = model.c * np.exp(m) + model.a
    return Traces(clock, decay, hits.counts, last, before)


class _Missed(Struct, frozen=True):
    """Tries that were no strikes: their places, bindings, how many strikes came before, and their moment on the scaled clock."""

    place: Ints
    of: Ints
    count: Ints
    clock: Floats


def _misses(
    logged: Selected,
    hits: Selected,
    count: Ints,
    struck: Bools,
    clock: Floats,
    times: Floats,
    rounds: npt.NDArray[np.int32],
) -> _Missed:
    place = np.flatnonzero(~struck & (count > 0))
    of, before = logged.of[place], count[place]
    last = hits.starts[of] + before - 1
    c, at = logged.columns, logged.place[place]
    pace = np.where(c.round.codes[at] == rounds[last], 1.0, BETWEEN_ROUNDS)
    moment = clock[last] + np.maximum(c.at_us[at] / 1e6 - times[last], 0.0) * pace
    return _Missed(place, of, before, moment)


def _by_count(count: Ints, steps: int) -> list[Ints]:
    """For each number of strikes, which misses had just so many before them."""
    order = np.argsort(count, kind="stable")
    edges = np.searchsorted(count[order], np.arange(steps + 2))
    return [order[edges[j] : edges[j + 1]] for j in range(steps + 1)]


def _activations(now: Floats, clock: Floats, decay: Floats) -> Floats:
    """ln Σ age^−d over the strikes before, (b,): ``now`` (b,), ``clock`` and ``decay`` (j, b)."""
    ages = np.subtract(now, clock)
    np.maximum(ages, 1.0, out=ages)
    np.log(ages, out=ages)
    ages *= decay
    np.negative(ages, out=ages)
    np.exp(ages, out=ages)
    return np.asarray(np.log(ages.sum(axis=0)))


def known_before(first_known: Bools) -> float:
    """The folio's success at first-ever tries (n,), with 0.2 at the weight of ten tries before."""
    rate, weight = KNOWN_BEFORE
    return float((rate * weight + first_known.sum()) / (weight + len(first_known)))


def known_before_each(counted: Selected, model: Recall, everybody: Bools) -> Floats:
    """q of every binding, (b,): (4·the folio's + its own first try) / 5; ``everybody`` (b,): chords that are known to all."""
    known = ~counted.columns.not_known[counted.place]
    q = np.where(everybody, KNOWN_TO_ALL, model.known)
    some = counted.counts > 0
    q[some] = (4 * q[some] + known[counted.starts[:-1][some]]) / 5
    return q


def everybody_knows(trigger: Trigger) -> bool:
    """Return True if a trigger is a chord that everybody knows, such as Ctrl+C."""
    return isinstance(trigger, Sequence) and len(trigger.chords) == 1 and is_standard(trigger.chords[0])


def refit(activations: Floats, known: Bools, model: Recall = DEFAULT) -> Recall:
    """The model with ``tau`` and ``s`` fitted to a person.

    ``activations`` (n,) just before each try and ``known`` (n,) whether it was known. Maximum likelihood of the
    logistic in the activation above what was known before, over bins of activation, with a weak pull towards the starting
    values worth about ten tries.
    """
    usable = np.isfinite(activations)
    m, hit = activations[usable], known[usable]
    if len(m) < REFIT_FROM_TRIES or hit.all() or not hit.any():
        return model
    edges = np.linspace(m.min(), m.max() + 1e-9, _BINS + 1)
    # Bins that hold nothing are left out.
    _, which = np.unique(np.digitize(m, edges), return_inverse=True)
    count, right = np.bincount(which), np.bincount(which, weights=hit)
    middle, wrong = np.bincount(which, weights=m) / count, count - right

    def loss(x: Floats) -> float:
        p = replace(model, tau=x[0], s=float(np.exp(x[1]))).p(middle)
        p = np.clip(p, 1e-12, 1 - 1e-12)
        fit = -np.sum(right * np.log(p) + wrong * np.log1p(-p))
        return float(fit + 5.0 * (x[0] - model.tau) ** 2 + 5.0 * (x[1] - np.log(model.s)) ** 2)

    from scipy.optimize import minimize

    found = minimize(loss, np.array([model.tau, np.log(model.s)]), method="Nelder-Mead", options={"maxiter": 400})
    return replace(model, tau=float(found.x[0]), s=float(np.clip(np.exp(found.x[1]), 0.05, 3.0)))
