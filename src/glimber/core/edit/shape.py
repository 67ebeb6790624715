"""The shape of a board: keys moved, sized and turned, fingers set, and guessed where nobody has set them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise
from math import isfinite
from typing import Any, Final

from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.board import FINGERS, REACHES, Board, Key
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import is_slug

_TYPISTS: Final = {
    "little": "Backquote Digit1 Tab KeyQ CapsLock KeyA ShiftLeft KeyZ ControlLeft IntlBackslash Digit0 Minus Equal Backspace "
              "KeyP BracketLeft BracketRight Backslash Semicolon Quote Enter Slash ShiftRight ControlRight",
    "ring": "Digit2 KeyW KeyS KeyX MetaLeft Digit9 KeyO KeyL Period MetaRight ContextMenu",
    "middle": "Digit3 KeyE KeyD KeyC Digit8 KeyI KeyK Comma",
    "index": "Digit4 Digit5 KeyR KeyT KeyF KeyG KeyV KeyB Digit6 Digit7 KeyY KeyU KeyH KeyJ KeyN KeyM",
    "thumb": "AltLeft Space AltRight",
}  # fmt: skip
_RIGHT: Final = frozenset(
    "Digit6 Digit7 Digit8 Digit9 Digit0 Minus Equal Backspace KeyY KeyU KeyI KeyO KeyP BracketLeft BracketRight Backslash "
    "KeyH KeyJ KeyK KeyL Semicolon Quote Enter KeyN KeyM Comma Period Slash ShiftRight AltRight MetaRight ContextMenu "
    "ControlRight".split()
)
_HOMES: Final = frozenset("KeyA KeyS KeyD KeyF KeyJ KeyK KeyL Semicolon".split())
_BY_CODE: Final = {code: digit for digit, codes in _TYPISTS.items() for code in codes.split()}
_FIELDS: Final = ("x", "y", "w", "h", "angle", "finger", "reach", "home", "mirror", "print")


def guess_fingers(board: Board) -> Board:
    """Return fingers and home keys for all keys that name none: those of typists by the key's code, the others by their place.

    By place: the hand is the side of the middle (a gap between halves, where there is one); the lowest row near the middle is
    for the thumbs; else index, middle, ring and little finger by columns of one unit from the inner edge.
    """
    if not board.keys:
        return board
    split = _middle(board)
    lowest = max(key.centre[1] for key in board.keys)
    inner = {
        hand: min(
            (
                abs(key.centre[0] - split)
                for key in board.keys
                if _hand(key, split) == hand and lowest - key.centre[1] > 0.8
            ),
            default=0.0,
        )
        for hand in ("left", "right")
    }
    has_homes = any(key.home for key in board.keys)
    keys = tuple(_guessed(key, split, lowest, inner, has_homes) for key in board.keys)
    if not any(key.home for key in keys):
        keys = _with_homes(keys, split)
    return replace(board, keys=keys)


def _middle(board: Board) -> float:
    """Return the x that parts the hands: in the widest gap near the middle, otherwise the middle itself."""
    left, _, right, _ = board.extent
    xs = sorted(key.centre[0] for key in board.keys)
    near = (left + (right - left) * 0.25, left + (right - left) * 0.75)
    gaps = [(b - a, (a + b) / 2) for a, b in pairwise(xs) if near[0] < (a + b) / 2 < near[1]]
    widest = max(gaps, default=(0.0, 0.0))
    return widest[1] if widest[0] > 1.3 else (left + right) / 2


def _hand(key: Key, split: float) -> str:
    return "left" if key.centre[0] < split else "right"


def _guessed(key: Key, split: float, lowest: float, inner: dict[str, float], has_homes: bool) -> Key:
    if key.finger is not None:
        return key
    if key.id in _BY_CODE:
        hand = "right" if key.id in _RIGHT else "left"
        return replace(key, finger=f"{hand}-{_BY_CODE[key.id]}", home=key.home or (not has_homes and key.id in _HOMES))
    hand = _hand(key, split)
    away = abs(key.centre[0] - split)
    if lowest - key.centre[1] < 0.6 and away < inner[hand] + 3.2:
        return replace(key, finger=f"{hand}-thumb")
    column = int(max(0.0, away - inner[hand]) + 0.5)
    digit = ("index", "index", "middle", "ring", "little")[min(column, 4)]
    return replace(key, finger=f"{hand}-{digit}")


def _with_homes(keys: Sequence[Key], split: float) -> tuple[Key, ...]:
    """Return one home key for each finger in the middle row: the outer column of the index finger, the first of the others."""
    rows = sorted({round(key.centre[1] * 2) / 2 for key in keys if key.digit != "thumb"})
    if len(rows) < 2:
        return tuple(keys)
    middle = rows[len(rows) // 2]
    chosen: set[str] = set()
    for finger in FINGERS:
        here = [key for key in keys if key.finger == finger]
        near = [key for key in here if abs(key.centre[1] - middle) < 0.6 or finger.endswith("thumb")]
        if near:
            outer = finger.endswith("index")
            near.sort(key=lambda key: abs(key.centre[0] - split), reverse=outer)
            chosen.add(near[0].id)
    return tuple(replace(key, home=key.id in chosen) for key in keys)


# Edits


def edit_keys(board: Board, ids: Iterable[str], **changes: object) -> Board:
    """Change keys of a board: x, y, w, h, angle, finger, reach, home, mirror or print. Lengths in key units. Raises EditError."""
    chosen = set(ids)
    for field, value in changes.items():
        if field not in _FIELDS:
            raise EditError(f"a key has no {field}")
        _check(board, field, value)
    return replace(board, keys=tuple(replace(key, **changes) if key.id in chosen else key for key in board.keys))


def _check(board: Board, field: str, value: Any) -> None:
    if field in ("x", "y", "angle", "w", "h") and not isfinite(value):
        raise EditError(f"{value} is not a number of units")
    if field in ("w", "h") and not 0.2 <= value <= 20:
        raise EditError(f"a key is 0.2 to 20 units wide and high, not {value:g}")
    if field == "finger" and value is not None and value not in FINGERS:
        raise EditError(f"{value} is not a finger; expected one of {', '.join(FINGERS)}")
    if field == "reach" and value is not None and value not in REACHES:
        raise EditError(f"{value} is not a reach; expected one of {', '.join(REACHES)}")
    if field == "mirror" and value is not None and not board.has(value):
        raise EditError(f"{value} is not a key of {board.id}")


def move_keys(board: Board, ids: Iterable[str], dx: float, dy: float) -> Board:
    """Move keys, with the points they are turned about."""
    chosen = set(ids)

    def moved(key: Key) -> Key:
        pivot = None if key.pivot is None else (round(key.pivot[0] + dx, 4), round(key.pivot[1] + dy, 4))
        return replace(key, x=round(key.x + dx, 4), y=round(key.y + dy, 4), pivot=pivot)

    return replace(board, keys=tuple(moved(key) if key.id in chosen else key for key in board.keys))


def add_key(board: Board, id: str, x: float, y: float) -> Board:
    """Return one more key of one unit. Raises EditError."""
    if not is_slug(id):
        raise EditError(f"{id!r} cannot be a key; expected a code such as KeyS or a word")
    if board.has(id):
        raise EditError(f"{id} is on {board.id} already")
    return replace(board, keys=(*board.keys, Key(id, x, y)))


def remove_keys(folio: Folio, board: Board, ids: Iterable[str]) -> Board:
    """Return a board without some keys. Raises EditError while something is bound on one of them."""
    chosen = set(ids)
    layout = folio.layouts.get(board.id)
    for layer in layout.layers if layout else ():
        bound = next((binding for binding in layer.bindings if chosen & set(binding.spot.keys)), None)
        if bound is not None:
            raise EditError(f"{bound.spot.key} carries {bound.id} on {layer.name}; clear that key first")
    keys = tuple(
        replace(key, mirror=None) if key.mirror in chosen else key for key in board.keys if key.id not in chosen
    )
    stand_in = {key: code for key, code in board.stand_in.items() if key not in chosen}
    return replace(board, keys=keys, stand_in=stand_in)


def with_own_board(folio: Folio, board: Board) -> Folio:
    """Return the folio with a board of its own: new, or in place of the one of that id, which may be one that comes with
    Glimber."""
    return replace(folio, boards={**folio.boards, board.id: board}, own_boards=folio.own_boards | {board.id})
