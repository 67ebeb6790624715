"""What a person sees on the way through each room: the demo's folio, walked by keys, with what changes at each of them.

``RECORD=1 script/test tests/ui/test_walks.py`` records anew; read the difference and look at the rooms.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest

from glimber.core.engine.events import Event
from glimber.demo.build import make_demo
from tests.helpers import tries_of, write_folio
from tests.ui.kinds import OpenRoom
from tests.ui.recording import Recording, RoundClock

WALKS = {
    "arrange": "Right Right Down Down Left Up ] ] [ G G Shift+Right Shift+Down U Escape A Escape X Right P S C Right Space Escape Z Z "
               "B Right Down K D Shift+D B O Escape H Escape Q Down Right Escape V Escape Shift+Z Ctrl+T Shift+E Right Alt+Right Escape",
    "cards": "Down Down Up PgDown PgUp + Shift+Right Shift+Down 0 1 0 D Escape B I H L R G K Shift+K O W Down Return Escape Escape "
             "S M Escape Ctrl+T U U",
    "drill": "- M M C C S D T Del A Escape W Down Escape K Escape G Escape L Down 2 3 Escape Ctrl+T",
    "gather": "Down Down Down Tab Down B B F Escape E Escape M Escape C Escape U Escape K Escape Ctrl+T",
    "weigh": "N N N P O O O L Down Escape C Escape F Escape V V T Escape Y Escape X R Down Escape H Escape S Down Escape B Escape N N Ctrl+T",
}  # fmt: skip
"""Keys struck one after another in each room."""
S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"

pytestmark = pytest.mark.usefixtures("asked")


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Callable[[datetime], Path]:
    """The demo's folio with six days of practice, made once."""
    made: list[Path] = []

    def make(now: datetime) -> Path:
        if not made:
            folder = tmp_path_factory.mktemp("demo") / "chart-office"
            make_demo(folder, now, "bridge", each_day=lambda day: day < 6)
            made.append(folder)
        return made[0]

    return make


def strike(window: Any, key: str) -> None:
    """Strike a key where the focus is, as the window system tells of it."""
    handle = (window.focusWidget() or window).window().windowHandle()
    QTest.keySequence(handle, QKeySequence(key))  # type: ignore[attr-defined]


@pytest.fixture
def walk(demo: Any, one_moment: datetime, tmp_path: Path, open_room: OpenRoom, qtbot: Any) -> Callable[[str], None]:
    """Walk a room of the demo."""

    def walked(room: str) -> None:
        folder = tmp_path / "chart-office"
        shutil.copytree(demo(one_moment), folder)
        window = open_room(folder, room)
        recording = Recording(window, qtbot)
        for number, key in enumerate(WALKS[room].split()):
            recording.step(f"{number + 1}: {key}", lambda key=key: strike(window, key))
        recording.check(f"walk-{room}")

    return walked


# A test each, so that single faults can be asked of one room's.


def test_gather_is_walked(walk: Callable[[str], None]) -> None:
    walk("gather")


def test_arrange_is_walked(walk: Callable[[str], None]) -> None:
    walk("arrange")


def test_cards_are_walked(walk: Callable[[str], None]) -> None:
    walk("cards")


def test_drill_is_walked(walk: Callable[[str], None]) -> None:
    walk("drill")


def test_weigh_is_walked(walk: Callable[[str], None]) -> None:
    walk("weigh")


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> RoundClock:
    """The clock of rounds, stopped."""
    clock = RoundClock()
    for module in ("play", "prompt", "naming"):
        monkeypatch.setattr(f"glimber.ui.drill.{module}.monotonic_ms", clock)
    return clock


def press(play: Any, clock: RoundClock, *codes: str) -> None:
    """Hold all but the last key long enough, tap the last, and let all go."""
    *held, last = codes
    for code in held:
        clock.ms += 300
        play.take(Event(clock.ms, "down", code), 0.0)
    clock.ms += 700
    play.take(Event(clock.ms, "down", last), 0.0)
    clock.ms += 40
    play.take(Event(clock.ms, "up", last), 0.0)
    for code in reversed(held):
        clock.ms += 20
        play.take(Event(clock.ms, "up", code), 0.0)


@pytest.mark.usefixtures("one_moment")
@pytest.mark.parametrize("mode", ["press", "name", "point", "spell"])
def test_a_round_is_walked(mode: str, clock: RoundClock, tmp_path: Path, open_room: OpenRoom, qtbot: Any) -> None:
    outcomes: list[Any] = ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14
    folder = write_folio(tmp_path / "small", tried=[*tries_of("sounding-s", S, outcomes), *tries_of("range-d", D, ["hit"] * 20)])
    window = open_room(folder, "drill")
    # A round holds a weighing back until it ends, and what it weighs must not depend on which of the two was first.
    qtbot.waitUntil(lambda: window.session.ledger is not None and not window.session.jobs.names(), timeout=20_000)
    room = window.room("drill")
    bindings = {"sounding-s": 2, "range-d": 1} | ({} if mode == "point" else {"show-desktop": 1})
    room.begin_with(list(bindings), mode, seed=3, hits=bindings)
    recording = Recording(room.window(), qtbot, clock)
    play, board = room.play, room.prompt.board
    right = {"sounding-s": ("KeyB", "KeyS"), "show-desktop": ("MetaLeft", "KeyD"), "range-d": ("KeyB", "KeyD")}

    def point(code: str) -> None:
        u, left, top = board._scale()
        x, y = board.board.centre((code,))
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
                         QPoint(round(left + x * u), round(top + y * u)))  # type: ignore[call-overload]  # fmt: skip

    def answer(codes: tuple[str, ...]) -> None:
        if mode == "point":
            point(codes[-1])
        elif mode == "name":
            clock.ms += 900
            play.name({"KeyS": "shoalwright/add-sounding", "KeyF": "shoalwright/quay-list"}.get(codes[-1], play.binding.command), clock.ms)
        else:
            press(play, clock, *codes)

    recording.step("help", play.help)
    recording.step("more help", play.help)
    recording.step("an answer beside it", lambda: answer(("KeyB", "KeyF")))
    recording.step("the answer at last", lambda: answer(right[play.binding.id]))
    recording.step("no answer known", play.give_up)
    recording.step("what it was", lambda: answer(right[play.binding.id]))
    recording.step("a pause", lambda: play.pause("paused"))
    recording.step("on", play.go_on)
    for number in range(12):
        if room.play is None:
            break
        recording.step(f"answer {number + 1}", lambda: answer(right[play.binding.id]))
    assert room.play is None
    # Strokes are lit and time passes while a round waits: what is painted depends on the moment.
    recording.check(f"round-{mode}", pictures=False)
