"""Places a binding could go: free keys of its layer and swaps with what is there, each with the gain it promises."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from glimber.core.folio.board import Board
from glimber.core.folio.folio import Binding, Folio
from glimber.core.notation.keys import Spot
from glimber.core.weigh.forecast import Course, Gain, gain, keep_course, moved_course, rng_for
from glimber.core.weigh.free import is_open
from glimber.core.weigh.measures import Ledger, Weighed

DRAWN: Final = 12
START_KNOWING: Final = 0.5
HAND_GOES_SHARE: Final = 0.4
HAND_GOES_SLIPS: Final = 4
PREFERRED: Final = 0.2


@dataclass(frozen=True)
class Candidate:
    """One way to change: where the binding goes, what it swaps with, and what that promises."""

    to: Spot
    swap_with: str | None
    reach_ms: float
    gain: Gain
    hand_goes: int = 0


_Move = tuple[Weighed, Spot, float]
"""What moves, where to, and its reach there in ms."""


@dataclass
class Forecasts:
    """A ledger with how its bindings go on as they are: worked out once for all candidates."""

    ledger: Ledger
    tau: float
    means: dict[str, Course] = field(default_factory=dict)
    draws: dict[str, Course] = field(default_factory=dict)

    def keep(self, row: Weighed, drawn: bool) -> Course:
        known = self.draws if drawn else self.means
        if row.binding.id not in known:
            known[row.binding.id] = keep_course(row, self.tau, rng_for(row) if drawn else None)
        return known[row.binding.id]

    def gain(self, moves: list[_Move], drawn: bool) -> tuple[Gain, bool]:
        """What the move gains, and whether the binding itself gains by it.

        What a swap costs its partner is in the sum; what the partner gains is not: that is the partner's own affair, and
        would make every binding want to swap with the worst one.
        """
        weeks = self.ledger.folio.settings.horizon_weeks
        keeps = [self.keep(moving, drawn) for moving, _, _ in moves]
        moved = [_course(self.ledger, moving, to, reach, self.tau, drawn) for moving, to, reach in moves]
        days = max(1, round(weeks * 7))
        gains = [float(np.mean(k.total_s(days)) - np.mean(m.total_s(days))) for k, m in zip(keeps, moved, strict=True)]
        counted = [place for place, own in enumerate(gains) if place == 0 or own < 0]
        return gain([keeps[place] for place in counted], [moved[place] for place in counted], weeks), gains[0] > 0


def best_candidates(forecasts: Forecasts, row: Weighed) -> list[Candidate]:
    """The candidates with the highest expected gain, best first; the 12 best of the means are drawn from the posteriors."""
    ledger = forecasts.ledger
    if (
        row.posterior is None
        or row.time_ms is None
        or row.reach_ms is None
        or not isinstance(row.binding.trigger, Spot)
    ):
        return []
    if row.binding.pinned or row.command.careful or row.binding.id in ledger.settling:
        return []
    rough = []
    for to, other in _places(ledger.folio, row.binding):
        moves = _moves(ledger, row, to, other)
        if moves is None:
            continue
        found, serves = forecasts.gain(moves, drawn=False)
        if serves and found.total_s > 0:
            rough.append((found, to, moves))
    rough.sort(key=lambda item: (-item[0].total_s, str(item[1])))
    drawn = []
    for _, to, moves in rough[:DRAWN]:
        found, _ = forecasts.gain(moves, drawn=True)
        swap = moves[1][0].binding.id if len(moves) > 1 else None
        drawn.append(Candidate(to, swap, moves[0][2], found, row.slips.struck.get(str(to), 0)))
    return sorted(drawn, key=lambda c: -c.gain.total_s * _preference(ledger.folio, row, c))


def _preference(folio: Folio, row: Weighed, candidate: Candidate) -> float:
    """Places that suit a command, or where the hand goes already, keep better than costs can tell: worth up to 20 % each."""
    return 1 + PREFERRED * fit(folio, row, candidate.to) + PREFERRED * (goes_share(row, candidate.to) > 0)


def _places(folio: Folio, binding: Binding) -> Iterator[tuple[Spot, Binding | None]]:
    """Free spots of the layer and spots to swap with: same gesture, other key, nothing pinned, careful or structural."""
    spot = binding.spot
    board, layout = folio.boards[spot.board], folio.layouts[spot.board]
    layer = layout.layer(spot.layer)
    if layer is None or len(spot.keys) > 1 or spot.gesture in ("left", "right", "press"):
        return
    ways = {key for b in folio.all_bindings() if b.enters and isinstance(b.trigger, Spot)
            and b.spot.board == spot.board for key in b.spot.keys}  # fmt: skip
    for key in board.keys:
        if key.id == spot.key:
            continue
        there = layer.by_key.get(key.id, {})
        to = replace(spot, keys=(key.id,))
        other = there.get(spot.gesture)
        if other is None:
            if not there and key.id not in ways and layer.unset.get(key.id) != "dead" and is_open(folio, layer, key.id):
                yield to, None
        elif not other.pinned and _movable(folio, other):
            yield to, other


def _movable(folio: Folio, binding: Binding) -> bool:
    command = folio.command_of(binding)
    return (
        command is not None and not command.careful and not binding.enters and not binding.leaves and not binding.bundle
    )


def _moves(ledger: Ledger, row: Weighed, to: Spot, other: Binding | None) -> list[_Move] | None:
    new_reach = ledger.reach.ms(to)
    if new_reach is None:
        return None
    moves = [(row, to, new_reach)]
    if other is not None:
        partner = ledger.rows.get(other.id)
        back = row.binding.spot
        back_reach = ledger.reach.ms(back)
        if partner is None or partner.posterior is None or partner.time_ms is None or back_reach is None:
            return None
        if partner.reach_ms is None or other.id in ledger.settling:
            return None
        moves.append((partner, back, back_reach))
    return moves


def _course(ledger: Ledger, row: Weighed, to: Spot, reach: float, tau: float, drawn: bool) -> Course:
    assert row.reach_ms is not None
    goes = goes_share(row, to)
    return moved_course(
        row,
        tau,
        row.reach_ms - reach,
        _hand_error(ledger, row, to, reach) * (1 - goes),
        max(0.05, (START_KNOWING - 0.15 * fit(ledger.folio, row, to)) * (1 - goes)),
        rng_for(row) if drawn else None,
    )


def goes_share(row: Weighed, to: Spot) -> float:
    """Share of the binding's slips that the new place drew, where it drew at least 4 and 40 % of them; otherwise 0."""
    drew, total = row.slips.struck.get(str(to), 0), row.slips.total
    return drew / total if drew >= HAND_GOES_SLIPS and drew >= HAND_GOES_SHARE * total else 0.0


