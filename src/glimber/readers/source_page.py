"""A source as it can be shown: headings, paragraphs, rows of tables and lines, in its own order.

Readers note blocks while they read, where ``Options.page`` asks for it; a source of plain lines is shown as it is written.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final, Literal

from msgspec import Struct

MOST_BLOCKS: Final = 60_000
MOST_IN_A_CELL: Final = 2_000
BlockKind = Literal["heading", "text", "item", "head", "row", "line"]


class Block(Struct, frozen=True):
    """One piece of a source. ``kind``: a heading of a ``level`` from 1 to 6, a paragraph, an item of a list, a row of a table
    or its head, or a line as it is written.

    ``line`` is the number that rows, problems and lines left out name. ``at``: where each cell begins, as a share of the
    page's width, for pages that set their own places. ``struck``: cell, first and last character of what the page itself says is
    for another system.
    """

    kind: BlockKind
    cells: tuple[str, ...]
    line: int
    level: int = 0
    at: tuple[float, ...] = ()
    struck: tuple[tuple[int, int, int], ...] = ()


def lines_of(text: str) -> list[Block]:
    """Return a text as its lines, empty ones among them."""
    lines = text.expandtabs(8).splitlines()[:MOST_BLOCKS]
    return [Block("line", (line.rstrip()[:MOST_IN_A_CELL],), number) for number, line in enumerate(lines, start=1)]


def rows_of(rows: Iterable[tuple[int, Sequence[str], bool]]) -> list[Block]:
    """Return the rows of a table, given as number, cells and whether it is a head. Cells at the end that are all empty go."""
    found = [(number, tuple(cell.strip()[:MOST_IN_A_CELL] for cell in cells), head) for number, cells, head in rows]
    width = max((place + 1 for _, cells, _ in found for place, cell in enumerate(cells) if cell), default=0)
    return [
        Block("head" if head else "row", (cells + ("",) * width)[:width], number)
        for number, cells, head in found[:MOST_BLOCKS]
        if any(cells)
    ]
