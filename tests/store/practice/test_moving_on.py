"""A log of an earlier version: read as it is, moved on when it is written, nothing of it lost."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from msgspec.structs import replace

from glimber.core.practice.tries import Change, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice.location import SCHEMA, TABLES, refuse_foreign
from glimber.store.practice.log import open_log, open_log_reading
from tests.store.practice.test_log import CHANGE, ROUND, TRY

EARLIER = ("0001", "0002")
# What the earlier versions knew of these records; what came later has the value it was always meant to have.
OLD_TRY, OLD_ROUND, OLD_CHANGE = replace(TRY, cue=None), replace(ROUND, hits=(), goal="picked", strict=False), CHANGE


def file_of(folder: Path, version: str) -> Path:
    """A log as that version wrote it, with a try, a round and a change."""
    path = folder / "practice.db"
    engine = sa.create_engine(f"sqlite:///{path}")
    with engine.begin() as connection:
        config = Config()
        config.set_main_option("script_location", "glimber.store.practice:migrations")
        config.set_main_option("path_separator", "os")
        config.attributes["connection"] = connection
        command.upgrade(config, version)
    engine.dispose()
    with open_log(folder, "whole.db") as log:
        log.add(OLD_TRY, OLD_ROUND, OLD_CHANGE)
    with contextlib.closing(sqlite3.connect(path)) as raw, raw:
        raw.execute("ATTACH ? AS whole", (str(folder / "whole.db"),))
        for table in ("tries", "rounds", "changes"):
            names = ", ".join(f'"{row[1]}"' for row in raw.execute(f"PRAGMA main.table_info({table})"))
            raw.execute(f"INSERT INTO main.{table} ({names}) SELECT {names} FROM whole.{table}")
    return path


def columns(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """Each table's columns: name, kind, whether it may be empty, what it is then."""
    with contextlib.closing(sqlite3.connect(path)) as raw:
        return {table: sorted(row[1:] for row in raw.execute(f"PRAGMA table_info({table})")) for table in sorted(TABLES)}


@pytest.mark.parametrize("version", EARLIER)
def test_it_is_read_as_it_is_and_not_touched(tmp_path: Path, version: str) -> None:
    path = file_of(tmp_path, version)
    before = path.read_bytes()
    with open_log_reading(tmp_path, "practice.db") as log:
        assert log is not None
        assert (log.records(Try), log.records(Round), log.records(Change)) == ([OLD_TRY], [OLD_ROUND], [OLD_CHANGE])
    assert path.read_bytes() == before


@pytest.mark.parametrize("version", EARLIER)
def test_it_is_moved_on_when_it_is_written_after_a_copy_of_it(tmp_path: Path, version: str) -> None:
    path = file_of(tmp_path, version)
    later = replace(TRY, id=TRY.id[:-1] + ("0" if TRY.id[-1] != "0" else "1"), cue="name")
    with open_log(tmp_path, "practice.db") as log:
        assert (log.records(Try), log.records(Round), log.records(Change)) == ([OLD_TRY], [OLD_ROUND], [OLD_CHANGE])
        log.add(later)
    assert refuse_foreign(path) == SCHEMA
    open_log(tmp_path, "new.db").close()
    assert columns(path) == columns(tmp_path / "new.db")
    kept = list((tmp_path / "backups").glob("*-log-before-practice.db"))
    assert [refuse_foreign(one) for one in kept] == [version]


def test_the_tables_are_as_they_were_given_away(tmp_path: Path) -> None:
    """Logs have had these since; tables of another shape are a version of their own."""
    path = file_of(tmp_path, "0001")
    open_log(tmp_path, "practice.db").close()
    with contextlib.closing(sqlite3.connect(path)) as raw:
        found = [" ".join(row[0].split()) for row in raw.execute("SELECT sql FROM sqlite_master WHERE sql IS NOT NULL ORDER BY name")]
    assert found == Path(__file__).with_name("tables.sql").read_text().splitlines()


@pytest.mark.parametrize(("ours", "foreign"), [(1, True), (2, False), (3, False)])
def test_a_log_of_a_version_to_come_is_known_by_two_tables_of_ours(tmp_path: Path, ours: int, foreign: bool) -> None:
    path = tmp_path / "practice.db"
    with contextlib.closing(sqlite3.connect(path)) as raw, raw:
        for table in ["alembic_version (version_num)", *(f"{name} (a)" for name in sorted(TABLES)[:ours])]:
            raw.execute(f"CREATE TABLE {table}")
        raw.execute("INSERT INTO alembic_version VALUES ('0999')")
    with pytest.raises(StoreError, match="another program" if foreign else r"newer version \(0999\)"):
        open_log(tmp_path, "practice.db")
