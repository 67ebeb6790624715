"""The practice log: an SQLite file (or a database server) through SQLAlchemy Core.

Every record is committed before ``add`` returns, in WAL mode with ``synchronous=FULL``: a process that is killed loses nothing
it has added. A file that was replaced or deleted while it was open is noticed before and after each commit.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import AbstractContextManager, suppress
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import sqlalchemy as sa
from msgspec.structs import replace
from sqlalchemy.exc import InterfaceError, OperationalError, ProgrammingError, SQLAlchemyError

from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, KeyEvents, Record, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice.location import Place, log_exists, place_of, told_of
from glimber.store.practice.log_identity import SameFile
from glimber.store.practice.opening import engine_of, reading_engine, server_problem
from glimber.store.practice.owners import INSERTS_OF_PEOPLE, agree, own, person_of
from glimber.store.practice.rows import INSERTS, SQL, record_of, row_of, values_of
from glimber.store.practice.ticks import with_ticks, write_ticks

if TYPE_CHECKING:
    from glimber.core.practice.columns import TryRows

WAIT_S: Final = 5.0
"""The time a command waits for another program that holds the log; the window waits in its own way."""


class Log(AbstractContextManager["Log"]):
    """An open practice log. ``changed`` counts what this object added, so that a view can tell it is stale.

    ``added`` keeps the records themselves, for a file that is taken away from under it.
    """

    def __init__(self, place: Place, engine: sa.Engine, connection: sa.Connection, writing: bool = True) -> None:
        self.place, self._engine, self.connection = place, engine, connection
        self._same = SameFile(place.path) if writing and place.path is not None else None
        self.person = person_of(connection) if place.path is None else None
        """Whose tries these are, where several people use one server."""
        self.changed = 0
        self.added: list[Record] = []

    @property
    def address(self) -> str:
        return self.place.shown

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the connection. A file that was replaced meanwhile is not touched by that."""
        if self._same is not None and self._same.belongs_to_another():
            self._same.keep_for_ever(self.connection)
            return
        with suppress(SQLAlchemyError):
            self.connection.close()
        self._engine.dispose()

    def add(self, *records: Record) -> None:
        """Write records in one transaction and commit it. Raises StoreError; then none of them is written."""
        self.write(records)

    def update(self, record: Record) -> None:
        """Replace a record of the same id, such as a round that has ended. Raises StoreError."""
        self.write((), (record,))

    def write(self, added: Iterable[Record], updated: Iterable[Record] = ()) -> None:
        """Write new records and replace others of the same ids, all in one transaction. Raises StoreError; then none is.

        LogReplacedError where the file is no longer the one that was opened, LogBusyError while another program holds it.
        """
        new = list(added)
        self._write([new], list(updated))
        self.added += new

    def add_batches(self, batches: Iterable[Sequence[Record]]) -> None:
        """As ``add``, of more records than are held in memory at once: ``added`` does not keep them. Raises StoreError."""
        self._write(batches, ())

    def _write(self, batches: Iterable[Sequence[Record]], replaced: Sequence[Record]) -> None:
        count = len(replaced)
        try:
            if self._same is not None:
                self._same.check()
            ticked = [one for one in replaced if isinstance(one, Change)]
            for new in batches:
                for kind, alike in groupby(new, type):
                    self._insert(kind, list(alike))
                ticked += [one for one in new if isinstance(one, Change) and one.applied is not None]
                count += len(new)
            for record in replaced:
                self._replace(record)
            if self.person is not None:
                write_ticks(self.connection, self.person, ticked)
            self.connection.commit()
            if self._same is not None:
                self._same.check()
        except (SQLAlchemyError, UnicodeEncodeError, OverflowError) as error:
            self.rest_connection()
            raise self.explained(error) from error
        except StoreError:
            self.rest_connection()
            raise
        self.changed += count

    def _replace(self, record: Record) -> None:
        """Write a record over the one of its id. On a server the changes of others can only be taken back."""
        table = SQL[type(record)]
        row, wanted = row_of(record), sa.update(table).where(table.c.id == record.id)
        if self.person is not None and isinstance(record, Change):
            del row["applied"]  # each person ticks off for themselves
            owner: sa.ColumnClause[str] = sa.column("owner")
            mine = sa.or_(owner.is_(None), owner == sa.func.current_user())  # without one: from before there were owners
            self.connection.execute(wanted.where(sa.not_(mine)).values(reverted=row["reverted"]))
            wanted = wanted.where(mine)
        self.connection.execute(wanted.values(row))

    def _insert(self, kind: type[Record], records: list[Record]) -> None:
        """Many rows go to SQLite as they are; through SQLAlchemy each would be taken apart once more."""
        dialect = self.connection.dialect
        if self.person is not None and kind in INSERTS_OF_PEOPLE:
            owned = [{**row_of(record), "person": self.person, "applied": None} if kind is Change
                     else {**row_of(record), "person": self.person} for record in records]  # fmt: skip
            self.connection.execute(INSERTS_OF_PEOPLE[kind], owned)
            return
        if len(records) == 1 or not dialect.positional:
            rows = [row_of(record) for record in records]
            self.connection.execute(INSERTS[kind], rows if len(rows) > 1 else rows[0])
            return
        text = str(INSERTS[kind].compile(dialect=dialect))
        self.connection.exec_driver_sql(text, [tuple(values_of(record)) for record in records])

    def explained(self, error: Exception) -> StoreError:
        """Return what an error of the database means; of a server, whether it is lost."""
        refused = isinstance(error, ProgrammingError) and "permission denied" in str(error.orig)
        if self.place.path is None and (refused or isinstance(error, (OperationalError, InterfaceError))):
            return server_problem(self.address, error)
        return told_of(self.address, error)

    def be_named(self, name: str) -> None:
        """Agree to be named in the figures of a team; without a name no longer. Raises StoreError."""
        if self.person is None:
            raise StoreError(f"{self.address}: is in a file; nobody else has figures in it")
        try:
            agree(self.connection, self.person, name)
        except SQLAlchemyError as error:
            self.rest_connection()
            raise self.explained(error) from error

    def rest_connection(self) -> None:
        """End what is open on the connection without writing anything."""
        with suppress(SQLAlchemyError):
            self.connection.rollback()

    def rest(self) -> None:
        """Take what waits beside the file into it: then the file alone has everything, whoever copies or replaces it."""
        if self._same is not None and not self._same.replaced():
            with suppress(SQLAlchemyError):
                self.connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
            self.rest_connection()

    def copy_to(self, target: Path) -> None:
        """The whole log, as this connection sees it, in another file, by SQLite's own backup. Raises StoreError."""
        import sqlite3

        source = self.connection.connection.driver_connection
        if not isinstance(source, sqlite3.Connection):
            return
        try:
            copy = sqlite3.connect(target)
            try:
                source.backup(copy)
                copy.execute("PRAGMA journal_mode=DELETE")
            finally:
                copy.close()
        except sqlite3.Error as error:
            raise told_of(str(target), error) from error

    def ids(self) -> set[str]:
        """Return the ids of all records."""
        found: set[str] = set()
        try:
            for table in SQL.values():
                found |= set(self.connection.execute(sa.select(table.c.id)).scalars())
        except SQLAlchemyError as error:
            raise self.explained(error) from error
        finally:
            self.rest_connection()
        return found

    def records(self, kind: type[Record], where: sa.ColumnElement[bool] | None = None) -> list[Any]:
        """Return all records of a kind in order of time, or those for which ``where`` holds."""
        table = SQL[kind]
        order = [table.c.began if kind is Round else table.c.at, table.c.id]
        try:
            wanted = sa.select(*table.c).order_by(*order)
            for one in (where, self._own(kind)):
                if one is not None:
                    wanted = wanted.where(one)
            found = [record_of(kind, row) for row in self.connection.execute(wanted).mappings().all()]
            if self.person is not None and kind is Change:
                found = with_ticks(self.connection, self.person, found)
            return found
        except SQLAlchemyError as error:
            raise self.explained(error) from error
        except (ValueError, TypeError) as error:
            raise StoreError(f"{self.address}: the practice log is damaged ({error}). It was left alone") from error
        finally:
            self.rest_connection()

    def _own(self, kind: type[Record]) -> sa.ColumnElement[bool] | None:
        """Return which rows are the person's own; None: all are."""
        return None if self.person is None else own(kind, self.person)

    def count(self, kind: type[Record]) -> int:
        """Return how many records of a kind there are."""
        counted = sa.select(sa.func.count()).select_from(SQL[kind])
        mine = self._own(kind)
        try:
            found = self.connection.execute(counted if mine is None else counted.where(mine)).scalar()
        except SQLAlchemyError as error:
            raise self.explained(error) from error
        finally:
            self.rest_connection()
        return int(found or 0)

    def tries_of_round(self, round_id: str) -> list[Try]:
        """Return the tries of one round in order of time."""
        return self.records(Try, SQL[Try].c.round == round_id)

    def practice(self) -> Practice:
        """Return all tries, changes and rounds as a value."""
        return Practice(self._tries(), tuple(self.records(Change)), tuple(self.records(Round)))

    def _file(self) -> tuple[str, int, int]:
        """Return which file this is, whatever is put in its place later."""
        path = self.place.path
        if path is None:
            return self.place.shown, 0, 0
        found = path.stat()
        return str(path), found.st_dev, found.st_ino

    def _tries(self) -> TryRows:
        """Return all tries as columns: a try is only made of its row where somebody looks at it."""
        import sqlite3

        from glimber.core.practice.columns import TryRows
        from glimber.store.practice.bulk_read import UnusualError
        from glimber.store.practice.incremental import latest_columns
        from glimber.store.practice.table import columns_of

        names = [column.name for column in SQL[Try].c]
        try:
            driver = self.connection.connection.driver_connection
            if isinstance(driver, sqlite3.Connection):
                with suppress(UnusualError):
                    return TryRows(latest_columns(driver, self._file(), names))
            wanted, mine = sa.select(*SQL[Try].c), self._own(Try)
            rows = self.connection.execute(wanted if mine is None else wanted.where(mine)).fetchall()
            return TryRows(columns_of(rows, names))
        except (SQLAlchemyError, sqlite3.Error) as error:
            raise self.explained(error) from error
        except (ValueError, TypeError) as error:
            raise StoreError(f"{self.address}: the practice log is damaged ({error}). It was left alone") from error
        finally:
            self.rest_connection()


