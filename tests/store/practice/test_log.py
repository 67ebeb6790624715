"""The practice log: committed at once, merged by id, and left alone when it is not ours to touch."""

from __future__ import annotations

import json
import os
import signal
import sqlite3
import subprocess
import sys
from collections.abc import Iterator
from contextlib import closing, nullcontext
from datetime import datetime, timedelta, timezone
from pathlib import Path
from unittest.mock import Mock

import pytest
import sqlalchemy as sa
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.practice.log import Practice
from glimber.core.practice.tries import Change, KeyEvents, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice import jsonl
from glimber.store.practice.jsonl import all_lines, batches_of, parse_lines, to_json
from glimber.store.practice.location import SCHEMA, TABLES, refuse_foreign
from glimber.store.practice.log import Log, merge, merge_batches, open_log, read_key_events
from glimber.store.practice.opening import _write_ahead
from glimber.store.practice.uuid7 import uuid7
from tests.helpers import NOON, tries_of

TRY = replace(
    tries_of("sounding-s", "split-42:draw:KeyS:tap", [("neighbour", "split-42:draw:KeyD:tap", "shoalwright/depth-range")])[0],
    offset_u=(1.0, -0.1), cold=True, strict=True, aids=1,
)  # fmt: skip
ROUND = Round(uuid7(NOON), NOON, "bridge", "press", ("sounding-s", "range-d"), NOON + timedelta(minutes=3))
CHANGE = Change(uuid7(NOON), NOON, "bridge", "sounding-s", "move", "shoalwright/add-sounding", "a", "b", "why", "range-d", NOON)
EVENTS = KeyEvents(uuid7(NOON), ROUND.id, NOON, "split-42", ((0.0, "down", "KeyS"), (70.5, "up", "KeyS")))
RECORDS = [TRY, ROUND, CHANGE, EVENTS]


@pytest.fixture
def log(tmp_path: Path) -> Iterator[Log]:
    with open_log(tmp_path, "practice.db") as log:
        yield log


def test_what_is_added_comes_back_as_it_was(log: Log) -> None:
    log.add(*RECORDS)
    for record in RECORDS:
        assert log.records(type(record)) == [record]
    assert log.practice() == Practice((TRY,), (CHANGE,), (ROUND,))
    log.update(replace(ROUND, ended=None))
    assert log.records(Round)[0].ended is None
    log.close()


def test_records_come_in_order_of_time(log: Log) -> None:
    rows = tries_of("range-d", "F2", ["hit"] * 9)
    log.add(*reversed(rows))
    assert log.records(Try) == rows
    log.close()


def test_the_tries_of_one_round_are_those_and_no_others(log: Log) -> None:
    mine, others = tries_of("sounding-s", "T", ["hit"] * 5, round_size=5), tries_of("range-d", "T", ["hit"] * 3)
    log.add(*others, *reversed(mine))
    assert log.tries_of_round(mine[0].round) == mine and log.tries_of_round("no-such-round") == []


def test_one_transaction_is_all_or_nothing(log: Log) -> None:
    log.add(TRY)
    with pytest.raises(StoreError, match="UNIQUE constraint failed"):
        log.add(ROUND, TRY)
    assert log.records(Round) == []
    log.close()


KILLED = """
import sys
from pathlib import Path
from unittest.mock import Mock
from glimber.store.practice.log import open_log
from tests.helpers import tries_of
log = open_log(Path(sys.argv[1]), "practice.db")
for one in tries_of("range-d", "F2", ["hit"] * 5000):
    log.add(one)
    print(one.id, flush=True)
"""


def test_a_commit_is_forced_to_the_disk(log: Log) -> None:
    pragma = {name: log.connection.exec_driver_sql(f"PRAGMA {name}").scalar() for name in ("synchronous", "journal_mode")}
    assert pragma == {"synchronous": 2, "journal_mode": "wal"}  # 2: FULL


