"""A walk through a program's menus: what toolkits say of it in, the entry that was chosen and how long it took out.

Toolkits only say which item has the selection or the focus, and when it loses it. A menu has closed when nothing has it for a
moment; what had it last was chosen if it is an entry, unless Escape was struck or the mouse was elsewhere. Between two walks
nothing is remembered.
"""

from __future__ import annotations

from typing import Final

from msgspec import Struct
from msgspec.structs import replace

CLOSED_AFTER_MS: Final = 150.0
"""A menu is closed when no item has had the selection for so long: between two items it is a few ms."""
TOLD_WITHIN_MS: Final = 500.0
"""Longest time after a menu closes until the keystroke or click that closed it is known."""
LONGEST_MS: Final = 60_000.0
"""A menu that was open for longer was left open: how long it took says nothing."""
ESCAPE_BEFORE_MS: Final = 60.0
ESCAPE_AFTER_MS: Final = 40.0


class Item(Struct, frozen=True):
    """An item of a menu: ``id`` tells it from others, ``is_menu`` if it only opens another menu."""

    id: str
    is_menu: bool = False


class Walk(Struct, frozen=True):
    """``begun_ms``: when the first menu opened; ``lit``: the item that has the selection; ``left``: the one that had it last,
    since ``left_ms``, and whether the mouse was ``outside`` of it then; ``escaped_ms``: the last Escape."""

    begun_ms: float | None = None
    lit: Item | None = None
    left: Item | None = None
    left_ms: float = 0.0
    outside: bool = False
    escaped_ms: float = -1e12

    @property
    def is_open(self) -> bool:
        """Return True while a menu is open, or has just closed and it is not known yet why."""
        return self.begun_ms is not None


class Chosen(Struct, frozen=True):
    """An entry that was chosen: its item, how long it took from the opening of the first menu, and when it was, in ms."""

    item: str
    took_ms: float
    at_ms: float


def light(walk: Walk, item: Item, t_ms: float) -> tuple[Walk, Chosen | None]:
    """An item got the selection."""
    walk, chosen = _before(walk, t_ms)
    begun = t_ms if walk.begun_ms is None else walk.begun_ms
    return replace(walk, begun_ms=begun, lit=item, left=None), chosen


def leave(walk: Walk, item: str, t_ms: float, outside: bool = False) -> Walk:
    """An item lost the selection; ``outside``: the mouse ended the walk, and was not on the item."""
    if walk.lit is None or walk.lit.id != item:
        return walk
    return replace(walk, lit=None, left=walk.lit, left_ms=t_ms, outside=outside)


def escape(walk: Walk, t_ms: float) -> Walk:
    """Escape was struck."""
    return replace(walk, escaped_ms=t_ms) if walk.is_open else walk


def rest(walk: Walk, t_ms: float) -> tuple[Walk, Chosen | None]:
    """Time passed: a menu that has closed is decided once everything is known that could be."""
    if walk.left is not None and t_ms - walk.left_ms >= TOLD_WITHIN_MS:
        return Walk(), _decided(walk)
    if walk.begun_ms is not None and walk.lit is not None and t_ms - walk.begun_ms > LONGEST_MS:
        return Walk(), None
    return walk, None


def _before(walk: Walk, t_ms: float) -> tuple[Walk, Chosen | None]:
    """A walk that ended before another begins is decided then."""
    if walk.left is not None and t_ms - walk.left_ms >= CLOSED_AFTER_MS:
        return Walk(), _decided(walk)
    return walk, None


def _decided(walk: Walk) -> Chosen | None:
    assert walk.left is not None and walk.begun_ms is not None
    escaped = walk.left_ms - ESCAPE_BEFORE_MS <= walk.escaped_ms <= walk.left_ms + ESCAPE_AFTER_MS
    took = walk.left_ms - walk.begun_ms
    if walk.left.is_menu or escaped or walk.outside or took > LONGEST_MS:
        return None
    return Chosen(walk.left.id, took, walk.left_ms)
