"""Rearranging with few changes: what the fewest moves save. Costs only; what they mean is ``replan``'s.

A linear assignment (``scipy.optimize.linear_sum_assignment``, the method of Jonker & Volgenant 1987 after Crouse 2016) with
λ more for everything that leaves its place, solved for a sweep of λ, gives the lower hull of "cost against moves". What
moves in one solution falls into chains and rings that do not depend on each other: choosing among them by dynamic
programming fills the gaps. Terms between two are brought in by exchanges of two and three until nothing improves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import permutations
from math import perm
from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

NEVER: Final = 1e12
_SOLVES: Final = 80
_STEPS: Final = 400
_Step = tuple[float, Sequence[tuple[int, int]]]
"""The saving of a step, as far as it can be reckoned one at a time, and who goes where."""
_MIDDLES: Final = 4
_ALL: Final = 50_000
"""Arrangements that are all looked at."""
_SMALL: Final = 24
_STARTS: Final = 4
_IMPROVED: Final = 8
"""Larger problems are improved from so many solutions of the hull, and from the best start alone."""
_THREES: Final = 24
"""Rings of three are tried among at most so many."""


class Problem(Struct, frozen=True):
    """``cost`` (n, m) of each at each place, NEVER where it may not be; ``home`` (n,) where each is now; ``pairs``: cost
    (m, m) of two by their places."""

    cost: Floats
    home: Ints
    pairs: Mapping[tuple[int, int], Floats] = field(default_factory=dict)

    def total(self, at: Ints) -> float:
        """Return what an arrangement (n,) costs."""
        found = float(self.cost[np.arange(len(at)), at].sum())
        return found + sum(float(table[at[i], at[j]]) for (i, j), table in self.pairs.items())

    def moves(self, at: Ints) -> int:
        return int((at != self.home).sum())


def frontier(problem: Problem, most: int | None = None) -> list[tuple[int, Ints]]:
    """Return the best arrangements by how many move: each costs less than all with fewer moves, from none to ``most`` (all)."""
    n = len(problem.home)
    most = n if most is None else min(most, n)
    best: dict[int, tuple[float, Ints]] = {}

    def keep(at: Ints) -> None:
        moves, total = problem.moves(at), problem.total(at)
        if moves not in best or total < best[moves][0] - 1e-9:
            best[moves] = (total, at.copy())

    if perm(problem.cost.shape[1], n) <= _ALL:
        for at in _everything(problem):
            keep(at)
    else:
        hull = _hull(problem)
        every = 1 if n <= _SMALL else -(-len(hull) // _IMPROVED)
        for place, at in enumerate(hull):
            keep(at)
            if problem.pairs and place % every == 0:  # without terms between two nothing is better at this λ
                keep(_exchanged(problem, at, n))
        for at in [at for _, at in best.values()]:
            for part in _parts(problem, at):
                keep(part)
        for count in range(1, most + 1):
            starts = sorted((best[moves] for moves in best if moves <= count), key=lambda one: one[0])
            for _, start in starts[: _STARTS if n <= _SMALL else 1]:
                keep(_exchanged(problem, start, count))
    found: list[tuple[int, Ints]] = []
    least = np.inf
    for moves in sorted(best):
        total, at = best[moves]
        if moves <= most and total < least - 1e-9:
            found.append((moves, at))
            least = total
    return found


def _everything(problem: Problem) -> list[Ints]:
    """Return the best of all arrangements for every number of moves, where there are few enough to look at each."""
    n, m = problem.cost.shape
    every = np.array(list(permutations(range(m), n)), dtype=np.int64).reshape(-1, n)
    total = problem.cost[np.arange(n), every].sum(axis=1)
    for (i, j), table in problem.pairs.items():
        total += table[every[:, i], every[:, j]]
    moves = (every != problem.home).sum(axis=1)
    return [every[np.flatnonzero(moves == count)[np.argmin(total[moves == count])]] for count in np.unique(moves)]


def _hull(problem: Problem) -> list[Ints]:
    """Solutions for a sweep of λ, from nothing that moves to all that pays; each λ is where two neighbours of the hull are
    even."""
    rows = np.arange(len(problem.home))

    def solve(penalty: float) -> Ints:
        from scipy.optimize import linear_sum_assignment

        cost = problem.cost + penalty
        cost[rows, problem.home] -= penalty
        return np.asarray(linear_sum_assignment(cost)[1], dtype=np.int64)

    def linear(at: Ints) -> float:
        return float(problem.cost[rows, at].sum())

    found = [problem.home, solve(1e-9)]
    open_ones, solved = [(found[0], found[1])], 1
    while open_ones and solved < _SOLVES:
        few, many = open_ones.pop()
        gap = problem.moves(many) - problem.moves(few)
        if gap < 2:
            continue
        penalty = (linear(few) - linear(many)) / gap
        between = solve(max(penalty, 0.0))
        solved += 1
        on_line = (
            linear(between) + penalty * problem.moves(between) >= linear(few) + penalty * problem.moves(few) - 1e-9
        )
        if on_line or problem.moves(between) in (problem.moves(few), problem.moves(many)):
            continue
        found.append(between)
        open_ones += [(few, between), (between, many)]
    return found


def _parts(problem: Problem, at: Ints) -> list[Ints]:
    """Return the best choices among the chains and rings of a solution for every number of moves, by dynamic programming over
    them."""
    gains = []
    for ring in _rings(problem.home, at):
        part = problem.home.copy()
        part[ring] = at[ring]
        gains.append((len(ring), problem.total(problem.home) - problem.total(part), ring))
    chosen: list[tuple[float, tuple[int, ...]]] = [(0.0, ())]
    for place, (size, gain, _) in enumerate(gains):
        if gain <= 0:
            continue
        longer = chosen + [(-np.inf, ())] * size
        for count, (sofar, rings) in enumerate(chosen):
            if sofar + gain > longer[count + size][0]:
                longer[count + size] = (sofar + gain, (*rings, place))
        chosen = longer
    found = []
    for sofar, rings in chosen[1:]:
        if sofar > 0:
            part = problem.home.copy()
            for place in rings:
                part[gains[place][2]] = at[gains[place][2]]
            found.append(part)
    return found


def _rings(home: Ints, at: Ints) -> list[list[int]]:
    """Return what moves, in groups that need each other: one goes where the next was."""
    owner = {int(place): row for row, place in enumerate(home)}
    group = list(range(len(home)))

    def root(row: int) -> int:
        while group[row] != row:
            row = group[row]
        return row

    moving = [row for row in range(len(home)) if home[row] != at[row]]
    for row in moving:
        other = owner.get(int(at[row]))
        if other is not None and other != row:
            group[root(row)] = root(other)
    found: dict[int, list[int]] = {}
    for row in moving:
        found.setdefault(root(row), []).append(row)
    return list(found.values())


def _exchanged(problem: Problem, start: Ints, most: int) -> Ints:
    """Go to free places, and exchange two or three, as long as that costs less and no more than ``most`` move."""
    at = start.copy()
    for _ in range(_STEPS):
        better = _best_step(problem, at, most)
        if better is None:
            return at
        at = better
    return at


def _best_step(problem: Problem, at: Ints, most: int) -> Ints | None:
    """Return the step that saves most; None where none does."""
    n, m = problem.cost.shape
    rows = np.arange(n)
    cost = problem.cost.copy()
    for (i, j), table in problem.pairs.items():
        cost[i] += table[:, at[j]]
        cost[j] += table[at[i], :]
    now = cost[rows, at]
    moved = at != problem.home
    left = most - int(moved.sum())
    tried: list[_Step] = []
    taken = np.zeros(m, dtype=bool)
    taken[at] = True
    free = np.flatnonzero(~taken)
    swap = cost[:, at] - now[:, None]  # what i gains at k's place
    away = (at[None, :] != problem.home[:, None]).astype(int) - moved[:, None]
    if len(free):
        tried += _to_free(problem, cost, now, at, free, swap, away, left)
    both = swap + swap.T
    both = np.where((away + away.T <= left) & ~np.eye(n, dtype=bool), both, np.inf)
    for flat in np.argsort(both, axis=None)[: 2 * (len(problem.pairs) + 1) + 2]:
        i, k = divmod(int(flat), n)
        tried.append((float(both[i, k]), [(i, int(at[k])), (k, int(at[i]))]))
    tried += _threes(swap, away, at, left)
    for pair in problem.pairs:
        tried += _both(problem, pair, cost, now, at, np.flatnonzero(~taken), left)
    base = problem.total(at)
    best: tuple[float, Ints] | None = None
    for guess, steps in sorted(tried, key=lambda one: one[0])[: 8 + 4 * min(len(problem.pairs), 8)]:
        if guess == np.inf or (guess >= -1e-9 and not problem.pairs):
            continue
        new = at.copy()
        for row, place in steps:
            new[row] = place
        total = problem.total(new)  # two of a pair may have moved at once: only the whole tells
        if total < base - 1e-9 and (best is None or total < best[0]):
            best = (total, new)
    return None if best is None else best[1]


def _both(
    problem: Problem, pair: tuple[int, int], cost: Floats, now: Floats, at: Ints, free: Ints, left: int
) -> list[_Step]:
    """Two that belong together go to places that are good for both: free ones, or each other's."""
    i, j = pair
    table = problem.pairs[pair]
    places = np.append(free, [at[i], at[j]])
    alone_i, alone_j = cost[i, places] - table[places, at[j]], cost[j, places] - table[at[i], places]
    whole = alone_i[:, None] + alone_j[None, :] + table[np.ix_(places, places)]
    before = now[i] + now[j] - table[at[i], at[j]]
    moved = (at != problem.home).astype(int)
    more = (
        (places != problem.home[i]).astype(int)[:, None]
        + (places != problem.home[j]).astype(int)[None, :]
        - moved[i]
        - moved[j]
    )
    whole = np.where((more > left) | np.eye(len(places), dtype=bool), np.inf, whole)
    p, q = divmod(int(np.argmin(whole)), len(places))
    return [(float(whole[p, q] - before), [(i, int(places[p])), (j, int(places[q]))])]


