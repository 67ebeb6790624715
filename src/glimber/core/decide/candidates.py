"""The gain of a binding at each place it could move to: all candidates by their means first, the best ones by draws."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.decide.forecast import DRAWS, Gain, Standing, carried, drawn, gain_of, rng_for, standing
from glimber.core.decide.places import HAND_GOES_SHARE, HAND_GOES_SLIPS, Options, Places
from glimber.core.edit.edit import is_move
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.columns import Floats, Ints
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.reach import Reach

DRAWN: Final = 12
SHOWN_DRAWS: Final = 200
"""Draws that the break-even day is taken from."""
MOST_KEPT: Final = 64
"""Bindings whose draws are kept: a quarter of a megabyte each."""
BAD_KEY: Final = (8, 0.1)
"""A key on which more than a tenth of so many tries went beside it stays a bad key for whoever gets it."""
START_KNOWING: Final = 0.5
FIT_KNOWS: Final = 0.15
LEAST_START: Final = 0.05
PREFERRED: Final = 0.2
FIRM: Final = 20.0
"""Strength, in tries, of what is expected of a new place."""
MOST_HAND: Final = 0.6
REACH_ERROR: Final = (0.15, 15.0)
"""The error of a predicted difference in reach, beside that of the person's scales: a share of it, and ms."""


class Candidate(Struct, frozen=True):
    """One way to change: where ``binding`` goes, what it swaps with, and what that promises.

    ``gain`` is that of all that move. ``own`` is what the choice rests on: the binding's gain with what the partner of a swap
    loses, without what the partner gains, or every binding would want to swap with the worst one. ``goes``: which share of the
    binding's slips went there already; ``move``: same kind, gesture and modifiers.
    """

    binding: str
    to: Trigger
    swap_with: str | None
    reach_ms: float
    gain: Gain
    own: Gain
    goes: float
    move: bool

    @property
    def hand_goes(self) -> bool:
        """Return True if the hand goes there already."""
        return self.goes >= HAND_GOES_SHARE


class There(Struct, frozen=True):
    """Expectations for bindings at places, (n,): reach there; the terms less in finger, distance and others; hand errors;
    initial knowing errors; and the shares of knowing and hand errors that carry over."""

    reach_ms: Floats
    less: Floats
    hand: Floats
    knowing: Floats
    along: tuple[Floats, Floats]

    def at(self, place: int) -> There:
        one = slice(place, place + 1)
        return There(
            self.reach_ms[one],
            self.less[:, one],
            self.hand[one],
            self.knowing[one],
            (self.along[0][one], self.along[1][one]),
        )


class Draws(Struct, frozen=True):
    """Costs over the horizon as a binding is and where it would go, (draws,); ``expected`` there: seconds less reach, errors of
    the hand, first errors of knowing."""

    before: Floats
    after: Floats
    expected: tuple[Floats, Floats, Floats]

    @property
    def saved_s(self) -> float:
        """The mean of what going there saves."""
        return float(np.mean(self.before) - np.mean(self.after))


class _Kept(Struct, frozen=True):
    """One binding as it is, by draws: what is the same for every place it may go to. ``total_s`` and ``unknown`` over the
    horizon, (draws,), and with ``_by_day`` of some draws by the end of each day, (some, days)."""

    draws: Standing
    total_s: Floats
    unknown: Floats
    some: Standing
    total_s_by_day: Floats
    unknown_by_day: Floats