def _hand_error(ledger: Ledger, row: Weighed, to: Spot, reach_ms: float) -> float:
    """Hand error expected at a place: the person's own rate, more where the reach is long and the neighbours many."""
    board = ledger.folio.boards[to.board]
    layer = ledger.folio.layouts[to.board].layer(to.layer)
    bound = set(layer.by_key) - set(row.binding.spot.keys) if layer else set()
    crowd = len(bound & board.neighbours.get(to.key, frozenset()))
    usual = ledger.usual_reach_ms or reach_ms
    factor = min(2.5, 0.5 + 0.5 * reach_ms / max(usual, 1.0)) * (0.7 + 0.06 * crowd)
    return min(0.6, ledger.mean_hand_error * factor)


def fit(folio: Folio, row: Weighed, to: Spot) -> float:
    """How well a place suits a command, from −1 to 1: first letter, like siblings beside it, no careful key beside it."""
    board = folio.boards[to.board]
    layer = folio.layouts[to.board].layer(to.layer)
    score = 0.0
    if folio.legend.print_of(to.key).lower() == row.command.short[:1].lower():
        score += 0.5
    for key in board.neighbours.get(to.key, frozenset()):
        for binding in (layer.by_key.get(key, {}) if layer else {}).values():
            command = folio.command_of(binding)
            if command is None or command.ref == row.command.ref:
                continue
            if command.careful:
                score -= 0.5
            elif command.group == row.command.group and command.program == row.command.program:
                score += 0.1
    score += 0.3 if _same_place_elsewhere(folio, row, to, board) else 0.0
    return max(-1.0, min(1.0, score))


def _same_place_elsewhere(folio: Folio, row: Weighed, to: Spot, board: Board) -> bool:
    """Whether the command is on the same key of another layer."""
    return any(
        isinstance(other.trigger, Spot) and other.spot.board == board.id and other.spot.keys == to.keys
        and other.spot.layer != to.layer
        for other in folio.bindings_of.get(row.command.ref, ())
        if other.id != row.binding.id
    )  # fmt: skip
