"""Whether strikes are counted: one process a folio, its number and its trouble told to whoever asks."""

from __future__ import annotations

import fcntl
import os
import re
import termios
import time
from pathlib import Path

import pytest

from glimber.store.faults import StoreError
from glimber.store.folder import Opened
from glimber.store.settings import load_settings
from glimber.store.system.device import RECORD
from glimber.store.tally import read_tally, tally_file
from glimber.store.work import counter, running
from tests.memory import finds, may_look, one_after_another


def test_one_counts_and_no_other_beside_it(tmp_path: Path) -> None:
    assert running.process_of(tmp_path) is None and running.problem_of(tmp_path) == ""
    with running.claim(tmp_path) as first:
        assert first and running.process_of(tmp_path) == os.getpid()
        with running.claim(tmp_path) as second:
            assert not second
        assert running.process_of(tmp_path) == os.getpid()
    assert running.process_of(tmp_path) is None
    with running.claim(tmp_path) as again:
        assert again


def test_who_finds_another_counting_leaves_it_to_that_one(small: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("signal.signal", lambda *_: None)
    with running.claim(small.folder):
        assert counter.run(small.folder) == 0 and running.problem_of(small.folder) == ""


def test_whoever_begins_to_count_takes_back_what_was_wrong(tmp_path: Path) -> None:
    with running.claim(tmp_path):
        running.note_problem(tmp_path, "the X server went away")
    assert running.problem_of(tmp_path) == "the X server went away"
    with running.claim(tmp_path):
        assert running.problem_of(tmp_path) == ""


def test_where_nothing_can_be_counted_it_stays_off_and_says_why(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("glimber.store.work.x_server.problem", lambda: "there is no X server here")
    with pytest.raises(StoreError, match="there is no X server here"):
        running.begin(tmp_path)
    assert not running.is_on(tmp_path) and load_settings().tallied == ""


@pytest.mark.parametrize("wrong", ["no-such-device", "not a folio"])
def test_what_cannot_count_ends_at_once_and_is_told(small: Opened, tmp_path: Path, wrong: str) -> None:
    folder = small.folder if wrong == "no-such-device" else tmp_path
    with pytest.raises(StoreError, match=wrong):
        running.begin(folder, tmp_path / "no-such-device")
    assert running.process_of(folder) is None and not running.is_on(folder)
    assert not running.go_on(folder)
    assert not tally_file(folder).exists()  # which would say that it had begun


def test_the_switch_is_each_folio_s_own(tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    for folder in (one, other, one):
        running._switch(folder, True)
    assert running.is_on(one) and running.is_on(other)
    running._switch(one, False)
    assert not running.is_on(one) and running.is_on(other)


def test_a_device_is_counted_by_a_process_of_its_own(small: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The device is the kernel's records in a pipe; what was struck is written when it is ended, and its end takes the claim away."""
    monkeypatch.delenv("DISPLAY", raising=False)
    pipe = tmp_path / "event7"
    os.mkfifo(pipe)
    hand = os.open(pipe, os.O_RDWR)
    running.begin(small.folder, pipe)
    try:
        process = running.process_of(small.folder)
        assert process not in (None, os.getpid()) and running.is_on(small.folder) and running.go_on(small.folder)
        running.begin(small.folder, pipe)
        assert running.process_of(small.folder) == process  # one counts, and no other beside it
        for number, down in ((125, 1), (32, 1), (32, 0), (125, 0)):  # Super and D
            os.write(hand, RECORD.pack(1, 0, 1, number, down))
        end = time.monotonic() + 10
        while fcntl.ioctl(hand, termios.FIONREAD, b"\0" * 4) != b"\0" * 4 and time.monotonic() < end:
            time.sleep(0.01)
    finally:
        running.end(small.folder)
    os.close(hand)
    assert running.process_of(small.folder) is None and not running.is_on(small.folder)
    assert [*read_tally(small.folder).days.values()] == [{"show-desktop": (1, 0)}]


def test_what_is_typed_is_nowhere_in_the_memory_of_the_process_that_counts(
    small: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Typed between counted strikes, the records of its keys one after another are found at no place, nor any name of them."""
    monkeypatch.delenv("DISPLAY", raising=False)
    pipe = tmp_path / "event7"
    os.mkfifo(pipe)
    hand = os.open(pipe, os.O_RDWR)
    word = (16, 22, 30, 21, 31, 23, 32, 18)  # quayside
    running.begin(small.folder, pipe)
    try:
        process = running.process_of(small.folder)
        assert process is not None
        if not may_look(process):
            pytest.skip("only root may read the memory of a process that closed it")
        counted = [(125, 1), (32, 1), (32, 0), (125, 0)]
        for moment, (number, down) in enumerate([*counted, *((n, d) for n in word for d in (1, 0)), *counted]):
            os.write(hand, RECORD.pack(moment, 0, 1, number, down))
        records = [RECORD.pack(0, 0, 1, number, 1)[16:] for number in word]
        end = time.monotonic() + 10
        while time.monotonic() < end and (
            fcntl.ioctl(hand, termios.FIONREAD, b"\0" * 4) != b"\0" * 4 or finds(process, one_after_another(records))
        ):
            time.sleep(0.1)
        assert [finds(process, one_after_another(part)) for part in (records, records[:3], records[3:6])] == [0, 0, 0]
        assert finds(process, b"KeyQ.{0,9}KeyU.{0,9}KeyA|quayside") == 0
        assert finds(process, re.escape(str(small.folder).encode())) > 0  # what it does hold is found by the same search
    finally:
        running.end(small.folder)
        os.close(hand)
    assert [*read_tally(small.folder).days.values()] == [{"show-desktop": (2, 0)}]
