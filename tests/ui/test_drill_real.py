"""A round played with real key events in a real window, a window manager running: what is struck is what is logged."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from glimber.core.engine.events import Event
from glimber.core.practice.tries import KeyEvents, Round, Try
from glimber.store.faults import StoreError
from glimber.store.practice.log import open_log
from tests.helpers import HOLD_S, PROGRAM, UNHURRIED, text_of, tries_of, write_folio
from tests.ui.kinds import OpenRoom, Settle

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
WEAK = {"sounding-s": S, "tide-table": "Shift+[Numpad4]", "show-desktop": "Super+D"}


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folio in which exactly the three weak bindings are due."""
    only = PROGRAM.replace('shortcut = "Ctrl+Shift+S"\n', "").replace('shortcut = "Ctrl+K Ctrl+L"', "").replace(
        'shortcut = "Ctrl+K Ctrl+S"', "")  # fmt: skip
    path = write_folio(tmp_path / "small", {"folio.toml": UNHURRIED, "programs/shoalwright.toml": only})
    with open_log(path, "practice.db") as log:
        for id, trigger in WEAK.items():
            log.add(*tries_of(id, trigger, ["blank"] * 4))
    return path


STRIKES: dict[str, list[str | float]] = {
    # 83 is the X keycode of the number pad's 4: its name would make xdotool turn the number lock on and off
    # spots on the stand-in board, where B acts for the inner left thumb key
    "sounding-s": ["+b", HOLD_S, "+s", 0.04, "-s", 0.02, "-b"],
    "beside-it": ["+b", HOLD_S, "+d", 0.04, "-d", 0.02, "-b"],
    "tide-table": ["+Shift_L", 0.03, "+83", 0.03, "-83", "-Shift_L"],
    "show-desktop": ["+Super_L", 0.03, "+d", 0.03, "-d", "-Super_L"],
}


def strike(hands: Any, id: str) -> None:
    hands.strike(*STRIKES[id])


def in_a_round(open_room: OpenRoom, settle: Settle, folder: Path, **asked: Any) -> Any:
    """The room, with the first prompt shown."""
    room = open_room(folder, "drill").room("drill")
    room.begin_with(["show-desktop"], **asked)
    settle(lambda: room.play.prompt_ms is not None)
    return room


