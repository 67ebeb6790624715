"""The help of a program in its source: printed line by line, ``puts("  F5   Plot the sheet");``, one text of several lines, or a
table of keys in such a text or a comment."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from glimber.readers.found import Found, Options
from glimber.readers.markdown import plain_text
from glimber.readers.plaintext import read_lines
from glimber.readers.table import Line, names_keys, read_table

_TEXT: Final = re.compile(r"\"((?:\\.|[^\"\\\n])*)\"|'((?:\\.|[^'\\\n])*)'")
_IN_COLUMNS: Final = re.compile(r"^\s*\S(?:.{0,24}\S)?(?:\s{2,}|\t+| [-–:=] )\S")
_BLOCK: Final = re.compile(r"(\"\"\"|\'\'\'|`)(.{20,20000}?)\1", re.S)
_OF_KEYS: Final = re.compile(
    r"^\s*(?:[A-Z][\w-]* )?(?:keys|key ?bindings|shortcuts|hot ?keys|keyboard|commands)\b[^\n]{0,20}:\s*$", re.I | re.M
)
_LEAST: Final = 3
_RULE: Final = re.compile(r"\|?\s*:?-{2,}:?\s*(?:\|\s*:?-{2,}:?\s*)+\|?")
"""The line below the head of a table."""
_COMMENT: Final = re.compile(r"^\s*(?:#+|//[/!]?|\*|--|;+)\s?(?=\s*\|)")
_HEADING: Final = re.compile(r"^\s*(?:(?://[/!]?|\*|--|;+)\s*)?#{1,6} (.+)")
_BAR: Final = re.compile(r"(?<!\\)\|")
_ABOVE: Final = 6
"""Lines above a table in which its heading may stand."""


def read_help_texts(text: str, found: Found) -> None:
    """Add the lines of texts in a source that have keys in one column and words in another, where there are several."""
    lines = list(_lines(text))
    if len(lines) >= _LEAST:
        read_lines(lines, found)


def read_help_blocks(text: str, found: Found) -> None:
    """Add the lines of texts over several lines that have a list of keys under a heading of keys."""
    for match in _BLOCK.finditer(text):
        body = match[2]
        lines = body.splitlines()
        if sum(_IN_COLUMNS.match(line) is not None for line in lines) >= _LEAST and _OF_KEYS.search(body):
            first = text.count("\n", 0, match.start()) + 1
            read_lines([(first + place, line) for place, line in enumerate(lines)], found)


def read_help_tables(text: str, found: Found, options: Options) -> None:
    """Add the rows of tables with a column of keys, in texts over several lines or in comments."""
    lines = [_COMMENT.sub("", line).strip() for line in text.splitlines()]
    end = 0
    for place, line in enumerate(lines):
        if place <= end or "|" not in lines[place - 1] or not _RULE.fullmatch(line):
            continue
        head = _cells(lines[place - 1])
        if not any(names_keys(cell.lower()) for cell in head):
            continue
        end = next((at for at in range(place + 1, len(lines)) if "|" not in lines[at]), len(lines))
        body = [Line(at + 1, _cells(lines[at])) for at in range(place + 1, end)]
        heading = next(filter(None, map(_HEADING.match, reversed(lines[max(0, place - _ABOVE) : place - 1]))), None)
        read_table([Line(place, head, True), *body], found, options, heading[1].strip() if heading is not None else None)


def _cells(line: str) -> tuple[str, ...]:
    return tuple(plain_text(cell.strip()) for cell in _BAR.split(line.removeprefix("|").removesuffix("|")))


def _lines(text: str) -> Iterator[tuple[int, str]]:
    for number, line in enumerate(text.splitlines(), start=1):
        for match in _TEXT.finditer(line) if len(line) < 400 else ():
            body = (match[1] or match[2] or "").replace("\\t", "        ")
            for piece in body.split("\\n"):
                if _IN_COLUMNS.match(piece):
                    yield number, piece
