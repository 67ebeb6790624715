"""Text whose lines are no rows: columns with bars between, and chords that go on in the next line."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from typing import Final

from glimber.core.notation.cleaning import MODS
from glimber.readers.evidence import evidence

_OPEN_CHORD: Final = re.compile(rf"(\s*)((?:{MODS})(?:\+(?:{MODS}))*\+)\s*", re.I)
"""Modifiers that their key is missing to: "Shift+Ctrl+"."""
_ALONE: Final = re.compile(r"(\s*)(\S+(?: \S+){0,3})")
_WITH_TEXT: Final = re.compile(r"(\s*)(\S+(?: \S+){0,3})(\s{2,})(\S.*)")
_LEAST_LINES: Final = 6
_SHARE: Final = 0.8


def with_whole_chords(lines: Sequence[str]) -> list[str]:
    """Return lines with a chord that is parted by the end of a line in front of the second part of it.

    >>> with_whole_chords(["  Shift+Ctrl+", "  Delete     Cut the sounding"])
    ['', '  Shift+Ctrl+Delete     Cut the sounding']
    """
    found = list(lines)
    for place, line in enumerate(found[:-1]):
        match = _OPEN_CHORD.fullmatch(line)
        below = found[place + 1]
        if match is not None and below.strip() and len(below) - len(below.lstrip()) == len(match[1]):
            found[place], found[place + 1] = "", f"{match[1]}{match[2]}{below.lstrip()}"
    return found


def with_stacked_keys(lines: Sequence[str]) -> list[str]:
    """Return lines with keys that stand alone in front of those right below them, which have the description of both.

    >>> with_stacked_keys(["  Ctrl Page Up", "  Alt Ctrl A     go to the first row"])
    ['', '  Ctrl Page Up or Alt Ctrl A     go to the first row']
    """
    found = list(lines)
    for place, line in enumerate(found[:-1]):
        below = _WITH_TEXT.fullmatch(found[place + 1])
        alone = _ALONE.fullmatch(line)
        if alone is None or below is None or alone[1] != below[1] or not alone[1]:
            continue
        is_key = evidence(alone[2]) == 2 or len(alone[2]) == 1
        if is_key and evidence(below[2]) == 2 and not evidence(below[4]):
            found[place], found[place + 1] = "", f"{below[1]}{alone[2]} or {below[2]}{below[3]}{below[4]}"
    return found


def columns_in_turn(lines: Sequence[tuple[int, str]]) -> list[tuple[int, str]]:
    """Return numbered lines with columns that a bar stands between one after the other, each of them with the numbers it had.

    A run of lines is in columns where nearly all of them have a bar at the same place, with a blank on either side.
    """
    found: list[tuple[int, str]] = []
    place = 0
    while place < len(lines):
        end = place
        while end < len(lines) and lines[end][1].strip():
            end += 1
        block = lines[place:end]
        bar = _bar_of([line for _, line in block])
        if bar is None:
            found += block
        else:
            found += [(number, line[:bar].rstrip()) for number, line in block]
            found += [(number, line[bar + 1 :]) for number, line in block if line[bar + 1 :].strip()]
        found += lines[end : end + 1]
        place = end + 1
    return found


def _bar_of(lines: Sequence[str]) -> int | None:
    """Return the column of the one bar that most lines have; None where they are no columns, or a table with several."""
    if len(lines) < _LEAST_LINES:
        return None
    bars = Counter(place for line in lines for place in _single_bars(line))
    column, count = bars.most_common(1)[0] if bars else (0, 0)
    widest = sum(len(line[:column].strip()) > 0 for line in lines)
    return column if count >= _SHARE * len(lines) and widest >= 0.5 * len(lines) and len(bars) <= 2 else None


def _single_bars(line: str) -> list[int]:
    return [match.start() for match in re.finditer(r"(?<=\s)\|(?=\s|$)", line)]