def test_a_round_of_hard_chords_and_a_slip(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    assert {one.binding for one in room.setup.due()} & set(WEAK)
    room.begin_with(list(WEAK), seed=2, hits=dict.fromkeys(WEAK, 5))
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    assert not window.top.isVisible() and not window.bottom.isVisible()
    struck: list[tuple[str, bool]] = []
    slipped = False
    while room.play is not None and len(room.play.tries) < 60:
        play, count = room.play, len(room.play.tries)
        id = play.binding.id
        if id == "sounding-s" and not slipped:
            strike(hands, "beside-it")
            settle(lambda: len(play.tries) > count)
            slipped = True
            assert play.waits_for_strike and room.prompt.board.isVisible()
            assert "Wanted S: one key left, ring finger." in play.answer.words
            struck.append((id, False))
            settle(lambda: play.prompt_ms is not None)
            count = len(play.tries)
        strike(hands, id)
        settle(lambda: len(play.tries) > count)
        struck.append((id, True))
        settle(lambda: room.play is None or play.prompt_ms is not None)
    settle(lambda: room.stack.currentWidget() is room.after)
    with open_log(folder, "practice.db") as log:
        newest = max(log.records(Round), key=lambda one: one.began)
        every = [one for one in log.records(Try) if one.round == newest.id]
        events = [one for one in log.records(KeyEvents) if one.round == newest.id]
    assert [(one.binding, one.outcome == "hit") for one in every] == struck
    assert newest.ended is not None and set(newest.bindings) == set(WEAK)
    slip = next(one for one in every if one.outcome == "slip")
    assert (slip.slip, slip.pressed, slip.would_do, slip.offset_u) == ("neighbour", D, "shoalwright/depth-range", (1.0, -0.12))
    assert slip.first and not next(one for one in every if one.nth == slip.nth and one is not slip).first
    for one in every:
        assert one.trigger == WEAK[one.binding] and one.computer == "bridge"
        assert one.recall_ms is not None and 0 < one.recall_ms < 4000 and one.motor_ms is not None and 0 <= one.motor_ms < 2500
    assert sum(one.first and one.outcome == "hit" for one in every) == 15
    assert sum(one.cold for one in every) == 3
    assert len(events) == len(every) and all(one.events for one in events)
    assert window.isActiveWindow() and window.top.isVisible()


@pytest.mark.parametrize(("held_ms", "paused"), [(799.9, False), (800.0, True), (950.0, True)])
def test_escape_is_held_by_the_keys_clock(folder: Path, open_room: OpenRoom, settle: Settle, held_ms: float, paused: bool) -> None:
    room = in_a_round(open_room, settle, folder)
    begin = room.play.prompt_ms + 300
    room.play.take(Event(begin, "down", "Escape"), 0.0)
    room.play.take(Event(begin + held_ms, "up", "Escape"), 0.0)  # both handled at once: the timer has not come
    assert room.play.paused is paused


def test_an_escape_whose_up_is_not_heard_is_forgotten(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    room = in_a_round(open_room, settle, folder)
    begin = room.play.prompt_ms + 100
    room.play.take(Event(begin, "down", "Escape"), 0.0)
    room.play.pause("the window lost focus")
    room.play.take(Event(begin + 100, "up", "Escape"), 0.0)
    room.play.go_on()
    room.play.take(Event(begin + 5000, "down", "KeyQ"), 0.0)
    assert not room.play.paused and len(room.play.tries) == 1


@pytest.mark.parametrize("aside", [["q"], ["ctrl+3", "ctrl+4"]])
def test_escape_held_pauses_and_it_is_resumed(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any, aside: list[str]) -> None:
    room = in_a_round(open_room, settle, folder)
    strike(hands, "show-desktop")
    settle(lambda: len(room.play.tries) == 1 and room.play.prompt_ms is not None)
    hands.strike("+Escape", 0.95, "-Escape")
    settle(lambda: room.play.paused)
    assert [one.outcome for one in room.play.tries] == ["hit", "void"] and room.play.tries[1].void_why == "paused"
    hands.strike(*aside)
    settle(lambda: room.play is None)
    settle(lambda: room.setup.resume_button.isVisible())
    hands.strike("r")
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    (lane,) = room.play.drill.state.lanes
    assert lane.hits == 1 and 2 <= lane.wanted <= 8
    while room.play is not None and len(room.play.tries) < 20:
        count = len(room.play.tries)
        strike(hands, "show-desktop")
        settle(lambda: room.play is None or len(room.play.tries) > count)
        settle(lambda: room.play is None or room.play.prompt_ms is not None)
    settle(lambda: room.play is None)
    with open_log(folder, "practice.db") as log:
        assert len([one for one in log.records(Round) if one.ended]) == 1


def test_a_blank_by_deadline_and_one_given_up(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    room.begin_with(["show-desktop"])
    room.play.drill.deadlines = {"show-desktop": 400.0}
    settle(lambda: room.play.prompt_ms is not None)
    hands.tap("F1")
    settle(lambda: len(room.play.tries) == 1)
    assert room.play.tries[0].outcome == "blank" and room.play.waits_for_strike
    settle(lambda: room.play.prompt_ms is not None)
    strike(hands, "show-desktop")
    settle(lambda: len(room.play.tries) == 2)
    settle(lambda: len(room.play.tries) == 3, 3000)
    assert [(one.outcome, one.first) for one in room.play.tries[1:]] == [("hit", False), ("blank", True)]
    room.put_aside()


def test_losing_the_window_makes_the_try_void(folder: Path, open_room: OpenRoom, settle: Settle, qtbot: Any) -> None:
    from PySide6.QtWidgets import QWidget

    room = in_a_round(open_room, settle, folder)
    other = QWidget()
    qtbot.addWidget(other)
    other.show()
    other.activateWindow()
    settle(lambda: room.play.paused)
    assert (room.play.tries[0].outcome, room.play.tries[0].void_why) == ("void", "the window lost focus")
    room.put_aside()


def test_pointing_at_a_blank_board(folder: Path, open_room: OpenRoom, settle: Settle, qtbot: Any) -> None:
    from PySide6.QtCore import QPoint, Qt

    window = open_room(folder, "drill")
    room = window.room("drill")
    room.begin_with(["sounding-s"], "point")
    settle(lambda: room.play.prompt_ms is not None and room.prompt.board.isVisible())
    board = room.prompt.board

    def click(key: str) -> None:
        u, x0, y0 = board._scale()
        x, y = board.board.by_id[key].centre
        qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=QPoint(round(x0 + x * u), round(y0 + y * u)))

    assert not board.marks.prints and board.marks.lit == ()
    click("KeyD")
    settle(lambda: len(room.play.tries) == 1)
    assert room.play.tries[0].slip == "neighbour" and board.marks.lit == ("KeyS",) and board.marks.struck == ("KeyD",)
    settle(lambda: room.play.prompt_ms is not None)
    click("KeyS")
    settle(lambda: len(room.play.tries) == 2 and room.play.prompt_ms is not None)
    click("KeyS")
    settle(lambda: len(room.play.tries) == 3)
    assert [one.outcome for one in room.play.tries] == ["slip", "hit", "hit"] and room.play.tries[2].mode == "point"
    room.put_aside()


KILLED = text_of("killed-in-a-round.txt")


def test_a_window_killed_in_a_round_loses_no_judged_try(folder: Path, hands: Any) -> None:
    process = subprocess.Popen([sys.executable, "-c", KILLED, str(folder)], stdout=subprocess.PIPE, text=True,
                               cwd=Path(__file__).parents[2])  # fmt: skip
    assert process.stdout is not None
    try:
        assert process.stdout.readline().strip() == "ready"
        told = []
        for _ in range(3):
            time.sleep(0.15)
            strike(hands, "show-desktop")
            told.append(process.stdout.readline().strip())
        hands.strike(0.1, "+Super_L", 0.02, "+d")
    finally:
        os.kill(process.pid, signal.SIGKILL)
        told += process.stdout.read().split()
        process.stdout.close()
        process.wait()
        hands.strike("-d", "-Super_L")
    with open_log(folder, "practice.db") as log:
        kept = {one.id for one in log.records(Try)}
    ids = {id for id in told if len(id) == 36}
    assert len(ids) >= 3 and ids <= kept


def test_a_try_not_written_stays(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch) -> None:
    room = in_a_round(open_room, settle, folder, seed=1)
    window = room.window()
    record = window.session.record

    def full(*records: Any) -> None:
        raise StoreError("practice.db: the try could not be written; is the disk full?")

    monkeypatch.setattr(window.session, "record", full)
    strike(hands, "show-desktop")
    settle(lambda: "is the disk full" in room.play.stuck)
    assert room.play.tries == () and room.play.binding.id == "show-desktop"
    hands.strike("Return")
    settle(lambda: bool(room.play.stuck))
    monkeypatch.setattr(window.session, "record", record)
    hands.strike("Return")
    settle(lambda: len(room.play.tries) == 1 and not room.play.stuck)
    assert [one.outcome for one in window.session.log().tries_of_round(room.play.drill.round_id)] == ["hit"]


def test_the_keypads_enter_begins_a_round(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    settle(lambda: bool(room.setup.due()))
    hands.strike("KP_Enter")
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
