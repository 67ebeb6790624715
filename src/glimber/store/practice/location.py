"""The location of a practice log: a file within its folio, or a server confirmed on this computer. Nowhere else."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Final, TypeVar

from msgspec import Struct

from glimber.store.faults import StoreError
from glimber.store.practice.server_address import keep_password, server_url, shown_address, with_kept_password, with_tls
from glimber.store.settings import load_settings, remember

if TYPE_CHECKING:
    import sqlalchemy as sa

T = TypeVar("T")
SCHEMA: Final = "0005"
TABLES: Final = frozenset({"tries", "rounds", "changes", "events"})
VERSION_TABLE: Final = "alembic_version"
_VERSION: Final = re.compile(r"\d{4}")
READ_WAIT_S: Final = 5.0
_HEAD: Final = b"SQLite format 3\x00"


class Place(Struct, frozen=True):
    """``path`` of a log in a file, ``url`` of any; ``shown`` is the address as it may be shown, without a password."""

    shown: str
    url: sa.URL
    path: Path | None = None


def is_server(setting: str) -> bool:
    """Return True if a folio's setting names a database server rather than a file."""
    return "://" in setting


def file_problem(setting: str) -> str | None:
    """Return what is wrong with the name of a log's file; None for a plain file name, or a server's address."""
    if is_server(setting):
        return None
    if not setting or setting.startswith(".") or "/" in setting or "\\" in setting or not setting.isprintable():
        return f"{setting!r} is not a plain file name; the practice log lies within the folio, such as practice.sqlite"
    if setting.lower().endswith((".toml", "-wal", "-shm", "-journal")) or len(setting.encode()) > 200:
        return f"{setting!r} cannot be the practice log's name; expected one such as practice.sqlite"
    return None


def setting_of(folder: Path, setting: str) -> str:
    """Return where this person keeps the practice of a folio on this computer: as their settings say, else as the folio
    does."""
    lines = (line.partition("\t") for line in load_settings().logs.splitlines())
    return {name: place for name, _, place in lines}.get(str(folder.resolve()), setting)


def keep_own_log(folder: Path, setting: str | None) -> None:
    """Keep the practice of a folio elsewhere on this computer than the folio says; None: as it says again. Raises StoreError."""
    problem = file_problem(setting) if setting is not None else None
    if problem is not None:
        raise StoreError(problem)
    if setting is not None and is_server(setting):
        url = server_url(setting)
        keep_password(url)
        setting = shown_address(url)
    here = str(folder.resolve())
    others = [line for line in load_settings().logs.splitlines() if line.partition("\t")[0] != here]
    remember(logs="\n".join([*others, *([f"{here}\t{setting}"] if setting is not None else [])]))


def log_exists(folder: Path, setting: str) -> bool:
    """Return True if there is a log to be read. A server is asked only when it is opened."""
    setting = setting_of(folder, setting)
    return is_server(setting) or (file_problem(setting) is None and (folder / setting).exists())


def place_of(folder: Path, setting: str) -> Place:
    """Return where the log of a folio is. Raises StoreError for a place outside it, or a server nobody confirmed here."""
    import sqlalchemy as sa

    setting = setting_of(folder, setting)
    if not is_server(setting):
        problem = file_problem(setting)
        if problem is not None:
            raise StoreError(f"{folder / 'folio.toml'}: log is {problem}")
        path = folder / setting
        return Place(str(path), sa.URL.create("sqlite", database=str(path)), path)
    url = server_url(setting)
    shown = shown_address(url)
    if shown not in confirmed_servers():
        raise UnconfirmedServerError(shown)
    return Place(shown, with_kept_password(with_tls(url)))


class UnconfirmedServerError(StoreError):
    """The folio names a server that nobody on this computer has agreed to."""

    def __init__(self, shown: str) -> None:
        self.shown = shown
        super().__init__(
            f"{shown}: this folio wants its practice kept on a server that was not confirmed on this computer. "
            'Nothing was sent there. Confirm it: find "Keep practice on the server" in the window, or glimber confirm-log FOLIO'
        )


def confirmed_servers() -> list[str]:
    """Return the servers that were agreed to on this computer, without passwords."""
    return load_settings().servers.split()


def confirm_server(setting: str) -> str:
    """Agree to a server on this computer; its address without a password. Raises StoreError."""
    shown = shown_address(server_url(setting))
    if shown not in confirmed_servers():
        remember(servers=" ".join([*confirmed_servers(), shown]))
    return shown


