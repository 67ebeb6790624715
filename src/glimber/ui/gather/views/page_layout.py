"""Lay out the words of a source's page stand on the sheet: columns of its tables, wrapped cells, the height of every block."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import groupby
from typing import TYPE_CHECKING, Final

from msgspec import Struct
from PySide6.QtGui import QFont, QFontMetricsF

from glimber.ui.paint.fonts import fixed_font, font
from glimber.ui.paint.look import BODY, HEADING, LARGE, SMALL

if TYPE_CHECKING:
    from glimber.readers.source_page import Block

MARGIN: Final = 44
"""Px at the left for the number of what is to check, or of a line, and at the right."""
_GAP: Final = 24.0
_ITEM: Final = 16.0
_WIDEST: Final = 14.0
"""Px that no letter of a table is wider than."""
_LONG_SHARE: Final = 0.6
_LINES: Final = 8
"""A cell that needs more lines than this ends with an ellipsis."""
_PADDING: Final = {"heading": 20, "text": 8, "item": 8, "head": 12, "row": 11, "line": 2, "set": 3}


class Piece(Struct, frozen=True):
    """Characters ``start`` to ``end`` of a cell, in a line that begins at (``x``, ``y``) px and is ``width`` px wide."""

    cell: int
    start: int
    end: int
    x: float
    y: float
    width: float


class BlockGeometry(Struct, frozen=True):
    """A block on the sheet: its height in px, the height of a line, and its pieces."""

    height: int
    line: float
    pieces: tuple[Piece, ...]


def font_of(block: Block) -> QFont:
    """Return the font that a block is set in."""
    if block.kind == "line":
        return fixed_font(SMALL + 1)
    if block.kind == "heading":
        return font(HEADING if block.level <= 1 else LARGE if block.level == 2 else BODY, 600)
    if block.at:
        return font(SMALL, 400)
    return font(BODY, 600 if block.kind == "head" else 400)


class PageLayout:
    """The blocks of a page on a sheet of a width in px; each is laid out when it is first asked for."""

    def __init__(self, blocks: Sequence[Block], width: float) -> None:
        self.blocks, self.width = blocks, width
        self._columns: dict[int, tuple[tuple[float, float], ...]] = {}
        self._flat: set[int] = set()
        self._heights: dict[str, int] = {}
        self._geometries: dict[int, BlockGeometry] = {}
        self._edge = min(0.3, min((block.at[0] for block in blocks if block.at), default=0.0))  # the margin of a set page
        room = max(120.0, width - 2 * MARGIN)
        tables = groupby(range(len(blocks)), key=lambda place: blocks[place].kind in ("row", "head") and not blocks[place].at)
        for is_table, places in tables:
            if is_table:
                rows = list(places)
                columns, flat = _columns_of([blocks[place] for place in rows], room)
                self._columns.update(dict.fromkeys(rows, columns))
                if flat:
                    self._flat.update(rows)

    def geometry(self, place: int) -> BlockGeometry:
        """Return one block on the sheet."""
        if place not in self._geometries:
            self._geometries[place] = self._compute(place)
        return self._geometries[place]

    def height(self, place: int) -> int:
        """Return the height of one block in px; lines as they are written, and rows that need no second line, are all alike."""
        kind = self.blocks[place].kind
        if kind != "line" and place not in self._flat:
            return self.geometry(place).height
        if kind not in self._heights:
            self._heights[kind] = self.geometry(place).height
        return self._heights[kind]

    def _compute(self, place: int) -> BlockGeometry:
        block = self.blocks[place]
        chosen = font_of(block)
        line = QFontMetricsF(chosen).height() + (2 if block.kind == "line" else 3)
        advance = _advance_of(chosen)
        padding = _PADDING["set" if block.at else block.kind]
        above = padding - 4 if block.kind in ("heading", "head") else padding / 2
        pieces, most = [], 1
        for cell, (left, room) in enumerate(self._cell_places(place)):
            lines = list(wrap(block.cells[cell], room, advance)) if cell < len(block.cells) else []
            most = max(most, len(lines))
            for number, (start, end) in enumerate(lines):
                wide = advance(block.cells[cell][start:end])
                pieces.append(Piece(cell, start, end, MARGIN + left, above + number * line, wide))
        return BlockGeometry(round(most * line + padding), line, tuple(pieces))

    def _cell_places(self, place: int) -> Sequence[tuple[float, float]]:
        """Return where each cell of a block begins, from the margin, and how much room it has."""
        block, room = self.blocks[place], max(120.0, self.width - 2 * MARGIN)
        if place in self._columns:
            return self._columns[place]
        if block.at:
            begins = [(share - self._edge) / (1 - 2 * self._edge) * room for share in block.at]
            return [(left, max(20.0, after - left - 6)) for left, after in zip(begins, [*begins[1:], room + 6], strict=True)]
        inset = _ITEM if block.kind == "item" else 0.0
        # What is written in columns is not wrapped: that would take them apart.
        return [(inset, 1e6 if block.kind == "line" else room - inset)]


def _columns_of(rows: Sequence[Block], room: float) -> tuple[tuple[tuple[float, float], ...], bool]:
    """Return the columns of a table, each its start and width (narrow ones as they are, wide ones share the rest), and True if
    every row needs one line only."""
    count = max(len(row.cells) for row in rows)
    longest = [max((len(row.cells[cell]) for row in rows if cell < len(row.cells)), default=0) for cell in range(count)]
    natural = [0.0] * count
    one_line = True
    for row in rows:
        advance: Callable[[str], float] | None = None
        for cell, text in enumerate(row.cells):
            one_line = one_line and "\n" not in text
            # Of many texts only the long ones need measuring.
            if len(text) * _WIDEST > natural[cell] and len(text) >= _LONG_SHARE * longest[cell]:
                advance = advance or _advance_of(font_of(row))
                natural[cell] = max(natural[cell], max((advance(line) for line in text.split("\n")), default=0.0))
    free = room - _GAP * (count - 1)
    widths = _fit_widths(natural, free)
    spare = max(0.0, free - sum(widths))
    used = [width for width in widths if width > 0]
    stretch = min(60.0, spare / max(1, len(used)))
    places, x = [], 0.0
    for width in widths:
        places.append((x, width + 1))
        x += width + stretch + _GAP if width > 0 else 0.0
    return tuple(places), one_line and widths == natural


def _fit_widths(natural: Sequence[float], room: float) -> list[float]:
    """Return widths that fit: those below a fair share keep what they need, the others are cut to it."""
    widths = list(natural)
    for _ in range(len(widths)):
        over = sum(widths) - room
        if over <= 0.5:
            break
        widest = max(widths)
        second = max((width for width in widths if width < widest - 0.5), default=0.0)
        at = [place for place, width in enumerate(widths) if width >= widest - 0.5]
        cut = min(over / len(at), widest - second)
        for place in at:
            widths[place] -= cut
    return [max(min(24.0, natural[place]), width) for place, width in enumerate(widths)]


def wrap(text: str, room: float, advance: Callable[[str], float]) -> Iterator[tuple[int, int]]:
    """Yield the lines of a text that has ``room`` px, as first and last character; at most eight."""
    count, start = 0, 0
    for part in text.split("\n"):
        for first, last in _break_line(part, room, advance):
            yield start + first, start + last
            count += 1
            if count == _LINES:
                return
        start += len(part) + 1


def _break_line(text: str, room: float, advance: Callable[[str], float]) -> Iterator[tuple[int, int]]:
    if advance(text) <= room:
        yield 0, len(text)
        return
    start, end, at = 0, 0, 0
    for word in text.split(" "):
        after = at + len(word)
        if end > start and advance(text[start:after]) > room:
            yield start, end
            start = at
        while after - start > 1 and advance(text[start:after]) > room:  # a word longer than its column
            cut = next((cut for cut in range(after - 1, start + 1, -1) if advance(text[start:cut]) <= room), start + 1)
            yield start, cut
            start = cut
        end, at = after, after + 1
    yield start, end


def _advance_of(chosen: QFont) -> Callable[[str], float]:
    return QFontMetricsF(chosen).horizontalAdvance
