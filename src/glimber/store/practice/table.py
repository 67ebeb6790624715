"""The tries of a log as columns, straight from its rows: a log of many years is read without an object for each of them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import UTC, datetime
from math import nan
from typing import Any, Final

import numpy as np
import numpy.typing as npt

from glimber.core.practice.columns import Coded, TryColumns
from glimber.core.practice.slip_kinds import SLIP_KINDS
from glimber.core.practice.tries import OUTCOMES, parse_moment

_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_TEXTS: Final = ("round", "computer", "binding", "trigger", "mode", "pressed", "would_do", "void_why")
_NUMBERS: Final[dict[str, Any]] = {"nth": np.int64, "recall_ms": np.float64, "motor_ms": np.float64, "deadline_ms": np.float64,
                                   "strict": np.bool_, "first": np.bool_, "cold": np.bool_, "aids": np.int64}  # fmt: skip


def columns_of(rows: Sequence[Sequence[Any]], names: Sequence[str]) -> TryColumns:
    """Return the columns of tries from the rows of a table, put in order of time. Raises ValueError, TypeError for a value that
    no log has."""
    whole: dict[str, Sequence[Any]] = dict(
        zip(names, zip(*rows, strict=True) if rows else [()] * len(names), strict=True)
    )
    parts: dict[str, Any] = {name: np.array(whole[name], dtype=kind) for name, kind in _NUMBERS.items()}
    parts |= {name: Coded.of(whole[name]) for name in _TEXTS}
    columns = TryColumns(
        ids=list(whole["id"]), at_us=_moments(whole["at"]), outcome=numbered("outcome", whole["outcome"], OUTCOMES),
        slip=numbered("slip", whole["slip"], SLIP_KINDS), offset_u=pairs_of(whole["offset_u"]), **parts,
    )  # fmt: skip
    return columns.at_places(np.lexsort((columns.nth, columns.at_us)))


def numbered(name: str, texts: Sequence[str | None], known: Sequence[str]) -> npt.NDArray[np.int8]:
    """Texts as their places among those known, −1 for none. Raises ValueError for another."""
    place: dict[str | None, int] = {None: -1, **{one: number for number, one in enumerate(known)}}
    try:
        return np.fromiter(map(place.__getitem__, texts), dtype=np.int8, count=len(texts))
    except KeyError as error:
        raise ValueError(f"{name} is {error}; expected one of {', '.join(known)}") from None


def pairs_of(texts: Sequence[str | None]) -> npt.NDArray[np.float64]:
    """(n, 2) from JSON pairs, NaN for none; each is read once, since there are few."""
    known: dict[str | None, tuple[float, float]] = {None: (nan, nan)}
    for text in set(texts).difference(known):
        x, y = json.loads(text or "")
        known[text] = (float(x), float(y))
    return np.array([known[text] for text in texts], dtype=np.float64).reshape(-1, 2)


def _moments(texts: Sequence[str]) -> npt.NDArray[np.int64]:
    """Microseconds since 1970 of ISO 8601 moments."""
    return np.array([(parse_moment(text) - _EPOCH) // _EPOCH.resolution for text in texts], dtype=np.int64)
