"""Connections to a practice log: to write, in which case it is made or moved on, or only to read."""

from __future__ import annotations

import contextlib
import re
import sqlite3
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Final

import sqlalchemy as sa
from sqlalchemy.exc import NoSuchModuleError, OperationalError, SQLAlchemyError
from sqlalchemy.pool import StaticPool

from glimber.store.faults import StoreError
from glimber.store.practice.backups import copy_before_moving_on
from glimber.store.practice.location import (
    SCHEMA,
    Place,
    ServerLostError,
    connect_reading,
    refuse_foreign,
    told_of,
)
from glimber.store.practice.schema import move_on, refuse_newer, version_of

SERVER_WAIT_S: Final = 5
LOCK_WAIT_S: Final = 3
STATEMENT_S: Final = 20
"""Limits for a server: to connect, to wait for a lock somebody else holds, and for a single statement."""
_AGAIN_S: Final = 0.01
_DENIED: Final = re.compile(r"permission denied for ((?:table|schema|function) \S+)")


def engine_of(place: Place, wait_s: float) -> tuple[sa.Engine, sa.Connection]:
    """Connect to write. Raises StoreError; what is there already is then as it was."""
    if place.path is None:
        return _server(place)
    version = refuse_foreign(place.path)
    refuse_newer(version, place.shown)
    if version is not None and version != SCHEMA:
        copy_before_moving_on(place.path, datetime.now(UTC))
    engine = sa.create_engine(place.url, connect_args={"timeout": wait_s})
    with _opened(engine, place) as connection:
        _write_ahead(connection, wait_s)
        connection.exec_driver_sql("PRAGMA synchronous=FULL")
        state = connection.exec_driver_sql("PRAGMA quick_check").scalar()
        connection.rollback()
        if state != "ok":
            raise told_of(place.shown, sqlite3.DatabaseError(f"quick_check: {str(state).partition(chr(10))[0]}"))
        move_on(connection, place.shown)
    return engine, connection


def _write_ahead(connection: sa.Connection, wait_s: float) -> None:
    """Go over to WAL. SQLite waits for nobody who goes over in the same moment, whatever the timeout: it is tried again.

    Where the file system cannot share memory between processes the first transaction fails; there the journal stays what it
    was, which commits as safely and only lets nobody read meanwhile. Raises SQLAlchemyError.
    """
    end = time.monotonic() + wait_s
    while True:
        try:
            connection.exec_driver_sql("PRAGMA journal_mode=WAL")
            connection.exec_driver_sql("SELECT count(*) FROM sqlite_master")
            connection.rollback()
            return
        except OperationalError as error:
            connection.rollback()
            if "disk i/o" in str(error.orig).lower():
                _leave_write_ahead(connection)
                return
            if "locked" not in str(error.orig) or time.monotonic() >= end:
                raise
            time.sleep(_AGAIN_S)


def _leave_write_ahead(connection: sa.Connection) -> None:
    """Go back from WAL. A connection that has the file for itself from the start needs no shared memory for that.

    Raises SQLAlchemyError.
    """
    connection.invalidate()
    connection.rollback()
    for statement in ("PRAGMA locking_mode=EXCLUSIVE", "PRAGMA journal_mode=DELETE", "PRAGMA locking_mode=NORMAL"):
        connection.exec_driver_sql(statement)
    connection.exec_driver_sql("SELECT count(*) FROM sqlite_master")  # only now is the file let go
    connection.rollback()


def reading_engine(place: Place) -> tuple[sa.Engine, sa.Connection]:
    """Connect to read. One of an earlier schema is read as a copy in memory that was moved on. Raises StoreError."""
    if place.path is None:
        return _server(place)
    path = place.path
    version = refuse_foreign(path)
    refuse_newer(version, place.shown)
    moved_on = version == SCHEMA

    def connect() -> sqlite3.Connection:
        source = connect_reading(path)
        if moved_on:
            return source
        copy = sqlite3.connect(":memory:", check_same_thread=False)
        with contextlib.closing(source):
            source.backup(copy)
        return copy

    engine = sa.create_engine("sqlite://", creator=connect, poolclass=StaticPool)
    with _opened(engine, place) as connection:
        if not moved_on:
            move_on(connection, place.shown)
    return engine, connection


