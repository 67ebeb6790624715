"""The gain of a binding at each place it could move to: all candidates by their means first, the best ones by draws."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.decide.forecast import DRAWS, Gain, Standing, carried, drawn, gain_of, rng_for, standing
from glimber.core.decide.places import HAND_GOES_SHARE, Options, Places
from glimber.core.edit.edit import is_move
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.columns import Floats, Ints
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.reach import Reach

DRAWN: Final = 12
SHOWN_DRAWS: Final = 200
"""Draws that the break-even day is taken from."""
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
"""What a predicted difference in reach is off by beside the person's scales: a share of it, and ms."""


class Candidate(Struct, frozen=True):
    """One way to change: where ``binding`` goes, what it swaps with, and what that promises. ``goes``: which share of the
    binding's slips went there already; ``move``: same kind, gesture and modifiers."""

    binding: str
    to: Trigger
    swap_with: str | None
    reach_ms: float
    gain: Gain
    goes: float
    move: bool

    @property
    def hand_goes(self) -> bool:
        """Return True if the hand goes there already."""
        return self.goes >= HAND_GOES_SHARE


class _There(Struct, frozen=True):
    """Expectations for bindings at places, (n,): reach there; the terms less in finger, distance and others; hand errors;
    initial knowing errors; and the shares of knowing and hand errors that carry over."""

    reach_ms: Floats
    less: Floats
    hand: Floats
    knowing: Floats
    along: tuple[Floats, Floats]

    def at(self, place: int) -> _There:
        one = slice(place, place + 1)
        return _There(
            self.reach_ms[one],
            self.less[:, one],
            self.hand[one],
            self.knowing[one],
            (self.along[0][one], self.along[1][one]),
        )


class Forecasts(Struct, dict=True):
    """A ledger with how its bindings go on as they are: worked out once for all candidates."""

    ledger: Ledger
    computer: str | None = None
    _draws: dict[int, Standing] = field(default_factory=dict)
    _kept: dict[int, Floats] = field(default_factory=dict)
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
        self.at = np.array([self.places.number(row.binding.trigger) for row in self.rows], dtype=np.int64)
        self.known = np.array([row.posterior is not None and row.time_ms is not None and row.reach_ms is not None
                               and row.binding.id not in ledger.settling for row in self.rows], dtype=bool)  # fmt: skip
        self.carried = [carried(row) for row in self.rows]
        self._by_text = {str(trigger): place for place, trigger in enumerate(self.places.triggers)}
        tops = [next(iter(row.slips.struck.items()), ("", 0)) for row in self.rows]
        self._top = np.array([self._numbered(struck or None) for struck, _ in tops], dtype=np.int64)
        self._top_share = np.array(
            [count / max(1, row.slips.total) for (_, count), row in zip(tops, self.rows, strict=True)]
        )

    def _numbered(self, text: str | None) -> int:
        """The number of a trigger written as text, −1 for none and for what is no trigger."""
        if text is None:
            return -1
        if text not in self._by_text:
            try:
                self._by_text[text] = self.places.number(parse_trigger(text, self.ledger.folio.bundles))
            except NotationError:
                self._by_text[text] = -1
        return self._by_text[text]

    def draws(self, row: int) -> Standing:
        """A binding as it is, by draws from its posteriors."""
        if row not in self._draws:
            self._draws[row] = drawn(self.rows[row])
        return self._draws[row]

    def keep_draws(self, row: int) -> Floats:
        """Return what a binding costs over the horizon as it is, by draws; worked out once for all candidates."""
        if row not in self._kept:
            self._kept[row] = self.draws(row).total_s(self.ledger, self.days)
        return self._kept[row]

    def terms(self, triggers: Ints) -> Floats:
        """The plain terms of triggers' reaches, (3, n): finger, distance, other; NaN where a key is on no known board."""
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

    def there(self, rows: Ints, to: Ints, crowd: Floats, fit: Floats, goes: Floats) -> _There:
        """Return what is expected of bindings, by their numbers, at places, by the numbers of their triggers, (n,)."""
        new = self.terms(to)
        reach = self.scaled(new)
        usual = self.ledger.usual_reach_ms or 1.0
        # A calm binding's rate, more where the reach is long and the neighbours many.
        hand = self.ledger.calm_hand * np.minimum(2.5, 0.5 + 0.5 * reach / max(usual, 1.0)) * (0.7 + 0.06 * crowd)
        knowing = np.maximum(LEAST_START, (START_KNOWING - FIT_KNOWS * fit) * (1 - goes))
        along = self._carried_to(rows, to)
        return _There(
            reach, self.terms(self.at[rows]) - new, np.minimum(MOST_HAND, hand), knowing, (along[:, 0], along[:, 1])
        )

    def _carried_to(self, rows: Ints, to: Ints) -> Floats:
        """Return the shares of the errors of knowing and of the hand that carry over with bindings to places, (n, 2)."""
        found = np.empty((len(rows), 2))
        for row in np.unique(rows):
            mine = np.flatnonzero(rows == row)
            errors = self.carried[row]
            found[mine] = errors.shares()
            special = {self._numbered(trigger) for trigger in errors.taken}
            for place in mine.tolist():
                trigger = self.places.triggers[to[place]]
                plain = errors.gesture > 0 and self.places.is_only_gesture(trigger, self.rows[row].binding)
                if plain or int(to[place]) in special:
                    found[place] = errors.shares(str(trigger), plain)
        return found

    def gain_by_means(self, rows: Ints, there: _There) -> Floats:
        """Expected gain over the horizon of bindings at places, (n,)."""
        moved = self.means.of(rows).moved_s(
            self.ledger, self.days, self.scaled(there.less) / 1000, there.hand, there.knowing, there.along
        )
        return np.asarray(self.keep_s[rows] - moved)


