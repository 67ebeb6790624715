"""Real windows on a display of their own: Xvfb with openbox, a window manager that takes chords as a desktop would."""

from __future__ import annotations

import math
import os
import shutil
import subprocess
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

pytest.importorskip("PySide6")

_started: list[subprocess.Popen[bytes]] = []


def _promptly() -> list[str]:
    """What lets a process have the processor at once, where the system allows it: the strokes of the tests are timed as a hand's
    are, and must not wait for whatever else the machine does."""
    real_time = ["chrt", "-r", "1"]
    if shutil.which("chrt") is None or subprocess.run([*real_time, "true"], capture_output=True, check=False).returncode:
        return []
    return real_time


PROMPTLY = _promptly()


def _start_display() -> str:
    """Start Xvfb on a free display with openbox on it; its name. The settings of openbox are not the person's own."""
    for program in ("Xvfb", "openbox", "xdotool"):
        if shutil.which(program) is None:
            pytest.exit(f"{program} is missing: run script/test, or apt-get install xvfb openbox xdotool", returncode=2)
    read, write = os.pipe()
    server = subprocess.Popen(
        [*PROMPTLY, "Xvfb", "-displayfd", str(write), "-screen", "0", "1440x960x24", "-nolisten", "tcp"],
        pass_fds=[write], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    _started.append(server)
    with os.fdopen(read) as pipe:
        display = f":{pipe.readline().strip()}"
    environment = {**os.environ, "DISPLAY": display, "XDG_CONFIG_HOME": "/nonexistent"}
    _started.append(subprocess.Popen(["openbox"], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL))
    for _ in range(100):
        ready = subprocess.run(["xprop", "-root", "_NET_SUPPORTING_WM_CHECK"], env=environment, capture_output=True, text=True,
                               check=False) if shutil.which("xprop") else None  # fmt: skip
        if ready is None:
            time.sleep(1.0)
            break
        if "window id" in ready.stdout:
            break
        time.sleep(0.05)
    return display


def pytest_configure() -> None:
    os.environ["DISPLAY"] = _start_display()
    os.environ["QT_QPA_PLATFORM"] = "xcb"
    os.environ.pop("WAYLAND_DISPLAY", None)


def pytest_unconfigure() -> None:
    for process in reversed(_started):
        process.terminate()
        process.wait()


class Hands:
    """Strikes real keys: XTEST events through the X server, as a keyboard's would come.

    Keys are struck by a process of their own while ``wait`` lets the application handle its events.
    """

    def __init__(self, wait: Callable[[Callable[[], bool]], None]) -> None:
        self._wait = wait

    def strike(self, *steps: str | float) -> None:
        """Steps: "+S" puts a key down, "-S" lets it up, "Ctrl+s" strikes a chord; a number waits so many seconds."""
        arguments: list[str] = []
        for step in steps:
            if isinstance(step, float | int):
                arguments += ["sleep", str(step)]
            elif step[0] in "+-" and len(step) > 1:
                arguments += ["keydown" if step[0] == "+" else "keyup", step[1:]]
            else:
                arguments += ["key", "--clearmodifiers", step]
        process = subprocess.Popen([*PROMPTLY, "xdotool", *arguments], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self._wait(lambda: process.poll() is not None)
        assert process.returncode == 0

    def tap(self, key: str) -> None:
        self.strike(f"+{key}", 0.03, f"-{key}")

    def answer(self, widget: Any, *texts: str) -> None:
        """Write what is meant into what the widget's window asks, and take it, one after another; "" takes what is proposed."""
        chooser = widget.window().chooser()
        for text in texts:
            self._wait(chooser.line.hasFocus)
            if text:
                chooser.line.setText(text)
                chooser.line.setModified(True)
                chooser.line.textEdited.emit(text)
            self.strike("Return")
            self._wait(lambda text=text: not (text and chooser.isVisible() and chooser.line.text() == text))

    def ask(self, widget: Any, key: str, *texts: str) -> None:
        """Strike what asks for something, and answer it."""
        self.strike(key)
        self.answer(widget, *texts)


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """Let an answer count however long the machine held the window up; tests of the core check the limit."""
    monkeypatch.setattr("glimber.core.practice.machine.STALL_MS", math.inf)


@pytest.fixture
def hands(qtbot: Any) -> Hands:
    return Hands(lambda done: qtbot.waitUntil(done, timeout=9000))


@pytest.fixture
def settle(qtbot: Any) -> Callable[..., None]:
    """Let events pass until something holds; fails when it does not within the time."""
    from pytestqt.exceptions import TimeoutError as NotMetError

    def wait(until: Callable[[], bool] = lambda: False, ms: int = 6000) -> None:
        try:
            qtbot.waitUntil(until, timeout=ms)
        except NotMetError as error:
            raise AssertionError(f"the condition was not met in {ms} ms; {' | '.join(states_of_windows()) or 'no window is open'}") from error

    return wait


def states_of_windows() -> Iterator[str]:
    """Yield what each open window shows and which jobs it has, for a test that waited in vain."""
    from PySide6.QtWidgets import QApplication

    from glimber.ui.shell.window import Window

    for window in QApplication.topLevelWidgets():
        if isinstance(window, Window) and window.isVisible():
            session, ledger = window.session, window.session.ledger
            focus = window.focusWidget()
            yield (
                f"{type(window.stack.currentWidget()).__name__}, focus in {type(focus).__name__}, {window.isActiveWindow()=}, "
                f"says {window.bottom._shown!r}, jobs {session.jobs.names()}{'' if session.jobs._free.is_set() else ', held'}, "
                f"a round is on: {session._round_on}, weighed: {None if ledger is None else list(ledger.rows)}, "
                f"judged: {list(session.verdicts)}, faults: {session.faults}"
            )


@pytest.fixture
def open_room(qtbot: Any, settle: Callable[..., None]) -> Iterator[Callable[..., Any]]:
    """Opens the real window on a folder and waits until it has the focus and everything is weighed."""
    from glimber.store.settings import load_settings, remember
    from glimber.store.toml.reading import open_folio
    from glimber.ui.shell.app import application, open_window

    windows: list[Any] = []

    def opened(folder: Path, room: str = "cards", weighed: bool = True) -> Any:
        remember(last_room=room)
        settings = load_settings()
        application(settings.theme)
        window = open_window(open_folio(folder), settings)
        windows.append(window)
        settle(lambda: len(window.rooms) == 5)
        window.activateWindow()
        settle(window.isActiveWindow)
        if weighed:
            settle(lambda: window.session.ledger is not None, 15000)
        return window

    yield opened
    for window in windows:
        window.close()
        window.deleteLater()
    qtbot.wait(20)


@pytest.fixture
def one_moment(monkeypatch: pytest.MonkeyPatch) -> datetime:
    """Stop the clock by which bindings are judged."""
    from glimber.ui.session.session import Session

    moment = datetime(2026, 11, 25, 10, 30, tzinfo=UTC)
    begin = Session.__init__

    def begun(self: Session, *given: Any, **named: Any) -> None:
        begin(self, *given, **(named | {"now": lambda: moment}))

    monkeypatch.setattr(Session, "__init__", begun)
    return moment


@pytest.fixture
def asked(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The questions for files, which nobody answers."""
    from PySide6.QtWidgets import QFileDialog

    questions: list[str] = []

    def ask(name: str, nothing: object) -> Callable[..., object]:
        def answer(_: object, title: str = "", *rest: object, **named: object) -> object:
            questions.append(f"{name}: {title}")
            return nothing

        return answer

    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, ask(name, ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", ask("getExistingDirectory", ""))
    return questions


@pytest.fixture
def bus(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[dict[str, str]]:
    """A session bus of our own with the accessibility bus on it; the environment of programs that are to speak on it."""
    from tests.ui.buses import running_bus

    with running_bus(tmp_path / "bus-home") as environment:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", environment["DBUS_SESSION_BUS_ADDRESS"])
        monkeypatch.delenv("AT_SPI_BUS_ADDRESS", raising=False)
        yield environment
