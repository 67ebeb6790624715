"""The practice log on a real PostgreSQL server: the same log as in a file, lost connections, and what waits meanwhile."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import pytest

from glimber.core.drill.tries import Change, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice.jsonl import all_lines
from glimber.store.practice.log import merge, open_log, open_log_reading, read_practice
from glimber.store.practice.place import ServerLostError, confirm_server
from glimber.store.practice.queue import Queue
from tests.helpers import NOON, tries_of
from tests.server import Server, programs
from tests.store.practice.test_log import CHANGE, EVENTS, ROUND, TRY

pytest.importorskip("psycopg")
if programs() is None:
    pytest.fail("PostgreSQL is missing: run script/test, or apt-get install postgresql")


@pytest.fixture(scope="module")
def server() -> Iterator[Server]:
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        one = Server(Path(folder) / "s")
        yield one
        one.stop()


@pytest.fixture
def url(server: Server, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[str]:
    """The server with nothing in it, agreed to on this computer."""
    import sqlalchemy as sa

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    engine = sa.create_engine(server.url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
    engine.dispose()
    with pytest.raises(StoreError, match="not confirmed"):
        open_log(tmp_path, server.url)
    confirm_server(server.url)
    yield server.url


def test_a_server_keeps_the_same_log_as_a_file(url: str, tmp_path: Path) -> None:
    ended = replace(ROUND, hits=(3, 2), minutes=3.0, goal="planned", cue="mixed")
    with open_log(tmp_path, url) as log, open_log(tmp_path, "practice.db") as file:
        for one in (log, file):
            one.add(TRY, ended, CHANGE, EVENTS)
            one.update(replace(ended, ended=NOON + timedelta(minutes=2)))
        assert sorted(all_lines(log)) == sorted(all_lines(file))
        assert log.count(Try) == 1 and log.tries_of_round(TRY.round) == file.tries_of_round(TRY.round)
    there, here = read_practice(tmp_path, url), read_practice(tmp_path, "practice.db")
    assert list(there.tries) == list(here.tries) and there.rounds == here.rounds and there.changes == here.changes


def test_two_computers_write_to_it_and_merging_changes_nothing(url: str, tmp_path: Path) -> None:
    mine, theirs = tries_of("range-d", "F2", ["hit"] * 6), tries_of("sounding-s", "F3", ["blank"] * 4)
    with open_log(tmp_path, url) as a, open_log(tmp_path, url) as b:
        a.add(*mine)
        b.add(*theirs)
        assert a.count(Try) == b.count(Try) == 10
        assert merge(a, [*mine, *theirs]) == 0


def test_a_server_that_goes_away_is_told_as_lost_and_what_waits_is_delivered_once(
    server: Server, url: str, tmp_path: Path
) -> None:
    tries = tries_of("sounding-s", "F3", ["hit"] * 6)
    queue = Queue(tmp_path / "waiting.jsonl")
    with open_log(tmp_path, url) as log:
        log.add(*tries[:2], ROUND)
        server.stop()
        with pytest.raises(ServerLostError):
            log.add(*tries[2:4])
        with pytest.raises(ServerLostError):
            open_log(tmp_path, url)
        # The second of those that came through is in doubt as well: its answer was lost.
        queue.add([tries[1], *tries[2:4]])
        queue.add([*tries[4:], replace(ROUND, ended=NOON)])
    with pytest.raises(ServerLostError):
        open_log_reading(tmp_path, url)
    server.start()
    with open_log(tmp_path, url) as log:
        assert queue.deliver(log) == 4 and queue.empty and queue.deliver(log) == 0
        assert [one.id for one in log.records(Try)] == [one.id for one in tries]
        assert [one.ended for one in log.records(Round)] == [NOON]


def test_the_queue_keeps_everything_where_delivering_fails(server: Server, url: str, tmp_path: Path) -> None:
    queue = Queue(tmp_path / "deep" / "waiting.jsonl")
    tries = tries_of("sounding-s", "F3", ["hit"] * 3)
    queue.add(tries)
    with queue.path.open("a") as file:
        file.write('{"kind": "try", "id": ')  # killed in the middle of a line
    log = open_log(tmp_path, url)
    server.stop()
    with pytest.raises(ServerLostError):
        queue.deliver(log)
    log.close()
    assert [one.id for one in queue.records()] == [one.id for one in tries]
    server.start()
    with open_log(tmp_path, url) as again:
        assert queue.deliver(again) == 3


def test_a_foreign_database_and_a_newer_log_are_left_alone(url: str, tmp_path: Path) -> None:
    import sqlalchemy as sa

    engine = sa.create_engine(url)
    with engine.begin() as connection:
        connection.exec_driver_sql("CREATE TABLE soundings (id int)")
    with pytest.raises(StoreError, match="tables of another program"):
        open_log(tmp_path, url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP TABLE soundings")
    with open_log(tmp_path, url) as log:
        log.add(CHANGE)
        assert [one.id for one in log.records(Change)] == [CHANGE.id]
    with engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(StoreError, match="newer version"):
        open_log(tmp_path, url)
    engine.dispose()
