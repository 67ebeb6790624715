"""The columns of a printed page: reference cards are set in two or three, each with keys and commands of its own."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from itertools import compress
from operator import not_
from typing import Final

from msgspec import Struct

from glimber.readers.evidence import evidence

SAME_LINE_PT: Final = 3.0
_GUTTER_PT: Final = 5.0
"""Width of the empty strip between two columns, at least."""
_FEWEST: Final = 8
"""Pieces of text in a column, at least."""
_MAY_CROSS, _MAY_CROSS_SHARE = 4, 0.025
"""Pieces that may lie across a gutter, such as a title: so many, or such a share of the page's."""
_ALIGNED: Final = 0.8
"""From this share of lines that have one beside them on, what is beside each other is a table."""
_KEYED: Final = 3
_MOST_COLUMNS: Final = 6


class Piece(Struct, frozen=True):
    """Text that was set at one place: its distance below the top of the page, its left and right end, in points."""

    below: float
    left: float
    right: float
    text: str


def columns_of(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """Return the pieces of a page by its columns, from left to right; what lies across a gutter is in the column it begins in."""
    found = [list(pieces)]
    while len(found) < _MOST_COLUMNS:
        halves = [(place, _halves(column)) for place, column in enumerate(found)]
        parted = next(((place, both) for place, both in halves if both is not None), None)
        if parted is None:
            break
        found[parted[0] : parted[0] + 1] = parted[1]
    return found


def lines_of(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """Return pieces as lines from top to bottom, each from left to right."""
    rows: list[list[Piece]] = []
    for piece in sorted(pieces, key=lambda one: (one.below, one.left)):
        if rows and abs(piece.below - rows[-1][0].below) <= SAME_LINE_PT:
            rows[-1].append(piece)
        else:
            rows.append([piece])
    return [sorted(row, key=lambda one: one.left) for row in rows]


def _halves(pieces: Sequence[Piece]) -> list[list[Piece]] | None:
    """Return what is on both sides of the first gutter that parts two columns; None without one."""
    lefts = sorted(one.left for one in pieces)
    for begin, end in _gutters(pieces):
        # What begins within the gutter is a part of the right column where more of it is set at the same place, else a title.
        of_right = [one.left >= end or (one.left > begin and _set_at(one.left, lefts) >= _KEYED) for one in pieces]
        right, left = list(compress(pieces, of_right)), list(compress(pieces, map(not_, of_right)))
        if min(len(left), len(right)) >= _FEWEST and _are_columns(left, right):
            return [left, right]
    return None


def _set_at(left: float, lefts: Sequence[float]) -> int:
    """Return how many pieces begin at a distance from the left edge, within a point; ``lefts``: those of all, in order."""
    return bisect_right(lefts, left + 1) - bisect_left(lefts, left - 1)


def _gutters(pieces: Sequence[Piece]) -> list[tuple[float, float]]:
    """Return the strips from top to bottom in which there is next to no text, in points from the left: first those that least
    lies across, of these the widest."""
    most = max(_MAY_CROSS, _MAY_CROSS_SHARE * len(pieces))
    ends = sorted([(one.left, 1) for one in pieces] + [(one.right, -1) for one in pieces])
    across, least = 0, 0
    begun: float | None = None
    found: list[tuple[int, float, float, float]] = []
    for at, step in ends:
        across += step
        if across > most:
            if begun is not None and at - begun >= _GUTTER_PT:
                found.append((least, begun - at, begun, at))
            begun = None
        elif begun is None:
            begun, least = at, across
        else:
            least = min(least, across)
    return [(begin, end) for _, _, begin, end in sorted(found)]


def _are_columns(left: Sequence[Piece], right: Sequence[Piece]) -> bool:
    """Return True for two columns, False for the cells of a table: those stand on the same lines, and only together they are keys
    with their commands."""
    if min(_keyed_lines(left), _keyed_lines(right)) >= _KEYED:
        return True
    return max(_aligned(left, right), _aligned(right, left)) < _ALIGNED


def _keyed_lines(pieces: Sequence[Piece]) -> int:
    """Return how many lines have keys in one piece and what is none in another."""
    count = 0
    for row in lines_of(pieces):
        looks = [evidence(one.text.strip()) > 0 for one in row]
        count += any(looks) and not all(looks)
    return count


def _aligned(those: Sequence[Piece], others: Sequence[Piece]) -> float:
    """Return the share of lines of one side that have a line beside them on the other."""
    lines, beside = lines_of(those), [row[0].below for row in lines_of(others)]
    near = SAME_LINE_PT / 2
    return sum(bisect_right(beside, row[0].below + near) > bisect_left(beside, row[0].below - near) for row in lines) / len(lines)
