"""Records that wait for a server: nothing is lost between the file and the server, whatever happens in between."""

from __future__ import annotations

import multiprocessing
import resource
import signal
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import pytest

from glimber.core.practice.tries import Record, Try
from glimber.store.faults import StoreError
from glimber.store.practice.jsonl import to_json
from glimber.store.practice.log import Log, open_log
from glimber.store.practice.waiting_file import WaitingFile
from tests.helpers import tries_of

TRIES = tries_of("sounding-s", "F3", ["hit"] * 8)


@pytest.fixture
def waiting(tmp_path: Path) -> WaitingFile:
    return WaitingFile(tmp_path / "state" / "waiting.jsonl")


class Meanwhile:
    """A log during whose write something else happens."""

    def __init__(self, log: Log, happens: Callable[[], None]) -> None:
        self._log, self._happens = log, happens

    def ids(self) -> set[str]:
        return self._log.ids()

    def write(self, added: Iterable[Record], updated: Iterable[Record] = ()) -> None:
        self._log.write(added, updated)
        happens, self._happens = self._happens, lambda: None
        happens()


def known(folder: Path) -> list[str]:
    with open_log(folder, "practice.db") as log:
        return [one.id for one in log.records(Try)]


@pytest.mark.parametrize("added", [1, 5])
def test_what_is_added_while_it_is_delivered_is_delivered_too(waiting: WaitingFile, tmp_path: Path, added: int) -> None:
    waiting.add(TRIES[:2])
    with open_log(tmp_path, "practice.db") as log:
        meanwhile: Any = Meanwhile(log, lambda: waiting.add(TRIES[2 : 2 + added]))
        assert waiting.deliver(meanwhile).new == 2 + added
    assert waiting.is_empty and known(tmp_path) == [one.id for one in TRIES[: 2 + added]]


def test_a_delivery_that_fails_keeps_everything_and_goes_on_where_it_was(waiting: WaitingFile, tmp_path: Path) -> None:
    waiting.add(TRIES[:3])

    def lost() -> None:
        raise StoreError("the connection was lost after the commit")

    with open_log(tmp_path, "practice.db") as log:
        broken: Any = Meanwhile(log, lost)
        with pytest.raises(StoreError):
            waiting.deliver(broken)
        assert [one.id for one in waiting.records()] == [one.id for one in TRIES[:3]]
        waiting.add(TRIES[3:5])
        assert waiting.deliver(log).new == 2  # the first three are known by their ids
    assert waiting.is_empty and known(tmp_path) == [one.id for one in TRIES[:5]]


def _add_all(path: Path, tries: list[Try]) -> None:
    for one in tries:
        WaitingFile(path).add([one])


def test_two_processes_add_while_a_third_delivers(waiting: WaitingFile, tmp_path: Path) -> None:
    tries = tries_of("sounding-s", "F3", ["hit"] * 120)
    context = multiprocessing.get_context("fork")
    adding = [context.Process(target=_add_all, args=(waiting.path, tries[nth::2])) for nth in range(2)]
    for process in adding:
        process.start()
    new = 0
    with open_log(tmp_path, "practice.db") as log:
        while any(process.is_alive() for process in adding):
            new += waiting.deliver(log).new
        new += waiting.deliver(log).new
    assert [process.exitcode for process in adding] == [0, 0]
    assert new == 120 and waiting.is_empty and set(known(tmp_path)) == {one.id for one in tries}


def _add_on_a_full_disk(path: Path, tries: list[Try], room: int, answer: Any) -> None:
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (path.stat().st_size + room, resource.RLIM_INFINITY))
    try:
        WaitingFile(path).add(tries)
        answer.send("added")
    except StoreError as error:
        answer.send(str(error))


@pytest.mark.parametrize("room", [0, 1, 40, 300])
def test_a_full_disk_leaves_no_half_line(waiting: WaitingFile, tmp_path: Path, room: int) -> None:
    waiting.add(TRIES[:1])
    context = multiprocessing.get_context("fork")
    ours, theirs = context.Pipe()
    process = context.Process(target=_add_on_a_full_disk, args=(waiting.path, TRIES[1:4], room, theirs))
    process.start()
    assert "nothing of this was kept" in ours.recv()
    process.join()
    waiting.add(TRIES[1:4])  # there is room again
    with open_log(tmp_path, "practice.db") as log:
        assert waiting.deliver(log).unreadable == 0
    assert known(tmp_path) == [one.id for one in TRIES[:4]]


@pytest.mark.parametrize("torn", [b'{"kind": "try", "id": ', "{\"kind\": \"try\", \"id\": \"é".encode()[:-1], b"\xff\xfe", b"nonsense\n"])
def test_a_torn_line_costs_no_other(waiting: WaitingFile, tmp_path: Path, torn: bytes) -> None:
    waiting.add(TRIES[:1])
    with waiting.path.open("ab") as file:
        file.write(torn)
    waiting.add(TRIES[1:2])
    with open_log(tmp_path, "practice.db") as log:
        found = waiting.deliver(log)
    assert (found.new, found.unreadable, found.set_aside) == (2, 1, waiting.unreadable)
    assert waiting.unreadable.read_bytes() == torn.rstrip(b"\n") + b"\n" and waiting.is_empty
    assert known(tmp_path) == [one.id for one in TRIES[:2]]


def test_what_a_killed_process_had_moved_aside_comes_first(waiting: WaitingFile, tmp_path: Path) -> None:
    waiting.add(TRIES[:1])
    waiting.path.rename(waiting.delivering)
    waiting.add(TRIES[1:2])
    assert not waiting.is_empty and [one.id for one in waiting.records()] == [one.id for one in TRIES[:2]]
    with open_log(tmp_path, "practice.db") as log:
        assert waiting.deliver(log).new == 2
    assert waiting.path.with_suffix(".lock").exists() and to_json(TRIES[0]).startswith('{"kind": "try"')


def test_only_the_person_can_read_it(waiting: WaitingFile) -> None:
    waiting.add(TRIES[:1])
    assert waiting.path.stat().st_mode & 0o777 == 0o600 and waiting.path.parent.stat().st_mode & 0o777 == 0o700
