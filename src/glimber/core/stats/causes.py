"""The likely cause of a binding's trouble, as a posterior over causes. Source: docs/measures.md, "Causes".

The newest 120 counted tries of a binding, as counts over what became of them, come from a Dirichlet-multinomial of 80·m with
m = (1 − ρ)·b + ρ·e: b is the folio's background, e what the cause does, ρ the share of tries it takes. Everything is worked out
for all bindings together; arrays are (b, …) over bindings by default.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from scipy.special import betaincc, gammaln, logsumexp

from glimber.core.practice.columns import BLANK, HIT, SLIP
from glimber.core.practice.slip_kinds import OWN_CAUSES, SLIP_KINDS
from glimber.core.stats.grouping import Selected

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

CELLS: Final[tuple[str, ...]] = ("hit", "blank", "elsewhere", *OWN_CAUSES)
CAUSES: Final[tuple[str, ...]] = ("none", "knowing", *OWN_CAUSES, "place")
"""The last has several places behind it; the chances of all sum to 1."""
NEWEST: Final = 120
NEWEST_HABIT: Final = 40
"""Old habits are judged by these alone: what is over is not blamed."""
FIRM: Final = 80.0
"""Strength of the Dirichlet, in tries."""
SLIGHT: Final = (0.02, 0.04, 0.06, 0.08)
STRONG: Final = (0.12, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8)
SLIGHT_WEIGHT: Final = 0.25
PRIOR: Final[dict[str, float]] = {
    "none": 0.62, "knowing": 0.16, **{kind: one.prior for kind, one in OWN_CAUSES.items()}, "place": 0.06
}  # fmt: skip
OLD_HABIT_SEEN: Final = 0.2
PRIOR_BINDINGS: Final = 20.0
BACKGROUND: Final[dict[str, float]] = {
    "blank": 0.04, "elsewhere": 0.04, **{kind: one.background for kind, one in OWN_CAUSES.items()}
}  # fmt: skip
BACKGROUND_TRIES: Final = 100.0
ROUNDS: Final = 5
PLACES: Final = 3
LEAST_AT_A_PLACE: Final = 2
ELSEWHERE_PLACES: Final = 30
A_PLACE: Final = 0.7
"""The Dirichlet's weight of each place a slip of a kind may go to."""
ONE_KEY: Final = (0.5, 0.8)
"""A key that draws over half of the neighbour slips with this chance is a place."""
_ELSEWHERE: Final = CELLS.index("elsewhere")
_NEIGHBOUR: Final = CELLS.index("neighbour")
_OLD_HABIT: Final = CELLS.index("old habit")
_CELL_OF_SLIP: Final = np.array(
    [CELLS.index(kind) if kind in CELLS else _ELSEWHERE for kind in SLIP_KINDS] + [_ELSEWHERE], dtype=np.int64
)
_RHO: Final = np.array([*SLIGHT, *STRONG])
_LN_RHO: Final = np.log([SLIGHT_WEIGHT / len(SLIGHT)] * len(SLIGHT) + [(1 - SLIGHT_WEIGHT) / len(STRONG)] * len(STRONG))
_SINGLE: Final = CAUSES[1:-1]


def _effects() -> Floats:
    """Return where each cause but none and place sends its share of the tries, (c, cells)."""
    e = np.zeros((len(_SINGLE), len(CELLS)))
    for row, cause in enumerate(_SINGLE):
        if cause == "knowing":
            e[row, CELLS.index("blank")] = e[row, _ELSEWHERE] = 0.5
        else:
            e[row, CELLS.index(cause)] = 1.0
    return e


_EFFECTS: Final = _effects()
_B0: Final = np.array([1 - sum(BACKGROUND.values()), *(BACKGROUND[cell] for cell in CELLS[1:])])


class Place(Struct, frozen=True):
    """A wrong trigger: ``pressed`` its number among the columns', ``count`` how often it was struck, ``cell`` as what,
    ``weight`` in the Dirichlet of places."""

    pressed: int
    count: int
    cell: int
    weight: float = A_PLACE


