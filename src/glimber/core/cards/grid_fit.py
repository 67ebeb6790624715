"""The fit of a grid to a sheet: columns as wide as what they hold, rows of one line or two, in blocks beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from msgspec import Struct

from glimber.core.cards.grid import Grid, Row
from glimber.core.drawing.metrics import Face
from glimber.core.drawing.text import LINE

MOST_BLOCKS: Final = 4
LARGEST: Final = 5.2
"""Type of labels at most, in mm."""
_HALVINGS: Final = 6
_MOST_LINES: Final = 3
_WIDEST: Final = 16.0
"""A column at most, in em, before its labels take two lines or a shorter form."""
_ROW_PAD: Final = 0.62
_MOST_STRETCH: Final = 1.7
_SPARE_MM: Final = 0.4


class Room(Struct, frozen=True):
    """The room for a table, in mm: its width and height, the width of the column of keys, the gap between blocks, the least
    type and what stands before a label in its cell."""

    width: float
    height: float
    key: float
    gap: float
    least: float
    before: float


class GridFit(Struct, frozen=True):
    """Blocks side by side, widths of the columns and heights of the rows that fit, in mm; ``size``: type of labels."""

    blocks: int
    columns: tuple[float, ...]
    rows: tuple[float, ...]
    size: float
    key: float


def fit_grid(grid: Grid, face: Face, room: Room) -> GridFit:
    """Return the number of blocks that makes the type largest; where none holds all rows, the one that holds most."""
    best: GridFit | None = None
    for blocks in range(1, MOST_BLOCKS + 1):
        found = _largest(grid, face, room, blocks, best.size if best else room.least * 0.999)
        best = found or best
    if best is not None:
        return _stretched(best, room)
    ways = [_rows_that_fit(_at(grid, face, room, 1, room.least), room)]
    for blocks in range(2, MOST_BLOCKS + 1):
        if _needs(grid, face, room, room.least)[2] <= _width(grid, room, blocks):
            ways.append(_rows_that_fit(_at(grid, face, room, blocks, room.least), room))
    return max(ways, key=lambda way: len(way.rows))


def _largest(grid: Grid, face: Face, room: Room, blocks: int, beaten: float) -> GridFit | None:
    low, high = max(beaten, room.least) * 1.001, LARGEST
    if low > high or not _holds(grid, face, room, blocks, low):
        return None
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if _holds(grid, face, room, blocks, middle) else (low, middle)
    return _at(grid, face, room, blocks, low)


def _holds(grid: Grid, face: Face, room: Room, blocks: int, size: float) -> bool:
    if _needs(grid, face, room, size)[2] > _width(grid, room, blocks):
        return False
    return tallest(_at(grid, face, room, blocks, size).rows, blocks) <= room.height


def _width(grid: Grid, room: Room, blocks: int) -> float:
    """Return width for the columns of one block."""
    return (room.width - room.gap * (blocks - 1)) / blocks - room.key


def _needs(grid: Grid, face: Face, room: Room, size: float) -> tuple[list[float], list[float], float]:
    """The width each column needs for one line and for two, and the sum of the latter."""
    one, two = [], []
    for held in grid.columns:
        labels = [entry.label for row in grid.rows for entry in row.cells.get(held, ())]
        whole = max((face.width(label, 1.0) for label in labels), default=0.0)
        halves = max((_halved(face, label) for label in labels), default=0.0)
        head = max((face.width(f"{name}+", room.least) for name in held), default=0.0) + 2.0
        one.append(max(head, min(whole, _WIDEST) * size + room.before))
        two.append(max(head, min(halves, _WIDEST) * size + room.before))
    return one, two, sum(two)


def _halved(face: Face, label: str) -> float:
    """Return the least width in em at which a label takes at most two lines."""
    words = label.split()
    if len(words) < 2:
        return face.width(label, 1.0)
    return min(
        max(face.width(" ".join(words[:at]), 1.0), face.width(" ".join(words[at:]), 1.0)) for at in range(1, len(words))
    )


def _lines(face: Face, label: str, room: float) -> int:
    """Return lines that a label takes in a room in em: one, two, or at most three."""
    if face.width(label, 1.0) <= room:
        return 1
    return 2 if _halved(face, label) <= room else _MOST_LINES


def _at(grid: Grid, face: Face, room: Room, blocks: int, size: float) -> GridFit:
    one, two, _ = _needs(grid, face, room, size)
    columns = _shared(one, two, _width(grid, room, blocks))
    rows = tuple(_height(row, grid.columns, columns, face, room, size) for row in grid.rows)
    return GridFit(blocks, columns, rows, size, room.key)


def _shared(one: Sequence[float], two: Sequence[float], width: float) -> tuple[float, ...]:
    """Widths of columns: what two lines need, more towards one line, and what is left in equal parts."""
    if sum(two) >= width:
        return tuple(need * width / sum(two) for need in two)
    left = width - sum(two)
    wish = [max(0.0, a - b) for a, b in zip(one, two, strict=True)]
    share = min(1.0, left / sum(wish)) if sum(wish) else 0.0
    found = [need + share * more for need, more in zip(two, wish, strict=True)]
    rest = (width - sum(found)) / len(found)
    return tuple(need + rest for need in found)


def _height(
    row: Row, columns: Sequence[tuple[str, ...]], widths: Sequence[float], face: Face, room: Room, size: float
) -> float:
    """Return the height of a row: of the fullest of its cells, each label on one line or two."""
    found = size * (LINE + _ROW_PAD)
    for held, width in zip(columns, widths, strict=True):
        inner = width - room.before + 1e-6
        cell = row.cells.get(held, ())
        lines = [_lines(face, entry.label, inner / size) for entry in cell]
        found = max(found, sum(count * LINE * size + _ROW_PAD * size + _SPARE_MM for count in lines))
    return found


def split(heights: Sequence[float], blocks: int) -> list[range]:
    """Return rows in blocks of like height, in order."""
    share, parts, start, total = sum(heights) / blocks, list[range](), 0, 0.0
    for at, height in enumerate(heights):
        if at > start and total + height / 2 > share and len(parts) < blocks - 1:
            parts.append(range(start, at))
            start, total = at, 0.0
        total += height
    return [*parts, range(start, len(heights))]


def tallest(heights: Sequence[float], blocks: int) -> float:
    """Return the height of the tallest block."""
    return max(sum(heights[at] for at in part) for part in split(heights, blocks))


def _rows_that_fit(way: GridFit, room: Room) -> GridFit:
    for count in range(len(way.rows), 0, -1):
        if tallest(way.rows[:count], way.blocks) <= room.height or count == 1:
            return _stretched(GridFit(way.blocks, way.columns, way.rows[:count], way.size, way.key), room)
    return way


def _stretched(way: GridFit, room: Room) -> GridFit:
    """Return rows a little taller, so that they fill the sheet."""
    by = max(1.0, min(_MOST_STRETCH, room.height / tallest(way.rows, way.blocks)))
    return GridFit(way.blocks, way.columns, tuple(height * by for height in way.rows), way.size, way.key)
