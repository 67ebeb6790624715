"""Filter and order the rows of the ledger. No NumPy: the first frame shows the last summary."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from math import inf
from typing import Final, TypeAlias

from glimber.core.decide.summary import Row

_VERDICTS: Final = ("move", "rebind", "retire", "practise", "keep")
_Rank: TypeAlias = float | str | tuple[bool, float] | tuple[int, str]
ORDERS: Final[Mapping[str, Callable[[Row], _Rank]]] = {
    "cost": lambda row: inf if row.weekly_s is None else -row.weekly_s,
    "seconds lost": lambda row: inf if row.lost_s is None else -row.lost_s,
    "name": lambda row: row.name.casefold(),
    "grip": lambda row: (not row.tries, row.grip),
    "verdict": lambda row: (_VERDICTS.index(row.choice), row.reason),
    "tries": lambda row: -row.tries,
}
"""By what rows are sorted; rows that are alike stay in the order of their cost."""


def shown(rows: Iterable[Row], order: str = "cost", words: str = "") -> tuple[Row, ...]:
    """Return the rows in whose name, place, program, layer, group, verdict or reason all of the words are found, in an order."""
    wanted = words.casefold().split()
    found = [row for row in rows if all(word in _searched(row) for word in wanted)]
    return tuple(sorted(sorted(found, key=ORDERS["cost"]), key=ORDERS[order]))


def _searched(row: Row) -> str:
    return " ".join((row.name, row.place, row.program, row.layer, row.group, row.choice, row.reason)).casefold()


def kinds_of(rows: Iterable[Row]) -> list[tuple[str, str]]:
    """Return what rows can be chosen by, with what it is: programs, layers, groups, verdicts, reasons, each once."""
    found: dict[tuple[str, str], None] = {}
    for what in ("program", "layer", "group", "choice", "reason"):
        for row in rows:
            value = getattr(row, what)
            if value:
                found[value, "verdict" if what == "choice" else what] = None
    return list(found)
