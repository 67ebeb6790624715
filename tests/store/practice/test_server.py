"""The practice log on a real PostgreSQL server: the same log as in a file, lost connections, and what waits meanwhile."""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import pytest
from msgspec.structs import replace
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.tries import Change, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice.grants import apply_grants, grants
from glimber.store.practice.jsonl import all_lines
from glimber.store.practice.location import ServerLostError, confirm_server
from glimber.store.practice.log import merge, open_log, open_log_reading, read_practice
from glimber.store.practice.team import Spread, team_figures
from glimber.store.practice.waiting_file import WaitingFile
from glimber.store.settings import remember
from tests.helpers import NOON, tries_of, write_folio
from tests.server import Server, programs, running
from tests.store.practice.test_log import CHANGE, EVENTS, ROUND, TRY

pytest.importorskip("psycopg")
if programs() is None:
    pytest.fail("PostgreSQL is missing: run script/test, or apt-get install postgresql")


@pytest.fixture(scope="module")
def server() -> Iterator[Server]:
    yield from running()


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


def test_a_server_that_goes_away_is_told_as_lost_and_what_waits_is_delivered_once(server: Server, url: str, tmp_path: Path) -> None:
    tries = tries_of("sounding-s", "F3", ["hit"] * 6)
    queue = WaitingFile(tmp_path / "waiting.jsonl")
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
        assert queue.deliver(log).new == 4 and queue.is_empty and queue.deliver(log).new == 0
        assert [one.id for one in log.records(Try)] == [one.id for one in tries]
        assert [one.ended for one in log.records(Round)] == [NOON]


def test_the_queue_keeps_everything_where_delivering_fails(server: Server, url: str, tmp_path: Path) -> None:
    queue = WaitingFile(tmp_path / "deep" / "waiting.jsonl")
    tries = tries_of("sounding-s", "F3", ["hit"] * 3)
    queue.add(tries)
    assert queue.path.parent.stat().st_mode & 0o777 == 0o700
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
        assert queue.deliver(again).new == 3


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


# A team on one server


def as_person(name: str) -> None:
    remember(person=name)


def test_each_person_sees_their_own_practice_and_the_folios_changes(url: str, tmp_path: Path) -> None:
    tries = {who: tries_of("range-d", "F2", ["hit"] * n) for who, n in (("ada", 9), ("ben", 12))}
    moved = Change("m1", NOON, "bridge", "range-d", "move", "shoalwright/depth-range", "F1", "F2", "nearer")
    missed = Change("m2", NOON, "bridge", "range-d", "missed", "shoalwright/depth-range", "F2")
    with open_log(tmp_path, url) as before:  # from before there were people: everybody's
        before.person = None
        before.add(TRY)
    for who, rows in tries.items():
        as_person(who)
        with open_log(tmp_path, url) as log:
            log.add(*rows, replace(ROUND, id=f"r-{who}"))
            if who == "ada":
                log.add(moved, missed)
            assert log.count(Try) == len(rows) + 1
            assert [one.id for one in log.records(Round)] == [f"r-{who}"]
            assert [one.id for one in log.records(Change)] == (["m1", "m2"] if who == "ada" else ["m1"])
    assert {one.id for one in read_practice(tmp_path, url).tries} == {one.id for one in [*tries["ben"], TRY]}
    as_person("")
    with open_log(tmp_path, url) as log:  # by the server's name for the user, on every computer of theirs
        assert log.count(Try) == 1


def test_the_spread_over_people_names_nobody_who_has_not_agreed(url: str, tmp_path: Path) -> None:
    clean = {"ada": 10, "ben": 8, "cid": 5, "dot": 2}
    for who, hits in clean.items():
        as_person(who)
        with open_log(tmp_path, url) as log:
            log.add(*tries_of("range-d", "F2", ["hit"] * hits + ["blank"] * (10 - hits), recall_ms=500 + 100 * len(who)))
            log.add(*tries_of("range-d", "F1", ["blank"] * 9))  # under a former trigger
            log.add(*tries_of("sounding-s", "F3", ["hit"] * (7 if who == "ada" else 8 if who in ("ben", "cid") else 0)))
            if who == "cid":
                log.be_named("Cid")
    with open_log(tmp_path, url) as log:
        found = {row.binding: row for row in team_figures(log, {"range-d": "F2", "sounding-s": "F3", "lead-line": "F4"})}
        row = found["range-d"]
        assert (row.people, row.tries) == (4, 40) and set(found) == {"range-d", "sounding-s"}
        assert row.clean == Spread(0.2, pytest.approx(0.425), pytest.approx(0.65), pytest.approx(0.85), 1.0)  # type: ignore[arg-type]
        assert [one.name for one in row.named] == ["Cid"] and row.named[0].clean == 0.5
        # Seven tries are one too few, and two people are too few for a spread.
        assert (found["sounding-s"].people, found["sounding-s"].tries) == (2, 0) and found["sounding-s"].clean is None
    as_person("cid")
    with open_log(tmp_path, url) as log:
        log.be_named("")
        assert all(not row.named for row in team_figures(log, {"range-d": "F2"}))


