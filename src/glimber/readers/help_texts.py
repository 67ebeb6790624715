"""The help of a program in its source: printed line by line, ``puts("  F5   Plot the sheet");``, or one text of several lines."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from glimber.readers.found import Found
from glimber.readers.plaintext import read_lines

_TEXT: Final = re.compile(r"\"((?:\\.|[^\"\\\n])*)\"|'((?:\\.|[^'\\\n])*)'")
_IN_COLUMNS: Final = re.compile(r"^\s*\S(?:.{0,24}\S)?(?:\s{2,}|\t+| [-–:=] )\S")
_BLOCK: Final = re.compile(r"(\"\"\"|\'\'\'|`)(.{20,20000}?)\1", re.S)
_OF_KEYS: Final = re.compile(
    r"^\s*(?:[A-Z][\w-]* )?(?:keys|key ?bindings|shortcuts|hot ?keys|keyboard|commands)\b[^\n]{0,20}:\s*$", re.I | re.M
)
_LEAST: Final = 3


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


def _lines(text: str) -> Iterator[tuple[int, str]]:
    for number, line in enumerate(text.splitlines(), start=1):
        for match in _TEXT.finditer(line) if len(line) < 400 else ():
            body = (match[1] or match[2] or "").replace("\\t", "        ")
            for piece in body.split("\\n"):
                if _IN_COLUMNS.match(piece):
                    yield number, piece
