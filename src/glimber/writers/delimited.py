"""CSV and TSV: the cell with the keys is replaced, everything else stays byte for byte.

Of a long table only an excerpt is read: its first lines, by which it is understood, and those that name a wanted command.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from typing import Final

from msgspec.structs import replace

from glimber.readers.found import Found, Row
from glimber.writers.lines import Format, rewrite
from glimber.writers.wanted import Rewritten, Wanted

_DELIMITERS: Final = ",;\t|"
_LONG: Final = 5_000
_HEAD: Final = 500
"""Lines from which on a table is long, and the first of it that are always read."""


def write(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in delimited text."""
    form = Format("csv", quotes=(str, _quoted), blank="", empty=_empty)
    lines = data.splitlines(keepends=True)
    # A quoted cell may have lines of its own, and UTF-16 has other line ends.
    if len(lines) > _LONG and b'"' not in data and b"\0" not in data:
        places = [*range(_HEAD), *_naming(lines, wanted)]
        out = rewrite(form, b"".join(lines[place] for place in places), wanted)
        rewritten = out.data.splitlines(keepends=True)
        if not out.left and len(rewritten) == len(places):
            for place, line in zip(places, rewritten, strict=True):
                lines[place] = line
            return replace(out, data=b"".join(lines))
    return rewrite(form, data, wanted)


def _naming(lines: Sequence[bytes], wanted: Sequence[Wanted]) -> list[int]:
    """Return the lines after the head in which the name of a wanted command stands."""
    names = re.compile("|".join(re.escape(name.casefold()) for one in wanted for name in one.names))
    rest = enumerate(lines[_HEAD:], start=_HEAD)
    return [place for place, line in rest if names.search(line.decode("utf-8", "replace").casefold())]


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"'


def _empty(text: str, found: Found, row: Row) -> tuple[int, int] | None:
    """Return the cell of a row in the column in which the others have their keys."""
    keys = {one.keys for one in found.rows if one.triggers}
    best: tuple[int, int, list[list[tuple[int, int]]]] = (0, 0, [])
    for delimiter in _DELIMITERS:
        records = cells_of(text, delimiter)
        columns = Counter(place for cells in records for place, (start, end) in enumerate(cells)
                          if text[start:end].strip().strip('"') in keys)  # fmt: skip
        if columns and columns.most_common(1)[0][1] > best[0]:
            best = (columns.most_common(1)[0][1], columns.most_common(1)[0][0], records)
    line, column = 1, best[1]
    for cells in best[2]:
        if line == row.line and column < len(cells):
            start, end = cells[column]
            return None if text[start:end].strip() else (start, end)
        line += text.count("\n", cells[0][0], cells[-1][1]) + 1
    return None


def cells_of(text: str, delimiter: str) -> list[list[tuple[int, int]]]:
    """Return where each cell of each record begins and ends, quotes included. Source: RFC 4180."""
    records: list[list[tuple[int, int]]] = []
    cells: list[tuple[int, int]] = []
    start, quoted, at = 0, False, 0
    for at, char in enumerate(text):
        if char == '"' and (quoted or at == start):
            quoted = not quoted
        elif not quoted and char == '"' and text[at - 1] == '"':
            quoted = True  # a quote within quotes is written twice
        elif not quoted and char == delimiter:
            cells.append((start, at))
            start = at + 1
        elif not quoted and char == "\n":
            end = at - 1 if text[at - 1 : at] == "\r" and at > start else at
            records.append([*cells, (start, end)])
            cells, start = [], at + 1
    if start < len(text):
        records.append([*cells, (start, len(text))])
    return records


WRITERS = {"csv": write}