@pytest.mark.parametrize(
    ("said", "wait_s", "good"), [("database is locked", 5.0, True), ("database is locked", 0.0, False), ("disk I/O error", 5.0, False)]
)
def test_going_over_is_tried_again_only_while_another_does(said: str, wait_s: float, good: bool) -> None:
    errors = [sa.exc.OperationalError("", None, sqlite3.OperationalError(said)) for _ in range(2)]
    connection = Mock(exec_driver_sql=Mock(side_effect=[*errors, None, None]))
    with nullcontext() if good else pytest.raises(sa.exc.OperationalError):
        _write_ahead(connection, wait_s)
    # Twice refused, then over and looked at; a disk that fails once more while it goes back from WAL is told.
    assert connection.exec_driver_sql.call_count == {"database is locked": 4 if good else 1, "disk I/O error": 2}[said]


def test_a_process_killed_at_any_moment_loses_no_try_it_added(tmp_path: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", KILLED, str(tmp_path)], stdout=subprocess.PIPE, text=True,
                               cwd=Path(__file__).parents[3])  # fmt: skip
    assert process.stdout is not None
    told = [process.stdout.readline().strip() for _ in range(300)]
    os.kill(process.pid, signal.SIGKILL)
    told += process.stdout.read().split()
    process.stdout.close()
    process.wait()
    with open_log(tmp_path, "practice.db") as log:
        kept = {one.id for one in log.records(Try)}
    assert len(told) >= 300 and {id for id in told if len(id) == 36} <= kept


@pytest.mark.parametrize(("version", "told"), [
    ("0999", rf"of a newer version \(0999\); this Glimber reads up to {SCHEMA}"), ("0000", "a version that is not known here"),
])  # fmt: skip
def test_a_log_of_a_version_that_is_not_ours_is_left_alone(tmp_path: Path, version: str, told: str) -> None:
    open_log(tmp_path, "practice.db").close()
    with closing(sqlite3.connect(tmp_path / "practice.db")) as raw, raw:
        raw.execute("UPDATE alembic_version SET version_num = ?", (version,))
    before = (tmp_path / "practice.db").read_bytes()
    with pytest.raises(StoreError, match=told):
        open_log(tmp_path, "practice.db")
    assert (tmp_path / "practice.db").read_bytes() == before


@pytest.mark.parametrize("how", ["text", "overwritten"])
def test_a_damaged_log_is_told_and_left_alone(tmp_path: Path, how: str) -> None:
    path = tmp_path / "practice.db"
    if how == "text":
        path.write_text("this is no log at all, but a note about one\n" * 60)
    else:
        with open_log(tmp_path, "practice.db") as log:
            log.add(*tries_of("range-d", "F2", ["hit"] * 400))
        raw = sqlite3.connect(path)
        raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        raw.close()
        data = bytearray(path.read_bytes())
        data[4096:] = b"\x55" * (len(data) - 4096)
        path.write_bytes(bytes(data))
    before = path.read_bytes()
    with pytest.raises(StoreError, match="damaged or not a log"):
        open_log(tmp_path, "practice.db")
    assert path.read_bytes() == before


def test_a_folder_without_a_log_and_one_that_is_not_there(tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="there is no practice log yet"):
        open_log(tmp_path, "practice.db", create=False)
    with pytest.raises(StoreError, match="check that the folder is there and its permissions"):
        open_log(tmp_path / "gone", "practice.db")


def test_a_log_made_by_many_at_once_is_made_once(tmp_path: Path) -> None:
    import threading

    failed: list[BaseException] = []

    def use(number: int) -> None:
        try:
            with open_log(tmp_path, "practice.db") as log:
                log.add(*tries_of(f"b{number}", "F2", ["hit"]))
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=use, args=(number,)) for number in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not failed
    with open_log(tmp_path, "practice.db") as log:
        assert log.count(Try) == 6


def test_whoever_looks_while_a_log_is_made_sees_none_or_all_of_it(tmp_path: Path) -> None:
    """A log half made was taken for the database of another program by whoever came in that moment."""
    path, seen = tmp_path / "practice.db", []

    def look(*_: object) -> None:
        seen.append(refuse_foreign(path))

    sa.event.listen(sa.Engine, "after_cursor_execute", look)
    try:
        open_log(tmp_path, "practice.db").close()
    finally:
        sa.event.remove(sa.Engine, "after_cursor_execute", look)
    assert set(seen) == {None, SCHEMA} or set(seen) == {None}
    assert len(seen) > len(TABLES)
    assert refuse_foreign(path) == SCHEMA


