"""The tables of a practice log, moved on from version to version by Alembic."""

from __future__ import annotations

import threading
from typing import Final

import sqlalchemy as sa

from glimber.store.faults import StoreError
from glimber.store.practice.location import SCHEMA, VERSION_TABLE

_MIGRATING: Final = threading.Lock()
"""Alembic keeps its context in a global: one log at a time is moved on in a process."""


def version_of(connection: sa.Connection) -> str | None:
    """The version a log is of; None for one that has no tables yet."""
    version = _version_now(connection)
    connection.rollback()
    return version


def _version_now(connection: sa.Connection) -> str | None:
    """Return the version as the transaction that is open sees it."""
    has_version = sa.inspect(connection).has_table(VERSION_TABLE)
    version = connection.exec_driver_sql(f"SELECT version_num FROM {VERSION_TABLE}").scalar() if has_version else None
    return None if version is None else str(version)


def move_on(connection: sa.Connection, address: str) -> None:
    """Make the tables of a new log, or bring an older one up to date, in one transaction: whoever looks meanwhile, or after
    this process was killed, sees the log as it was or as it is then. Raises StoreError for a newer one, SQLAlchemyError."""
    if version_of(connection) == SCHEMA:
        return
    with _MIGRATING:
        try:
            if connection.dialect.name == "sqlite":
                # The driver begins a transaction before rows are written only, so that each table would stand alone for a moment.
                connection.exec_driver_sql("BEGIN IMMEDIATE")
            _upgrade(connection, address)
        except BaseException:
            connection.rollback()
            raise


def refuse_newer(version: str | None, address: str) -> None:
    """Raises StoreError for a log of a version to come."""
    if version is not None and version > SCHEMA:
        raise StoreError(
            f"{address}: the practice log is of a newer version ({version}); this Glimber reads up to {SCHEMA}. "
            "It was left alone; use the newer Glimber"
        )


def _upgrade(connection: sa.Connection, address: str) -> None:
    version = _version_now(connection)
    if version == SCHEMA:  # another process made it in the same moment
        connection.rollback()
        return
    refuse_newer(version, address)
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
