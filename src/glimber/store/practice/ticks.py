"""Ticks on a server that several people use: each says for themselves that a change is set in their program."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

import sqlalchemy as sa
from msgspec.structs import replace

from glimber.core.practice.tries import Change, format_moment, parse_moment

TICKS: Final = sa.table("ticks", sa.column("change"), sa.column("person"), sa.column("applied"))
_TICK: Final = sa.text(
    "INSERT INTO ticks (change, person, applied) VALUES (:change, :person, :applied) "
    "ON CONFLICT (change, person, owner) DO UPDATE SET applied = excluded.applied"
)


def write_ticks(connection: sa.Connection, person: str, changes: Iterable[Change]) -> None:
    """Note for a person which changes are set; one that is not is noted too, whatever was noted before. Raises
    SQLAlchemyError."""
    rows = [
        {"change": one.id, "person": person, "applied": None if one.applied is None else format_moment(one.applied)}
        for one in changes
    ]
    if rows:
        connection.execute(_TICK, rows)


def with_ticks(connection: sa.Connection, person: str, changes: list[Change]) -> list[Change]:
    """Return changes as they are set for one person. Raises SQLAlchemyError, ValueError."""
    rows = connection.execute(sa.select(TICKS.c.change, TICKS.c.applied).where(TICKS.c.person == person)).all()
    ticks = {change: None if applied is None else parse_moment(applied) for change, applied in rows}
    return [replace(one, applied=ticks[one.id]) if one.id in ticks else one for one in changes]
