"""CSV and TSV: the delimiter is found, quoted fields may hold line ends."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Sequence
from typing import Final, Literal

from msgspec.structs import replace

from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader
from glimber.readers.source_page import rows_of
from glimber.readers.table import MOST_COLUMNS, Line, read_table

_DELIMITERS = (",", ";", "\t", "|")
_MARK: Final = re.compile(r"^(?:[*•·+–—o-]|-{2,3}|\(?\d{1,2}[.)])\s+(?=\S)")
_RULE: Final = re.compile(r"[-=_~*]{3,}")
"""A line that is drawn below a heading."""
_LEAST_MARKED: Final = 3
_NEARLY_ALL: Final = 0.8


def read(data: bytes, options: Options) -> Found:
    """Read delimited text."""
    found = Found(watch=options.watch)
    text = decoded(data).replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    if not text.strip():
        return found.fail("the file is empty; expected a table")
    best: list[Line] = []
    for delimiter in _DELIMITERS:
        lines = _lines(text, delimiter)
        if _regular(lines) > _regular(best):
            best = lines
    if not best:
        return found.fail(
            "no delimiter splits it into columns; expected a comma, semicolon, tab or bar between cells", 1
        )
    best = _without_marks([line for line in best if _RULE.fullmatch("".join(line.cells).strip()) is None])
    if options.page:
        found.page = rows_of((line.number, line.cells, line.heading) for line in best)
    read_table(best, found, options)
    return found


def _lines(text: str, delimiter: str) -> list[Line]:
    # A quotation mark that is a whole cell is a key, and no mark around anything.
    alone = re.search(rf"(?:^|{re.escape(delimiter)})\"(?:{re.escape(delimiter)}|$)", text, re.M) is not None
    plain = alone and delimiter == "\t"
    quoting: Literal[0, 3] = csv.QUOTE_NONE if plain else csv.QUOTE_MINIMAL
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, quoting=quoting)
    lines, before = [], 0
    try:
        for cells in reader:
            lines.append(Line(before + 1, tuple(cells)))
            before = reader.line_num
    except csv.Error:
        return []
    return lines


def _without_marks(lines: list[Line]) -> list[Line]:
    """Return the rows without the bullets or dashes with which nearly all cells of a column begin."""
    rows = [line for line in lines if sum(bool(cell.strip()) for cell in line.cells) > 1]
    width = max((len(line.cells) for line in rows), default=0)
    columns = range(width if width <= MOST_COLUMNS else 0)
    marked = {column for column in columns if _are_marked([line.cells[column] for line in rows if len(line.cells) > column])}
    return [_without_marks_in(line, marked) for line in lines] if marked else lines


def _are_marked(cells: Sequence[str]) -> bool:
    filled = [cell.strip() for cell in cells if cell.strip()]
    return len(filled) >= _LEAST_MARKED and sum(_MARK.match(cell) is not None for cell in filled) >= _NEARLY_ALL * len(filled)


def _without_marks_in(line: Line, marked: Collection[int]) -> Line:
    cells = [_MARK.sub("", cell.strip()) if place in marked else cell for place, cell in enumerate(line.cells)]
    return replace(line, cells=tuple(cells))


def _regular(lines: list[Line]) -> int:
    """Return how many rows have the width that most have, where that is more than one."""
    widths = [len(line.cells) for line in lines if any(line.cells)]
    common = max(set(widths), key=widths.count, default=1)
    return widths.count(common) if common > 1 else 0


READERS = (
    Reader(
        "csv",
        read,
        endings=(".csv", ".tsv"),
        signs=((0.5, re.compile(r"^[^,;\t|\n]+[,;\t|][^\n]*\n[^,;\t|\n]*[,;\t|]", re.M)),),
    ),
)