class Causes(Struct, frozen=True):
    """``chance`` (b, causes) as CAUSES; ``place`` the likeliest place of each, ``place_chance`` of those, ``counts`` (b,
    cells)."""

    chance: Floats
    places: Sequence[Place | None]
    counts: Floats

    def of(self, binding: int) -> Mapping[str, float]:
        """Return the chances of one binding's causes by name."""
        return {cause: float(self.chance[binding, place]) for place, cause in enumerate(CAUSES)}

    def likeliest(self, binding: int) -> str:
        """Return the likeliest cause that is one."""
        return CAUSES[1 + int(np.argmax(self.chance[binding, 1:]))]

    def any(self, binding: int) -> float:
        """P(any cause)."""
        return 1.0 - float(self.chance[binding, 0])


def cells_of(counted: Selected) -> Ints:
    """Return what became of each try, as a number into CELLS, (t,)."""
    outcome, slip = counted.columns.outcome[counted.place], counted.columns.slip[counted.place]
    found = np.where(outcome == HIT, 0, np.where(outcome == BLANK, 1, -1))
    return np.asarray(np.where(outcome == SLIP, _CELL_OF_SLIP[slip], found), dtype=np.int64)


def causes(counted: Selected, beside: Sequence[int]) -> Causes:
    """Return the posterior over causes of every binding. ``beside`` (b,): how many keys are beside the wanted one."""
    newest = counted.newest(NEWEST)
    over = (cells_of(newest) == _OLD_HABIT) & (newest.since >= NEWEST_HABIT)
    newest = newest.where(~over)
    n = newest.bindings
    if not n:
        return Causes(np.zeros((0, len(CAUSES))), [], np.zeros((0, len(CELLS))))
    cells = cells_of(newest)
    x = np.bincount(newest.of * len(CELLS) + cells, minlength=n * len(CELLS)).reshape(n, len(CELLS)).astype(np.float64)
    struck = _struck(newest, cells)
    found = _places(struck, n)
    slots = _slots(struck, found, np.asarray(beside, dtype=np.float64), x)
    prior = np.array([PRIOR[cause] for cause in CAUSES])
    prior /= prior.sum()
    clear = np.full(n, prior[0])
    share = np.tile(prior, (n, 1))
    chance = np.zeros((n, len(CAUSES)))
    by_place = np.zeros((n, PLACES))
    tried = x.sum(axis=1) > 0
    for _ in range(ROUNDS):
        # Each against all others: what a binding does itself says nothing of what is usual.
        weighted = clear[:, None] * x
        b = BACKGROUND_TRIES * _B0 + weighted.sum(axis=0) - weighted
        b /= b.sum(axis=1, keepdims=True)
        strong, slight, by_place = _posterior(x, b, share, slots)
        chance = strong.copy()
        chance[:, 0] += slight.sum(axis=1)
        clear = np.where(tried, chance[:, 0], 0.0)
        whole = np.where(tried[:, None], strong + slight, 0.0)
        share = (PRIOR_BINDINGS * prior + whole.sum(axis=0) - whole) / (PRIOR_BINDINGS + tried.sum() - tried)[:, None]
    places: list[Place | None] = [
        found[i][int(np.argmax(by_place[i, : len(found[i])]))] if found[i] else None for i in range(n)
    ]
    _one_key_is_a_place(chance, found, places, x)
    return Causes(chance, places, x)


class _Slots(Struct, frozen=True):
    """The places of all bindings side by side, (b, 3): whether there is one, its cell, its count, which part of its kind's
    slips go there by chance and among how many places; and how well the slips of both kinds are spread, (b,), with each
    place taken out, (b, 3)."""

    there: npt.NDArray[np.bool_]
    cell: Ints
    count: Floats
    usual: Floats
    among: Floats
    spread: Floats
    without: Floats


