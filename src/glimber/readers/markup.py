"""reStructuredText and AsciiDoc: their tables, lists and key roles, with headings as groups."""

from __future__ import annotations

import csv
import re
from typing import Final

from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_lines
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table

_ROLE: Final = re.compile(r":(?:kbd|guilabel|menuselection|command|ref|doc|term):`([^`<]*?)(?:\s*<[^>]*>)?`")
_MACRO: Final = re.compile(r"(?:kbd|btn|menu):\[([^\]]*)\]")
_UNDER: Final = re.compile(r"^([=\-~^\"'`#*+.:_])\1{2,}\s*$")
_GRID: Final = re.compile(r"^\s*\+[-=+]{3,}\+\s*$")
_SIMPLE: Final = re.compile(r"^\s*=+(?:\s+=+)+\s*$")


def _plain(text: str) -> str:
    text = _ROLE.sub(r"\1", text)
    text = _MACRO.sub(lambda match: match[1].replace(",", "+"), text)
    return re.sub(r"``|\*\*|(?<!\w)[*`_](?=\S)|(?<=\S)[*`_](?!\w)", "", text).strip()


def read_rst(data: bytes, options: Options) -> Found:
    """Read the tables and lists of a reStructuredText document."""
    found = Found(watch=options.watch)
    lines = decoded(data).expandtabs(8).splitlines()
    group: str | None = None
    at = 0
    rest: list[tuple[int, str]] = []

    def flush() -> None:
        if rest:
            read_lines(rest, found, group)
            rest.clear()

    while at < len(lines):
        line = lines[at]
        under = lines[at + 1] if at + 1 < len(lines) else ""
        if (
            line.strip()
            and _UNDER.match(under)
            and len(under.strip()) >= len(line.strip()) - 1
            and not line.startswith(" ")
        ):
            flush()
            group = _plain(line)
            found.head(group, at + 1)
            at += 2
        elif _GRID.match(line):
            flush()
            at = _grid(lines, at, found, options, group)
        elif _SIMPLE.match(line):
            flush()
            at = _simple(lines, at, found, options, group)
        elif (match := re.match(r"^(\s*)\.\. (list-table|csv-table)::\s*(.*)$", line)) is not None:
            flush()
            at = _directive(lines, at, match, found, options, group)
        elif line.lstrip().startswith(".. ") or re.match(r"^\s*:\w+:(?!`)", line) or _UNDER.match(line):
            at += 1
        else:
            rest.append((at + 1, _plain_line(line)))
            at += 1
    flush()
    return found if found.any else found.fail("no table and no list of keys in it")


def _plain_line(line: str) -> str:
    indent = line[: len(line) - len(line.lstrip())]
    return f"{indent}{_plain(line)}" if line.strip() else ""


def _grid(lines: list[str], at: int, found: Found, options: Options, group: str | None) -> int:
    """Return a table drawn with plus signs and lines."""
    rows: list[Line] = []
    cells: list[str] | None = None
    number, head_end = at + 1, False
    while at < len(lines) and (lines[at].strip().startswith(("+", "|"))):
        body = lines[at].strip()
        if _GRID.match(body):
            if cells is not None:
                rows.append(Line(number, tuple(map(_plain, cells)), not rows and "=" in body))
            cells, head_end = None, head_end or "=" in body
        else:
            parts = [part.strip() for part in re.split(r"(?<!\\)\|", body.strip("|"))]
            if cells is None:
                cells, number = parts, at + 1
            elif len(parts) == len(cells):
                cells = [f"{old} {new}".strip() for old, new in zip(cells, parts, strict=True)]
        at += 1
    read_table(rows, found, options, group)
    return at


def _simple(lines: list[str], at: int, found: Found, options: Options, group: str | None) -> int:
    """Return a table whose columns stand under rows of equal signs."""
    edges = [match.span() for match in re.finditer(r"=+", lines[at])]
    starts = [start for start, _ in edges]
    rows: list[Line] = []
    marks = 1
    at += 1
    while at < len(lines) and marks < 3:
        line = lines[at]
        if _SIMPLE.match(line):
            marks += 1
            if marks == 2 and rows and any(_SIMPLE.match(one) for one in lines[at + 1 :]):
                rows = [Line(row.number, row.cells, True) for row in rows]
            else:
                at += 1
                break
        elif line.strip() and not re.match(r"^[\s-]+$", line):
            cells = tuple(
                _plain(line[start : starts[n + 1]] if n + 1 < len(starts) else line[start:])
                for n, start in enumerate(starts)
            )
            if not cells[0] and rows and not rows[-1].heading:
                last = rows.pop()
                cells = tuple(f"{old} {new}".strip() for old, new in zip(last.cells, cells, strict=True))
                rows.append(Line(last.number, cells, last.heading))
            else:
                rows.append(Line(at + 1, cells, False))
        at += 1
    read_table(rows, found, options, group)
    return at


