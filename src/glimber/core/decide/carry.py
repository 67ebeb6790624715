"""A layout carried over to another board: each key to the same one or one near it by finger and place; the rest to the bench."""

from __future__ import annotations

from math import hypot, inf
from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.decide.free_places import is_open
from glimber.core.edit.edit import EditError
from glimber.core.edit.spots import move_key
from glimber.core.model.board import Board, Key
from glimber.core.model.folio import Binding, Folio, Layer, Layout
from glimber.core.notation.ids import free_id
from glimber.core.notation.keys import Spot
from glimber.core.stats.reach import Reach
from glimber.core.stats.usage import uses_a_day

How = Literal["same", "near", "none"]
NEAR_U: Final = 1.6
"""How far from its old place, measured from the finger's home, a key may be and still count as near."""


class Carried(Struct, frozen=True):
    """The destination of one key of the old board. ``to`` is None where nothing on the new board is like it."""

    key: str
    to: str | None
    how: How
    why: str


class CarryPlan(Struct, frozen=True):
    """A layout carried over: the keys, and what does not fit and would wait on the bench."""

    start: str
    board: str
    keys: tuple[Carried, ...]
    left: tuple[str, ...]
    """Ids of bindings without a key on the new board."""

    def of(self, how: How) -> list[Carried]:
        return [one for one in self.keys if one.how == how]


def plan_carrying(folio: Folio, start: str, board: str, instead: dict[str, str] | None = None) -> CarryPlan:
    """Match the bound keys of one board to another's, by id, by finger and place, by print. ``instead`` overrules, key by key.

    Raises EditError for boards the folio does not have.
    """
    if start not in folio.layouts:
        raise EditError(f"{start} has no layout in this folio")
    if board not in folio.boards or board == start:
        raise EditError(f"{board} is not another board of this folio")
    old, new = folio.boards[start], folio.boards[board]
    bound = dict.fromkeys(key for layer in folio.layouts[start].layers for b in layer.bindings for key in b.spot.keys)
    chosen = dict(instead or {})
    taken = set(chosen.values())
    found: dict[str, Carried] = {
        key: Carried(key, to, "near", "chosen by hand") for key, to in chosen.items() if key in bound
    }
    for key in bound:
        if key not in found and new.has(key) and key not in taken and _same_kind(old, new, key, key):
            taken.add(key)
            found[key] = Carried(key, key, "same", "the same key")
    prints = _by_print(folio, new)
    for key in bound:
        like = prints.get(_print_of(folio, old, key).casefold())
        if key not in found and like is not None and like not in taken:
            taken.add(like)
            found[key] = Carried(key, like, "near", "the same print")
    for key in bound:
        if key in found:
            continue
        near = _nearest(old, new, key, taken)
        if near is None:
            found[key] = Carried(key, None, "none", "no key there is like it")
        else:
            taken.add(near[0])
            found[key] = Carried(key, near[0], "near", near[1])
    keys = tuple(found[key] for key in bound)
    gone = {one.key for one in keys if one.to is None}
    left = tuple(
        b.id for layer in folio.layouts[start].layers for b in layer.bindings if any(key in gone for key in b.spot.keys)
    )
    return CarryPlan(start, board, keys, left)


def _same_kind(old: Board, new: Board, one: str, other: str) -> bool:
    return (one in old.knob_ids) == (other in new.knob_ids)


def _print_of(folio: Folio, board: Board, key: str) -> str:
    """Return what is printed on a key; nothing for a knob."""
    shape = board.by_id.get(key)
    if shape is None:
        return ""
    return shape.print if shape.print is not None else folio.legend.print_of(key)


def _by_print(folio: Folio, board: Board) -> dict[str, str]:
    """Keys by what only they have printed on them."""
    found: dict[str, list[str]] = {}
    for key in board.keys:
        found.setdefault(_print_of(folio, board, key.id).casefold(), []).append(key.id)
    return {text: keys[0] for text, keys in found.items() if text and len(keys) == 1}


def _nearest(old: Board, new: Board, key: str, taken: set[str]) -> tuple[str, str] | None:
    """The free key of the same finger, or hand, whose place from its home is nearest to the old one's; knobs go to knobs."""
    if key in old.knob_ids:
        free = [knob.id for knob in new.knobs if knob.id not in taken]
        return (free[0], "a free knob") if free else None
    here = old.by_id.get(key)
    if here is None:
        return None
    at = _from_home(old, here)
    best: tuple[float, str, str] | None = None
    for other in new.keys:
        if other.id in taken:
            continue
        there = _from_home(new, other)
        apart = hypot(at[0] - there[0], at[1] - there[1])
        if here.finger != other.finger:
            if here.hand != other.hand or "thumb" in (here.digit, other.digit):
                continue
            apart += 0.6
        why = "the same finger" if here.finger == other.finger else "the same hand"
        if apart <= NEAR_U and (best is None or apart < best[0]):
            best = (apart, other.id, f"{why}, {apart:.1f} keys away" if apart > 0.3 else f"{why} and place")
    return None if best is None else (best[1], best[2])


