"""The figures of a team that keeps its practice on one server: the spread over people, worked out by the server.

Nobody is named who has not agreed to it, and where fewer than three people have practised a binding no spread is given: it would
be a person's figure.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

import sqlalchemy as sa
from msgspec import Struct, field
from sqlalchemy.exc import SQLAlchemyError

from glimber.store.faults import StoreError
from glimber.store.practice.log import Log

LEAST_PEOPLE: Final = 3
LEAST_TRIES: Final = 8
_AT_ONCE: Final = 2_000
_ASKED: Final = "(CAST(:bindings AS text[]), CAST(:places AS text[]), :least)"
_SPREAD: Final = f"SELECT binding, people, tries, clean, time_ms FROM glimber_spread{_ASKED}"
_NAMED: Final = f"SELECT binding, name, tries, clean, time_ms FROM glimber_named{_ASKED}"
"""Both run with the rights of who made the log: a role sees its own tries only, and of a team nothing but these figures."""


class Spread(Struct, frozen=True):
    """Over people: the least, the lower quartile, the middle, the upper quartile and the most."""

    low: float
    lower: float
    middle: float
    upper: float
    high: float


class Named(Struct, frozen=True):
    """One person who agreed to be named: share of clean hits, middle time in ms of those."""

    name: str
    tries: int
    clean: float
    time_ms: float | None


class TeamRow(Struct, frozen=True):
    """One binding: how many ``people`` have at least 8 counted tries of it, ``tries`` of theirs in all, the spread of their
    shares of clean hits and of their middle times in ms; 0 and None where fewer than three have, as these would be a person's."""

    binding: str
    people: int
    tries: int
    clean: Spread | None
    time_ms: Spread | None
    named: tuple[Named, ...] = field(default=())


def team_figures(log: Log, triggers: Mapping[str, str]) -> list[TeamRow]:
    """Return the figures of bindings under their present triggers, the fewest clean hits first. Raises StoreError for a log in a
    file."""
    if log.place.path is not None:
        raise StoreError(f"{log.address}: the figures of a team need a practice log on a server; set log in folio.toml")
    found: list[TeamRow] = []
    ids = list(triggers)
    for start in range(0, len(ids), _AT_ONCE):
        found += _some(log, {id: triggers[id] for id in ids[start : start + _AT_ONCE]})
    return sorted(
        found, key=lambda row: (row.clean is None, row.clean.middle if row.clean is not None else 0.0, row.binding)
    )


def _some(log: Log, triggers: Mapping[str, str]) -> list[TeamRow]:
    asked = {"bindings": list(triggers), "places": list(triggers.values()), "least": LEAST_TRIES}
    named: dict[str, list[Named]] = {}
    try:
        for id, name, tries, clean, time in log.connection.execute(sa.text(_NAMED), asked):
            named.setdefault(id, []).append(
                Named(name, int(tries), float(clean), None if time is None else float(time))
            )
        rows = log.connection.execute(sa.text(_SPREAD), asked).all()
    except SQLAlchemyError as error:
        raise log.explained(error) from error
    finally:
        log.rest_connection()
    return [
        TeamRow(id, int(people), int(tries or 0), *((_spread(clean), _spread(time)) if people >= LEAST_PEOPLE else (None, None)),
                tuple(named.get(id, ())))
        for id, people, tries, clean, time in rows
    ]  # fmt: skip


def _spread(values: Sequence[float | None] | None) -> Spread | None:
    if values is None or any(value is None for value in values):
        return None
    return Spread(*(float(value) for value in values if value is not None))