def _directive(
    lines: list[str], at: int, match: re.Match[str], found: Found, options: Options, group: str | None
) -> int:
    """Return a table that is written as a list of lists, or as comma-separated values."""
    indent, kind = len(match[1]), match[2]
    heads, rows = 0, list[Line]()
    cells: list[str] | None = None
    number = at + 1
    at += 1
    body: list[tuple[int, str]] = []
    while at < len(lines) and (not lines[at].strip() or len(lines[at]) - len(lines[at].lstrip()) > indent):
        text = lines[at].strip()
        option = re.match(r"^:header-rows:\s*(\d{1,3})", text)
        header = re.match(r"^:header:\s*(.*)$", text)
        if option is not None:
            heads = int(option[1])
        elif header is not None:
            body.append((at + 1, header[1]))
            heads = 1
        elif text and not re.match(r"^:[\w-]+:", text):
            body.append((at + 1, text))
        at += 1
    if kind == "csv-table":
        for place, text in body:
            rows += [
                Line(place, tuple(map(_plain, one)), len(rows) < heads)
                for one in csv.reader([text], skipinitialspace=True)
            ]
    else:
        for place, text in body:
            if text.startswith("* -"):
                if cells is not None:
                    rows.append(Line(number, tuple(cells), len(rows) < heads))
                cells, number = [_plain(text[3:])], place
            elif text.startswith("-") and cells is not None:
                cells.append(_plain(text[1:]))
            elif cells:
                cells[-1] = f"{cells[-1]} {_plain(text)}".strip()
        if cells is not None:
            rows.append(Line(number, tuple(cells), len(rows) < heads))
    read_table(rows, found, options, group)
    return at


def read_asciidoc(data: bytes, options: Options) -> Found:
    """Read the tables and lists of an AsciiDoc document."""
    found = Found(watch=options.watch)
    lines = decoded(data).expandtabs(8).splitlines()
    group: str | None = None
    at = 0
    rest: list[tuple[int, str]] = []
    stem = ""
    while at < len(lines):
        line = lines[at]
        heading = re.match(r"^={1,6}\s+(\S.*)$", line)
        if rest and (heading is not None or line.strip() in ("|===", "!===")):
            read_lines(rest, found, group)
            rest = []
        if heading is not None:
            group = _plain(heading[1])
            found.head(group, at + 1)
        elif line.strip() in ("|===", "!==="):
            at = _bars(lines, at + 1, found, options, group)
            continue
        elif (term := re.match(r"^\s*(\S.*?)(:{2,4}|;;)(?:\s+(\S.*))?$", line)) is not None:
            keys, (text, after) = _plain(term[1]), (term[3], at + 1) if term[3] else _told_below(lines, at + 1)
            stem = stem if len(term[2]) > 2 else ""
            if evidence(keys) and text:
                found.add(_plain(text), f"{stem} {keys}".strip(), group, at + 1)
                stem = stem or (keys if text.endswith(":") else "")
                at = after
                continue
            found.leave(line, at + 1, "no keys with a command")
        elif line.strip() and not re.match(
            r"^(?:\[.*\]|:[\w-]+:.*|\.\w.*|//.*|-{4,}|={4,}|\*{4,}|\.{4,})$", line.strip()
        ):
            rest.append((at + 1, _plain_line(line)))
        at += 1
    if rest:
        read_lines(rest, found, group)
    return found if found.any else found.fail("no table and no list of keys in it")


def _told_below(lines: list[str], at: int) -> tuple[str, int]:
    """Return the description of a term below it, a paragraph of at most three lines, and the line after that."""
    while at < len(lines) and not lines[at].strip():
        at += 1
    below: list[str] = []
    while at < len(lines) and len(below) < 3 and lines[at].strip() and not re.match(r"^\s*(?:[`(+]|\S.*::)", lines[at]):
        below.append(lines[at].strip())
        at += 1
    return " ".join(below), at


def _bars(lines: list[str], at: int, found: Found, options: Options, group: str | None) -> int:
    """Return a table between bars: cells begin with a bar, on one line for each row or on lines of their own."""
    cells: list[tuple[int, str]] = []
    widths: list[int] = []
    while at < len(lines) and lines[at].strip() not in ("|===", "!==="):
        text = lines[at]
        parts = re.split(r"(?<![\\+])(?:\d{0,3}[.<^>]?[aehlmsv]?)\|(?=[^|]|$)", text)
        if text.lstrip().startswith("|") or (len(parts) > 1 and not parts[0].strip()):
            own = [_plain(part) for part in parts[1:]]
            widths.append(len(own))
            cells += [(at + 1, part) for part in own]
        elif text.strip() and cells:
            cells[-1] = (cells[-1][0], f"{cells[-1][1]} {_plain(text)}".strip())
        at += 1
    width = max(widths, default=0)
    if width == 1:  # each cell on a line of its own: the first line tells how many make a row, or there are two
        width = 2
    rows = [
        Line(cells[n][0], tuple(text for _, text in cells[n : n + width])) for n in range(0, len(cells), width or 1)
    ]
    read_table(rows, found, options, group)
    return at + 1


READERS = (
    Reader(
        "asciidoc",
        read_asciidoc,
        endings=(".adoc", ".asciidoc"),
        signs=((0.8, re.compile(r"^\|={3,}$|kbd:\[|^(?!\* )\S.*::$", re.M)),),
    ),
    Reader(
        "rst",
        read_rst,
        endings=(".rst",),
        signs=(
            (
                0.8,
                re.compile(
                    r"^\.\. (?:list-table|csv-table|_|contents|note)|:kbd:`|^=+(?: +=+)+$|^\+[-=]+\+[-=+]*$", re.M
                ),
            ),
        ),
    ),
)
