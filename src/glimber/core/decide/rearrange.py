"""Rearranging a layer with few changes: what can go where, what it would cost there, and what it takes to learn.

Source: docs/measures.md, "Rearranging a layer with few changes".
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.decide.candidates import Forecasts, There
from glimber.core.decide.fit import pair_of
from glimber.core.decide.forecast import Floats, Ints, unknown_uses
from glimber.core.decide.free_places import is_open
from glimber.core.decide.frontier import NEVER, Problem, frontier
from glimber.core.decide.places import movable
from glimber.core.decide.reasons import pair_answer
from glimber.core.decide.reasons import pair_of as taken_for_each_other
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Layer
from glimber.core.notation.keycodes import MODIFIER_CODES
from glimber.core.notation.keys import Spot
from glimber.core.notation.nearest import did_you_mean
from glimber.core.stats.ledger import Weighed

MIXED_WITHIN_U: Final = 2.0
"""Two that are taken for each other are taken so less often where they are further apart than this."""
MIXED_APART: Final = 0.5
PAIR_S: Final = 0.06
"""The worth of a pair that stands as its words say: a share of what its uses cost."""
SHAPE_S: Final = 0.04
"""The worth of a sibling that keeps its side of another, where shapes are kept."""
LEAST_MORE_S: Final = 0.5
"""Seconds a week that a plan must save beyond one with fewer moves."""


class CannotReplanError(ValueError):
    """There is no such layer, or nothing on it that may move; its words say which."""


class Step(Struct, frozen=True):
    """One binding goes from one spot to another."""

    binding: str
    start: Spot
    to: Spot


class Plan(Struct, frozen=True):
    """So many moves, and what they save in a week on average over the horizon, as the verdicts on the same moves promise it;
    ``learn_s``: the seconds that learning them takes, which are in it; ``load``: uses a day of each finger after."""

    moves: int
    saves_s_week: float
    learn_s: float
    steps: tuple[Step, ...]
    load: Mapping[str, float]


class Wish(Struct, frozen=True):
    """Constraints on a rearrangement: bindings that stay, each on its hand, siblings in their shape."""

    stay: frozenset[str] = frozenset()
    hands: bool = False
    shape: bool = False


def replan(forecasts: Forecasts, board: str, layer: str, most: int | None = None, wish: Wish = Wish()) -> list[Plan]:
    """Return the frontier "moves against seconds saved" of a layer, from no move on. Raises CannotReplanError."""
    folio = forecasts.ledger.folio
    layout, shape = folio.layouts.get(board), folio.boards.get(board)
    if layout is None or shape is None:
        raise CannotReplanError(f"{board} has no layout in this folio{did_you_mean(board, folio.layouts)}")
    here = layout.layer(layer)
    if here is None:
        ids = [one.id for one in layout.layers]
        raise CannotReplanError(f"{layer} is not a layer of {board}{did_you_mean(layer, ids)}; it has {', '.join(ids)}")
    rows = [forecasts.ledger.rows[b.id] for b in here.bindings if _may_move(forecasts, b, wish)]
    if not rows:
        raise CannotReplanError(f"{here.name} has nothing on it that may move: drill it first, or take pins off")
    spots = _spots(forecasts, shape, here, rows)
    problem, expected = _problem(forecasts, shape, rows, spots, wish)
    plans = [_plan(forecasts, here, rows, spots, problem, expected, at) for _, at in frontier(problem, most)]
    # Pairs and shapes steer the search without being promised: a plan that saves no more than one with fewer moves is left out.
    rising = plans[:1]
    for plan in plans[1:]:
        if plan.saves_s_week >= rising[-1].saves_s_week + LEAST_MORE_S:
            rising.append(plan)
    return rising


def _may_move(forecasts: Forecasts, binding: Binding, wish: Wish) -> bool:
    row = forecasts.ledger.rows.get(binding.id)
    return (
        row is not None and binding.id not in wish.stay and len(binding.spot.keys) == 1 and binding.spot.gesture in _MOVES
        and movable(forecasts.ledger.folio, binding) and row.uses_week > 0 and row.reach_ms is not None
    )  # fmt: skip


_MOVES: Final = ("tap", "hold", "double", "tap-hold")


def _spots(forecasts: Forecasts, board: Board, layer: Layer, rows: Sequence[Weighed]) -> list[Spot]:
    """Return every place that one of the bindings has, and the free keys with every gesture that is asked for."""
    folio = forecasts.ledger.folio
    ways = {
        key
        for one in folio.layouts[board.id].layers
        for b in one.bindings
        if b.enters is not None
        for key in b.spot.keys
    }
    free = [key for key in board.by_id if key not in layer.by_key and key not in ways and key not in MODIFIER_CODES
            and layer.unset.get(key) != "dead" and is_open(folio, layer, key)]  # fmt: skip
    taken = [row.binding.spot for row in rows]
    gestures = dict.fromkeys(spot.gesture for spot in taken)
    found = dict.fromkeys(
        [*taken, *(Spot(board.id, layer.id, (key,), gesture) for gesture in gestures for key in free)]
    )
    return [spot for spot in found if forecasts.ledger.reach.ms(spot) is not None]


def _problem(
    forecasts: Forecasts, board: Board, rows: Sequence[Weighed], spots: Sequence[Spot], wish: Wish
) -> tuple[Problem, list[There | None]]:
    """Return the seconds a week of each binding at each place over the horizon, relearning included, and what is expected of
    each binding at the places; None for one that was never tried and has nothing to relearn.

    The same forecast as a verdict's: a move costs here what it costs there.
    """
    home = np.array([spots.index(row.binding.spot) for row in rows], dtype=np.int64)
    expected = [_expected(forecasts, rows, row, spots, home) for row in rows]
    cost = np.full((len(rows), len(spots)), NEVER)
    for i, (row, there) in enumerate(zip(rows, expected, strict=True)):
        fits = np.array([_fits(board, row, spot, wish) for spot in spots])
        if there is None:
            week = _untried(forecasts, row, spots)
        else:
            kept = float(forecasts.keep_s[row.number])
            week = (kept - forecasts.gain_by_means(np.full(len(spots), row.number), there)) / _weeks(forecasts)
            week[home[i]] = kept / _weeks(forecasts)
        cost[i] = np.where(fits, week, NEVER)
    return Problem(cost, home, _pairs(forecasts, board, rows, spots, wish)), expected


def _weeks(forecasts: Forecasts) -> float:
    return forecasts.days / 7


def _expected(
    forecasts: Forecasts, rows: Sequence[Weighed], row: Weighed, spots: Sequence[Spot], home: Ints
) -> There | None:
    """Return what is expected of a binding at each place, as its verdict expects it."""
    if not forecasts.known[row.number]:
        return None
    own = np.full(len(spots), row.number)
    numbers = np.array([forecasts.places.number(spot) for spot in spots], dtype=np.int64)
    crowd, fit = forecasts.places.surroundings([row] * len(spots), spots)
    there = forecasts.there(own, numbers, crowd, fit, forecasts.goes_to(own, numbers))
    plain = np.array(forecasts.carried[row.number].shares())
    for j, other in enumerate(rows):
        if other is row or not forecasts.known[other.number]:
            continue
        bad_key = forecasts.bad_key_hand(other.number, forecasts.at[[row.number]])[0]
        there.hand[home[j]] = max(there.hand[home[j]], bad_key)
        if _is_open_pair(forecasts, row, other):  # tries cannot tell whether an exchange would cure them
            there.along[0][home[j]], there.along[1][home[j]] = plain
    return there


def _is_open_pair(forecasts: Forecasts, row: Weighed, other: Weighed) -> bool:
    """Return True if two are taken for each other and the person did not say that the keys feel the wrong way round."""
    ledger = forecasts.ledger
    return taken_for_each_other(ledger, row) is other and pair_answer(ledger, row, other) != "pair-keys"


def _untried(forecasts: Forecasts, row: Weighed, spots: Sequence[Spot]) -> Floats:
    """Return the seconds a week of a binding that was never tried, at each place once it is learnt there."""
    usual = np.median([one.time_ms for one in forecasts.rows if one.time_ms is not None] or [1000.0])
    own = np.full(len(spots), row.number)
    numbers = np.array([forecasts.places.number(spot) for spot in spots], dtype=np.int64)
    there = forecasts.there(own, numbers, np.full(len(spots), 2.0), np.zeros(len(spots)), np.zeros(len(spots)))
    time_s = (row.time_ms or float(usual)) / 1000 - forecasts.scaled(there.less) / 1000
    return np.asarray(row.uses_week * (np.maximum(0.05, time_s) + there.hand * row.recovery_s))


def _fits(board: Board, row: Weighed, spot: Spot, wish: Wish) -> bool:
    old = row.binding.spot
    if spot.gesture != old.gesture:
        return False
    if not wish.hands or spot == old:
        return True
    hand = board.by_id[old.key].hand if old.key in board.by_id else None
    return hand is None or spot.key not in board.by_id or board.by_id[spot.key].hand == hand


def _pairs(
    forecasts: Forecasts, board: Board, rows: Sequence[Weighed], spots: Sequence[Spot], wish: Wish
) -> dict[tuple[int, int], Floats]:
    """Terms between two: taken for each other, a pair by their words, siblings that keep their sides."""
    centres = np.array([board.centre(spot.keys) or (0.0, 0.0) for spot in spots])
    apart = np.hypot(*(centres[:, None, :] - centres[None, :, :]).transpose(2, 0, 1))
    found: dict[tuple[int, int], Floats] = {}
    for i, one in enumerate(rows):
        for j in range(i + 1, len(rows)):
            other = rows[j]
            mixed = one.slips.would_do.get(other.command.ref, 0), other.slips.would_do.get(one.command.ref, 0)
            table = np.zeros((len(spots), len(spots)))
            if sum(mixed):
                week = sum(row.uses_week * count / max(1, row.count) * row.recovery_s
                           for row, count in zip((one, other), mixed, strict=True))  # fmt: skip
                table += np.where(apart > MIXED_WITHIN_U, MIXED_APART * week, week)
            worth = one.uses_week * (one.time_ms or 1000.0) / 1000 + other.uses_week * (other.time_ms or 1000.0) / 1000
            pair = pair_of(one.command, other.command)
            if pair is not None:
                along = (centres[None, :, :] - centres[:, None, :])[..., pair.axis] * pair.sign
                table -= PAIR_S * worth * np.clip(along, -1.0, 1.0) * (apart < MIXED_WITHIN_U)
            if wish.shape and one.command.group is not None and one.command.group == other.command.group:
                a, b = board.centre(one.binding.spot.keys), board.centre(other.binding.spot.keys)
                if a is not None and b is not None:
                    was = np.array(b) - np.array(a)
                    now = centres[None, :, :] - centres[:, None, :]
                    kept = (np.sign(now) == np.sign(was)).all(axis=-1) & (apart < np.hypot(*was) + 1.0)
                    table -= SHAPE_S * worth * kept
            if table.any():
                found[i, j] = table
    return found


def _plan(
    forecasts: Forecasts,
    layer: Layer,
    rows: Sequence[Weighed],
    spots: Sequence[Spot],
    problem: Problem,
    expected: Sequence[There | None],
    at: Ints,
) -> Plan:
    moved = [int(row) for row in np.flatnonzero(at != problem.home)]
    steps = tuple(Step(rows[i].binding.id, spots[problem.home[i]], spots[at[i]]) for i in moved)
    saves = 0.0
    for i in moved:
        there, place = expected[i], int(at[i])
        if there is None:
            saves += float(problem.cost[i, problem.home[i]] - problem.cost[i, place])
        else:
            draws = forecasts.moved_draws(rows[i].number, there.at(place), spots[place])
            saves += draws.saved_s / _weeks(forecasts)
    to = {step.binding: step.to for step in steps}
    return Plan(
        len(moved), saves, sum(_learn_s(forecasts, rows[i]) for i in moved), steps, load_of(forecasts, layer, to)
    )


def _learn_s(forecasts: Forecasts, row: Weighed) -> float:
    """Return seconds over the horizon that go into not knowing a binding at a new place, beyond what is not known where it is
    calm."""
    ledger = forecasts.ledger
    uses = row.uses_week / 7 * forecasts.days
    unknown = float(unknown_uses(0.5, ledger.calm_knowing, 1.0, ledger.slope, uses)) - ledger.calm_knowing * uses
    return max(0.0, unknown) * row.recovery_s


def load_of(forecasts: Forecasts, layer: Layer, to: Mapping[str, Spot] | None = None) -> dict[str, float]:
    """Return uses a day of each finger on a layer, as it is or with some bindings elsewhere; most first."""
    found: dict[str, float] = {}
    ledger = forecasts.ledger
    for binding in layer.bindings:
        row = ledger.rows.get(binding.id)
        if row is None:
            continue
        spot = (to or {}).get(binding.id, binding.spot)
        board = ledger.folio.boards[spot.board]
        for key in spot.keys:
            finger = board.by_id[key].finger if key in board.by_id else None
            name = finger or "no finger set"
            found[name] = found.get(name, 0.0) + row.uses_week / max(1.0, ledger.folio.settings.working_days)
    return dict(sorted(found.items(), key=lambda one: -one[1]))


def best_within(plans: Sequence[Plan], moves: int) -> Plan:
    """Return the best plan with at most so many moves."""
    return max((plan for plan in plans if plan.moves <= moves), key=lambda plan: plan.saves_s_week)


def stays_of(ids: Collection[str], known: Collection[str]) -> frozenset[str]:
    """Return bindings that are to stay. Raises CannotReplanError for one that is not there."""
    for id in ids:
        if id not in known:
            raise CannotReplanError(f"{id} is not a binding of this folio{did_you_mean(id, known)}")
    return frozenset(ids)