class Forecasts(Struct, dict=True):
    """A ledger with how its bindings go on as they are: worked out once for all candidates."""

    ledger: Ledger
    computer: str | None = None
    _kept: dict[int, _Kept] = field(default_factory=dict)
    _terms: Floats = field(default_factory=lambda: np.zeros((3, 0)))

    def __post_init__(self) -> None:
        ledger = self.ledger
        self.rows = list(ledger.rows.values())
        self.places = Places(
            ledger.folio, {row.binding.id: place for place, row in enumerate(self.rows)}, self.computer
        )
        self.days = max(1, round(ledger.folio.settings.horizon_weeks * 7))
        self._plain = Reach(ledger.folio)
        self.means = standing(self.rows)
        self.keep_s = self.means.total_s(ledger, self.days)
        self._unknown = self.means.unknown(ledger, self.days)
        self.at = np.array([self.places.number(row.binding.trigger) for row in self.rows], dtype=np.int64)
        self.known = np.array([_is_known(row) and row.binding.id not in ledger.settling for row in self.rows], dtype=bool)
        self.carried = [carried(row) for row in self.rows]
        self._shares = np.array([errors.shares() for errors in self.carried]).reshape(-1, 2)
        self._by_text = {str(trigger): place for place, trigger in enumerate(self.places.triggers)}
        self._cures = [{self._numbered(trigger) for trigger in errors.taken} for errors in self.carried]
        has_cure = [bool(cures) or errors.gesture > 0 for cures, errors in zip(self._cures, self.carried, strict=True)]
        self._has_cure = np.array(has_cure, dtype=bool)
        tops = [next(iter(row.slips.struck.items()), ("", 0)) for row in self.rows]
        self._top = np.array([self._numbered(struck or None) for struck, _ in tops], dtype=np.int64)
        shares = [count / max(1, row.slips.total) for (_, count), row in zip(tops, self.rows, strict=True)]
        goes = [share if count >= HAND_GOES_SLIPS and share >= HAND_GOES_SHARE else 0.0
                for (_, count), share in zip(tops, shares, strict=True)]  # fmt: skip
        self._top_share = np.array(goes, dtype=np.float64)

    def _numbered(self, text: str | None) -> int:
        """Return the number of a trigger written as text, −1 for none and for what is no trigger."""
        if text is None:
            return -1
        if text not in self._by_text:
            try:
                self._by_text[text] = self.places.number(parse_trigger(text, self.ledger.folio.bundles))
            except NotationError:
                self._by_text[text] = -1
        return self._by_text[text]

    def kept(self, row: int) -> _Kept:
        """Return a binding as it is, by draws from its posteriors; that of the rows used last is kept."""
        found = self._kept.get(row)
        if found is None:
            draws = drawn(self.rows[row])
            some, each = draws.broadcast(np.arange(SHOWN_DRAWS)), np.arange(1.0, self.days + 1.0)
            found = _Kept(draws, draws.total_s(self.ledger, self.days), draws.unknown(self.ledger, self.days),
                          some, some.total_s(self.ledger, each), some.unknown(self.ledger, each))  # fmt: skip
            if len(self._kept) >= MOST_KEPT:
                self._kept.pop(next(iter(self._kept)))
            self._kept[row] = found
        return found

    def terms(self, triggers: Ints) -> Floats:
        """Return the plain terms of triggers' reaches, (3, n): finger, distance, other; NaN where a key is on no known board."""
        known = self._terms.shape[1]
        if known < len(self.places.triggers):
            costs = [self._plain.cost(trigger) for trigger in self.places.triggers[known:]]
            new = [
                (np.nan,) * 3 if cost is None else (cost.finger_ms, cost.distance_ms, cost.other_ms) for cost in costs
            ]
            self._terms = np.concatenate([self._terms, np.array(new).T], axis=1)
        return np.asarray(self._terms[:, triggers])

    def scaled(self, terms: Floats) -> Floats:
        """Reaches in ms by the person's scales, (n,), of their terms (3, n)."""
        return np.asarray(terms[0] * self.ledger.scales.finger + terms[1] * self.ledger.scales.distance + terms[2])

    def there(self, rows: Ints, to: Ints, crowd: Floats, fit: Floats, goes: Floats) -> There:
        """Return what is expected of bindings, by their numbers, at places, by the numbers of their triggers, (n,)."""
        new = self.terms(to)
        reach = self.scaled(new)
        usual = self.ledger.usual_reach_ms or 1.0
        # A calm binding's rate, more where the reach is long and the neighbours many.
        hand = self.ledger.calm_hand * np.minimum(2.5, 0.5 + 0.5 * reach / max(usual, 1.0)) * (0.7 + 0.06 * crowd)
        knowing = np.maximum(LEAST_START, (START_KNOWING - FIT_KNOWS * fit) * (1 - goes))
        along = self._carried_to(rows, to)
        return There(
            reach, self.terms(self.at[rows]) - new, np.minimum(MOST_HAND, hand), knowing, (along[:, 0], along[:, 1])
        )

    def goes_to(self, rows: Ints, to: Ints) -> Floats:
        """Return the share of bindings' slips that places draw, (n,): 0 where the hand does not go."""
        return np.where(self._top[rows] == to, self._top_share[rows], 0.0)

    def exchanged(self, rows: Ints, number: int) -> There:
        """Return what is expected of bindings, by their numbers, at the place that another has now: a bad key stays bad."""
        here = np.full(len(rows), self.at[number])
        trigger = self.rows[number].binding.trigger
        crowd, fit = self.places.surroundings([self.rows[row] for row in rows.tolist()], [trigger] * len(rows))
        there = self.there(rows, here, crowd, fit, self.goes_to(rows, here))
        return replace(there, hand=np.maximum(there.hand, self.bad_key_hand(number, self.at[rows])))

    def bad_key_hand(self, number: int, to: Ints) -> Floats:
        """Return the hand error that the key of a binding gives to partners from keys beside it, (n,)."""
        row = self.rows[number]
        least, rate = BAD_KEY
        seen = row.slips.kinds.get("neighbour", 0) / max(1, row.count)
        if row.count < least or seen <= rate:
            return np.zeros(len(to))
        beside = self.places.beside(row.binding.trigger)
        return np.array([seen if str(self.places.triggers[place]) in beside else 0.0 for place in to.tolist()])

    def moved_draws(self, row: int, there: There, to: Trigger) -> Draws:
        """Return what one binding's going to one place costs, by draws that are the same whatever else moves."""
        expected, kept = _there_draws(self, row, there, str(to)), self.kept(row)
        after = kept.draws.moved_s(self.ledger, self.days, *expected, there.along, kept.unknown)
        return Draws(kept.total_s, after, expected)

    def _carried_to(self, rows: Ints, to: Ints) -> Floats:
        """Return the shares of the errors of knowing and of the hand that carry over with bindings to places, (n, 2)."""
        found = self._shares[rows]
        for place in np.flatnonzero(self._has_cure[rows]).tolist():
            errors, number = self.carried[rows[place]], int(to[place])
            trigger = self.places.triggers[number]
            plain = errors.gesture > 0 and self.places.is_only_gesture(trigger, self.rows[rows[place]].binding)
            if plain or number in self._cures[int(rows[place])]:
                found[place] = errors.shares(str(trigger), plain)
        return found

    def gain_by_means(self, rows: Ints, there: There) -> Floats:
        """Expected gain over the horizon of bindings at places, (n,)."""
        gain_s = self.scaled(there.less) / 1000
        moved = self.means.of(rows).moved_s(
            self.ledger, self.days, gain_s, there.hand, there.knowing, there.along, self._unknown[rows]
        )
        return np.asarray(self.keep_s[rows] - moved)


