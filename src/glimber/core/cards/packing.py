"""Packing blocks of rows into columns and sheets, in order."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import accumulate
from typing import Final

from msgspec import Struct

_LEAST_ROWS: Final = 3
"""Rows of a block that stay together where it is parted between columns."""
_SLACK: Final = 1e-6
_MOST_EMPTY: Final = 0.15
"""Share of a sheet that may stay empty so that a block begins on the next one."""
_HALVINGS: Final = 6


class Block:
    """Rows under a heading that is repeated where the block is parted. Heights in any one unit.

    Attributes:
        rows: The height of each row.
        gap: The room below the block.
        ends: The end of each row below the heading; 0 first.
        tallest: The height of the tallest row.
        height: The height of the heading and all rows.
    """

    __slots__ = ("ends", "gap", "head", "height", "rows", "tallest")

    def __init__(self, head: float, rows: tuple[float, ...], gap: float) -> None:
        self.head, self.rows, self.gap = head, rows, gap
        self.ends = (0.0, *accumulate(rows))
        self.tallest = max(rows, default=0.0)
        self.height = head + self.ends[-1]


class Part(Struct, frozen=True):
    """Rows ``first`` to ``last`` (exclusive) of a block."""

    block: int
    first: int
    last: int


class Column(Struct, frozen=True):
    """Parts of blocks below each other."""

    parts: tuple[Part, ...]


def pack(blocks: Sequence[Block], room: float, across: int, split: bool, most: int | None = None) -> Sheets | None:
    """Pack blocks into columns of a height, ``across`` of them to a sheet, in order.

    A block stays whole where it can; with ``split`` it may go on in the next column, and on the next sheet only
    where much of this one would stay empty. None where a row is taller than a column, or where it takes more than
    ``most`` sheets.
    """
    if not _rows_fit(blocks, room):
        return None
    # Most sizes that are tried are too large by far: their height alone says so.
    if most is not None and sum(block.height for block in blocks) > most * across * (room + _SLACK):
        return None
    sheets = _filled(blocks, room, across, split)
    return sheets if most is None or len(sheets) <= most else None


def balanced(blocks: Sequence[Block], room: float, across: int, split: bool) -> Sheets | None:
    """Pack blocks into no more sheets than ``pack`` takes, in columns of like height."""
    sheets = pack(blocks, room, across, split)
    low, high = room / (2 * across), room
    for _ in range(_HALVINGS if sheets is not None else 0):
        middle = (low + high) / 2
        way = pack(blocks, middle, across, split)
        if way is not None and sheets is not None and len(way) <= len(sheets):
            sheets, high = way, middle
        else:
            low = middle
    return sheets


def _rows_fit(blocks: Sequence[Block], room: float) -> bool:
    """Return True if every row has room in a column, below its heading."""
    return all(block.head + block.tallest <= room + _SLACK for block in blocks)


Sheets = tuple[tuple[Column, ...], ...]


class _Filling:
    """Columns being filled from left to right, sheet by sheet."""

    def __init__(self, room: float, across: int) -> None:
        self.room, self.across = room, across
        self.sheets: list[list[list[Part]]] = [[[]]]
        self.used = 0.0

    @property
    def columns_left(self) -> int:
        return self.across - len(self.sheets[-1])

    def next_column(self) -> None:
        if self.columns_left:
            self.sheets[-1].append([])
        else:
            self.sheets.append([[]])
        self.used = 0.0

    def next_sheet(self) -> None:
        if self.sheets[-1] != [[]]:
            self.sheets.append([[]])
        self.used = 0.0

    def free(self) -> float:
        return self.room - self.used

    def put(self, part: Part, height: float, gap: float) -> None:
        self.sheets[-1][-1].append(part)
        self.used += height + gap


def _filled(blocks: Sequence[Block], room: float, across: int, split: bool) -> Sheets:
    filling = _Filling(room, across)
    for index, block in enumerate(blocks):
        if block.height <= filling.free() + _SLACK:
            filling.put(Part(index, 0, len(block.rows)), block.height, block.gap)
            continue
        whole = block.height <= room + _SLACK
        if whole and not split:
            filling.next_column()
            filling.put(Part(index, 0, len(block.rows)), block.height, block.gap)
            continue
        if block.height > filling.free() + filling.columns_left * room and len(filling.sheets[-1]) * filling.used:
            # It would continue on the next sheet: it begins there, unless that leaves much of this one empty.
            empty = filling.free() + filling.columns_left * room
            if block.height + block.head * (across - 1) <= room * across and empty <= _MOST_EMPTY * room * across:
                filling.next_sheet()
        _parted(filling, index, block)
    return tuple(tuple(Column(tuple(parts)) for parts in sheet) for sheet in filling.sheets)


def _parted(filling: _Filling, index: int, block: Block) -> None:
    """Put a block into as many columns as it takes, at least three rows in each."""
    first, count = 0, len(block.rows)
    while first < count:
        room = filling.free() + _SLACK - block.head
        last = max(first, bisect_right(block.ends, block.ends[first] + room) - 1)
        if 0 < count - last < _LEAST_ROWS and last - first > _LEAST_ROWS:
            last = max(first + _LEAST_ROWS, count - _LEAST_ROWS)
        too_few = last - first < min(_LEAST_ROWS, count - first)
        if too_few and filling.used > 0:
            filling.next_column()
            continue
        last = max(last, first + 1)
        filling.put(Part(index, first, last), block.head + block.ends[last] - block.ends[first], block.gap)
        first = last
        if first < count:
            filling.next_column()
