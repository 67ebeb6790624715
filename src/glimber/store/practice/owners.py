"""Whose practice is whose on a server that several people use: each has their own tries, and figures of all are the server's."""

from __future__ import annotations

import hashlib
from typing import Final

import sqlalchemy as sa

from glimber.core.practice.tries import Change, Record, Round, Try
from glimber.store.practice.rows import SQL
from glimber.store.settings import load_settings

OWNED: Final = (Try, Round, Change)
PEOPLE: Final = sa.table("people", sa.column("person"), sa.column("name"))


def _with_person(kind: type[Record]) -> sa.TableClause:
    table = SQL[kind]
    return sa.table(table.name, *(sa.column(one.name) for one in table.c), sa.column("person"))


INSERTS_OF_PEOPLE: Final = {kind: sa.insert(_with_person(kind)) for kind in OWNED}


def person_of(connection: sa.Connection) -> str:
    """Return who is at this connection: as the person's settings say, else by the server's name for the user; a digest, not
    a name."""
    person = load_settings().person or str(connection.execute(sa.text("SELECT current_user")).scalar())
    connection.rollback()
    return hashlib.sha256(f"glimber person {person}".encode()).hexdigest()[:24]


def own(kind: type[Record], person: str) -> sa.ColumnElement[bool] | None:
    """Return which rows of a kind a person sees: their own, those from before there were people, and what was changed in the
    folio, which is everybody's."""
    if kind not in OWNED:
        return None
    whose: sa.ColumnClause[str] = sa.column("person")
    mine = sa.or_(whose.is_(None), whose == person)
    if kind is Change:
        c = SQL[kind].c
        return sa.or_(mine, c.to_trigger.is_not(None), c.verdict == "retire")
    return mine


def agree(connection: sa.Connection, person: str, name: str) -> None:
    """Be named in the figures of the team; without a name no longer. Raises SQLAlchemyError."""
    connection.execute(sa.delete(PEOPLE).where(PEOPLE.c.person == person))
    if name:
        connection.execute(sa.insert(PEOPLE), {"person": person, "name": name})
    connection.commit()
