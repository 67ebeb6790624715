"""Three real roles on one server: each has their own practice, and cannot read, alter, void or name anybody else's."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from msgspec.structs import replace

from glimber.core.practice.tries import Change, KeyEvents, Round, Try
from glimber.store.faults import StoreError
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


def test_each_ticks_a_change_of_the_folio_off_for_themselves(urls: dict[str, str], tmp_path: Path) -> None:
    def applied(role: str) -> object:
        with open_log(tmp_path, urls[role]) as log:
            return next(one.applied for one in log.records(Change) if one.id == "m-ada")

    with open_log(tmp_path, urls["ben"]) as log:
        log.update(replace(MOVED, applied=NOON))
    assert [applied(role) for role in ROLES] == [None, NOON, None]  # Ben has set it in his program; the others have not
    with open_log(tmp_path, urls["ada"]) as log:
        log.update(replace(MOVED, applied=NOON))
    with open_log(tmp_path, urls["ben"]) as log:
        log.update(MOVED)  # not set after all
    assert [applied(role) for role in ROLES] == [NOON, None, None]
    with open_log(tmp_path, urls["cid"]) as log:  # what comes from a file is ticked off by whoever had that file
        merge(log, [replace(MOVED, id="m-cid", applied=NOON)])
        assert {one.id: one.applied for one in log.records(Change)} == {"m-ada": None, "m-cid": NOON}
    assert carried_out(urls["ada"], "SELECT * FROM ticks") == 1 and carried_out(urls["ada"], "DELETE FROM people") == 0


def test_a_change_taken_back_is_taken_back_for_everybody(urls: dict[str, str], tmp_path: Path) -> None:
    with open_log(tmp_path, urls["ben"]) as log:
        log.update(replace(MOVED, reverted=NOON))
    with open_log(tmp_path, urls["cid"]) as log:
        assert [one.reverted for one in log.records(Change)] == [NOON]


def test_a_role_without_a_right_is_told_which(urls: dict[str, str], server: Server, tmp_path: Path) -> None:
    import sqlalchemy as sa

    engine = sa.create_engine(server.url)
    with engine.begin() as connection:
        connection.exec_driver_sql("REVOKE ALL ON ticks FROM cid")
    engine.dispose()
    with open_log(tmp_path, urls["cid"]) as log, pytest.raises(StoreError, match=r"no right to table ticks; .* glimber log grant"):
        log.records(Change)


def test_what_was_ticked_off_before_counts_for_all_and_rights_go_along(
    server: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    import sqlalchemy as sa
    from alembic import command

    for name in ("CONFIG", "STATE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name))
    own = server.url.replace("//office@", "//eve@")
    confirm_server(server.url)
    confirm_server(own)
    engine = sa.create_engine(server.url)
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP SCHEMA public CASCADE; CREATE SCHEMA public; DROP ROLE IF EXISTS eve; CREATE ROLE eve LOGIN")
    upgrade = command.upgrade
    with monkeypatch.context() as older:
        older.setattr("glimber.store.practice.schema.SCHEMA", "0004")
        older.setattr(command, "upgrade", lambda config, to: upgrade(config, "0004"))
        with open_log(tmp_path, server.url):
            pass
    with engine.begin() as connection:
        for statement in grants("eve"):
            if "ticks" not in statement:
                connection.exec_driver_sql(statement)
        connection.exec_driver_sql(
            "INSERT INTO changes (id, at, computer, binding, verdict, to_trigger, why, old_trigger, applied) VALUES"
            " ('m', '2026-11-01T00:00:00Z', 'c', 'range-d', 'move', 'F2', '', 'dead', '2026-11-02T00:00:00Z')"
        )
    with pytest.raises(StoreError, match=r"the role that made it brings it up to date|no right to schema"):
        open_log(tmp_path, own)
    with open_log(tmp_path, server.url):
        pass
    with open_log(tmp_path, own) as log:
        (change,) = log.records(Change)
        assert change.applied is not None
        log.update(replace(change, applied=None))
        assert log.records(Change)[0].applied is None
    with engine.begin() as connection:
        connection.exec_driver_sql("DROP OWNED BY eve; DROP ROLE eve")
    engine.dispose()


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
