"""Headings in plain text: lines that say what the lines after them are about, and those over the columns of a table."""

from __future__ import annotations

import re
from typing import Final

from glimber.readers import heads
from glimber.readers.pairs import COLUMNS

_HEADS_OF_KEYS: Final = heads.KEYS | frozenset("key keys shortcut shortcuts hotkey hotkeys binding bindings keystroke".split())
_HEADS: Final = _HEADS_OF_KEYS | heads.COMMANDS | heads.GROUPS | frozenset(
    "command commands action actions function description meaning effect name page no no. number group mode context menu".split()
)
CHAPTER: Final = re.compile(r"^[A-Z][A-Z0-9 ,/&()'-]+$")
"""A chapter of a manual, in capitals."""
_LONGEST_HEADING: Final = 8
"""Words at most before the colon of a heading: what is longer is a sentence that goes on below."""
_LONGEST_GOING_ON: Final = 3
"""Words at most where it begins with a small letter: the end of a sentence may stand on a line alone."""

_NAMED_KEYS: Final = re.compile(r"(?:\S+ ){1,2}(?:keys|bindings|commands|shortcuts)")
"""What the keys below are: "Key      Erasing keys"."""


def is_head(body: str) -> bool:
    """Return True for the heads of columns: "Key    Page    Command"."""
    words = [word.strip(" |:").casefold() for word in COLUMNS.split(body)]
    if len(words) == 2 and words[0] in _HEADS_OF_KEYS and _NAMED_KEYS.fullmatch(words[1]):
        return True
    return len(words) > 1 and any(word in _HEADS_OF_KEYS for word in words) and all(word in _HEADS for word in words)


def is_heading(body: str) -> bool:
    """Return True for a line that says what the lines after it are about: marked, in capitals, before a colon, or a few words."""
    if body.startswith(("#", "=", "**")) or CHAPTER.match(body):
        return True
    if body.endswith(":"):
        return len(body.split()) <= (_LONGEST_GOING_ON if body[0].islower() else _LONGEST_HEADING)
    return len(body.split()) <= 5 and not body.endswith((".", ",", ";", ")")) and not body[0].islower()