def _is_known(row: Weighed) -> bool:
    """Return True if enough is measured of a binding to forecast it."""
    return row.posterior is not None and row.time_ms is not None and row.reach_ms is not None


def best_candidates(forecasts: Forecasts, row: Weighed) -> list[Candidate]:
    """Return the candidates with the highest expected gain, best first; the 12 best of the means are drawn from the
    posteriors."""
    number = row.number
    if not forecasts.known[number]:
        return []
    options = forecasts.places.options(row)
    partner_known = np.where(options.partner >= 0, forecasts.known[options.partner], True)
    options = options.where(partner_known & np.isfinite(forecasts.terms(options.to)[0]))
    if not len(options):
        return []
    mine = np.full(len(options), number)
    there = forecasts.there(mine, options.to, options.crowd, options.fit, options.goes)
    own = forecasts.gain_by_means(mine, there)
    swaps = np.flatnonzero(options.partner >= 0)
    back = forecasts.exchanged(options.partner[swaps], number)
    whole = own.copy()
    if len(swaps):
        # As in ``Candidate.own``.
        whole[swaps] += np.minimum(0.0, forecasts.gain_by_means(options.partner[swaps], back))
    liked = 1 + PREFERRED * options.fit + PREFERRED * (options.goes > 0)
    good = np.flatnonzero((whole > 0) & (own > 0))
    order = sorted(
        good.tolist(),
        key=lambda place: (-whole[place] * liked[place], str(forecasts.places.triggers[options.to[place]])),
    )
    swap_at = {int(place): nth for nth, place in enumerate(swaps)}
    found = []
    for place in order[:DRAWN]:
        moves = [(number, there.at(place))]
        if place in swap_at:
            moves.append((int(options.partner[place]), back.at(swap_at[place])))
        found.append((_drawn(forecasts, options, place, moves), liked[place]))
    return [one for one, _ in sorted(found, key=lambda pair: -pair[0].own.total_s * pair[1])]


