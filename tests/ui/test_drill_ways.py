"""Every way to answer and to end a round, with real keys: name, spell, point, help, deadlines, sprints, what it is made of."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.decide.round_choice import why_not
from glimber.core.notation.keycodes import EVDEV_NUMBERS
from glimber.core.practice.tries import Round, Try
from glimber.store.practice.log import open_log
from glimber.store.system.device import RECORD, Device
from tests.helpers import HOLD_S, UNHURRIED, layer_text, layout_text, tries_of, write_folio
from tests.ui.choosing import asked
from tests.ui.kinds import OpenRoom, Settle

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    slip = ("neighbour", D, "shoalwright/depth-range")
    return write_folio(
        tmp_path / "small", {"folio.toml": UNHURRIED}, tried=[*tries_of("sounding-s", S, ["hit", "hit", slip] * 4), *tries_of("range-d", D, ["hit"] * 12)]
    )


def in_log(folder: Path, kind: type) -> list[Any]:
    with open_log(folder, "practice.db") as log:
        newest = max(log.records(Round), key=lambda one: one.began)
        return [newest] if kind is Round else [one for one in log.records(Try) if one.round == newest.id]


def in_log_rounds(folder: Path) -> list[Round]:
    with open_log(folder, "practice.db") as log:
        return log.records(Round)


def begin(room: Any, settle: Settle, bindings: list[str], mode: str, **hits: int) -> None:
    room.begin_with(bindings, mode, hits=hits or dict.fromkeys(bindings, 2))
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)


def say_it(play: Any, hands: Any, settle: Settle, *strokes: str) -> None:
    settle(lambda: play.prompt_ms is not None)
    count = len(play.tries)
    hands.strike(*strokes)
    settle(lambda: len(play.tries) > count)


def test_a_lit_key_is_named_by_number_and_by_a_part_of_the_name(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["sounding-s"], "name")
    play, names = room.play, room.prompt.names
    assert room.prompt.board.marks.lit == ("KeyS",) and names.isVisible()
    shown = [one.ref for one in names.shown]
    assert "shoalwright/add-sounding" in shown and "shoalwright/depth-range" in shown  # what is truly struck for it
    hands.strike(str(shown.index("shoalwright/depth-range") + 1))
    settle(lambda: len(play.tries) == 1)
    assert (play.tries[0].outcome, play.tries[0].slip, play.tries[0].would_do) == ("slip", "mix-up", "shoalwright/depth-range")
    assert play.answer.words == "Depth range is S held on Draw. This is Add sounding."
    settle(lambda: play.prompt_ms is not None)
    hands.strike("s", "o", "u", "n", "Return")
    settle(lambda: len(play.tries) == 2)
    assert (play.tries[1].outcome, play.tries[1].first) == ("hit", False)
    for _ in range(2):
        say_it(play, hands, settle, "a", "d", "d", "x", "BackSpace", "Return")
    settle(lambda: room.stack.currentWidget() is room.after)
    tries = in_log(folder, Try)
    assert [one.mode for one in tries] == ["name"] * 4 and {one.cue for one in tries} == {"place"}
    assert all(one.recall_ms is not None and one.motor_ms > 0 for one in tries[1:])


def test_a_chord_the_desktop_would_take_is_spelt_one_after_another(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["show-desktop"], "spell")
    play = room.play
    hands.strike("+Control_L", "-Control_L", "+d", "-d")
    settle(lambda: len(play.tries) == 1)
    assert (play.tries[0].outcome, play.tries[0].slip) == ("slip", "modifiers")
    for n in (2, 3):
        settle(lambda: play.prompt_ms is not None)
        hands.strike("+Super_L", "-Super_L", "+d", "-d")
        settle(lambda n=n: len(play.tries) == n)
    assert [one.outcome for one in play.tries[1:]] == ["hit", "hit"] and play.tries[0].mode == "spell"
    room.put_aside()


def test_a_place_is_pointed_at_on_the_blank_board(folder: Path, open_room: OpenRoom, settle: Settle, qtbot: Any) -> None:
    from PySide6.QtCore import Qt

    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["sounding-s"], "point")
    board = room.prompt.board
    u, x0, y0 = board._scale()
    assert not board.marks.prints and not board.marks.lit
    for key, count in (("KeyD", 1), ("KeyS", 2), ("KeyS", 3)):
        settle(lambda: room.play.prompt_ms is not None)
        x, y = board.board.centre((key,))
        qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=_at(x0 + x * u, y0 + y * u))
        settle(lambda count=count: len(room.play.tries) == count)
    assert [(one.outcome, one.slip) for one in room.play.tries] == [("slip", "neighbour"), ("hit", None), ("hit", None)]
    room.put_aside()


def _at(x: float, y: float) -> Any:
    from PySide6.QtCore import QPoint

    return QPoint(round(x), round(y))


def test_help_comes_in_steps_is_counted_and_fills_no_stroke(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["sounding-s"], "press")
    play = room.play
    lit: list[tuple[str, ...]] = []
    for step in (1, 2, 3):
        hands.tap("F2")
        settle(lambda step=step: play.drill.aids == step)
        lit.append(room.prompt.board.marks.lit)
        assert room.prompt.sentence.isVisible()
    assert all("KeyS" in keys for keys in lit) and len(lit[0]) > 1
    hands.strike("+b", HOLD_S, "+s", 0.04, "-s", 0.02, "-b")
    settle(lambda: len(play.tries) == 1)
    assert (play.tries[0].outcome, play.tries[0].aids, play.tries[0].counts) == ("hit", 3, False)
    assert play.drill.state.lanes[0].hits == 0
    room.put_aside()


def test_after_a_slip_the_way_in_is_lit_first(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["sounding-s"], "press")
    hands.strike("+b", HOLD_S, "+d", 0.04, "-d", 0.02, "-b")
    settle(lambda: room.play.answer is not None)
    marks = room.prompt.board.marks
    assert marks.way == ("thumb-left-1",) and marks.lit == ("KeyS",) and marks.struck == ("KeyD",)
    assert "hold B (thumb), strike S (ring finger)" in room.prompt.sentence.accessibleDescription()
    room.put_aside()


def test_without_a_deadline_a_minute_of_nothing_is_void(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    hands.strike("d")
    settle(lambda: room.setup.values["drill-deadline"].text() == "by your own times")
    begin(room, settle, ["range-d"], "press")
    assert room.play.drill.deadline_ms == pytest.approx(1.5 * (700 + 120))  # the median of its clean hits
    room.put_aside()
    hands.strike("d")
    settle(lambda: room.setup.values["drill-deadline"].text() == "none")
    begin(room, settle, ["show-desktop"], "press")
    assert room.play.time_left(room.play.prompt_ms + 30_000) == 1.0
    room.play._do(None, room.play.prompt_ms + 59_999)
    assert not room.play.tries
    room.play._do(None, room.play.prompt_ms + 60_001)
    assert [(one.outcome, one.void_why) for one in room.play.tries] == [("void", "nothing came for 60 s")]
    room.put_aside()


def test_a_sprint_takes_as_many_hits_as_there_are_in_its_time(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    room = open_room(folder, "drill").room("drill")
    hands.strike("s", "minus")
    settle(lambda: "as many hits" in room.setup.values["drill-sprint"].text() and room.setup.minutes == 1)
    room.setup.set_options(replace(room.setup.options, minutes=4 / 60))
    room.begin()
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    play = room.play
    for _ in range(40):
        if room.play is None:
            break
        count, trigger = len(play.tries), play.binding.trigger
        if str(trigger) in (S, D):
            key = "s" if str(trigger) == S else "d"
            hands.strike("+b", HOLD_S, f"+{key}", 0.04, f"-{key}", 0.02, "-b")
        else:
            hands.tap("F1")
        settle(lambda count=count: room.play is None or len(play.tries) > count)
        settle(lambda: room.play is None or play.prompt_ms is not None)
    settle(lambda: room.stack.currentWidget() is room.after)
    (whole,) = in_log(folder, Round)
    assert whole.goal == "sprint" and whole.minutes == pytest.approx(4 / 60) and whole.ended is not None
    assert play.seconds_left() == 0


def test_a_round_is_made_of_a_layer_and_its_list_is_edited(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    setup = window.room("drill").setup
    hands.strike("w")
    settle(window.chooser().line.hasFocus)
    hands.strike("D", "r", "a", "w", "Return")
    settle(lambda: setup.selection is not None and setup.selection.name == "Draw")
    assert {one.binding for one in setup.due()} <= setup.selection.of and len(setup.due()) >= 2
    first = setup.due()[0].binding
    setup.list.setFocus()
    hands.strike("Delete")
    settle(lambda: first in setup.dropped)
    assert first not in {one.binding for one in setup.due()}
    hands.strike("a")
    settle(window.chooser().line.hasFocus)
    hands.strike("s", "h", "o", "w", "Return")
    settle(lambda: setup.added == ["show-desktop"])
    assert next(one.why for one in setup.due() if one.binding == "show-desktop") == "added"


def test_a_round_put_aside_keeps_its_plan_and_its_options(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    hands.strike("t", "d")
    settle(lambda: room.setup.options.strict and room.setup.options.deadline == "adaptive")
    planned = {one.binding: one.hits for one in room.setup.due()}
    hands.strike("Return")
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    hands.tap("F1")
    settle(lambda: len(room.play.tries) == 1)
    room.put_aside()
    (whole,) = in_log(folder, Round)
    assert dict(zip(whole.bindings, whole.hits, strict=True)) == planned and whole.goal == "planned"
    ledger = window.session.ledger
    settle(lambda: window.session.ledger is not ledger, 15000)
    room.setup.set_options(replace(room.setup.options, strict=False, deadline="fixed"))
    room.resume()
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    assert room.play.drill.options.strict and room.play.drill.options.deadline == "adaptive"
    assert room.play.drill.used_ms > 0 and room.play.seconds_left() < 180
    room.put_aside()


RUN = 'format = "glimber-run/1"\nname = "Survey line"\ncommands = ["shoalwright/add-sounding", "shoalwright/depth-range"]\n'


def test_a_task_run_is_asked_in_its_order_and_told_beside_its_best(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    (folder / "runs").mkdir()
    (folder / "runs" / "survey-line.toml").write_text(RUN + 'slow_way = ["menu Survey", "click Line"]\n')
    window = open_room(folder, "drill")
    room = window.room("drill")
    strokes = {"shoalwright/add-sounding": ["+b", HOLD_S, "+s", 0.04, "-s", 0.02, "-b"],
               "shoalwright/depth-range": ["+b", HOLD_S, "+s", HOLD_S, "-s", 0.02, "-b"]}  # fmt: skip
    titles = []
    for passage in range(2):
        hands.strike("w")
        settle(window.chooser().line.hasFocus)
        hands.strike("S", "u", "r", "v", "e", "y", "space", "l", "i", "n", "e", "Return")
        settle(lambda: room.setup.selection is not None and room.setup.selection.run == "survey-line")
        hands.strike("Return")
        settle(lambda: room.play is not None and room.play.prompt_ms is not None)
        play, ledger = room.play, window.session.ledger
        asked = []
        if passage:  # a slip is mended and the run goes on with its next step
            hands.strike("+b", HOLD_S, "+d", 0.04, "-d", 0.02, "-b")
            settle(lambda play=play: len(play.tries) == 1)
            settle(lambda play=play: play.prompt_ms is not None)
        while room.play is not None:
            assert len(asked) < 2, [one.binding for one in play.tries]
            command, count = play.binding.command, len(play.tries)
            asked.append(command)
            hands.strike(*strokes[command])
            settle(lambda play=play, count=count: len(play.tries) > count)
            settle(lambda play=play: room.play is None or play.prompt_ms is not None)
        assert asked == ["shoalwright/add-sounding", "shoalwright/depth-range"]
        settle(lambda ledger=ledger: window.session.ledger is not ledger, 15000)
        titles.append(room.sheet._title)
        room.show_setup()
    assert titles[0].startswith("Survey line: ") and "slow way 6.1 s" in titles[0]
    assert ", best " in titles[1]
    (whole,) = in_log(folder, Round)
    assert (whole.goal, whole.run, len(whole.bindings)) == ("run", "survey-line", 2)


def test_a_run_is_made_of_the_list(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    setup = window.room("drill").setup
    count = len({window.session.folio.bindings[one.binding].command for one in setup.due()})
    hands.strike("n")
    settle(window.chooser().line.hasFocus)
    hands.strike("L", "i", "n", "e", "Return")
    settle(lambda: "line" in window.session.folio.runs)
    assert len(window.session.folio.runs["line"].commands) == count
    settle(lambda: (folder / "runs" / "line.toml").exists())


def test_the_sheet_says_what_went_wrong_first_and_how_it_was_before(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    begin(room, settle, ["range-d", "sounding-s"], "press", **{"range-d": 1, "sounding-s": 1})
    keys = {"range-d": "d", "sounding-s": "s"}
    slipped = False
    while room.play is not None:
        play, id, count = room.play, room.play.binding.id, len(room.play.tries)
        assert count < 4
        key = "f" if id == "sounding-s" and not slipped else keys[id]
        slipped = slipped or key == "f"
        hands.strike("+b", HOLD_S, f"+{key}", 0.04, f"-{key}", 0.02, "-b")
        settle(lambda play=play, count=count: len(play.tries) > count)
        settle(lambda play=play: room.play is None or play.prompt_ms is not None)
    ledger = window.session.ledger
    settle(lambda: window.session.ledger is not ledger, 15000)
    sheet = room.sheet
    assert sheet._bindings == ["sounding-s", "range-d"]
    assert (sheet._before["range-d"].clean, sheet._before["range-d"].of) == (2, 2)  # its last round of five had two tries
    assert any("worth" in note for note in sheet._notes)


def test_two_bindings_of_one_command_are_told_apart_in_the_list(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    setup = open_room(folder, "drill").room("drill").setup
    settle(lambda: setup.list.count() > 2)
    names = setup.list.names()
    assert "Add sounding · split-42" in names and "Add sounding · shortcut" in names
    assert "Quay list" not in names and len(set(names)) >= len(names) - 1  # range-d and range-held are both on the board


PAD = layout_text(layer_text("base", 'Numpad7 = { tap = { id = "pad-sounding", does = "shoalwright/add-sounding" } }',
                             'Numpad8 = { tap = { id = "pad-range", does = "shoalwright/depth-range" } }',
                             'knob-1 = { left = { id = "pad-turn", does = "shoalwright/lead-line" } }'), board="pad-21")  # fmt: skip


def test_a_board_read_as_a_device_answers_with_its_very_keys(
    folder: Path, open_room: OpenRoom, settle: Settle, hands: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: Any
) -> None:
    """The device is the kernel's records in a pipe: there is none on the machine of the tests."""
    (folder / "layouts/pad-21.toml").write_text(PAD)
    pipe = tmp_path / "event7"
    os.mkfifo(pipe)
    pad = os.open(pipe, os.O_RDWR)
    monkeypatch.setattr("glimber.store.system.device.devices", lambda: [Device(pipe, "Side pad", "usb-1")])
    window = open_room(folder, "drill")
    room, setup = window.room("drill"), window.room("drill").setup
    hands.tap("b")
    settle(lambda: setup.options.hands == "board")
    hands.tap("b")
    settle(lambda: window.chooser().isVisible() and len(asked(window)) == 3)
    hands.answer(window, "Side pad, usb-1 is pad-21")
    settle(lambda: setup.options.device_board == "pad-21")
    assert setup.values["drill-hands"].text() == "pad-21, as a device"
    assert why_not(window.session.folio, window.session.folio.bindings["pad-turn"], setup.options) is not None  # a knob is no key

    def strike_pad(key: str) -> None:
        for kind in (1, 0):
            now = time.time_ns() // 1000
            os.write(pad, RECORD.pack(now // 10**6, now % 10**6, 1, EVDEV_NUMBERS[key], kind))
            qtbot.wait(30)  # the window is not held up: that would make the try void

    begin(room, settle, ["pad-sounding"], "press", **{"pad-sounding": 2})
    play = room.play
    hands.tap("7")  # the ordinary keyboard does not stand in for what is there itself
    strike_pad("Numpad8")
    settle(lambda: len(play.tries) == 1)
    settle(lambda: play.prompt_ms is not None)
    strike_pad("Numpad7")
    settle(lambda: len(play.tries) == 2)
    settle(lambda: play.prompt_ms is not None)
    strike_pad("Numpad7")
    settle(lambda: len(play.tries) == 3)
    told = [(one.outcome, one.slip, one.pressed, one.first) for one in play.tries]
    assert told == [
        ("slip", "neighbour", "pad-21:base:Numpad8:tap", True),
        ("hit", None, told[1][2], False),
        ("hit", None, told[2][2], True),
    ]
    settle(lambda: play.prompt_ms is not None)
    os.close(pad)
    settle(lambda: room.play is None)  # unplugged: the round waits
    assert "pad-21 is gone" in window.bottom._shown and in_log(folder, Round)[0].hands == "device"
    settle(lambda: setup.resume_button.isVisible(), 15000)
    pad = os.open(pipe, os.O_RDWR)
    room.resume()  # plugged in again
    settle(lambda: room.play is not None)
    room.play.go_on()
    settle(lambda: room.play.prompt_ms is not None)
    play = room.play
    strike_pad("Numpad7")
    settle(lambda: play.tries[-1].outcome == "hit" and len(play.tries) == 4)
    settle(lambda: room.play is None)  # its second clean hit was the last that was wanted
    os.close(pad)
    pipe.unlink()
    count = len(in_log_rounds(folder))
    room.begin_with(["pad-sounding"], hits={"pad-sounding": 1})
    assert "cannot be read" in window.bottom._shown and len(in_log_rounds(folder)) == count  # nothing of it is written


def test_a_task_run_is_recorded_from_real_strokes(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    hands.strike("shift+n")
    settle(lambda: room.runs.recorder.made is not None and room.runs.recorder().isVisible())
    recorder = room.runs.recorder()
    hands.strike("ctrl+shift+s", "ctrl+k", "ctrl+l", "q", "ctrl+shift+s")
    settle(lambda: recorder.list.count() == 3)
    assert [recorder.list.item(n).text() for n in range(3)] == ["1   Add sounding", "2   Lead line", "3   Add sounding"]
    assert "3 commands; 1 strike was none of this folio's" in recorder.head.text()
    hands.strike("+Escape", 1.0, "-Escape")
    settle(recorder.list.hasFocus)
    hands.strike("Delete", "Return")
    hands.answer(window, "Down the line")
    settle(lambda: "down-the-line" in room.session.folio.runs)
    assert room.session.folio.runs["down-the-line"].commands == ("shoalwright/lead-line", "shoalwright/add-sounding")
    hands.strike("shift+n")
    settle(recorder.isVisible)
    assert recorder.recording.commands == ()  # begun anew
    hands.strike("+Escape", 1.0, "-Escape")
    settle(lambda: not recorder.isVisible())  # nothing struck, nothing made


def test_exercise_asks_for_keys_tapped_and_held(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    hands.tap("g")
    settle(lambda: window.chooser().isVisible())
    assert asked(window) == ["Two minutes of exercise: 3 bindings whose keys are tapped and held"]
    hands.answer(window, "Two minutes")
    settle(lambda: room.play is not None and room.play.prompt_ms is not None)
    play, options = room.play, room.play.drill.options
    assert (options.minutes, options.sprint, options.deadline, options.mode) == (2.0, True, "none", "press")
    # S on Draw, tapped and held; B on the stand-in is the thumb key that opens Draw while held and types a space
    strokes = {"Type Space": ["+b", 0.06, "-b"], "Add sounding": ["+b", HOLD_S, "+s", 0.04, "-s", 0.02, "-b"],
               "Depth range": ["+b", HOLD_S, "+s", HOLD_S, "-s", 0.02, "-b"]}  # fmt: skip
    names = {play.drill.folio.command_of(play.drill.folio.bindings[lane.binding]).name for lane in play.drill.state.lanes}
    assert names == set(strokes)
    hits: set[str] = set()
    until = time.monotonic() + 20
    while hits != names and time.monotonic() < until:
        settle(lambda: play.prompt_ms is not None)
        name = play.drill.folio.command_of(play.drill.folio.bindings[play.drill.state.asked]).name
        say_it(play, hands, settle, *strokes[name])
        hits |= {name} if play.tries[-1].outcome == "hit" else set()
    assert hits == names
    room.put_aside()
    settle(lambda: room.play is None)
    assert "typed-keys" not in window.session.folio.programs


def test_what_a_round_left_unlit_takes_no_time_of_the_next(folder: Path, open_room: OpenRoom, settle: Settle, hands: Any) -> None:
    """Its strokes were lit on, each some milliseconds, while the next round was answered."""
    room = open_room(folder, "drill").room("drill")
    begin(room, settle, ["range-d"], "name")
    play, lit = room.play, list[int]()
    play.lit.connect(lambda: lit.append(len(play.tries)))
    play._idle.setInterval(1000)  # longer than the round, whatever holds the machine up
    for _ in range(2):
        say_it(play, hands, settle, "d", "e", "p", "t", "h", "Return")
    settle(lambda: room.stack.currentWidget() is room.after)
    before, end = len(lit), time.monotonic() + 1.3
    settle(lambda: time.monotonic() > end)
    assert len(lit) == before
