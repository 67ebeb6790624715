"""The tally's file and the device's strikes."""

from __future__ import annotations

import gc
import json
import os
import stat
import threading
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.core.practice.counting import Count
from glimber.core.practice.tally import Tally
from glimber.store.faults import StoreError
from glimber.store.folder import Opened
from glimber.store.pack import pack_bytes
from glimber.store.practice.log import read_practice
from glimber.store.system.device import RECORD
from glimber.store.tally import change_tally, forget_tally, read_tally, tally_file
from glimber.store.work.counter import Counter, _count_device, strikes_of_device
from glimber.store.work.x_server import Repeats, problem

DAY = "2026-11-27"


def struck(id: str, times: int = 1, day: str = DAY) -> list[Count]:
    return [Count("struck", id, day)] * times


def test_what_is_counted_is_kept_privately_and_in_no_pack(small: Opened) -> None:
    change_tally(small.folder, lambda tally: tally.with_counts([*struck("lead-line", 3), Count("undone", "lead-line", DAY)], [DAY]))
    assert read_tally(small.folder) == Tally({DAY: {"lead-line": (3, 1)}})
    path = tally_file(small.folder)
    assert small.folder not in path.parents and stat.S_IMODE(path.stat().st_mode) == 0o600
    assert json.loads(path.read_text())["days"] == {DAY: {"lead-line": [3, 1]}}
    assert b"tally" not in pack_bytes(small.folder) and read_practice(small.folder, "practice.db").tally.of("lead-line") == (3, 1)
    forget_tally(small.folder)
    assert not path.exists() and read_tally(small.folder) == Tally()


@pytest.mark.parametrize(
    "text", ["{", "[]", '{"format": "glimber-tally/2", "days": {}}', '{"format": "glimber-tally/1", "days": {"today": {}}}',
             '{"format": "glimber-tally/1", "days": {"2026-11-27": {"a": [1, 2]}}}', '{"format": "glimber-tally/1", "days": {"2026-11-27": {"a": [1]}}}',
             '{"format": "glimber-tally/1", "days": {"2026-11-27": {"a": ["1", 0]}}}']
)  # fmt: skip
def test_a_broken_file_is_told_and_left_alone(small: Opened, text: str) -> None:
    path = tally_file(small.folder)
    path.parent.mkdir(parents=True)
    path.write_text(text)
    for call in (lambda: read_tally(small.folder), lambda: change_tally(small.folder, lambda tally: tally)):
        with pytest.raises(StoreError, match="cannot be read as a tally"):
            call()
    assert path.read_text() == text


