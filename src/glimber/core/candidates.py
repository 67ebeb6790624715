"""Places a binding could go: free keys of its layer and swaps with what is there, each with the gain it promises."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

from glimber.core.board import Board
from glimber.core.folio import Binding, Folio, Layer
from glimber.core.forecast import Course, Gain, gain, keep_course, moved_course, rng_for
from glimber.core.keys import Spot
from glimber.core.measures import Ledger, Weighed

DRAWN: Final = 12
START_KNOWING: Final = 0.5
HAND_GOES_SHARE: Final = 0.4
HAND_GOES_SLIPS: Final = 4


@dataclass(frozen=True)
class Candidate:
    """One way to change: where the binding goes, what it swaps with, and what that promises."""

    to: Spot
    swap_with: str | None
    reach_ms: float
    gain: Gain
    hand_goes: int = 0


def best_candidates(ledger: Ledger, row: Weighed, tau: float) -> list[Candidate]:
    """The candidates with the highest expected gain, best first; the 12 best of the means are drawn from the posteriors."""
    if (
        row.posterior is None
        or row.time_ms is None
        or row.reach_ms is None
        or not isinstance(row.binding.trigger, Spot)
    ):
        return []
    if row.binding.pinned or row.command.careful:
        return []
    weeks = ledger.folio.settings.horizon_weeks
    keeps: dict[str, Course] = {}
    rough = []
    for to, other in _places(ledger.folio, row.binding):
        moves = _moves(ledger, row, to, other)
        if moves is None:
            continue
        for moving, _, _ in moves:
            keeps.setdefault(moving.binding.id, keep_course(moving, tau, None))
        courses = [_course(ledger, moving, spot, tau, drawn=False) for moving, spot, _ in moves]
        rough.append((gain([keeps[m.binding.id] for m, _, _ in moves], courses, weeks), to, moves))
    rough.sort(key=lambda item: (-item[0].total_s, str(item[1])))
    return sorted(
        (_drawn(ledger, row, to, moves, tau) for _, to, moves in rough[:DRAWN]), key=lambda c: -c.gain.total_s
    )


_Move = tuple[Weighed, Spot, float]


def _drawn(ledger: Ledger, row: Weighed, to: Spot, moves: list[_Move], tau: float) -> Candidate:
    keeps = [keep_course(moving, tau, rng_for(moving)) for moving, _, _ in moves]
    courses = [_course(ledger, moving, spot, tau, drawn=True) for moving, spot, _ in moves]
    swap = moves[1][0].binding.id if len(moves) > 1 else None
    found = gain(keeps, courses, ledger.folio.settings.horizon_weeks)
    return Candidate(to, swap, moves[0][2], found, row.slips.struck.get(str(to), 0))


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
            if (
                not there
                and key.id not in ways
                and layer.unset.get(key.id) != "dead"
                and _is_open(folio, layer, key.id)
            ):
                yield to, None
        elif not other.pinned and _movable(folio, other):
            yield to, other


def _is_open(folio: Folio, layer: Layer, key: str) -> bool:
    """On the base layer a key that sends its own print is not free: it is what the person types with."""
    layout = next(layout for layout in folio.layouts.values() if layer in layout.layers)
    return layer is not layout.base or folio.legend.key_at(key) is None


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
        moves.append((partner, back, back_reach))
    return moves


def _course(ledger: Ledger, row: Weighed, to: Spot, tau: float, drawn: bool) -> Course:
    reach = ledger.reach.ms(to)
    assert reach is not None and row.reach_ms is not None
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
    reaches = [r.reach_ms for r in ledger.rows.values() if r.reach_ms is not None and r.tries]
    usual = sum(reaches) / len(reaches) if reaches else reach_ms
    factor = min(2.5, 0.5 + 0.5 * reach_ms / max(usual, 1.0)) * (0.7 + 0.06 * crowd)
    return min(0.6, ledger.mean_hand_error() * factor)


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