def test_merging_can_be_repeated_and_goes_in_either_direction(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    mine, theirs = tries_of("range-d", "F2", ["hit"] * 6), tries_of("sounding-s", "F3", ["blank"] * 4)
    with open_log(tmp_path / "a", "p.db") as a, open_log(tmp_path / "b", "p.db") as b:
        a.add(ROUND, *mine)
        b.add(*theirs, mine[0])
        from_b, from_a = parse_lines("\n".join(all_lines(b))), parse_lines("\n".join(all_lines(a)))
        assert merge(a, from_b.records) == 4
        assert merge(a, from_b.records) == 0
        assert merge(b, from_a.records) == 6
        assert sorted(all_lines(a)) == sorted(all_lines(b))


def test_lines_carry_their_kind_and_read_back() -> None:
    for record in RECORDS:
        line = to_json(record)
        assert json.loads(line)["kind"] in ("try", "round", "change", "events")
        assert parse_lines(line).records == [record]


def test_bad_lines_are_told_and_the_rest_is_read() -> None:
    good = to_json(TRY)
    found = parse_lines("\n".join([good, "{", '{"kind": "song"}', '{"kind": "try", "id": "x"}', "", good.replace('"hit"', "1")]))
    assert found.read == 5 and len(found.records) >= 1
    assert [bad["line"] for bad in found.bad][:3] == [2, 3, 4]
    assert "not JSON" in found.bad[0]["text"] and "expected one of try" in found.bad[1]["text"]


def test_a_long_file_is_merged_in_batches_of_one_transaction(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jsonl, "BATCH", 3)
    made = tries_of("range-d", "F2", ["hit"] * 7)
    lines = [to_json(one) for one in made]
    file = tmp_path / "tries.jsonl"
    file.write_text("\n".join([*lines[:4], "{", *lines[2:], ""]))  # two of them stand there twice, in two batches
    batches = list(batches_of(file))
    assert [batch.read for batch in batches] == [3, 3, 3, 1] and [one["line"] for batch in batches for one in batch.bad] == [5]
    file.write_bytes(file.read_bytes() + b"\xff\n")
    with open_log(tmp_path, "practice.db") as log:
        with pytest.raises(StoreError, match="not UTF-8"):
            merge_batches(log, (batch.records for batch in batches_of(file)))
        assert log.count(Try) == 0  # none of the batches before it
        assert merge_batches(log, (batch.records for batch in batches)) == 7 and log.changed == 7
        assert merge_batches(log, (batch.records for batch in batches)) == 0
        assert log.records(Try) == sorted(made, key=lambda one: (one.at, one.id))


@given(st.text(max_size=120))
def test_no_text_brings_down_the_reader_of_lines(text: str) -> None:
    found = parse_lines(text)
    assert found.read == len(found.records) + len(found.bad)


def test_ids_sort_by_time_and_are_version_seven() -> None:
    early, late = uuid7(NOON), uuid7(NOON + timedelta(seconds=1))
    assert early < late and early[14] == "7" and len({uuid7(NOON) for _ in range(100)}) == 100


def test_an_id_is_that_of_the_standard() -> None:
    """RFC 9562, the example of A.6."""
    at = datetime(2022, 2, 22, 14, 22, 22, tzinfo=timezone(-timedelta(hours=5)))
    assert (
        uuid7(at, 0xCC3 << 62 | 0x18C4DC0C0C07398F)
        == "017f22e2-79b0-7cc3-98c4-dc0c0c07398f"
        == uuid7(at, 1 << 74 | 0xCC3 << 62 | 0x18C4DC0C0C07398F)
    )


def test_there_are_no_key_events_where_there_is_no_log_yet(tmp_path: Path) -> None:
    assert read_key_events(tmp_path, "practice.db") == []
    assert not (tmp_path / "practice.db").exists()