def _drawn(forecasts: Forecasts, options: Options, place: int, moves: Sequence[tuple[int, There]]) -> Candidate:
    """Return an option by draws."""
    there, binding = moves[0][1], forecasts.rows[moves[0][0]].binding
    to = forecasts.places.triggers[options.to[place]]
    targets: list[Trigger] = [to, binding.trigger]
    costs = [forecasts.moved_draws(row, at, target) for (row, at), target in zip(moves, targets, strict=False)]
    running = [_saved_by_day(forecasts, row, at, cost) for (row, at), cost in zip(moves, costs, strict=True)]
    gain = _gain(costs, running)
    partner_gains = len(costs) > 1 and costs[1].saved_s >= 0
    partner = int(options.partner[place])
    return Candidate(
        binding.id,
        to,
        forecasts.rows[partner].binding.id if partner >= 0 else None,
        float(there.reach_ms[0]),
        gain,
        _gain(costs[:1], running[:1]) if partner_gains else gain,
        float(options.goes[place]),
        is_move(binding.trigger, to),
    )


def _gain(costs: Sequence[Draws], running: Sequence[Floats]) -> Gain:
    """Return the gain of all that move together."""
    before, after = sum(one.before for one in costs), sum(one.after for one in costs)
    return gain_of(np.asarray(before), np.asarray(after), np.asarray(sum(running)))


def _saved_by_day(forecasts: Forecasts, row: int, there: There, cost: Draws) -> Floats:
    """Return what some of the draws have saved by the end of each day, (draws, days)."""
    kept, each = forecasts.kept(row), np.arange(1.0, forecasts.days + 1.0)
    gain_s, hand, knowing = (one[:SHOWN_DRAWS, None] for one in cost.expected)
    after = kept.some.moved_s(forecasts.ledger, each, gain_s, hand, knowing, there.along, kept.unknown_by_day)
    return np.asarray(kept.total_s_by_day - after)


def _there_draws(forecasts: Forecasts, row: int, there: There, to: str) -> tuple[Floats, Floats, Floats]:
    """Return draws of the gain in reach in seconds, the hand error and the first error of knowing at a place."""
    rng, scales = rng_for(forecasts.rows[row], to), forecasts.ledger.scales
    mean = float(forecasts.scaled(there.less)[0])
    terms = there.less[:2, 0]
    share, least = REACH_ERROR
    deviation = float(np.sqrt(terms @ scales.errors @ terms + (share * abs(mean) + least) ** 2))
    gain_s = rng.normal(mean, deviation, DRAWS) / 1000
    hand, knowing = float(there.hand[0]), float(there.knowing[0])
    hands = rng.beta(FIRM * hand, FIRM * (1 - hand), DRAWS) if hand > 0 else np.zeros(DRAWS)
    unknown = rng.beta(FIRM * knowing, FIRM * (1 - knowing), DRAWS)
    return gain_s, hands, unknown
