"""The practice log: an SQLite file (or a database server) through SQLAlchemy Core, its schema moved on by Alembic.

Every record is committed before ``add`` returns, in WAL mode: a process that is killed loses nothing it has added.
"""

from __future__ import annotations

import json
import threading
from collections.abc import Iterable
from contextlib import AbstractContextManager
from dataclasses import fields
from datetime import datetime
from itertools import groupby
from pathlib import Path
from typing import Any, Final

import sqlalchemy as sa
from sqlalchemy.exc import DatabaseError, OperationalError, SQLAlchemyError

from glimber.core.drill.tries import (
    Change,
    KeyEvents,
    Practice,
    Record,
    Round,
    Try,
    format_moment,
    parse_moment,
)
from glimber.store.faults import StoreError

SCHEMA: Final = "0001"
KINDS: Final[dict[str, type]] = {"try": Try, "round": Round, "change": Change, "events": KeyEvents}
_TABLES: Final = {Try: "tries", Round: "rounds", Change: "changes", KeyEvents: "events"}
_MOMENTS: Final = frozenset({"at", "began", "ended", "applied", "reverted", "until"})
_LISTS: Final = frozenset({"offset_u", "bindings", "events"})


def _columns(kind: type) -> list[sa.ColumnClause[Any]]:
    return [sa.column(field.name) for field in fields(kind) if not field.name.startswith("_")]


_SQL: Final = {kind: sa.table(name, *_columns(kind)) for kind, name in _TABLES.items()}


_INSERTS: Final = {kind: sa.insert(table) for kind, table in _SQL.items()}


def _row(record: Record) -> dict[str, Any]:
    row = {}
    for column in _columns(type(record)):
        value = getattr(record, column.name)
        if isinstance(value, datetime):
            value = format_moment(value)
        elif column.name in _LISTS and value is not None:
            value = json.dumps(value)
        row[column.name] = value
    return row


def _deep_tuple(value: Any) -> Any:
    return tuple(_deep_tuple(item) for item in value) if isinstance(value, list) else value


def _record(kind: type, row: sa.RowMapping) -> Any:
    values: dict[str, Any] = dict(row)
    for name, value in values.items():
        if value is None:
            continue
        if name in _MOMENTS:
            values[name] = parse_moment(value)
        elif name in _LISTS:
            values[name] = _deep_tuple(json.loads(value))
        elif name in ("strict", "first", "cold"):
            values[name] = bool(value)
    return kind(**values)


class Log(AbstractContextManager["Log"]):
    """An open practice log. ``changed`` counts what this object added, so that a view can tell it is stale."""

    def __init__(self, address: str, engine: sa.Engine, connection: sa.Connection) -> None:
        self.address, self._engine, self._connection = address, engine, connection
        self.changed = 0

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        self._connection.close()
        self._engine.dispose()

    def add(self, *records: Record) -> None:
        """Write records in one transaction and commit it. Raises StoreError; then none of them is written."""
        try:
            for kind, alike in groupby(records, type):
                rows = [_row(record) for record in alike]
                self._connection.execute(_INSERTS[kind], rows if len(rows) > 1 else rows[0])
            self._connection.commit()
        except SQLAlchemyError as error:
            self._connection.rollback()
            raise StoreError(
                f"{self.address}: the try could not be written ({_told(error)}); is the disk full?"
            ) from error
        self.changed += len(records)

    def update(self, record: Record) -> None:
        """Replace a record of the same id, such as a round that has ended."""
        table = _SQL[type(record)]
        try:
            self._connection.execute(sa.update(table).where(table.c.id == record.id).values(_row(record)))
            self._connection.commit()
        except SQLAlchemyError as error:
            self._connection.rollback()
            raise StoreError(f"{self.address}: could not be written ({_told(error)}); is the disk full?") from error
        self.changed += 1

    def ids(self) -> set[str]:
        """The ids of all records."""
        found: set[str] = set()
        for table in _SQL.values():
            found |= set(self._connection.execute(sa.select(table.c.id)).scalars())
        self._connection.rollback()
        return found

    def records(self, kind: type, where: sa.ColumnElement[bool] | None = None) -> list[Any]:
        """All records of a kind in order of time, or those for which ``where`` holds."""
        table = _SQL[kind]
        order = [table.c.began if kind is Round else table.c.at, table.c.id]
        try:
            wanted = sa.select(*table.c).order_by(*order)
            if where is not None:
                wanted = wanted.where(where)
            rows = self._connection.execute(wanted).mappings().all()
            return [_record(kind, row) for row in rows]
        except (SQLAlchemyError, ValueError, TypeError) as error:
            raise _damaged(self.address, error) from error
        finally:
            self._connection.rollback()

    def count(self, kind: type) -> int:
        """How many records of a kind there are."""
        try:
            found = self._connection.execute(sa.select(sa.func.count()).select_from(_SQL[kind])).scalar()
        except SQLAlchemyError as error:
            raise _damaged(self.address, error) from error
        finally:
            self._connection.rollback()
        return int(found or 0)

    def tries_of_round(self, round_id: str) -> list[Try]:
        """The tries of one round in order of time."""
        return self.records(Try, _SQL[Try].c.round == round_id)

    def practice(self) -> Practice:
        """All tries, changes and rounds as a value."""
        return Practice(tuple(self.records(Try)), tuple(self.records(Change)), tuple(self.records(Round)))