def test_the_teams_figures_from_the_command_line(url: str, tmp_path: Path) -> None:
    folder = write_folio(tmp_path / "small")
    for who in ("ada", "ben", "cid"):
        as_person(who)
        with open_log(folder, url) as log:
            log.add(*tries_of("show-desktop", "Super+D", ["hit"] * 9))
    runner = CliRunner()
    alone = runner.invoke(app, ["weigh", str(folder), "--team", "--json"])
    assert alone.exit_code == 2 and "need a practice log on a server" in alone.stderr
    # On this computer this person keeps it on the server, whatever the folio says.
    assert runner.invoke(app, ["confirm-log", str(folder), "--log", url]).exit_code == 0
    found = runner.invoke(app, ["weigh", str(folder), "--team", "--name", "Cid", "--json"])
    assert found.exit_code == 0, found.stderr
    nobody = runner.invoke(app, ["weigh", str(folder), "--team", "--binding", "range-d"])
    assert nobody.stdout == "Nobody has practised this yet. Spreads are shown once three people have.\n"
    (row,) = json.loads(found.stdout)["bindings"]
    assert (row["id"], row["people"], row["clean"]["middle"], row["named"][0]["name"]) == ("show-desktop", 3, 1.0, "Cid")
    assert "log" not in (folder / "folio.toml").read_text()
    assert runner.invoke(app, ["confirm-log", str(folder), "--as-folio"]).exit_code == 0
    assert runner.invoke(app, ["weigh", str(folder), "--team"]).exit_code == 2


@pytest.mark.parametrize("table", ["tries", "rounds", "changes", "alembic_version"])
def test_a_held_table_is_an_error_and_not_a_wait(url: str, tmp_path: Path, table: str) -> None:
    """Another program holds a table: reading and writing end with a sentence, and what is practised waits in its file."""
    import sqlalchemy as sa

    folder = write_folio(tmp_path / "small")
    settings = folder / "folio.toml"
    settings.write_text(settings.read_text().replace("title = ", f'log = "{url}"\ntitle = ', 1))
    with open_log(folder, url) as log:
        log.add(TRY)
    engine = sa.create_engine(url)
    with engine.begin() as other:
        other.exec_driver_sql(f"LOCK TABLE {table} IN ACCESS EXCLUSIVE MODE")
        answer = CliRunner().invoke(app, ["weigh", str(folder), "--json"])
        assert answer.exit_code == 2 and "another program holds the tables" in answer.stderr
        waiting = WaitingFile(tmp_path / "state" / "waiting.jsonl")
        waiting.add(tries_of("sounding-s", "F3", ["hit"]))
        with pytest.raises(ServerLostError, match="another program holds"), open_log(folder, url) as log:
            waiting.deliver(log)
        assert len(waiting.records()) == 1
    with open_log(folder, url) as log:
        assert waiting.deliver(log).new == 1
    engine.dispose()


def test_a_role_is_granted_what_keeping_practice_needs_and_no_more(url: str, tmp_path: Path) -> None:
    import sqlalchemy as sa

    folder = tmp_path / "small"
    folder.mkdir()
    (folder / "folio.toml").write_text(f'format = "glimber-folio/1"\ntitle = "Small"\nlog = "{url}"\n')
    engine = sa.create_engine(url)
    with engine.begin() as connection:
        connection.exec_driver_sql('DROP ROLE IF EXISTS "tide: \'watch\'"')
        connection.exec_driver_sql('CREATE ROLE "tide: \'watch\'"')
    role = "tide: 'watch'"
    printed = CliRunner().invoke(app, ["log", "grant", str(folder), role, "--json"])
    with open_log(tmp_path, url) as log:
        log.add(TRY, CHANGE, EVENTS)
    done = CliRunner().invoke(app, ["log", "grant", str(folder), role, "--apply", "--json"])
    assert done.exit_code == 0, done.output
    assert json.loads(done.output) == json.loads(printed.output)
    can = "SELECT has_table_privilege(:role, :table, :what)"
    expected = {("tries", "SELECT"): True, ("tries", "INSERT"): True, ("tries", "UPDATE"): True, ("tries", "DELETE"): False,
                ("events", "UPDATE"): False, ("alembic_version", "SELECT"): True, ("alembic_version", "UPDATE"): False,
                ("people", "DELETE"): True, ("people", "TRUNCATE"): False}  # fmt: skip
    with engine.begin() as connection:
        found = {one: connection.execute(sa.text(can), {"role": role, "table": one[0], "what": one[1]}).scalar()
                 for one in expected}  # fmt: skip
        assert found == expected
        connection.exec_driver_sql('DROP OWNED BY "tide: \'watch\'"; DROP ROLE "tide: \'watch\'"')
    engine.dispose()
    unknown = CliRunner().invoke(app, ["log", "grant", str(folder), "nobody", "--apply"])
    assert unknown.exit_code == 2 and 'role "nobody" does not exist' in unknown.output


@pytest.mark.parametrize("role", ["", "x" * 64, "a\nb"])
def test_what_is_no_role_is_refused(role: str, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="no name of a role"):
        grants(role)


def test_a_log_in_a_file_has_no_roles(tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="is a file of this folio"):
        apply_grants(tmp_path, "practice.db", "surveyor")
