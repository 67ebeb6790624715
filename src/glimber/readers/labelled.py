"""Records with a label before each value, as manuals list their operations: "Operation: open-chart", "Default key: o"."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

from msgspec import Struct

from glimber.readers.table import names_commands, names_keys

_LEAST: Final = 3
_MOST_LINES: Final = 4
"""The largest distance of keys from their name, in lines."""
_FIELD: Final = re.compile(r"^[\s*_•-]*([A-Z][A-Za-z ]{1,30}?)[*_\s]*:[*_\s]*(\S.*?)\s*$")


class Record(Struct, frozen=True):
    """A command and its keys, and the line of the keys."""

    command: str
    keys: str
    line: int


def records_in(lines: Iterable[tuple[int, str]]) -> list[Record]:
    """Return the records in lines with their numbers; none where there are fewer than three."""
    found: list[Record] = []
    command, since = "", 0
    for place, (number, line) in enumerate(lines):
        field = _FIELD.match(line)
        if field is None:
            continue
        label = field[1].strip().lower()
        if names_keys(label) and command and place - since <= _MOST_LINES:
            found.append(Record(command, field[2], number))
            command = ""
        elif names_commands(label):
            command, since = field[2], place
    return found if len(found) >= _LEAST else []