def _slots(struck: _Struck, found: Sequence[Sequence[Place]], beside: Floats, x: Floats) -> _Slots:
    n = len(found)
    there, cell, count = np.zeros((n, PLACES), dtype=bool), np.full((n, PLACES), _ELSEWHERE), np.zeros((n, PLACES))
    size = {_ELSEWHERE: np.full(n, float(ELSEWHERE_PLACES)), _NEIGHBOUR: np.maximum(2.0, beside)}
    weight, own = np.full((n, PLACES), A_PLACE), np.zeros((n, PLACES))
    for i, places in enumerate(found):
        for j, place in enumerate(places[:PLACES]):
            there[i, j], cell[i, j], count[i, j], weight[i, j] = True, place.cell, place.count, place.weight
            own[i, j] = gammaln(place.weight + place.count) - gammaln(place.weight)
    terms = gammaln(struck.weight + struck.count) - gammaln(struck.weight)
    each = {
        kind: _spread(x[:, kind], A_PLACE * size[kind])
        + np.bincount(struck.of[struck.cell == kind], weights=terms[struck.cell == kind], minlength=n)
        for kind in size
    }
    spread = each[_ELSEWHERE] + each[_NEIGHBOUR]
    without = np.tile(spread[:, None], (1, PLACES))
    among = np.where(cell == _NEIGHBOUR, size[_NEIGHBOUR][:, None], float(ELSEWHERE_PLACES))
    for kind in size:
        whole = A_PLACE * size[kind]
        left = _spread(x[:, kind][:, None] - count, whole[:, None] - weight) - _spread(x[:, kind], whole)[:, None] - own
        without = np.where(there & (cell == kind), without + left, without)
    return _Slots(there, cell.astype(np.int64), count, weight / (A_PLACE * among), among, spread, without)


def _spread(total: Floats, weight: Floats) -> Floats:
    """Return the part of a Dirichlet-multinomial over places that depends on their weights' sum, not on which were struck."""
    weight = np.maximum(weight, 1e-6)
    return np.asarray(gammaln(weight) - gammaln(weight + total))


class _Struck(Struct, frozen=True):
    """Every wrong trigger of every binding, (s,): binding, cell, its number among the columns', how often it was struck, and its
    weight in the Dirichlet of places."""

    of: Ints
    cell: Ints
    pressed: Ints
    count: Ints
    weight: Floats


def _struck(newest: Selected, cells: Ints) -> _Struck:
    """Gesture, layer and modifier slips are never a place.

    Where the other bindings' slips go too is no place of this one's own: a person's favourite wrong key has a weight as large as
    its share of theirs.
    """
    pressed = newest.columns.pressed.codes[newest.place].astype(np.int64)
    wrong = ((cells == _ELSEWHERE) | (cells == _NEIGHBOUR)) & (pressed >= 0)
    span = max(1, len(newest.columns.pressed.names))
    keys, counts = np.unique((newest.of[wrong] * len(CELLS) + cells[wrong]) * span + pressed[wrong], return_counts=True)
    rest, key = np.divmod(keys, span)
    of, cell = np.divmod(rest, len(CELLS))
    away = cell == _ELSEWHERE
    by_key = np.bincount(key[away], weights=counts[away], minlength=span)
    by_binding = np.bincount(of[away], weights=counts[away], minlength=newest.bindings)
    others = np.where(away, by_key[key] - counts, 0.0)
    all_others = by_key.sum() - by_binding[of]
    share = (1.0 + others) / (ELSEWHERE_PLACES + all_others)
    weight = np.where(away, A_PLACE * np.maximum(1.0, ELSEWHERE_PLACES * share), A_PLACE)
    return _Struck(of, cell, key, counts, weight)


def _places(struck: _Struck, bindings: int) -> list[list[Place]]:
    """Return the wrong triggers of every binding struck at least twice, most first."""
    found: list[list[Place]] = [[] for _ in range(bindings)]
    for i in np.flatnonzero(struck.count >= LEAST_AT_A_PLACE):
        place = Place(int(struck.pressed[i]), int(struck.count[i]), int(struck.cell[i]), float(struck.weight[i]))
        found[struck.of[i]].append(place)
    for places in found:
        places.sort(key=lambda place: (-place.count, place.pressed))
    return found


def _ln_dm(x: Floats, m: Floats) -> Floats:
    """ln P of a sequence of tries with counts ``x`` under a Dirichlet-multinomial of 80·m, over the last axis."""
    a = np.maximum(FIRM * m, 1e-9)
    return np.asarray(
        gammaln(a.sum(axis=-1)) - gammaln(a.sum(axis=-1) + x.sum(axis=-1)) + (gammaln(a + x) - gammaln(a)).sum(axis=-1)
    )