def _from_home(board: Board, key: Key) -> tuple[float, float]:
    """A key's place seen from the home key of its finger, or else from the middle of its hand's home keys, in u."""
    homes = [other for other in board.keys if other.home and other.finger == key.finger]
    homes = homes or [other for other in board.keys if other.home and other.hand == key.hand]
    if homes:
        x = sum(other.centre[0] for other in homes) / len(homes)
        y = sum(other.centre[1] for other in homes) / len(homes)
    else:
        x, y = board.homes.get(key.hand or "", key.centre)
    return key.centre[0] - x, key.centre[1] - y


def carry_over(folio: Folio, plan: CarryPlan, keep: bool = False) -> Folio:
    """The folio with the layout on the other board, in place of what is there.

    The bindings go with their ids, and so with their history, and the old board has none any more; with ``keep`` it keeps
    them, and the other board has copies. Commands that did not fit wait on the bench if that was their last binding.
    """
    to = {one.key: one.to for one in plan.keys}
    shape, old = folio.boards[plan.board], folio.layouts[plan.start]
    taken = set(folio.bindings)

    def moved(binding: Binding) -> Binding | None:
        keys = tuple(sorted(key for one in binding.spot.keys if (key := to.get(one)) is not None))
        if len(keys) < len(binding.spot.keys):
            return None
        spot = Spot(plan.board, binding.spot.layer, keys, binding.spot.gesture)
        if not keep:
            return replace(binding, trigger=spot, given_id=True)
        id = free_id(binding.id, taken)
        taken.add(id)
        return replace(binding, id=id, trigger=spot, given_id=True)

    def carried(layer: Layer) -> Layer:
        bindings = tuple(new for b in layer.bindings if (new := moved(b)) is not None)
        bound = {key for b in bindings for key in b.spot.keys}
        timing = {key: limits for one, limits in layer.timing.items() if (key := to.get(one)) is not None}
        unset = {
            key: state
            for one, state in layer.unset.items()
            if shape.has(key := to.get(one) or one) and key not in bound
        }
        return replace(layer, timing=timing, unset=unset, bindings=bindings)

    gone = (plan.board,) if keep else (plan.start, plan.board)
    layouts = {id: layout for id, layout in folio.layouts.items() if id not in gone}
    cards = folio.cards
    if not keep:
        cards = {
            id: replace(card, board=plan.board) if card.board == plan.start else card for id, card in cards.items()
        }
    made = Layout(plan.board, tuple(carried(layer) for layer in old.layers))
    return replace(folio, layouts={**layouts, plan.board: made}, cards=cards)


def with_board(folio: Folio, board: Board) -> Folio:
    """The folio knowing one more of the boards that come with Glimber."""
    return folio if board.id in folio.boards else replace(folio, boards={**folio.boards, board.id: board})


def held_by_hand(folio: Folio, board: str, hand: str) -> list[Binding]:
    """Return what is on the keys of one hand: out of reach while that hand is elsewhere, dearest to the other hand first."""
    shape, layout = folio.boards[board], folio.layouts[board]
    away = replace(folio, settings=replace(folio.settings, away=hand))
    reach = Reach(away)
    found = [
        b
        for layer in layout.layers
        for b in layer.bindings
        if b.command is not None and any(key in shape.by_id and shape.by_id[key].hand == hand for key in b.spot.keys)
    ]
    return sorted(found, key=lambda b: -(reach.ms(b.trigger) or 0.0))


class Replaced(Struct, frozen=True):
    """The result of giving one hand's bindings to the other: the folio, where each binding went, and those without a free
    key."""

    folio: Folio
    moves: tuple[tuple[str, Spot, Spot], ...]
    left: tuple[str, ...]


def give_to_other_hand(folio: Folio, board: str, hand: str) -> Replaced:
    """Put what one hand held on free keys of the other hand, on the same layer: the most used first, each on the easiest key.

    A key that is struck twice or held keeps its gestures together. Pinned bindings stay where they are.
    """
    shape = folio.boards[board]
    held = [b for b in held_by_hand(folio, board, hand) if len(b.spot.keys) == 1 and not b.pinned]
    keys: dict[tuple[str, str], float] = {}
    for binding in held:
        place = (binding.spot.layer, binding.spot.key)
        keys[place] = keys.get(place, 0.0) + (uses_a_day(folio, binding) or 0.0)
    moves: list[tuple[str, Spot, Spot]] = []
    left: list[str] = []
    reach = Reach(folio)
    for layer_id, key in sorted(keys, key=lambda place: (-keys[place], place)):
        layer = next(layer for layer in folio.layouts[board].layers if layer.id == layer_id)
        here = list(layer.by_key.get(key, {}).values())
        free = [
            (reach.ms(Spot(board, layer_id, (other.id,), "tap")) or inf, other.id)
            for other in shape.keys
            if other.hand not in (None, hand) and other.id not in layer.by_key and is_open(folio, layer, other.id)
        ]
        if not free or any(binding.pinned for binding in here):
            left += [binding.id for binding in here]
            continue
        to = min(free)[1]
        moves += [(b.id, b.spot, Spot(board, layer_id, (to,), b.spot.gesture)) for b in here]
        folio = move_key(folio, (board, layer_id, key), (board, layer_id, to))
    return Replaced(folio, tuple(moves), tuple(left))
