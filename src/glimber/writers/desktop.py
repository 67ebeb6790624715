"""The desktop's settings, as a listing of schema, key and value: the lines of shortcuts get their new value.

The listing is what ``gsettings list-recursively`` prints; whoever carries it out sets just the lines that differ.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.readers.found import Found, Row
from glimber.writers.lines import Format, rewrite
from glimber.writers.wanted import Rewritten, Wanted

_EMPTY: Final = re.compile(r"^\S+ +\S+ +((?:@as +)?\[\s*\]|(?:@as +)?\[''\]|'')\s*$")


def write(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in a listing of settings."""
    form = Format("gsettings", quote=_within, quotes=(_within, _listed), blank="", empty=_empty, single=True)
    return rewrite(form, data, wanted)


def _empty(text: str, found: Found, row: Row) -> tuple[int, int] | None:
    """Return where a shortcut that has no keys gets them: between the marks of a text, or instead of an empty list."""
    lines = text.splitlines(keepends=True)
    match = _EMPTY.match(lines[row.line - 1]) if 0 < row.line <= len(lines) else None
    if match is None:
        return None
    start = sum(map(len, lines[: row.line - 1]))
    if "''" in match[1]:
        at = start + match.start(1) + match[1].index("''") + 1
        return at, at
    return start + match.start(1), start + match.end(1)


def _listed(text: str) -> str:
    return f"['{_within(text)}']"


def _within(text: str) -> str:
    return text.replace("\\", "\\\\").replace("'", "\\'")


WRITERS = {"gsettings": write}