@contextlib.contextmanager
def _opened(engine: sa.Engine, place: Place) -> Iterator[sa.Connection]:
    """Yield a connection that is prepared in the block; closed again where that fails. Raises StoreError with the plain cause."""
    connection: sa.Connection | None = None
    try:
        connection = engine.connect()
        yield connection
    except (SQLAlchemyError, sqlite3.Error, StoreError) as error:
        if connection is not None:
            with contextlib.suppress(SQLAlchemyError):
                connection.close()
        engine.dispose()
        raise error if isinstance(error, StoreError) else told_of(place.shown, error) from error


# A database server


def _server(place: Place) -> tuple[sa.Engine, sa.Connection]:
    try:
        engine = sa.create_engine(place.url, connect_args=_limits())
    except (ModuleNotFoundError, NoSuchModuleError) as error:
        raise StoreError(
            f"{place.shown}: the driver for this server is not installed ({error}); pip install 'glimber[server]'"
        ) from error
    except (SQLAlchemyError, ValueError, TypeError) as error:
        raise StoreError(
            f"{place.shown}: not a server's address that can be used; expected postgresql+psycopg://host/database"
        ) from error
    connection: sa.Connection | None = None
    try:
        connection = engine.connect()
        if version_of(connection) is None and set(sa.inspect(connection).get_table_names()):
            raise StoreError(
                f"{place.shown}: a database with tables of another program, not a practice log. It was left untouched"
            )
        connection.rollback()
        move_on(connection, place.shown)
    except (SQLAlchemyError, StoreError) as error:
        if connection is not None:
            connection.close()
        engine.dispose()
        raise error if isinstance(error, StoreError) else server_problem(place.shown, error) from error
    return engine, connection


def _limits() -> dict[str, object]:
    """Return connection parameters under which no call waits for a server for ever."""
    options = (
        f"-c lock_timeout={LOCK_WAIT_S}s -c statement_timeout={STATEMENT_S}s -c idle_in_transaction_session_timeout=60s"
    )
    return {
        "connect_timeout": SERVER_WAIT_S,
        "options": options,
        "tcp_user_timeout": 1000 * STATEMENT_S,
        "keepalives_idle": SERVER_WAIT_S,
        "keepalives_interval": SERVER_WAIT_S,
        "keepalives_count": 3,
    }


def server_problem(shown: str, error: BaseException) -> StoreError:
    """Return what a server's refusal means: it is not there, does not answer, does not know the person, or has no such
    database."""
    words = " ".join(str(getattr(error, "orig", None) or error).split())
    low = words.lower()
    if "lock timeout" in low:
        return ServerLostError(f"{shown}: another program holds the tables of the practice log; nothing was written")
    if "statement timeout" in low:
        return ServerLostError(f"{shown}: the server did not finish within {STATEMENT_S} s; nothing was written")
    if "timeout" in low or "timed out" in low:
        return ServerLostError(f"{shown}: the server did not answer within {SERVER_WAIT_S} s; nothing was written")
    if "authentication" in low or "no password supplied" in low or "pg_hba" in low:
        return StoreError(
            f"{shown}: the server did not accept the user or the password; they come from the address, PGPASSFILE or PGPASSWORD"
        )
    if (
        "refused" in low
        or "no such file" in low
        or "not known" in low
        or "name resolution" in low
        or "unreachable" in low
    ):
        return ServerLostError(
            f"{shown}: the server is not there or refuses connections; check the address and that it runs"
        )
    if any(
        sign in low
        for sign in ("terminating connection", "closed", "lost", "shutting down", "starting up", "broken pipe", "reset")
    ):
        return ServerLostError(f"{shown}: the connection to the server was lost")
    if (denied := _DENIED.search(words)) is not None:
        return StoreError(
            f"{shown}: this role has no right to {denied[1]}; the role that made the log gives what lacks: glimber log grant"
        )
    if "must be owner" in low:
        return StoreError(
            f"{shown}: the practice log is of an earlier version; the role that made it brings it up to date by opening it"
        )
    if "does not exist" in low:
        return StoreError(f"{shown}: the server has no such database or user; make it there first")
    return StoreError(f"{shown}: the server cannot be used ({type(getattr(error, 'orig', None) or error).__name__})")