def open_log(folder: Path, setting: str, create: bool = True) -> Log:
    """Open the log a folio names: a file within its folder, or the address of a database server.

    A log of an earlier schema is moved on. Raises StoreError for a damaged log, one of a newer version, or a place that
    cannot be written; the file is left as it is.
    """
    if "://" in setting:
        return _connect(setting, setting)
    path = folder / setting
    if not path.exists() and not create:
        raise StoreError(f"{path}: there is no practice log yet")
    return _connect(f"sqlite:///{path}", str(path))


def _connect(url: str, address: str) -> Log:
    try:
        engine = sa.create_engine(url)
    except (SQLAlchemyError, ModuleNotFoundError) as error:
        raise StoreError(f"{address}: not a database that can be used here ({_told(error)})") from error
    connection: sa.Connection | None = None
    try:
        connection = engine.connect()
        if engine.dialect.name == "sqlite":
            _prepare_sqlite(connection)
        _move_on(connection, address)
    except SQLAlchemyError as error:
        if connection is not None:
            connection.close()
        engine.dispose()
        raise _damaged(address, error) from error
    except StoreError:
        if connection is not None:
            connection.close()
        engine.dispose()
        raise
    return Log(address, engine, connection)


def _prepare_sqlite(connection: sa.Connection) -> None:
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "busy_timeout=5000"):
        connection.exec_driver_sql(f"PRAGMA {pragma}")
    state = connection.exec_driver_sql("PRAGMA quick_check").scalar()
    connection.rollback()
    if state != "ok":
        raise DatabaseError("quick_check", None, Exception(str(state).partition("\n")[0]))


_MIGRATING: Final = threading.Lock()
"""Alembic keeps its context in a global: one log at a time is moved on in a process."""


def _version(connection: sa.Connection) -> str | None:
    has_version = sa.inspect(connection).has_table("alembic_version")
    version = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() if has_version else None
    connection.rollback()
    return None if version is None else str(version)


def _move_on(connection: sa.Connection, address: str) -> None:
    if _version(connection) == SCHEMA:
        return
    with _MIGRATING:
        try:
            _upgrade(connection, address)
        except OperationalError:
            connection.rollback()
            if _version(connection) != SCHEMA:  # unless another process made it in the same moment
                raise


def _upgrade(connection: sa.Connection, address: str) -> None:
    version = _version(connection)
    if version == SCHEMA:
        return
    if version is not None and version > SCHEMA:
        raise StoreError(
            f"{address}: the practice log is of a newer version ({version}); this Glimber reads up to {SCHEMA}. "
            "It was left alone; use the newer Glimber"
        )
    from alembic import command
    from alembic.config import Config
    from alembic.util import CommandError

    config = Config()
    config.set_main_option("script_location", "glimber.store.practice:migrations")
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    try:
        command.upgrade(config, "head")
    except CommandError as error:
        raise StoreError(
            f"{address}: the practice log is of a version that is not known here ({version}). It was left alone"
        ) from error
    connection.commit()


def _told(error: BaseException) -> str:
    original = getattr(error, "orig", None) or error
    return str(original).partition("\n")[0]


def _damaged(address: str, error: BaseException) -> StoreError:
    told = _told(error)
    if "unable to open" in told or "readonly" in told or "permission" in told.lower():
        return StoreError(f"{address}: cannot be opened for writing ({told}); check the folder's permissions")
    return StoreError(
        f"{address}: the practice log is damaged or not a log ({told}). It was left alone; "
        "put a backup in its place or move it away to begin a new one"
    )


def merge(log: Log, records: Iterable[Record]) -> int:
    """Add the records whose ids the log does not have yet; how many were new. Merging again changes nothing."""
    known = log.ids()
    new = {record.id: record for record in records if record.id not in known}
    if new:
        log.add(*new.values())
    return len(new)