def _to_free(
    problem: Problem, cost: Floats, now: Floats, at: Ints, free: Ints, swap: Floats, away: Ints, left: int
) -> list[_Step]:
    """One goes to a free place; or one takes another's place, and that one goes to a free one; or three in a row."""
    change = cost[:, free] - now[:, None]
    more = (free[None, :] != problem.home[:, None]).astype(int) - (at != problem.home).astype(int)[:, None]
    rows = np.arange(len(at))
    found: list[_Step] = []
    alone = np.where(more <= left, change, np.inf)
    for flat in np.argpartition(alone, min(2, alone.size - 1), axis=None)[:3]:
        i, j = divmod(int(flat), len(free))
        found.append((float(alone[i, j]), [(i, int(free[j]))]))
    # The last of a row goes to the free place that is best for it, one that counts as a move or its own.
    for counts in (1, 0, -1):
        fits = more == counts
        if not fits.any():
            continue
        last = np.where(fits, change, np.inf)
        where, gain = last.argmin(axis=1), last.min(axis=1)
        two = swap + gain[None, :]
        two = np.where((away + counts <= left) & ~np.eye(len(at), dtype=bool), two, np.inf)
        i, k = divmod(int(np.argmin(two)), len(at))
        found.append((float(two[i, k]), [(i, int(at[k])), (k, int(free[where[k]]))]))
        for middle in rows[np.argsort(two.min(axis=1))[:_MIDDLES]]:
            three = swap[:, middle, None] + two[None, middle, :]
            bad = (away[:, middle, None] + away[None, middle, :] + counts > left) | np.eye(len(at), dtype=bool)
            three = np.where(bad | (rows == middle)[:, None] | (rows == middle)[None, :], np.inf, three)
            i, k = divmod(int(np.argmin(three)), len(at))
            steps = [(i, int(at[middle])), (int(middle), int(at[k])), (k, int(free[where[k]]))]
            found.append((float(three[i, k]), steps))
    return found


def _threes(swap: Floats, away: Ints, at: Ints, left: int) -> list[_Step]:
    """Return the best ring of three among those with most to gain."""
    n = len(at)
    chosen = np.argsort(swap.min(axis=1))[:_THREES] if n > _THREES else np.arange(n)
    part, more = swap[np.ix_(chosen, chosen)], away[np.ix_(chosen, chosen)]
    ring = part[:, :, None] + part[None, :, :] + part.T[:, None, :]
    moves = more[:, :, None] + more[None, :, :] + more.T[:, None, :]
    size = len(chosen)
    same = np.eye(size, dtype=bool)
    ring = np.where(same[:, :, None] | same[None, :, :] | same[:, None, :] | (moves > left), np.inf, ring)
    if not np.isfinite(ring.min(initial=np.inf)):
        return []
    found: list[_Step] = []
    for flat in np.argpartition(ring, 3, axis=None)[:4]:
        i, j, k = (int(chosen[x]) for x in np.unravel_index(int(flat), ring.shape))
        found.append((float(ring.flat[flat]), [(i, int(at[j])), (j, int(at[k])), (k, int(at[i]))]))
    return found
