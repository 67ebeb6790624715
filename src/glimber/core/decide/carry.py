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
from glimber.core.model.essentials import ESSENTIAL, key_sent, keys_lacking, ways_lacking
from glimber.core.model.folio import Binding, Folio, Layer, Layout
from glimber.core.notation.ids import free_id
from glimber.core.notation.keycodes import MODIFIER_CODES, NAMED_KEYS
from glimber.core.notation.keys import Chord, Sequence, Spot
from glimber.core.stats.reach import Reach
from glimber.core.stats.usage import uses_a_day

How = Literal["same", "near", "none"]
NEAR_U: Final = 1.6
"""The largest distance from its old place, measured from the finger's home, at which a key counts as near."""


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
    placed: tuple[tuple[str, str], ...] = ()
    """Keys everybody needs that the old board had and the new one has not, each with the free key that types it there."""
    lacks: tuple[str, ...] = ()
    """Acts the new board could not do any more: keys everybody needs, and layers without a way in. Such a plan is refused."""

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
    layout = folio.layouts[start]
    keys = _Matching(folio, layout, board, instead or {}).keys()
    gone = {one.key for one in keys if one.to is None}
    left = tuple(b.id for layer in layout.layers for b in layer.bindings if any(key in gone for key in b.spot.keys))
    return _with_essentials(folio, layout, CarryPlan(start, board, keys, left))


class _Matching:
    """The bound keys of a layout, each given a key of the other board by one way after another; what is given stays given."""

    def __init__(self, folio: Folio, layout: Layout, board: str, instead: dict[str, str]) -> None:
        self._folio = folio
        self._layout = layout
        self._old, self._new = folio.boards[layout.board], folio.boards[board]
        self._bound = list(dict.fromkeys(key for layer in layout.layers for b in layer.bindings for key in b.spot.keys))
        self._taken = set(instead.values())
        self._found = {
            key: Carried(key, to, "near", "chosen by hand") for key, to in instead.items() if key in self._bound
        }

    def keys(self) -> tuple[Carried, ...]:
        """Return the destination of every bound key."""
        self._typing_the_same()
        self._the_same()
        self._by_print()
        self._nearest()
        return tuple(self._found[key] for key in self._bound)

    def _give(self, key: str, to: str, how: How, why: str) -> None:
        if key not in self._found and to not in self._taken:
            self._taken.add(to)
            self._found[key] = Carried(key, to, how, why)

    def _typing_the_same(self) -> None:
        for key, code in _essential_keys(self._layout, self._new).items():
            self._give(key, code, "near", "it types the same")
        # The keys that everybody needs stay free for what types them, unless the old layout had something of its own on them.
        native = {NAMED_KEYS[name] for name in ESSENTIAL if self._new.has(NAMED_KEYS[name])}
        self._taken |= native - set(self._bound)

    def _the_same(self) -> None:
        for key in self._bound:
            if self._new.has(key) and _same_kind(self._old, self._new, key, key):
                self._give(key, key, "same", "the same key")

    def _by_print(self) -> None:
        prints = _by_print(self._folio, self._new)
        for key in self._bound:
            like = prints.get(_print_of(self._folio, self._old, key).casefold())
            if like is not None:
                self._give(key, like, "near", "the same print")

    def _nearest(self) -> None:
        entering = {key for layer in self._layout.layers for b in layer.bindings if b.enters is not None for key in b.spot.keys}
        for key in sorted(self._bound, key=lambda key: key not in entering):
            if key in self._found:
                continue
            near = _nearest(self._old, self._new, key, self._taken)
            if near is None and key in entering:
                near = _any_key(self._old, self._new, key, self._taken)
            if near is None:
                self._found[key] = Carried(key, None, "none", "no key there is like it")
            else:
                self._give(key, near[0], "near", near[1])


def _with_essentials(folio: Folio, layout: Layout, plan: CarryPlan) -> CarryPlan:
    """Return the plan with free keys for what everybody needs and it lost, and what it could not do any more."""
    made = carry_over(folio, plan, keep=True).layouts[plan.board]
    entered = frozenset(b.enters for layer in layout.layers for b in layer.bindings if b.enters is not None)
    had = set(keys_lacking(folio, layout))
    missing = [name for name in keys_lacking(folio, made) if name not in had]
    placed = tuple(zip(missing, _free_keys(folio, folio.boards[plan.board], made), strict=False))
    lacks = [*missing[len(placed) :], *(f"way into {name}" for name in ways_lacking(made, entered))]
    return replace(plan, placed=placed, lacks=tuple(lacks))


