"""Three real roles on one server: each has their own practice, and cannot read, alter, void or name anybody else's."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from msgspec.structs import replace

from glimber.core.practice.tries import Change, KeyEvents, Round, Try
from glimber.store.practice.grants import grants
from glimber.store.practice.location import confirm_server
from glimber.store.practice.log import merge, open_log
from glimber.store.practice.team import team_figures
from tests.helpers import NOON, tries_of
from tests.server import Server, programs, running
from tests.store.practice.test_log import EVENTS, ROUND

pytest.importorskip("psycopg")
if programs() is None:
    pytest.fail("PostgreSQL is missing: run script/test, or apt-get install postgresql")
ROLES = ("ada", "ben", "cid")
MOVED = Change("m-ada", NOON, "bridge", "range-d", "move", "shoalwright/depth-range", "F1", "F2", "nearer")
MISSED = Change("x-ada", NOON, "bridge", "range-d", "missed", "shoalwright/depth-range", "F2")


@pytest.fixture(scope="module")
def server() -> Iterator[Server]:
    yield from running()


@pytest.fixture
def urls(server: Server, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[dict[str, str]]:
    """The address of each role, on a log that the administrator has made; each has practised."""
    import sqlalchemy as sa

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    engine = sa.create_engine(server.url)
    confirm_server(server.url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
        for role in ROLES:
            connection.exec_driver_sql(f"DROP ROLE IF EXISTS {role}")
            connection.exec_driver_sql(f"CREATE ROLE {role} LOGIN")
    with open_log(tmp_path, server.url):
        pass
    with engine.begin() as connection:
        for role in ROLES:
            for statement in grants(role):
                connection.exec_driver_sql(statement)
    found = {role: server.url.replace("//office@", f"//{role}@") for role in ROLES}
    for role, url in found.items():
        confirm_server(url)
        with open_log(tmp_path, url) as log:
            tries = [replace(one, id=f"{role}-{place}") for place, one in enumerate(tries_of("range-d", "F2", ["hit"] * 9))]
            log.add(*tries, replace(ROUND, id=f"r-{role}"), replace(EVENTS, id=f"e-{role}"))
            if role == "ada":
                log.add(MOVED, MISSED)
    yield found
    with engine.begin() as connection:
        for role in ROLES:
            connection.exec_driver_sql(f"DROP OWNED BY {role}; DROP ROLE {role}")
    engine.dispose()


def carried_out(url: str, statement: str) -> int:
    """How many rows a statement reaches as the role of an address."""
    import sqlalchemy as sa

    engine = sa.create_engine(url)
    try:
        with engine.begin() as connection:
            return int(connection.exec_driver_sql(statement).rowcount)
    finally:
        engine.dispose()


def test_each_sees_their_own_tries_rounds_key_streams_and_missed(urls: dict[str, str], tmp_path: Path) -> None:
    for role, url in urls.items():
        with open_log(tmp_path, url) as log:
            assert {one.id for one in log.records(Try)} == {f"{role}-{place}" for place in range(9)}
            assert [one.id for one in log.records(Round)] == [f"r-{role}"]
            assert [one.id for one in log.records(KeyEvents)] == [f"e-{role}"]
            assert {one.id for one in log.records(Change)} == ({"m-ada", "x-ada"} if role == "ada" else {"m-ada"})
            assert {id for id in log.ids() if id.startswith(("ada-", "ben-", "cid-"))} == {f"{role}-{place}" for place in range(9)}


@pytest.mark.parametrize("statement", [
    "SELECT * FROM tries WHERE id LIKE 'ada-%%'",
    "SELECT * FROM events WHERE id = 'e-ada'",
    "UPDATE tries SET outcome = 'void' WHERE id = 'ada-1'",
    "UPDATE tries SET owner = 'ben' WHERE id = 'ada-1'",
    "UPDATE rounds SET ended = NULL WHERE id = 'r-ada'",
    "UPDATE changes SET verdict = 'keep' WHERE id = 'x-ada'",
])  # fmt: skip
def test_nobody_reaches_the_rows_of_another(urls: dict[str, str], statement: str) -> None:
    assert carried_out(urls["ben"], statement) == 0
    assert carried_out(urls["ada"], statement.replace("owner = 'ben'", "owner = owner")) >= 1


@pytest.mark.parametrize("statement", [
    "UPDATE changes SET to_trigger = 'F9' WHERE id = 'm-ada'",
    "DELETE FROM tries",
    "UPDATE events SET events = '[]'",
    "INSERT INTO tries (id, owner, round, nth, at, computer, binding, \"trigger\", mode, strict, outcome, first, cold, aids)"
    " VALUES ('f', 'ada', 'r', 1, '2026-01-01T00:00:00Z', 'c', 'b', 'F2', 'press', false, 'hit', true, true, 0)",
    "INSERT INTO people (person, name, owner) VALUES ('x', 'Ada', 'ada')",
    "ALTER TABLE tries DISABLE ROW LEVEL SECURITY",
    "DROP POLICY glimber_see ON tries",
])  # fmt: skip
def test_what_would_forge_or_alter_is_refused(urls: dict[str, str], statement: str) -> None:
    import sqlalchemy as sa

    with pytest.raises(sa.exc.DBAPIError):
        carried_out(urls["ben"], statement)


def test_a_change_of_the_folio_is_ticked_off_by_others(urls: dict[str, str], tmp_path: Path) -> None:
    with open_log(tmp_path, urls["ben"]) as log:
        log.update(replace(MOVED, applied=NOON))
        assert log.records(Change)[0].applied == NOON


def test_only_spreads_of_three_are_given_and_nobody_is_named_by_another(urls: dict[str, str], tmp_path: Path) -> None:
    with open_log(tmp_path, urls["ben"]) as log:
        (row,) = team_figures(log, {"range-d": "F2"})
        assert (row.people, row.named) == (3, ()) and row.clean is not None
        log.be_named("Ben")
        assert [one.name for one in team_figures(log, {"range-d": "F2"})[0].named] == ["Ben"]
    assert carried_out(urls["ada"], "DELETE FROM people") == 0
    with open_log(tmp_path, urls["cid"]) as log:
        assert [one.name for one in team_figures(log, {"range-d": "F2"})[0].named] == ["Ben"]


def test_another_person_in_the_settings_shows_nobody_elses_rows(urls: dict[str, str], tmp_path: Path) -> None:
    from glimber.store.settings import remember

    remember(person="ada")
    with open_log(tmp_path, urls["ben"]) as log:
        assert not any(one.id.startswith("ada-") for one in log.records(Try))


def test_merging_ones_own_file_again_changes_nothing(urls: dict[str, str], tmp_path: Path) -> None:
    with open_log(tmp_path, urls["ben"]) as log:
        mine = log.records(Try)
        assert merge(log, mine) == 0 and log.count(Try) == len(mine)


def test_records_from_before_there_were_owners_go_to_their_roles(server: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import hashlib

    import sqlalchemy as sa

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    confirm_server(server.url)
    engine = sa.create_engine(server.url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP SCHEMA public CASCADE; CREATE SCHEMA public; DROP ROLE IF EXISTS dot; CREATE ROLE dot LOGIN")
    monkeypatch.setattr("glimber.store.practice.schema.SCHEMA", "0003")
    from alembic import command

    upgrade = command.upgrade
    with monkeypatch.context() as older:
        older.setattr(command, "upgrade", lambda config, to: upgrade(config, "0003"))
        with open_log(tmp_path, server.url) as log:
            log.add(*tries_of("range-d", "F2", ["hit"] * 2))
    digest = hashlib.sha256(b"glimber person dot").hexdigest()[:24]
    with engine.begin() as connection:
        connection.exec_driver_sql(f"UPDATE tries SET person = '{digest}'")
    monkeypatch.undo()
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    with open_log(tmp_path, server.url):
        pass
    with engine.begin() as connection:
        assert set(connection.exec_driver_sql("SELECT DISTINCT owner FROM tries").scalars()) == {"dot"}
        connection.exec_driver_sql("DROP ROLE dot")
    engine.dispose()