def open_log(folder: Path, setting: str, create: bool = True, wait_s: float | None = None) -> Log:
    """Open the log a folio names, to write: a file within its folder, or a server that was confirmed on this computer.

    A log of an earlier schema is moved on, after a copy of it was made. ``wait_s``: how long to wait for another program that
    holds it, 5 s by default. Raises StoreError for a damaged log, one of a newer version, a database of another program, or a
    place that cannot be written; the file is left as it is.
    """
    place = place_of(folder, setting)
    if place.path is not None and not create and not place.path.exists():
        raise StoreError(f"{place.path}: there is no practice log yet")
    engine, connection = engine_of(place, WAIT_S if wait_s is None else wait_s)
    return Log(place, engine, connection)


def open_log_reading(folder: Path, setting: str) -> Log:
    """Open a log only to read it: nothing is written, neither to it nor beside it. Raises StoreError."""
    place = place_of(folder, setting)
    if place.path is not None and not place.path.exists():
        raise StoreError(f"{place.path}: there is no practice log yet")
    engine, connection = reading_engine(place)
    return Log(place, engine, connection, writing=False)


def read_practice(folder: Path, setting: str) -> Practice:
    """Return the practice so far; empty where there is no log yet. Nothing is written. Raises StoreError."""
    from glimber.store.tally import read_tally

    place_of(folder, setting)  # a place that may not be used is an error even where nothing is there
    tally = read_tally(folder)
    if not log_exists(folder, setting):
        return Practice(tally=tally)
    with open_log_reading(folder, setting) as log:
        return replace(log.practice(), tally=tally)


def read_key_events(folder: Path, setting: str) -> list[KeyEvents]:
    """Return the key events of all rounds so far; none where there is no log yet. Nothing is written. Raises StoreError."""
    if not log_exists(folder, setting):
        return []
    with open_log_reading(folder, setting) as log:
        return log.records(KeyEvents)


def merge(log: Log, records: Iterable[Record]) -> int:
    """Add the records whose ids the log does not have yet; how many were new. Merging again changes nothing."""
    known = log.ids()
    new = {record.id: record for record in records if record.id not in known}
    if new:
        log.add(*new.values())
    return len(new)


def merge_batches(log: Log, batches: Iterable[Iterable[Record]]) -> int:
    """As ``merge``, of more records than are held in memory at once; all in one transaction. Raises StoreError."""
    known, count = log.ids(), 0

    def unknown() -> Iterator[list[Record]]:
        nonlocal count
        for batch in batches:
            new = {record.id: record for record in batch if record.id not in known}
            known.update(new)
            count += len(new)
            if new:
                yield list(new.values())

    log.add_batches(unknown())
    return count