def _free_keys(folio: Folio, board: Board, layout: Layout) -> list[str]:
    """Return keys of the base layer that nothing is on and that type no letter or digit, those of the thumbs first."""
    free = [key for key in board.keys if key.id not in layout.base.by_key and key.id not in MODIFIER_CODES
            and not (folio.legend.key_at(key.id) or " ").isalnum() and key.id not in ESSENTIAL]  # fmt: skip
    return [key.id for key in sorted(free, key=lambda key: (key.digit != "thumb", key.reach == "avoid"))]


def _essential_keys(layout: Layout, new: Board) -> dict[str, str]:
    """Return the keys whose tap on the base layer types what everybody needs, with the key of the new board that does so
    itself."""
    found: dict[str, str] = {}
    for key, gestures in layout.base.by_key.items():
        name = key_sent(gestures["tap"]) if "tap" in gestures else None
        code = NAMED_KEYS.get(name or "")
        if code is not None and new.has(code) and code not in found.values():
            found[key] = code
    return found


def _any_key(old: Board, new: Board, key: str, taken: set[str]) -> tuple[str, str] | None:
    """Return a free key for what brings a layer in: a layer without a way in is lost, so that a far one is better than none."""
    here = old.by_id.get(key)
    if here is None:
        return None
    at = _from_home(old, here)
    free = [other for other in new.keys if other.id not in taken and not new.by_id[other.id].home]
    places = {other.id: _from_home(new, other) for other in free}
    ways = [(other.digit != "thumb", other.hand != here.hand, hypot(at[0] - places[other.id][0], at[1] - places[other.id][1]),
             other.id) for other in free]  # fmt: skip
    return (min(ways)[3], "a free key, so that its layer can be entered") if ways else None


def _same_kind(old: Board, new: Board, one: str, other: str) -> bool:
    return (one in old.knob_ids) == (other in new.knob_ids)


def _print_of(folio: Folio, board: Board, key: str) -> str:
    """Return what is printed on a key; nothing for a knob."""
    shape = board.by_id.get(key)
    if shape is None:
        return ""
    return shape.print if shape.print is not None else folio.legend.print_of(key)


def _by_print(folio: Folio, board: Board) -> dict[str, str]:
    """Return keys by what only they have printed on them."""
    found: dict[str, list[str]] = {}
    for key in board.keys:
        found.setdefault(_print_of(folio, board, key.id).casefold(), []).append(key.id)
    return {text: keys[0] for text, keys in found.items() if text and len(keys) == 1}


def _nearest(old: Board, new: Board, key: str, taken: set[str]) -> tuple[str, str] | None:
    """Return the free key of the same finger, or hand, whose place from its home is nearest to the old one's; knobs go to
    knobs."""
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
    """Return a key's place seen from the home key of its finger, or else from the middle of its hand's home keys, in u."""
    homes = [other for other in board.keys if other.home and other.finger == key.finger]
    homes = homes or [other for other in board.keys if other.home and other.hand == key.hand]
    if homes:
        x = sum(other.centre[0] for other in homes) / len(homes)
        y = sum(other.centre[1] for other in homes) / len(homes)
    else:
        x, y = board.homes.get(key.hand or "", key.centre)
    return key.centre[0] - x, key.centre[1] - y


def carry_over(folio: Folio, plan: CarryPlan, keep: bool = False) -> Folio:
    """Return the folio with the layout on the other board, in place of what is there.

    The bindings go with their ids, and so with their history, and the old board has none any more; with ``keep`` it keeps
    them, and the other board has copies. Commands that did not fit wait on the bench if that was their last binding.

    Raises EditError where the other board would lack what every keyboard must have.
    """
    if plan.lacks:
        raise EditError(f"{plan.board} would have no {', no '.join(plan.lacks)}; nothing was carried over")
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
    base, *others = (carried(layer) for layer in old.layers)
    typed = [Binding(free_id(f"{plan.board}-{name.lower()}", taken), Spot(plan.board, base.id, (key,), "tap"),
                     sends=Sequence((Chord((), name),)), given_id=True) for name, key in plan.placed]  # fmt: skip
    made = Layout(plan.board, (replace(base, bindings=(*base.bindings, *typed)), *others))
    return replace(folio, layouts={**layouts, plan.board: made}, cards=cards)


def with_board(folio: Folio, board: Board) -> Folio:
    """Return the folio knowing one more of the boards that come with Glimber."""
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