def _posterior(x: Floats, b: Floats, share: Floats, slots: _Slots) -> tuple[Floats, Floats, Floats]:
    """Chances of the causes with a strong and with a slight share, each (b, causes), and of the places, (b, 3), all summing
    to 1."""
    n, slight = len(x), len(SLIGHT)
    log = np.full((n, len(CAUSES) + PLACES - 1, len(_RHO)), -np.inf)
    share = np.array(share)
    seen = x[:, CELLS.index("old habit")] > 0
    habit = CAUSES.index("old habit")
    rest = (1 - OLD_HABIT_SEEN) / (1 - share[:, habit])
    share = np.where(seen[:, None], share * rest[:, None], share)
    share[seen, habit] = OLD_HABIT_SEEN
    ln = np.log(np.maximum(share, 1e-300))
    log[:, 0, 0] = ln[:, 0] + _ln_dm(x, b) + slots.spread
    for row, effect in enumerate(_EFFECTS):
        m = (1 - _RHO)[None, :, None] * b[:, None, :] + _RHO[None, :, None] * effect
        log[:, 1 + row] = ln[:, 1 + row, None] + _LN_RHO + _ln_dm(x[:, None, :], m) + slots.spread[:, None]
    rows = np.arange(n)
    for j in range(PLACES):
        here = slots.there[:, j]
        if not here.any():
            continue
        cell, count, usual = slots.cell[:, j], slots.count[:, j], np.minimum(slots.usual[:, j], 0.9)
        split_b, split_x = np.zeros((n, len(CELLS) + 1)), np.zeros((n, len(CELLS) + 1))
        split_b[:, :-1], split_x[:, :-1] = b, x
        split_b[:, -1], split_x[:, -1] = b[rows, cell] * usual, count
        split_b[rows, cell] -= split_b[:, -1]
        split_x[rows, cell] -= count
        effect = np.zeros(len(CELLS) + 1)
        effect[-1] = 1.0
        m = (1 - _RHO)[None, :, None] * split_b[:, None, :] + _RHO[None, :, None] * effect
        place = (
            ln[:, -1, None]
            + _LN_RHO
            + _ln_dm(split_x[:, None, :], m)
            + (slots.without[:, j] - np.log(slots.among[:, j]))[:, None]
        )
        log[:, len(CAUSES) - 1 + j] = np.where(here[:, None], place, -np.inf)
    log -= logsumexp(log, axis=(1, 2), keepdims=True)
    p = np.exp(log)
    strong, little = np.zeros((n, len(CAUSES))), np.zeros((n, len(CAUSES)))
    strong[:, 0] = p[:, 0, 0]
    strong[:, 1:-1] = p[:, 1 : len(CAUSES) - 1, slight:].sum(axis=2)
    little[:, 1:-1] = p[:, 1 : len(CAUSES) - 1, :slight].sum(axis=2)
    by_place = p[:, len(CAUSES) - 1 :, slight:].sum(axis=2)
    strong[:, -1] = by_place.sum(axis=1)
    little[:, -1] = p[:, len(CAUSES) - 1 :, :slight].sum(axis=(1, 2))
    return strong, little, by_place


def _one_key_is_a_place(
    chance: Floats, found: Sequence[Sequence[Place]], places: list[Place | None], x: Floats
) -> None:
    """Treat a neighbour cause as a place where one key draws over half of those slips."""
    neighbour, place = CAUSES.index("neighbour"), len(CAUSES) - 1
    half, sure = ONE_KEY
    for i in np.flatnonzero(np.argmax(chance, axis=1) == neighbour):
        beside = [one for one in found[int(i)] if one.cell == _NEIGHBOUR]
        if not beside:
            continue
        most = max(beside, key=lambda one: one.count)
        rest = float(x[i, _NEIGHBOUR]) - most.count
        if betaincc(A_PLACE + most.count, A_PLACE + rest, half) >= sure:
            chance[i, place] += chance[i, neighbour]
            chance[i, neighbour] = 0.0
            places[int(i)] = most
