"""The tables of manual pages, as they are written for the preprocessor of such tables.

Source: tbl(1): options that end in a semicolon, lines of the format up to one that ends in a full stop, then rows of cells, of
which one may be a block of text between ``T{`` and ``T}``.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.readers.table import Line

_TAB: Final = re.compile(r"tab\s*\((.)\)", re.I)
_HEADING: Final = re.compile(r"^\.\s*(?:SH|SS)\s+\"?(.*?)\"?\s*$")
_RULE: Final = re.compile(r"[_=\\^]*")
_MACRO: Final = re.compile(r"^[.']\s*(\w*)\s*(.*)$")
_BREAKS: Final = frozenset({"br", "PP", "P", "LP", "sp"})
_WORDS: Final = frozenset({"B", "I", "BR", "RB", "BI", "IB", "IR", "RI", "SM", "SB"})
MOST_LINES: Final = 5_000
"""A table that goes on for longer has no end."""


class ManualTable(Struct, frozen=True):
    """A table: the heading above it, its rows, and the indexes of its lines in the page, the last one excluded."""

    group: str | None
    rows: list[Line]
    first: int
    end: int


def tables_of(lines: list[str], plain: Callable[[str], str]) -> list[ManualTable]:
    """Return the tables of a page. ``plain`` takes escapes out of a text."""
    found = []
    group: str | None = None
    start: int | None = None
    for at, line in enumerate(lines):
        heading = _HEADING.match(line) if start is None else None
        if heading is not None:
            group = plain(heading[1]) or group
        elif start is None and line.startswith(".TS"):
            start = at
        elif start is not None and line.startswith(".TE"):
            found.append(ManualTable(group, _rows(lines, start + 1, at, plain), start, at + 1))
            start = None
        elif start is not None and at - start > MOST_LINES:
            start = None
    return found


def _rows(lines: list[str], at: int, end: int, plain: Callable[[str], str]) -> list[Line]:
    """Return the rows of a table; the first one is its heading where a rule stands under it, and not under every row."""
    rows, rules = list[Line](), set[int]()
    for row in _rows_and_rules(lines, at, end, plain):
        if row is None:
            rules.add(len(rows))
        else:
            rows.append(row)
    if 1 in rules and len(rules) < 0.5 * len(rows):
        rows[0] = replace(rows[0], heading=True)
    return rows


def _rows_and_rules(lines: list[str], at: int, end: int, plain: Callable[[str], str]) -> Iterator[Line | None]:
    """Yield each row, and None for a rule between them."""
    options = lines[at] if at < end and lines[at].rstrip().endswith(";") else ""
    match = _TAB.search(options)
    between = match[1] if match is not None else "\t"
    at = _after_format(lines, at + bool(options), end)
    cells: list[str] = []
    first = at
    while at < end:
        line = lines[at]
        if line.startswith(".T&"):
            at = _after_format(lines, at + 1, end)
            continue
        if not cells:
            first = at
        if not cells and (line[:1] in (".", "'") or _RULE.fullmatch(line.replace(between, "").strip())):
            if line[:1] in ("_", "="):
                yield None
            at += 1
            continue
        parts = line.split(between)
        while parts[-1].strip() == "T{":
            cells += parts[:-1]
            text, rest, at = _block(lines, at + 1, end)
            cells.append(text)
            parts = rest.split(between)[1:] if rest.startswith(between) else []
            if not parts:
                break
        yield Line(first + 1, tuple(" ".join(plain(cell).split(" ")).strip() for cell in [*cells, *parts]))
        cells = []
        at += 1


def _after_format(lines: list[str], at: int, end: int) -> int:
    """Return the place after the format, whose last line ends in a full stop."""
    return next((place + 1 for place in range(at, end) if lines[place].rstrip().endswith(".")), end)


def _block(lines: list[str], at: int, end: int) -> tuple[str, str, int]:
    """Return the text of a block, what stands behind it in its last line, and the place of that line."""
    out = ""
    while at < end and not lines[at].startswith("T}"):
        match = _MACRO.match(lines[at])
        if match is None:
            out += f"{lines[at]} "
        elif match[1] in _WORDS:
            out += f"{match[2]} ".replace('"', "")
        elif match[1] in _BREAKS:
            out = f"{out.rstrip().rstrip(',')}\n" if out.strip() else ""
        at += 1
    return out.strip(), lines[at][2:] if at < end else "", at
