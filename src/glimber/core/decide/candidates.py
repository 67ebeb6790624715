"""The gain of a binding at each place it could move to: all candidates by their means first, the best ones by draws."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from msgspec import Struct, field

from glimber.core.decide.forecast import DRAWS, Gain, Standing, carried, drawn, gain_of, rng_for, standing
from glimber.core.decide.places import HAND_GOES_SHARE, Options, Places
from glimber.core.edit.edit import is_move
from glimber.core.notation.keys import NotationError, Trigger, parse_trigger
from glimber.core.practice.columns import Floats, Ints
from glimber.core.stats.ledger import Ledger, Weighed
from glimber.core.stats.reach import Reach

DRAWN: Final = 12
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
        self._along = np.array([carried(row) for row in self.rows]).reshape(-1, 2)
        self._along_to_place = np.array([carried(row, to_place=True) for row in self.rows]).reshape(-1, 2)
        self._by_text = {str(trigger): place for place, trigger in enumerate(self.places.triggers)}
        self._place = np.array([self._numbered(row.place) for row in self.rows], dtype=np.int64)
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
        at_place = (self._place[rows] >= 0) & (self._place[rows] == to)
        along = np.where(at_place[:, None], self._along_to_place[rows], self._along[rows])
        return _There(
            reach, self.terms(self.at[rows]) - new, np.minimum(MOST_HAND, hand), knowing, (along[:, 0], along[:, 1])
        )

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
    return forecasts.there(rows, here, options.crowd[swaps], np.zeros(len(swaps)), goes), swaps


def _drawn(forecasts: Forecasts, options: Options, place: int, moves: Sequence[tuple[int, _There]]) -> Candidate:
    """An option by draws; the partner of a swap only counts where it loses."""
    ledger, days, to = forecasts.ledger, forecasts.days, forecasts.places.triggers[options.to[place]]
    each: Floats = np.arange(1.0, days + 1.0)
    before: Floats = np.zeros(1)
    after: Floats = np.zeros(1)
    running: Floats = np.zeros(1)
    for nth, (row, there) in enumerate(moves):
        now = forecasts.draws(row)
        keep, moved = now.total_s(ledger, days), _moved_draws(forecasts, now, row, there, str(to))
        if nth and np.mean(keep) >= np.mean(moved):
            continue
        before, after = before + keep, after + moved
        mean = forecasts.means.of(np.array([row]))
        gain_s = forecasts.scaled(there.less) / 1000
        running = (
            running
            + mean.total_s(ledger, each)
            - mean.moved_s(ledger, each, gain_s, there.hand, there.knowing, there.along)
        )
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


def _moved_draws(forecasts: Forecasts, now: Standing, row: int, there: _There, to: str) -> Floats:
    rng, scales = rng_for(forecasts.rows[row], to), forecasts.ledger.scales
    mean = float(forecasts.scaled(there.less)[0])
    terms = there.less[:2, 0]
    share, least = REACH_ERROR
    deviation = float(np.sqrt(terms @ scales.errors @ terms + (share * abs(mean) + least) ** 2))
    gain_s = rng.normal(mean, deviation, DRAWS) / 1000
    hand, knowing = float(there.hand[0]), float(there.knowing[0])
    hands = rng.beta(FIRM * hand, FIRM * (1 - hand), DRAWS) if hand > 0 else np.zeros(DRAWS)
    unknown = rng.beta(FIRM * knowing, FIRM * (1 - knowing), DRAWS)
    return now.moved_s(forecasts.ledger, forecasts.days, gain_s, hands, unknown, there.along)