def test_two_that_write_lose_nothing(small: Opened) -> None:
    def many(id: str) -> None:
        for _ in range(20):
            change_tally(small.folder, lambda tally: tally.with_counts(struck(id)))

    threads = [threading.Thread(target=many, args=(id,)) for id in ("a", "b")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert read_tally(small.folder).days[DAY] == {"a": (20, 0), "b": (20, 0)}


def test_a_days_change_at_midnight(small: Opened) -> None:
    today, now = ["2026-11-27"], [0.0]
    counter = Counter(small.folder, lambda: today[0], lambda: now[0])
    counter.rest()
    lead = ((frozenset({"Ctrl"}), "KeyK"), (frozenset({"Ctrl"}), "KeyL"))
    for strike in lead:
        counter.strike(strike, 1000, lambda t_ms: ("Shoalwright",))
    assert read_tally(small.folder).days == {"2026-11-27": {}}  # not written yet: ten seconds
    today[0] = "2026-11-28"
    for strike in lead:
        counter.strike(strike, 2000, lambda t_ms: ("Shoalwright",))
    now[0] = 10.0
    counter.rest()
    assert read_tally(small.folder).days == {"2026-11-27": {"lead-line": (1, 0)}, "2026-11-28": {"lead-line": (1, 0)}}
    today[0] = "2026-11-29"
    counter.rest()  # a day on which nothing is struck is a day that was counted
    assert read_tally(small.folder).days["2026-11-29"] == {}


def test_what_could_not_be_written_is_written_later(small: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    counter = Counter(small.folder, lambda: DAY, lambda: 0.0)
    for key in ("KeyK", "KeyL"):
        counter.strike((frozenset({"Ctrl"}), key), 1000, lambda t_ms: ("Shoalwright",))

    def full(*arguments: object) -> None:
        raise StoreError("no space left")

    with monkeypatch.context() as patch, pytest.raises(StoreError, match="no space left"):
        patch.setattr("glimber.store.work.counter.change_tally", full)
        counter.rest(at_once=True)
    counter.rest()  # the day itself was not written either: it is not waited for
    assert read_tally(small.folder).days == {DAY: {"lead-line": (1, 0)}}
    counter.rest(at_once=True)
    assert read_tally(small.folder).days == {DAY: {"lead-line": (1, 0)}}


def test_the_folio_is_taken_in_anew_and_a_broken_one_is_not(small: Opened) -> None:
    now = [0.0]
    counter = Counter(small.folder, lambda: DAY, lambda: now[0])
    file = small.folder / "programs/shoalwright.toml"
    text = file.read_text()
    for changed, counted in (("broken = ", True), (text.replace("Ctrl+K Ctrl+L", "Ctrl+K Ctrl+O"), False)):
        file.write_text(changed)
        as_it_was = counter.watched
        now[0] += 14.75
        counter.rest()
        assert counter.watched is as_it_was  # looked at every fifteen seconds
        now[0] += 0.25
        counter.rest()
        assert ("lead-line" in counter.watched.countable) and (
            (((frozenset({"Ctrl"}), "KeyK"), (frozenset({"Ctrl"}), "KeyL")) in counter.watched.strikes["shoalwright"]) == counted
        )


def test_a_held_keys_repeats_are_one_strike() -> None:
    repeats = Repeats()
    assert not repeats.is_repeat(46, 1000)
    for t in range(1500, 1700, 33):  # the server says up and down again in one moment
        repeats.went_up(46, t)
        assert repeats.is_repeat(46, t)
    repeats.went_up(46, 1800)
    assert not repeats.is_repeat(46, 1801)
    assert repeats.is_repeat(46, 1900)  # or down again without up


def test_the_strikes_of_a_device_with_the_modifiers_held() -> None:
    read, write = os.pipe()
    for moment, key, value in ((0, 29, 1), (1, 37, 1), (2, 37, 0), (3, 29, 0), (4, 38, 1), (5, 38, 0), (6, 29, 1), (7, 38, 1)):
        os.write(write, RECORD.pack(0, moment * 1000, 1, key, value))  # Ctrl and K, L, Ctrl and L
    os.close(write)
    source = strikes_of_device(read, lambda strike: "Ctrl" in strike[0])
    assert list(source) == [((frozenset({"Ctrl"}), "KeyK"), 1), (None, 0.0), ((frozenset({"Ctrl"}), "KeyL"), 7)]
    os.close(read)


def test_a_keyboard_read_as_a_device_is_counted(small: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DISPLAY", "")
    pipe = tmp_path / "event3"
    os.mkfifo(pipe)
    counter = Counter(small.folder, lambda: DAY)
    counting = threading.Thread(target=_count_device, args=(counter, pipe, [False]))
    counting.start()
    with pipe.open("wb") as device:  # KeyS is struck with Ctrl and Shift; a letter is typed
        for number, value in ((29, 1), (42, 1), (31, 1), (31, 0), (42, 0), (29, 0), (30, 1), (30, 0)):
            device.write(RECORD.pack(5, 0, 1, number, value))
    counting.join(20)
    counter.rest(at_once=True)
    assert not counting.is_alive() and read_tally(small.folder).days == {DAY: {"add-sounding": (1, 0)}}


@pytest.mark.parametrize(
    ("environment", "said"),
    [({"WAYLAND_DISPLAY": "wayland-0", "XDG_SESSION_TYPE": "wayland", "DISPLAY": ":0"}, "Under Wayland"),
     ({"WAYLAND_DISPLAY": "", "DISPLAY": ""}, "no display"), ({"WAYLAND_DISPLAY": "", "DISPLAY": ":4321"}, "cannot be reached")],
)  # fmt: skip
@pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning", "ignore::ResourceWarning")  # the library's
def test_why_nothing_is_counted(small: Opened, environment: dict[str, str], said: str, monkeypatch: pytest.MonkeyPatch) -> None:
    pytest.importorskip("Xlib")
    for name, value in environment.items():
        monkeypatch.setenv(name, value)
    assert said in (problem() or "")
    result = CliRunner().invoke(app, ["tally", "on", str(small.folder)])
    assert result.exit_code == 2 and said in result.stderr and "Traceback" not in result.stderr
    assert not run("status", small)["on"] and not run("status", small)["turned_on"]
    gc.collect()  # what the library leaves open of a display that is not there


def run(what: str, opened: Opened, *more: str) -> Any:
    result = CliRunner().invoke(app, ["tally", what, str(opened.folder), *more, "--json"])
    assert result.exit_code == 0, result.stderr
    return json.loads(result.stdout)


def test_what_was_counted_is_looked_at_and_thrown_away_from_the_command_line(small: Opened) -> None:
    days = [f"2026-11-{n}" for n in (23, 24, 25)]
    change_tally(small.folder, lambda tally: tally.with_counts([one for day in days for one in struck("lead-line", 4, day)], days))
    found = run("status", small)
    assert (found["on"], found["days"], found["bindings"]) == (False, 3, 1)
    assert found["uses"]["shoalwright/lead-line"]["struck"] == 12 and found["not_counted"]["tide-table"]
    assert "12 times" in CliRunner().invoke(app, ["tally", "status", str(small.folder)]).stdout
    assert run("forget", small, "--day", "2026-11-24")["days"] == 2
    assert run("forget", small, "--binding", "lead-line")["bindings"] == 0
    assert run("forget", small)["days"] == 0 and run("off", small)["on"] is False
    assert CliRunner().invoke(app, ["tally", "forget", str(small.folder), "--binding", "lead-lime"]).exit_code == 2
    assert CliRunner().invoke(app, ["tally", "--status"]).exit_code == 2  # no folio was open yet
