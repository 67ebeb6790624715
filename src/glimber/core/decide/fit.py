"""The fit of a place to a command, from −1 to 1: first letter, siblings, pairs and directions, dangerous neighbours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from msgspec import Struct

from glimber.core.model.board import Board
from glimber.core.model.folio import Command, Folio
from glimber.core.notation.keys import Spot
from glimber.core.practice.columns import Floats, Ints
from glimber.core.stats.ledger import Weighed

LETTER: Final = 0.5
CAREFUL: Final = -0.5
SIBLING: Final = 0.1
SAME_KEY: Final = 0.3
PAIR: Final = 0.3
HELD_ALIKE: Final = 0.2
_PAIRS: Final = (("left", "right"), ("previous", "next"), ("back", "forward"), ("up", "down"), ("first", "last"), ("out", "in"),
                 ("smaller", "larger"), ("above", "below"))  # fmt: skip
"""Words that stand beside each other: the first at the left, or above."""
_UPRIGHT: Final = frozenset({"up", "above"})


def fit_of_spot(folio: Folio, row: Weighed, to: Spot) -> float:
    """Return how well a spot suits the command of a binding."""
    board, command = folio.boards[to.board], row.command
    layer = folio.layouts[to.board].layer(to.layer)
    score = LETTER if _starts_with(folio.legend.print_of(to.key), command) else 0.0
    for key in board.neighbours.get(to.key, frozenset()):
        for binding in (layer.by_key.get(key, {}) if layer else {}).values():
            other = folio.command_of(binding)
            if other is None or other.ref == command.ref:
                continue
            if other.careful:
                score += CAREFUL
            elif other.group == command.group and other.program == command.program:
                score += SIBLING
            score += _pair(board, command, other, to.key, key)
    for same in folio.bindings_of.get(command.ref, ()):
        elsewhere = same.trigger
        if same.id != row.binding.id and isinstance(elsewhere, Spot) and elsewhere.board == to.board:
            score += SAME_KEY if elsewhere.keys == to.keys and elsewhere.layer != to.layer else 0.0
    return max(-1.0, min(1.0, score))


def fit_of_chords(letters: Sequence[str], held: Ints, command: Command, alike: Ints) -> Floats:
    """Return how well chords suit a command, (n,): its letter, and ``held`` (n,) numbers of what is held as its siblings
    have it."""
    first = command.short[:1].casefold()
    letter = np.array([LETTER if one == first else 0.0 for one in letters])
    return np.asarray(letter + HELD_ALIKE * np.isin(held, alike))


def _starts_with(printed: str, command: Command) -> bool:
    return bool(printed) and printed.casefold() == command.short[:1].casefold()


class Pair(Struct, frozen=True):
    """Two commands whose words say how they stand: the other is further along ``axis`` (0 to the right, 1 down) times
    ``sign``."""

    axis: int
    sign: float


def pair_of(command: Command, other: Command) -> Pair | None:
    """Return how two commands that are a pair stand by their words; None where they are none."""
    mine, theirs = command.name.casefold().split(), other.name.casefold().split()
    for before, after in _PAIRS:
        for first, second, sign in ((before, after, 1.0), (after, before, -1.0)):
            if (
                first in mine
                and second in theirs
                and [w for w in mine if w != first] == [w for w in theirs if w != second]
            ):
                return Pair(1 if before in _UPRIGHT else 0, sign)
    return None


def _pair(board: Board, command: Command, other: Command, here: str, there: str) -> float:
    """Return True if two commands that are a pair stand as their words say."""
    pair = pair_of(command, other)
    a, b = board.centre((here,)), board.centre((there,))
    if pair is None or a is None or b is None:
        return 0.0
    along = (b[pair.axis] - a[pair.axis]) * pair.sign
    return PAIR if along > 0.3 else -PAIR if along < -0.3 else 0.0