# What is in a file, before anything is written to it


def refuse_foreign(path: Path) -> str | None:
    """Return the schema version of a log's file; None for one that is not there or empty. The file is only read.

    Raises StoreError for a database that somebody else made, or a file that is no database: it is left untouched.
    """
    if not path.exists():
        return None
    if path.is_symlink() and not path.resolve().parent.is_dir():
        raise StoreError(f"{path}: a link that leads nowhere; expected the practice log")
    if not path.is_file():
        raise StoreError(f"{path}: not a file; expected the practice log")
    if path.stat().st_size == 0:
        return None
    with path.open("rb") as file:
        if file.read(len(_HEAD)) != _HEAD:
            raise StoreError(
                f"{path}: the practice log is damaged or not a log (it is no database). It was left alone; "
                "put a backup in its place or move it away to begin a new one"
            )
    tables, version = reading(path, _looked_at)
    if not tables:
        return None
    expected = len(TABLES) if version is not None and version <= SCHEMA else 2
    if version is None or not _VERSION.fullmatch(version) or len(tables & TABLES) < expected:
        raise StoreError(
            f"{path}: a database with tables of another program ({', '.join(sorted(tables)[:3])}), not a practice log. "
            "It was left untouched; give the log another name in folio.toml"
        )
    return version


def _looked_at(connection: sqlite3.Connection) -> tuple[frozenset[str], str | None]:
    names = {
        str(row[0]) for row in connection.execute("SELECT name FROM sqlite_master WHERE type IN ('table', 'view')")
    }
    tables = frozenset(name for name in names if not name.startswith("sqlite_"))
    version = None
    if VERSION_TABLE in tables:
        row = connection.execute(f"SELECT * FROM {VERSION_TABLE}").fetchone()
        version = None if row is None else str(row[0])
    return tables, version


def reading(path: Path, use: Callable[[sqlite3.Connection], T]) -> T:
    """Look into a database without writing anything, not even beside it. Raises StoreError with the plain cause."""
    connection = None
    try:
        connection = connect_reading(path)
        return use(connection)
    except sqlite3.Error as error:
        raise told_of(str(path), error) from error
    finally:
        if connection is not None:
            connection.close()


def connect_reading(path: Path) -> sqlite3.Connection:
    """Return a connection that cannot write. Where nothing waits beside the file to be taken in, it is read as one that nobody
    changes: then a folder that cannot be written serves as well, and nothing is left in it. Raises sqlite3.Error."""
    beside = path.with_name(f"{path.name}-wal")
    mode = "mode=ro" if beside.exists() and beside.stat().st_size > 0 else "mode=ro&immutable=1"
    return sqlite3.connect(f"{path.resolve().as_uri()}?{mode}", uri=True, timeout=READ_WAIT_S, check_same_thread=False)


class ServerLostError(StoreError):
    """The server of a log does not answer, or no longer."""


class LogBusyError(StoreError):
    """Another program holds the log just now."""


def told_of(shown: str, error: BaseException) -> StoreError:
    """Return what a database's error means for the person: busy, not writable, full, damaged, or what it says itself."""
    original = getattr(error, "orig", None) or error
    words = str(original).partition("\n")[0]
    low = words.lower()
    if "locked" in low or "busy" in low:
        return LogBusyError(f"{shown}: another program is writing to the practice log ({words})")
    if "full" in low:
        return StoreError(f"{shown}: the disk is full; nothing of this was written")
    if "disk i/o" in low:
        return StoreError(f"{shown}: the disk cannot be written or read ({words})")
    if "readonly" in low or "read-only" in low:
        return StoreError(f"{shown}: cannot be opened for writing ({words}); check the folder's permissions")
    if "unable to open" in low or "permission" in low:
        return StoreError(f"{shown}: cannot be opened ({words}); check that the folder is there and its permissions")
    if "malformed" in low or "not a database" in low or "corrupt" in low or "quick_check" in low:
        return StoreError(
            f"{shown}: the practice log is damaged or not a log ({words}). It was left alone; "
            "put a backup in its place or move it away to begin a new one"
        )
    if "no such table" in low or "no such column" in low:
        return StoreError(f"{shown}: the practice log is damaged or not a log ({words}). It was left alone")
    return StoreError(f"{shown}: the practice log cannot be used ({words})")
