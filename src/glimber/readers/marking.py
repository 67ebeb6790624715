"""Find where on a page each row that was read stands: the spans of its command and of its keys in the blocks of the page."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from msgspec import Struct

from glimber.readers.found import PROSE, Found, Row
from glimber.readers.source_page import Block

_MANY: Final = 60
"""A line with more rows than this is one of a page without line ends: its rows are then found by whole cells."""


class Span(Struct, frozen=True):
    """A part of a cell that a row was read from: characters ``start`` to ``end`` of cell ``cell``."""

    cell: int
    start: int
    end: int
    row: int


class Marked(Struct, frozen=True):
    """The reading of one block: places among the rows, the spans of those whose words stand there, the problem of the block
    as a place among the problems, why the rest of it is no binding, and cells that have the keys of other systems."""

    rows: tuple[int, ...] = ()
    spans: tuple[Span, ...] = ()
    problem: int | None = None
    why: str = ""
    elsewhere: tuple[int, ...] = ()

    @property
    def is_prose(self) -> bool:
        """Return True for running text."""
        return self.why.startswith(PROSE)


NOTHING: Final = Marked()


def marks_of(found: Found) -> list[Marked]:
    """Return what was read from each block of a source's page."""
    marking = _Marking(found)
    return [marking.mark(block) for block in found.page]


class _Marking:
    """Rows, problems and lines left out of one source, as places by their line, and the cell that keys usually stand in."""

    def __init__(self, found: Found) -> None:
        self.found = found
        self._rows = _by_line(row.line for row in found.rows)
        self._problems = _by_line(one.line for one in found.problems)
        self._left = _by_line(one.line for one in found.not_bindings)
        self._elsewhere = defaultdict[int, list[int]](list)
        for line, cell in found.elsewhere:
            self._elsewhere[line].append(cell)
        self._blocks = Counter(block.line for block in found.page)
        self._by_name = {line: {_folded(found.rows[row].command): row for row in its}
                         for line, its in self._rows.items() if len(its) > _MANY}  # fmt: skip
        self._keys_cell = self._usual_keys_cell()

    def _usual_keys_cell(self) -> int | None:
        """Return the cell that most rows have their keys in, of those whose keys stand in one cell only."""
        cells = Counter[int]()
        for block in self.found.page:
            if block.kind == "row":
                for row in self._rows_of(block):
                    keys = self.found.rows[row].keys.split()
                    same = [cell for cell, text in enumerate(block.cells) if text.split() == keys]
                    cells.update(same if len(same) == 1 else [])
        return cells.most_common(1)[0][0] if cells else None

    def mark(self, block: Block) -> Marked:
        """Return what was read from a block."""
        line, found = block.line, self.found
        if not line or not any(line in by_line for by_line in (self._rows, self._problems, self._left)):
            return NOTHING
        alone, its = self._blocks[line] == 1, self._rows_of(block)
        sure = alone or line in self._by_name
        spans = [span for row in its for span in _spans(block, found.rows[row], row, sure, self._keys_cell)]
        rows = dict.fromkeys(its) if alone else dict.fromkeys(span.row for span in spans)
        text = _folded(" ".join(block.cells))
        problem = next((one for one in self._problems.get(line, ()) if alone or _is_about(text, found.problems[one].text)), None)
        left = (found.not_bindings[one] for one in self._left.get(line, ()))
        why = next((one.why for one in left if alone or _is_about(text, one.text)), "")
        elsewhere = tuple(self._elsewhere.get(line, ())) if block.kind == "row" and spans else ()
        return Marked(tuple(rows), tuple(spans), problem, why, elsewhere)

    def _rows_of(self, block: Block) -> Sequence[int]:
        """Return the rows that may have been read from a block."""
        by_name = self._by_name.get(block.line)
        if by_name is None:
            return self._rows.get(block.line, ())
        return [by_name[name] for name in map(_folded, block.cells) if name in by_name]


def _by_line(lines: Iterable[int]) -> Mapping[int, Sequence[int]]:
    found = defaultdict[int, list[int]](list)
    for place, line in enumerate(lines):
        found[line].append(place)
    return found


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()


def _is_about(text: str, command: str) -> bool:
    """Return True if the problem of a line begins with the words of a block, or the other way round."""
    command = _folded(command)
    first = command.partition(":")[0]
    return bool(text) and (command.startswith(text[:60]) or text.startswith(first) or first in text)


def _spans(block: Block, one: Row, row: int, sure: bool, keys_cell: int | None) -> list[Span]:
    """Return the spans of a row in a block; none where its command is not there, unless it is ``sure`` to be this block's."""
    command = _place(block, one.command, row, ()) or _place(block, one.command.split(": ")[-1], row, ())
    if command is None and not sure:
        return []
    keys = _place(block, one.keys, row, (command,) if command else (), keys_cell)
    if keys is not None and one.system:
        keys = _with_brackets(block, keys)
    spans = [span for span in (command, keys) if span is not None]
    if keys is None and " or " in one.keys:  # keys of several cells
        for part in one.keys.split(" or "):
            span = _place(block, part, row, spans)
            spans += [span] if span is not None else []
    return spans


def _place(block: Block, wanted: str, row: int, taken: Sequence[Span], usual: int | None = None) -> Span | None:
    """Find words in a block: a whole cell before a part of one, the ``usual`` cell first, and no part of another word."""
    words = wanted.split()
    if not words:
        return None
    others = {span.cell for span in taken}
    for cell, text in sorted(enumerate(block.cells), key=lambda pair: pair[0] != usual):
        if cell not in others and text.split() == words:
            start = len(text) - len(text.lstrip())
            return Span(cell, start, len(text.rstrip()), row)
    pattern = re.compile(r"\s+".join(map(re.escape, words)), re.I)
    for cell, text in sorted(enumerate(block.cells), key=lambda pair: pair[0] in others):
        for match in pattern.finditer(text):
            inside = any(span.cell == cell and match.start() < span.end and span.start < match.end() for span in taken)
            if not inside and not _is_within_word(text, match.start(), match.end()):
                return Span(cell, match.start(), match.end(), row)
    return None


def _is_within_word(text: str, start: int, end: int) -> bool:
    before = start > 0 and text[start - 1].isalnum() and text[start].isalnum()
    after = end < len(text) and text[end].isalnum() and text[end - 1].isalnum()
    return before or after


def _with_brackets(block: Block, span: Span) -> Span:
    """The span of another system's keys with the brackets it stands in: "(Cmd+S on macOS)"."""
    text = block.cells[span.cell]
    start, end = text.rfind("(", 0, span.start), text.find(")", span.end)
    whole = start >= 0 and end >= 0 and ")" not in text[start : span.start] and "(" not in text[span.end : end]
    return Span(span.cell, start, end + 1, span.row) if whole else span
