"""Walking a board: from key to key by direction, and in reading order."""

from __future__ import annotations

from typing import Final, Literal

from glimber.core.model.board import Board, Point

Way = Literal["left", "right", "up", "down"]
WAYS: Final[tuple[Way, ...]] = ("left", "right", "up", "down")
_STEPS: Final[dict[str, Point]] = {"left": (-1.0, 0.0), "right": (1.0, 0.0), "up": (0.0, -1.0), "down": (0.0, 1.0)}
SIDEWAYS: Final = 2.2
"""The cost of a unit off the way, in units along it."""
ROW_U: Final = 0.6
"""Keys whose centres are this close in height are in one row when read."""


def places(board: Board) -> dict[str, Point]:
    """Return the centre of every key and knob, in key units."""
    return {key.id: key.centre for key in board.keys} | {knob.id: knob.centre for knob in board.knobs}


def step_from(board: Board, key: str, way: Way) -> str:
    """Return the next key or knob in a direction; the same one where there is none."""
    known = places(board)
    if key not in known:
        return reading_order(board)[0]
    x, y = known[key]
    dx, dy = _STEPS[way]
    best: tuple[float, str] | None = None
    for other, (ox, oy) in known.items():
        along = (ox - x) * dx + (oy - y) * dy
        off = abs((ox - x) * dy) + abs((oy - y) * dx)
        if other == key or along < 0.3 or off > along * 1.2 + 0.5:
            continue
        cost = along + SIDEWAYS * off
        if best is None or cost < best[0]:
            best = (cost, other)
    return best[1] if best else key


def reading_order(board: Board) -> list[str]:
    """Return all keys and knobs, row by row from the left; keys of a staggered row belong together."""
    known = places(board)
    left = sorted(known, key=lambda key: known[key][1])
    found: list[str] = []
    while left:
        top = known[left[0]][1]
        row = [key for key in left if known[key][1] - top < ROW_U]
        found += sorted(row, key=lambda key: known[key][0])
        left = [key for key in left if key not in row]
    return found


def after(board: Board, key: str) -> str:
    """Return the key that follows in reading order; the first one after the last."""
    order = reading_order(board)
    return order[(order.index(key) + 1) % len(order)] if key in order else order[0]
