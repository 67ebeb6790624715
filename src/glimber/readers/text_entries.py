"""Entries of a text that go on over several lines: keys, what they do beside or below them, and more keys for the same."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.readers.evidence import evidence
from glimber.readers.pairs import split_pair
from glimber.readers.text_layout import without_quotes

_PARTED_WORD: Final = re.compile(r"(?<=[a-z])[\u2010\u00ad] (?=[a-z])")
_COMMA_KEY: Final = re.compile(r"(?:[+-]|^| ),$")
"""A comma at the end that is a key itself: "Mod1-,", "g, ,"."""
_MORE_KEYS: Final = 8
_MOST_SIGNS: Final = 8


def keys_listed_on(
    lines: Sequence[tuple[int, str]], place: int, indent: int, keys: str, command: str
) -> tuple[str, str, int]:
    """Return keys that end with a comma with those of the next lines of their column, what they do, and the place after them."""
    found, names = [keys], [command]
    if _COMMA_KEY.search(keys):
        return keys, command, place
    while found[-1].rstrip().endswith(",") and place < len(lines):
        _, line = lines[place]
        parts = re.split(r" {2,}", line.strip(), maxsplit=1)
        if len(line) - len(line.lstrip()) != indent or not evidence(parts[0].rstrip(" ,")):
            break
        found.append(parts[0])
        names += parts[1:]
        place += 1
    joined = " or ".join(one.rstrip(" ,") or one for one in found)
    return joined, _joined(names), place


def text_continued(lines: Sequence[tuple[int, str]], place: int, indent: int, first: str) -> tuple[int, str]:
    """Return what goes on on the next lines, far more to the right than the keys; below a column of ``first`` whatever it is."""
    more: list[str] = []
    while place < len(lines) and len(more) < 4:
        _, line = lines[place]
        text, column = line.strip(), len(line) - len(line.lstrip())
        in_column = first[column - 2 : column] == "  " and first[column : column + 1].strip() != "" and column >= indent + 12
        if not text or column < indent + 4 or (not in_column and (split_pair(text) is not None or evidence(text))):
            break
        more.append(text)
        place += 1
    return place, _joined(more)


def text_below(lines: Sequence[tuple[int, str]], place: int, indent: int, most: int = 4) -> tuple[str, int]:
    """Return the lines right below that are more to the right, ``most`` of them: what keys on a line of their own do."""
    below: list[str] = []
    while place < len(lines):
        _, line = lines[place]
        if not line.strip() or len(line) - len(line.lstrip()) <= indent:
            break
        below.append(line.strip())
        place += 1
    return _joined(below[:most]), place


def _joined(lines: Sequence[str]) -> str:
    """Return one text of several lines; a word that was parted at a line's end is whole again."""
    return _PARTED_WORD.sub("", " ".join(lines))


def more_keys(lines: Sequence[tuple[int, str]], place: int, indent: int) -> tuple[list[str], int]:
    """Return keys on the next lines that stand at the same place, and the place after them: one text is below all of them."""
    more: list[str] = []
    while place < len(lines) and len(more) < _MORE_KEYS:
        _, line = lines[place]
        text = line.strip()
        keys = without_quotes(text)
        sure = keys != text or (len(text) <= _MOST_SIGNS and not any(map(str.isalpha, text)))
        if not text or len(line) - len(line.lstrip()) != indent or len(text) > 60 or evidence(keys) < (1 if sure else 2):
            break
        more.append(keys)
        place += 1
    return (more, place) if more and text_below(lines, place, indent)[0] else ([], place - len(more))
