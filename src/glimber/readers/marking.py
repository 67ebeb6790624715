"""Where on a page each row that was read stands: the spans of its command and of its keys in the blocks of the page."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Final

from msgspec import Struct

from glimber.readers.found import Found
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
    """What was read from one block: places among the rows, the spans of those whose words stand there, the problem of the block
    as a place among the problems, and why the rest of it is no binding."""

    rows: tuple[int, ...] = ()
    spans: tuple[Span, ...] = ()
    problem: int | None = None
    why: str = ""


NOTHING: Final = Marked()


def marks_of(found: Found) -> list[Marked]:
    """Return what was read from each block of a source's page."""
    rows, problems, left = _by_line(found)
    alone = defaultdict[int, int](int)
    for block in found.page:
        alone[block.line] += 1
    by_name = {line: {_folded(found.rows[row].command): row for row in its} for line, its in rows.items() if len(its) > _MANY}
    marks = []
    for block in found.page:
        line = block.line
        if not line or (line not in rows and line not in problems and line not in left):
            marks.append(NOTHING)
            continue
        its: Sequence[int] = rows.get(line, ())
        if line in by_name:
            its = [by_name[line][name] for name in map(_folded, block.cells) if name in by_name[line]]
        only = alone[line] == 1
        spans = [span for row in its for span in _spans(block, found, row, only or line in by_name)]
        here = dict.fromkeys(its) if only else dict.fromkeys(span.row for span in spans)
        text = _folded(" ".join(block.cells))
        problem = next((one for one in problems.get(line, ()) if only or _is_about(text, found.problems[one].text)), None)
        why = next((found.not_bindings[one].why for one in left.get(line, ())
                    if only or _is_about(text, found.not_bindings[one].text)), "")  # fmt: skip
        marks.append(Marked(tuple(here), tuple(spans), problem, why))
    return marks


def _by_line(found: Found) -> tuple[Mapping[int, list[int]], Mapping[int, list[int]], Mapping[int, list[int]]]:
    """Places of rows, problems and lines left out, by their line."""
    rows, problems, left = (defaultdict[int, list[int]](list) for _ in range(3))
    for place, row in enumerate(found.rows):
        rows[row.line].append(place)
    for place, problem in enumerate(found.problems):
        problems[problem.line].append(place)
    for place, one in enumerate(found.not_bindings):
        left[one.line].append(place)
    return rows, problems, left


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()


def _is_about(text: str, said: str) -> bool:
    """Return True if what was said of a line begins with the words of a block, or the other way round."""
    said = _folded(said)
    first = said.partition(":")[0]
    return bool(text) and (said.startswith(text[:60]) or text.startswith(first) or first in text)


def _spans(block: Block, found: Found, row: int, sure: bool) -> list[Span]:
    """The spans of a row in a block; none where its command is not there, unless it is ``sure`` to be this block's."""
    one = found.rows[row]
    command = _place(block, one.command, row, ()) or _place(block, one.command.split(": ")[-1], row, ())
    if command is None and not sure:
        return []
    keys = _place(block, one.keys, row, (command,) if command else ())
    if keys is not None and one.system:
        keys = _with_brackets(block, keys)
    spans = [span for span in (command, keys) if span is not None]
    if keys is None and " or " in one.keys:  # keys of several cells
        for part in one.keys.split(" or "):
            span = _place(block, part, row, spans)
            spans += [span] if span is not None else []
    return spans


def _place(block: Block, wanted: str, row: int, taken: Sequence[Span]) -> Span | None:
    """Where words stand in a block: a whole cell before a part of one, and no part of another word."""
    words = wanted.split()
    if not words:
        return None
    others = {span.cell for span in taken}
    for cell, text in enumerate(block.cells):
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
