"""Heights of the rows of a sheet card for a width of column: one pass over all rows, to try many sizes of type.

Lengths are in em of the names' type. Lines of long names are estimated here, a little on the high side; the layout that is chosen
is set exactly afterwards.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil
from typing import Final, NamedTuple

from glimber.core.cards.packing import Block
from glimber.core.drawing.text import LINE

CHIP_TYPE, CHIP_HIGH, CHIP_PAD, PLUS, STEP, BESIDE, NOTE = 0.86, 1.34, 0.38, 0.56, 0.5, 0.8, 0.86
WAY_ROW, ROW_PAD, HEAD, GAP = 1.5, 0.26, 2.35, 1.0
HEAD_TYPE, HEAD_LINE, HEAD_BESIDE = 1.12, 1.3, 7.0
CHIPS_SHARE: Final = 0.56
"""The share of a column that chips take at most before the steps of a sequence go on more lines."""
_LEADING: Final = 0.36
_RAGGED: Final = 1.08
"""Names on several lines leave about this much of them empty."""


def row_height(name_lines: float, note_lines: float, way_lines: float) -> float:
    """Return the height of a row in em, by its lines of name, of note below it, and of chips."""
    words = (name_lines + note_lines * NOTE) * LINE + _LEADING
    return max(words, way_lines * WAY_ROW) + ROW_PAD


_PLAIN: Final = row_height(1, 0, 1)
_LEAST_ROOM: Final = 4.0


class RowWidths(NamedTuple):
    """Widths of one row, in em: of its name, of its note (0 without one), of what stands before the name, of each way.
    ``is_plain``: it has no note and one way, as most rows; its height is known without a look at its lines."""

    name: float
    note: float
    before: float
    ways: tuple[float, ...]
    is_plain: bool


class SectionWidths(NamedTuple):
    """The width of a section's heading, in em (0 without one), of its widest way, and its rows."""

    head: float
    widest: float
    rows: tuple[RowWidths, ...]


def blocks_of(sections: Sequence[SectionWidths], wide: float) -> list[Block] | None:
    """Return the sections as blocks in a column of a width; None where chips leave names too little room."""
    most, found = wide * CHIPS_SHARE, list[Block]()
    for head, widest, rows in sections:
        room = wide - min(most, widest) - BESIDE
        if room < _LEAST_ROOM:
            return None
        heights = tuple([
            _PLAIN if is_plain and name + before <= room and ways[0] <= most
            else _height(name, note, ways, room - before, most)
            for name, note, before, ways, is_plain in rows
        ])  # fmt: skip
        lines = max(1, ceil(head * _RAGGED / max(1.0, wide - HEAD_BESIDE))) if head > wide - HEAD_BESIDE else 1
        found.append(Block(HEAD + (lines - 1) * HEAD_LINE if head else 0.0, heights, GAP))
    return found


def _height(name: float, note: float, ways: tuple[float, ...], room: float, most: float) -> float:
    lines = 1 if name <= room else ceil(name * _RAGGED / room)
    below = 0
    if note and (room if lines > 1 else name) + BESIDE * 0.6 + note > room:
        below = ceil(note * _RAGGED / room)
    return row_height(lines, below, sum(1 if way <= most else ceil(way / most) for way in ways))
