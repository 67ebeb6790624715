"""Tries read as columns are the tries that were written, however they are read: quickly, plainly, again after more came."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.practice.columns import TryColumns, TryRows
from glimber.core.practice.slip_kinds import SLIP_KINDS
from glimber.core.practice.tries import MODES, OUTCOMES, Try
from glimber.store.practice import incremental as latest
from glimber.store.practice.log import Log, merge, open_log, read_practice
from glimber.store.practice.uuid7 import uuid7
from tests.helpers import NOON

TEXTS = st.one_of(st.none(), st.sampled_from(["Ctrl+S", "split-42:draw:KeyD:tap", "ä|\x1f", ""]))
TIMES = st.one_of(st.none(), st.floats(0, 1e5))


@st.composite
def tries(draw: st.DrawFn) -> Try:
    at = NOON + timedelta(milliseconds=draw(st.integers(0, 10**6)))
    offset = draw(st.one_of(st.none(), st.tuples(st.floats(-9, 9), st.floats(-9, 9))))
    return Try(uuid7(at), draw(st.sampled_from(["r1", "r2"])), draw(st.integers(0, 99)), at, draw(st.sampled_from(["a", "b"])),
               "sounding-s", "split-42:draw:KeyS:tap", draw(st.sampled_from(MODES)), draw(st.sampled_from(OUTCOMES)),  # type: ignore[arg-type]
               draw(st.booleans()), draw(st.one_of(st.none(), st.sampled_from(SLIP_KINDS))), draw(TEXTS), draw(TEXTS),  # type: ignore[arg-type]
               offset, draw(TIMES), draw(TIMES), draw(st.sampled_from([4000.0, 1500.5])), draw(st.booleans()), draw(st.booleans()),
               draw(st.integers(0, 5)), draw(TEXTS))  # fmt: skip


def in_time(rows: list[Try]) -> list[Try]:
    return sorted(rows, key=lambda one: (one.at, one.nth, one.id))


@given(st.lists(tries(), max_size=12))
def test_columns_give_back_the_tries_they_were_made_of(rows: list[Try]) -> None:
    assert list(TryRows(TryColumns.of(rows))) == rows and TryRows(TryColumns.of(rows)) == tuple(rows)
    half = len(rows) // 2
    more = TryColumns.of(in_time(rows[:half])).with_more(TryColumns.of(in_time(rows[half:])))
    assert in_time(list(TryRows(more))) == in_time(rows)


def read(log: Log) -> list[Try]:
    return in_time(list(log.practice().tries))


@settings(max_examples=30)  # each opens a log of its own
@given(st.lists(tries(), min_size=1, max_size=12))
def test_a_log_is_read_as_it_was_written(tmp_path_factory: pytest.TempPathFactory, rows: list[Try]) -> None:
    with open_log(tmp_path_factory.mktemp("log"), "practice.db") as log:
        log.add(*rows)
        found = log.practice().tries
        assert read(log) == in_time(rows)
        assert [one.at for one in found] == sorted(one.at for one in rows)


def some(count: int, at: int = 0) -> list[Try]:
    moments = [NOON + timedelta(seconds=at + place) for place in range(count)]
    return [Try(uuid7(one), "r", place, one, "a", "sounding-s", "t", "press", "hit", recall_ms=500.25)
            for place, one in enumerate(moments)]  # fmt: skip


def test_reading_again_takes_what_came_since_and_notices_what_is_not_as_it_was(tmp_path: Path) -> None:
    path = tmp_path / "practice.db"
    with open_log(tmp_path, "practice.db") as log:
        first, more, early = some(5), some(3, 100), some(2, -500)
        log.add(*first)
        assert read(log) == first
        log.add(*more)
        assert read(log) == [*first, *more]
        assert merge(log, early) == 2  # older ones from another computer
        assert read(log) == in_time([*early, *first, *more])
        log.connection.exec_driver_sql("DELETE FROM tries WHERE id = ?", (first[2].id,))
        log.connection.commit()
        assert read(log) == in_time([*early, *first[:2], *first[3:], *more])
    path.unlink()
    with open_log(tmp_path, "practice.db") as log:
        log.add(*more)
        assert read(log) == more
    assert list(read_practice(tmp_path, "practice.db").tries) == more


def test_only_the_new_rows_are_read_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import glimber.store.practice.bulk_read as quick

    with open_log(tmp_path, "practice.db") as log:
        log.add(*some(4))
        log.practice()
        monkeypatch.setattr(quick, "quick_columns", lambda driver: pytest.fail("all of it was read again"))
        log.add(*some(2, 50))
        assert len(log.practice().tries) == 6
    latest._KEPT.clear()


def test_what_no_log_has_is_told(tmp_path: Path) -> None:
    from glimber.store.faults import StoreError

    with open_log(tmp_path, "practice.db") as log:
        log.add(*some(3))
        log.connection.exec_driver_sql("UPDATE tries SET outcome = 'hat' WHERE nth = 1")
        log.connection.commit()
        with pytest.raises(StoreError, match="outcome is 'hat'; expected one of hit, slip, blank, void"):
            log.practice()


def test_a_moment_written_elsewhere_is_read_too(tmp_path: Path) -> None:
    (one,) = some(1)
    with open_log(tmp_path, "practice.db") as log:
        log.add(one, replace(some(1, 9)[0], nth=1))
        log.connection.exec_driver_sql("UPDATE tries SET at = '2026-11-20T13:00:00+01:00' WHERE nth = 0")
        log.connection.commit()
        assert log.practice().tries[0].at == NOON