def best_candidates(forecasts: Forecasts, row: Weighed) -> list[Candidate]:
    """The candidates with the highest expected gain, best first; the 12 best of the means are drawn from the posteriors."""
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
    back, swaps = _partners(forecasts, number, options)
    whole = own.copy()
    if len(swaps):
        # What a swap costs its partner is in the sum; what the partner gains is not: that is the partner's own affair, and would
        # make every binding want to swap with the worst one.
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
    return [one for one, _ in sorted(found, key=lambda pair: -pair[0].gain.total_s * pair[1])]


def _partners(forecasts: Forecasts, number: int, options: Options) -> tuple[_There, Ints]:
    """Return what is expected of those that would go where the binding is now, and which of the options they belong to."""
    swaps = np.flatnonzero(options.partner >= 0)
    rows, here = options.partner[swaps], np.full(len(swaps), forecasts.at[number])
    goes = np.where(
        (forecasts._top[rows] == here) & (forecasts._top_share[rows] >= HAND_GOES_SHARE),
        forecasts._top_share[rows],
        0.0,
    )
    there = forecasts.there(rows, here, options.crowd[swaps], np.zeros(len(swaps)), goes)
    return replace(there, hand=np.maximum(there.hand, _bad_key_hand(forecasts, number, options.to[swaps]))), swaps


def _bad_key_hand(forecasts: Forecasts, number: int, to: Ints) -> Floats:
    """Return the hand error that the key of a binding gives to a partner from a key beside it, (n,): a bad key stays bad."""
    row = forecasts.rows[number]
    least, rate = BAD_KEY
    seen = row.slips.kinds.get("neighbour", 0) / max(1, row.count)
    if row.count < least or seen <= rate:
        return np.zeros(len(to))
    beside = forecasts.places.beside(row.binding.trigger)
    return np.array([seen if str(forecasts.places.triggers[place]) in beside else 0.0 for place in to.tolist()])


def _drawn(forecasts: Forecasts, options: Options, place: int, moves: Sequence[tuple[int, _There]]) -> Candidate:
    """An option by draws; the partner of a swap only counts where it loses."""
    ledger, days, to = forecasts.ledger, forecasts.days, forecasts.places.triggers[options.to[place]]
    before: Floats = np.zeros(1)
    after: Floats = np.zeros(1)
    running: Floats = np.zeros((1, 1))
    for nth, (row, there) in enumerate(moves):
        now = forecasts.draws(row)
        moved_draws = _there_draws(forecasts, row, there, str(to))
        keep, moved = forecasts.keep_draws(row), now.moved_s(ledger, days, *moved_draws, there.along)
        if nth and np.mean(keep) >= np.mean(moved):
            continue
        before, after = before + keep, after + moved
        running = running + _saved_by_day(forecasts, now, moved_draws, there)
    partner = int(options.partner[place])
    own = forecasts.rows[moves[0][0]].binding
    return Candidate(
        own.id,
        to,
        forecasts.rows[partner].binding.id if partner >= 0 else None,
        float(moves[0][1].reach_ms[0]),
        gain_of(before, after, running),
        float(options.goes[place]),
        is_move(own.trigger, to),
    )


def _saved_by_day(forecasts: Forecasts, now: Standing, moved: tuple[Floats, Floats, Floats], there: _There) -> Floats:
    """Return what some of the draws have saved by the end of each day, (draws, days)."""
    some: Ints = np.arange(SHOWN_DRAWS)
    each: Floats = np.arange(1.0, forecasts.days + 1.0)
    few = now.broadcast(some)
    gain_s, hand, knowing = (one[some, None] for one in moved)
    before = few.total_s(forecasts.ledger, each)
    return np.asarray(before - few.moved_s(forecasts.ledger, each, gain_s, hand, knowing, there.along))


def _there_draws(forecasts: Forecasts, row: int, there: _There, to: str) -> tuple[Floats, Floats, Floats]:
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
