"""What the next Glimber finds of the last one: a socket that answers or does not, and a report of an end in the middle."""

from __future__ import annotations

import os
import socket
import stat
import threading
from datetime import datetime
from pathlib import Path

import pytest

from glimber.store.system import crash, running
from glimber.store.system import up_path as uppath
from glimber.store.system import up_socket as upsocket
from glimber.store.system.logs import log_file

NOON = datetime(2026, 11, 27, 12, 0)


@pytest.fixture(autouse=True)
def short(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """A socket's name may have 107 bytes."""
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path_factory.mktemp("r")))


def test_one_listens_and_the_next_is_told_that_it_does() -> None:
    end = upsocket.listen()
    assert end is not None
    path = upsocket.socket_path()
    assert stat.S_IMODE(path.stat().st_mode) == 0o600 and stat.S_IMODE(path.parent.stat().st_mode) == 0o700
    assert upsocket.listen() is None and path.exists()
    end.close()
    again = upsocket.listen()  # one that nobody answers at is what a killed one has left
    assert again is not None
    again.close()


def test_only_what_the_same_person_runs_is_their_own() -> None:
    ours, theirs = socket.socketpair()
    with ours, theirs:
        assert upsocket.is_own(ours)


@pytest.mark.parametrize(
    ("runtime", "state", "expected"),
    [(True, "/s", "{runtime}/glimber/up"), (False, "/s", "/s/glimber/up"), (False, None, "/h/.local/state/glimber/up")],
)
def test_where_it_is_asked(monkeypatch: pytest.MonkeyPatch, runtime: bool, state: str | None, expected: str) -> None:
    there = os.environ["XDG_RUNTIME_DIR"]
    monkeypatch.setenv("XDG_RUNTIME_DIR", there if runtime else "/no/such/folder")
    monkeypatch.setenv("HOME", "/h")
    if state is None:
        monkeypatch.delenv("XDG_STATE_HOME", raising=False)
    else:
        monkeypatch.setenv("XDG_STATE_HOME", state)
    assert uppath.socket_name() == expected.format(runtime=there)


@pytest.mark.parametrize(("answer", "came"), [(b"ok, it came", True), (b"no: another display", False), (b"", False)])
@pytest.mark.parametrize("folder", [None, "a folder"])
def test_whoever_runs_is_asked_to_come_forward(monkeypatch: pytest.MonkeyPatch, answer: bytes, came: bool, folder: str | None) -> None:
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    monkeypatch.setenv("DISPLAY", ":5")
    assert running.come_forward(folder) is False  # nobody is there
    end = upsocket.listen()
    assert end is not None
    end.setblocking(True)
    heard: list[bytes] = []

    def serve() -> None:
        one, _ = end.accept()
        with one:
            heard.append(one.recv(4096))
            one.sendall(answer)

    thread = threading.Thread(target=serve)
    thread.start()
    assert running.come_forward(folder) is came
    thread.join()
    end.close()
    asked = "!front" if folder is None else f"!open {Path.cwd() / folder}"
    assert heard == [f"{asked}\t:5\n".encode()]


def left_by(process: int) -> Path:
    file = crash.reports_folder() / f"running-{process}.txt"
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text("Glimber\nFatal Python error: Segmentation fault\n")
    return file


def reports() -> list[str]:
    return sorted(file.name for file in crash.reports_folder().glob("crash-*"))


def test_an_end_in_the_middle_is_told_once_with_the_end_of_the_log() -> None:
    log_file().parent.mkdir(parents=True, exist_ok=True)
    log_file().write_text("\n".join(f"line {nth}" for nth in range(1, 101)))
    left = left_by(2**22 + 1)  # no process has so high a number
    report = crash.arm(NOON)
    assert report is not None and report.name == "crash-2026-11-27-120000.txt" and not left.exists()
    text = report.read_text()
    assert "Segmentation fault" in text and "line 41\n" in text and "line 100\n" in text and "line 40\n" not in text
    assert stat.S_IMODE(report.stat().st_mode) == 0o600
    mine = crash.reports_folder() / f"running-{os.getpid()}.txt"
    assert mine.read_text().startswith("Glimber ")
    assert crash.arm(NOON) is None  # our own runs on
    crash.disarm()
    assert not mine.exists() and crash.arm(NOON) is None
    crash.disarm()


def test_one_that_runs_is_left_alone_unless_its_number_is_of_another_by_now(monkeypatch: pytest.MonkeyPatch) -> None:
    left = left_by(os.getppid())
    assert crash.arm(NOON) is None and left.exists()
    crash.disarm()
    os.utime(left, (1, 1))  # older than the process that has the number
    assert crash.arm(NOON) is not None and not left.exists()
    crash.disarm()


@pytest.mark.parametrize(("there", "kept"), [(4, 4), (5, 5), (6, 5)])
def test_five_reports_are_kept_the_newest(there: int, kept: int) -> None:
    crash.reports_folder().mkdir(parents=True)
    for day in range(1, there + 1):
        (crash.reports_folder() / f"crash-2026-11-{day:02}-120000.txt").write_text("")
    crash.arm(NOON)
    crash.disarm()
    assert len(reports()) == kept and reports()[-1] == f"crash-2026-11-{there:02}-120000.txt"
