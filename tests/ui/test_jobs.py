"""Jobs: off the interface thread, back on it; stopped, superseded, and every exception told."""

from __future__ import annotations

import gc
import logging
import threading
from typing import Any

import pytest
from PySide6.QtCore import Qt

from glimber.store.faults import StoreError
from glimber.ui.session.collector import Collector
from glimber.ui.session.jobs import Jobs, Work
from tests.ui.kinds import Settle


@pytest.fixture
def jobs(qtbot: Any) -> Any:
    made = Jobs()
    yield made
    made.close()


def test_a_result_comes_back_on_the_interface_thread(jobs: Jobs, settle: Settle) -> None:
    here, seen = threading.get_ident(), []
    jobs.run("sum", lambda work: (threading.get_ident(), 3), lambda result: seen.append((threading.get_ident(), *result)))
    assert jobs.running("sum") and jobs.names() == ["sum"]
    settle(lambda: bool(seen))
    back, there, value = seen[0]
    assert back == here and there != here and value == 3 and not jobs.running("sum")


def test_the_newest_of_a_name_wins_and_others_go_on(jobs: Jobs, settle: Settle) -> None:
    gate, seen = threading.Event(), []

    def slow(work: Work) -> str:
        gate.wait(5)
        work.go_on()
        return "old"

    jobs.run("read", slow, seen.append)
    jobs.run("other", lambda work: gate.wait(5) and "other", seen.append)
    jobs.run("read", lambda work: "new", seen.append)
    settle(lambda: "new" in seen)
    gate.set()
    settle(lambda: "other" in seen)
    assert seen == ["new", "other"]


def test_progress_and_stop(jobs: Jobs, settle: Settle) -> None:
    told: list[tuple[float, str]] = []
    ended, begun = threading.Event(), threading.Event()

    def counting(work: Work) -> int:
        try:
            begun.wait(5)
            for number in range(10_000):
                work.tell(number / 10_000, f"{number}")
                ended.wait(0.001)
            return 1
        finally:
            ended.set()

    seen: list[int] = []
    job = jobs.run("count", counting, seen.append)
    job.work.progressed.connect(lambda share, words: told.append((share, words)))
    begun.set()
    settle(lambda: len(told) > 3)
    jobs.stop("count")
    settle(ended.is_set)
    assert seen == [] and not jobs.running("count") and told[0] == (0.0, "0")
    jobs.stop("count")  # nothing to stop


@pytest.mark.parametrize(("error", "words", "level"), [
    (StoreError("a.toml: cannot be read"), "a.toml: cannot be read", "INFO"),
    (ValueError("not a number"), "not a number", "ERROR"),
    (KeyError("lead"), "KeyError: 'lead'. The log file has the rest.", "ERROR"),
    (RecursionError("too deep"), "RecursionError: too deep. The log file has the rest.", "ERROR"),
    (MemoryError(), "MemoryError: . The log file has the rest.", "ERROR"),
])  # fmt: skip
def test_every_exception_is_told_and_logged(jobs: Jobs, settle: Settle, caplog: pytest.LogCaptureFixture,
                                            error: Exception, words: str, level: str) -> None:  # fmt: skip
    told: list[tuple[str, str]] = []
    jobs.failed.connect(lambda name, text: told.append((name, text)))

    def fail(work: Work) -> None:
        raise error

    with caplog.at_level(logging.INFO, "glimber.jobs"):
        jobs.run("weighing", fail)
        settle(lambda: bool(told))
    assert told == [("weighing", words)]
    assert [record.levelname for record in caplog.records] == [level] and caplog.records[0].exc_info is not None
    taken: list[Exception] = []
    jobs.run("weighing", fail, failed=lambda error: bool(taken.append(error)) or True)
    settle(lambda: bool(taken))
    assert len(told) == 1 and taken == [error]


def test_nothing_is_left_hanging_and_nothing_begins_after_the_end(qtbot: Any) -> None:
    jobs, ended = Jobs(), threading.Event()

    def waiting(work: Work) -> None:
        while not work.stopped:
            ended.wait(0.01)
        ended.set()

    jobs.run("wait", waiting)
    jobs.close()
    assert ended.is_set()
    job = jobs.run("late", lambda work: 1 / 0)
    assert not job.running and not jobs.running("late")


def test_a_job_that_outlasts_the_end_tells_nobody(qtbot: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("glimber.ui.session.jobs._END_S", 0.01)
    jobs, may_end, told = Jobs(), threading.Event(), list[object]()
    job = jobs.run("long", lambda work: may_end.wait(5))
    jobs._ended.connect(told.append, Qt.ConnectionType.DirectConnection)
    jobs.close()
    may_end.set()
    job.future.exception(5)
    jobs._pool().shutdown(wait=True)  # its callbacks have run
    assert told == []


def test_what_gives_way_waits_while_it_is_held_and_can_be_stopped_then(jobs: Jobs, settle: Settle) -> None:
    at, seen = [0], list[object]()

    def counting(work: Work) -> str:
        while at[0] < 3:
            work.give_way()
            at[0] += 1
        return "done"

    jobs.hold(True)
    jobs.run("count", counting, seen.append)
    jobs.run("other", lambda work: work.go_on(), lambda _: seen.append("went on"))
    settle(lambda: seen == ["went on"])
    assert at == [0] and jobs.running("count")
    jobs.hold(False)
    settle(lambda: seen == ["went on", "done"])
    jobs.hold(True)
    at[0] = 0
    jobs.run("count", counting, seen.append).stop()
    jobs.hold(False)
    settle(lambda: not jobs.names())
    assert at == [0] and seen[2:] == []


class _Cycle:
    """Garbage that only a collection finds; notes the thread it is destroyed in."""

    def __init__(self, threads: list[int]) -> None:
        self.me, self.threads = self, threads

    def __del__(self) -> None:
        self.threads.append(threading.get_ident())


def test_garbage_of_a_worker_is_collected_on_the_interface_thread_while_the_loop_waits(
    qapp: Any, jobs: Jobs, settle: Settle
) -> None:
    collector, threads = Collector.of(qapp), list[int]()
    assert Collector.of(qapp) is collector and not gc.isenabled()
    collector.start()
    collector.start()  # as for a second window

    def work(work: Work) -> bool:
        for _ in range(3 * gc.get_threshold()[0]):
            _Cycle(threads)
        return True

    done: list[bool] = []
    jobs.run("garbage", work, done.append)
    settle(lambda: bool(done))
    settle(lambda: bool(threads))
    assert set(threads) == {threading.get_ident()}


def test_what_a_job_reports_to_ends_with_its_window(jobs: Jobs, settle: Settle) -> None:
    ended: list[str] = []
    job = jobs.run("short", lambda work: work.tell(1.0))
    job.work.destroyed.connect(lambda: ended.append("work"))
    assert job.work.parent() is jobs
    settle(lambda: ended == ["work"])
