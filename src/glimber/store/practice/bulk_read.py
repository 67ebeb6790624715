"""All tries of an SQLite log in a second for 200,000: each column is joined to one text by SQLite itself, and taken apart
at once.

Rows as tuples would be four million small objects. What is rare (slips and what belongs to them) is read as rows. Anything
that does not have the shape that Glimber writes is left to the plain way, which tells what is wrong."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from typing import Any, Final

import numpy as np

from glimber.core.practice.columns import Coded, Floats, Ints, TryColumns
from glimber.core.practice.slip_kinds import SLIP_KINDS
from glimber.core.practice.tries import OUTCOMES
from glimber.store.practice.table import numbered, pairs_of

_BETWEEN: Final = "\x1f"
_MOMENT: Final = 24
_ID: Final = 36
_FIRST_LETTERS: Final = {outcome[0]: place for place, outcome in enumerate(OUTCOMES)}
_DENSE: Final = f"""
    SELECT group_concat(at, ''), group_concat(id, ''), group_concat(strict * 4 + first * 2 + cold, ''),
           group_concat(substr(outcome, 1, 1), ''), group_concat(nth, ' '), group_concat(round, char({ord(_BETWEEN)})),
           group_concat(binding, char({ord(_BETWEEN)})), group_concat("trigger", char({ord(_BETWEEN)})) FROM tries
"""
_NUMBERS: Final = "SELECT recall_ms, motor_ms FROM tries"
_FIRST: Final = "SELECT computer, mode, aids, deadline_ms FROM tries LIMIT 1"
_WHOLE: Final = f"""
    SELECT count(*), min(rowid), max(rowid), sum(outcome NOT IN ({", ".join(f"'{one}'" for one in OUTCOMES)})),
           sum(computer IS NOT ? OR mode IS NOT ? OR aids IS NOT ? OR deadline_ms IS NOT ?) FROM tries
"""
_PLACED: Final = "SELECT computer, mode, aids, deadline_ms FROM tries"
_RARE: Final = """
    SELECT rowid, slip, pressed, would_do, offset_u, void_why FROM tries
    WHERE slip IS NOT NULL OR pressed IS NOT NULL OR would_do IS NOT NULL OR offset_u IS NOT NULL OR void_why IS NOT NULL
"""


class UnusualError(Exception):
    """The rows are not as Glimber writes them."""


def quick_columns(log: sqlite3.Connection) -> TryColumns:
    """Return the columns of all tries, in order of time. Raises UnusualError where a row is not as Glimber writes it,
    sqlite3.Error."""
    first = log.execute(_FIRST).fetchone()
    if first is None:
        raise UnusualError
    count, lowest, highest, strange, others = log.execute(_WHOLE, first).fetchone()
    if highest - lowest + 1 != count or strange:
        raise UnusualError
    try:
        return _columns(log, count, lowest, None if others else first)
    except (ValueError, TypeError, KeyError) as error:
        raise UnusualError from error


def _columns(log: sqlite3.Connection, count: int, lowest: int, alike: tuple[Any, ...] | None) -> TryColumns:
    at, ids, truths, outcomes, nth, rounds, bindings, triggers = log.execute(_DENSE).fetchone()
    at_us = _fixed(at, _MOMENT, count)
    if not (np.char.endswith(at_us, b"Z")).all():
        raise UnusualError
    moments = at_us.astype(f"S{_MOMENT - 1}").astype("datetime64[us]").astype(np.int64)
    flags = np.frombuffer(truths.encode("ascii"), dtype=np.uint8) - ord("0")
    letters = np.frombuffer(outcomes.encode("ascii"), dtype=np.uint8)
    if len(flags) != count or len(letters) != count:
        raise UnusualError
    number = np.full(256, -1, dtype=np.int8)
    for letter, place in _FIRST_LETTERS.items():
        number[ord(letter)] = place
    recall, motor = np.array(log.execute(_NUMBERS).fetchall(), dtype=np.float64).reshape(count, 2).T
    computer, mode, aids, deadline = _everywhere(log, alike, count)
    order_nth = np.fromstring(nth, dtype=np.int64, sep=" ")
    if len(order_nth) != count:
        raise UnusualError
    whole = TryColumns(
        ids=_fixed(ids, _ID, count), round=_coded(rounds, count), nth=order_nth, at_us=moments, computer=computer,
        binding=_coded(bindings, count), trigger=_coded(triggers, count), mode=mode, outcome=number[letters],
        strict=(flags & 4) > 0, **_rare(log, count, lowest), recall_ms=recall, motor_ms=motor, deadline_ms=deadline,
        first=(flags & 2) > 0, cold=(flags & 1) > 0, aids=aids,
    )  # fmt: skip
    order = np.lexsort((order_nth, moments))
    return whole if np.array_equal(order, np.arange(count)) else whole.at_places(order)


def _fixed(text: str, width: int, count: int) -> Any:
    """Texts of one width each, (count,), of all of them joined."""
    data = text.encode("ascii")
    if len(data) != width * count:
        raise UnusualError
    return np.frombuffer(data, dtype=f"S{width}")


def _coded(text: str, count: int) -> Coded:
    parts = text.split(_BETWEEN)
    if len(parts) != count:
        raise UnusualError
    return Coded.of(parts)


def _everywhere(
    log: sqlite3.Connection, alike: tuple[Any, ...] | None, count: int
) -> tuple[Coded, Coded, Ints, Floats]:
    """Computer, answer mode, aids and deadline; ``alike``: those of all tries, where they are all the same."""
    if alike is not None:
        computer, mode, aids, deadline = alike
        same = np.zeros(count, dtype=np.int32)
        every = np.full(count, float(deadline))
        return Coded((computer,), same), Coded((mode,), same), np.full(count, aids, dtype=np.int64), every
    computers, modes, all_aids, deadlines = zip(*log.execute(_PLACED).fetchall(), strict=True)
    return (
        Coded.of(computers),
        Coded.of(modes),
        np.array(all_aids, dtype=np.int64),
        np.array(deadlines, dtype=np.float64),
    )


def _rare(log: sqlite3.Connection, count: int, lowest: int) -> dict[str, Any]:
    """Return what only slips and void tries have."""
    rows = log.execute(_RARE).fetchall()
    places, slips, pressed, would_do, offsets, why = zip(*rows, strict=True) if rows else ((),) * 6
    at = np.array(places, dtype=np.int64) - lowest
    slip, offset_u = np.full(count, -1, dtype=np.int8), np.full((count, 2), np.nan)
    slip[at] = numbered("slip", slips, SLIP_KINDS)
    offset_u[at] = pairs_of(offsets)

    def spread(texts: Sequence[str | None]) -> Coded:
        found, codes = Coded.of(texts), np.full(count, -1, dtype=np.int32)
        codes[at] = found.codes
        return Coded(found.names, codes)

    whole: Floats = offset_u
    return {
        "slip": slip,
        "pressed": spread(pressed),
        "would_do": spread(would_do),
        "offset_u": whole,
        "void_why": spread(why),
    }
