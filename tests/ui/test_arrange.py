"""The Arrange room driven by real keys: every operation, and everything undone to the first value byte for byte."""

from __future__ import annotations

import contextlib
import os
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtTest import QTest

from glimber.core.audit.finding import Finding
from glimber.core.cards.key_face import key_faces
from glimber.core.edit.edit import EditError
from glimber.core.engine.events import Event
from glimber.core.notation.keycodes import EVDEV_NUMBERS
from glimber.store.system.device import RECORD
from glimber.store.toml.reading import open_folio
from glimber.ui.arrange.place import Place, settled
from glimber.ui.arrange.verbs.does import even_steps
from glimber.ui.arrange.views.side import SidePane
from tests.helpers import write_folio
from tests.store.toml.test_every_edit import EDITS
from tests.ui.choosing import asked, heard
from tests.ui.kinds import OpenRoom, Settle

BESIDE = 'format = "glimber-layout/1"\nboard = "pad-21"\n[[layers]]\nid = "pad"\nname = "Pad"\n[layers.keys]\nF13 = "F13"\nknob-1 = { left = "VolumeDown" }\n'


@pytest.fixture
def room(tmp_path: Path, open_room: OpenRoom) -> Any:
    folder = write_folio(tmp_path / "small", {"layouts/pad-21.toml": BESIDE})
    room = open_room(folder, "arrange").room("arrange")
    room.desk.move_to(Place("split-42", "draw", "KeyS"))
    room.canvas.setFocus()
    return room


def saved(room: Any) -> Any:
    room.session.flush()
    return open_folio(room.session.folder).folio


def files(room: Any) -> dict[str, bytes]:
    room.session.flush()
    folder = room.session.folder
    return {str(p.relative_to(folder)): p.read_bytes() for p in sorted(folder.rglob("*.toml")) if "backups" not in p.parts}


def test_walking_layers_boards_and_gestures(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("Right")
    settle(lambda: room.desk.place.key == "KeyD")
    hands.strike("shift+Right", "shift+Right")
    settle(lambda: room.desk.place.selected == {"KeyD", "KeyF", "KeyG"})
    hands.strike("bracketleft")
    settle(lambda: room.desk.place.layer == "base" and room.title.text() == "Base")
    hands.strike("g")
    settle(lambda: room.desk.place.gesture == "hold")
    hands.strike("b")
    settle(lambda: room.desk.place.board == "chords/everywhere")  # the ordinary keyboard follows the boards with a layout
    hands.strike("b", "b")
    settle(lambda: room.desk.place.board == "pad-21" and room.how.text() == "pad-21, always")
    assert room.boards.currentText() == "Side pad, 21 keys and two knobs"
    assert room.count.text() == "2 of 23 keys used, 2 bindings"


def test_the_through_view_tells_a_screen_reader_its_rows(room: Any) -> None:
    assert room.through.rows_said() == ["tap: Base s, Draw Add sounding", "hold: Draw Depth range"]
    said = room.through.accessibleDescription()
    assert said.startswith("Add sounding, sends Ctrl+Shift+S. S as in sounding. tap: Base s") and said.endswith("Depth range")
    for key, row in (("KeyA", "tap: Base a, Draw dead"), ("KeyF", "tap: Base f, Draw as below")):
        room.desk.move_to(Place("split-42", "draw", key))
        assert room.through.rows_said() == [row]


def test_what_is_painted_anew_after_an_edit_looks_as_all_of_it_would(room: Any, settle: Settle) -> None:
    """Only what an edit changes is painted: the screen shows the same as a painting of everything, edit by edit and on the way back."""
    window, session = room.window(), room.session

    def as_a_whole() -> bool:
        drawn, seen = window.grab().toImage(), window.screen().grabWindow(window.winId()).toImage()
        for view in (room.canvas, room.through, room.ladder):
            ratio, at = view.devicePixelRatioF(), view.mapTo(window, QPoint(0, 0))
            box = QRectF(at.x() * ratio, at.y() * ratio, view.width() * ratio, view.height() * ratio).toRect()
            if seen.copy(box).convertToFormat(drawn.format()) != drawn.copy(box):
                return False
        place = room.desk.place
        board, layout = session.folio.boards[place.board], session.folio.layouts[place.board]
        return room.canvas.faces == key_faces(session.folio, board, layout.layer(place.layer))

    made = []
    for name, change in EDITS.items():
        with contextlib.suppress(EditError, KeyError):
            session.edit(name, change)
            made.append(name)
            settle(as_a_whole)
    assert len(made) > 20
    while session.undo():
        settle(as_a_whole)


def test_it_begins_on_the_board_that_has_most_and_a_mode_takes_nothing_from_it(room: Any, settle: Settle) -> None:
    start = settled(room.session.folio, None)
    assert start is not None and start.board == "split-42"  # the pad comes first by its name
    size = room.canvas.size()
    room.board_verbs.free_play()
    settle(room.mode.isVisible)
    assert room.canvas.size() == size and not room.how.isVisible()
    room.desk.end_mode()
    settle(lambda: not room.mode.isVisible())
    assert room.canvas.size() == size and room.how.isVisible()


def test_every_operation_and_the_way_back(room: Any, hands: Any, settle: Settle) -> None:
    before = files(room)
    folio = room.session.folio
    # Swap S and D.
    hands.strike("s", "Right", "s")
    settle(lambda: str(room.session.folio.bindings["sounding-s"].trigger) == "split-42:draw:KeyD:tap")
    assert room.session.undo_name() == "swap S and D"
    # Lift from D and put on Q of the base layer.
    hands.strike("x", "bracketleft", "Left", "Left", "Up", "p")
    settle(lambda: str(room.session.folio.bindings["range-held"].trigger).startswith("split-42:base:"))
    # Copy what is there to two more keys.
    hands.strike("c", "Right", "space", "Right", "space", "Escape")
    settle(lambda: len(room.session.folio.bindings) == len(folio.bindings) + 2)
    # The bench takes the last one.
    hands.strike("Delete")
    settle(lambda: len(room.session.folio.bindings) == len(folio.bindings) + 1)
    # Press what a key is to send.
    hands.strike("Down", "Down", "Return")
    window = room.window()
    settle(lambda: window.press_it().isVisible())
    hands.strike("ctrl+alt+k", "Return")
    settle(lambda: "Ctrl+Alt+K" in {str(b.sends) for b in room.session.folio.all_bindings()})
    # Dead, and the reason.
    hands.ask(room, "w", "K as in keel")
    settle(lambda: "K as in keel" in {b.reason for b in room.session.folio.all_bindings()})
    hands.strike("Right", "d")
    settle(lambda: "dead" in room.session.folio.layouts["split-42"].base.unset.values())
    # A new layer from a starter, called otherwise, moved up, removed.
    hands.ask(room, "n", "Figures", "digits")
    settle(lambda: room.desk.place.layer == "figures")
    assert str(room.session.folio.by_trigger[room.desk.place.on("KeyJ")].sends) == "4"
    hands.ask(room, "F2", "Numbers")
    settle(lambda: room.title.text() == "Numbers")
    hands.strike("braceleft")
    settle(lambda: [layer.id for layer in room.session.folio.layouts["split-42"].layers] == ["base", "figures", "draw"])
    assert saved(room).layouts["split-42"].layer("figures").name == "Numbers"
    hands.strike("shift+Delete")
    settle(lambda: room.session.folio.layouts["split-42"].layer("figures") is None)
    while room.session.undo_name() is not None:
        room.session.undo()
    assert room.session.folio == folio and files(room) == before


def test_a_run_assigns_what_is_typed_and_walks_on(room: Any, hands: Any, settle: Settle) -> None:
    room.desk.move_to(Place("split-42", "draw", "KeyQ"))
    hands.strike("r")
    settle(lambda: room.desk.mode is not None)
    assert room.mode.text().startswith("Run: type what Q")
    hands.strike("ctrl+z", "F5", "ctrl+shift+s")
    settle(lambda: room.desk.place.key == "KeyR")
    hands.strike("Escape")
    settle(lambda: not room.desk.mode is not None)
    assert [str(saved(room).by_trigger[room.desk.place.on(key)].sends) for key in ("KeyQ", "KeyW", "KeyE")] == [
        "Ctrl+Z",
        "F5",
        "Ctrl+Shift+S",
    ]
    settle(lambda: asked(room.window()) == ["Bind the commands: Add sounding", "Leave them as keys"])
    hands.answer(room, "Bind")
    settle(lambda: room.session.folio.by_trigger[room.desk.place.on("KeyE")].command == "shoalwright/add-sounding")
    hands.strike("ctrl+z")
    settle(lambda: room.session.folio.by_trigger[room.desk.place.on("KeyE")].command is None)
    hands.strike("ctrl+z")
    settle(lambda: room.desk.place.on("KeyE") not in room.session.folio.by_trigger)


def test_a_command_is_found_and_put_and_the_bench_gives_its_own(room: Any, hands: Any, settle: Settle) -> None:
    room.desk.move_to(Place("split-42", "draw", "KeyQ"))
    hands.ask(room, "f", "sounding")
    settle(lambda: room.session.folio.by_trigger[room.desk.place.on("KeyQ")].command == "shoalwright/add-sounding")
    hands.strike("Right")
    settle(lambda: room.side.command_in_front() == "shoalwright/quay-list")  # the bench follows when the keys rest
    room.side.bench.setFocus()
    hands.strike("Return")
    settle(lambda: "shoalwright/quay-list" in room.session.folio.bindings_of)
    assert room.session.folio.by_trigger[room.desk.place.on("KeyW")].command == "shoalwright/quay-list"


def test_what_a_key_does_besides_sending(room: Any, hands: Any, settle: Settle) -> None:
    def now() -> Any:
        return room.session.folio.by_trigger.get(room.desk.place.spot)

    room.desk.move_to(Place("split-42", "base", "KeyQ"))
    hands.ask(room, "e", "draw until left")
    settle(lambda: now() is not None and (now().enters, now().mode) == ("draw", "stay"))
    hands.ask(room, "e", "hold Crown")
    settle(lambda: now().bundle == "Crown")
    hands.ask(room, "e", "hold modifiers as one", "Anchor Ctrl+Alt")
    settle(lambda: now().bundle == "Anchor" and room.session.folio.bundles["Anchor"] == ("Ctrl", "Alt"))
    hands.ask(room, "e", "type a text", "fathoms, feet")
    settle(lambda: str(now().sends) == '"fathoms, feet"')
    hands.ask(room, "e", "repeat", "60 ms")
    settle(lambda: now().repeat_ms == 60)
    hands.ask(room, "e", "steps, written", 'Ctrl+K, 80 ms, "buoy, lit"')
    settle(lambda: len(now().steps) == 3)
    told = heard(room.session)
    hands.ask(room, "e", "repeat", "soon")
    settle(lambda: bool(told) and "expected a number of ms" in told[-1])
    hands.ask(room, "e", "recorded")
    settle(lambda: room.desk.mode is not None)
    hands.strike("ctrl+k", "b")
    settle(lambda: room.mode.text() == "Recording the steps of Q, 2 so far: strike them, then Esc.")
    hands.strike("Escape")
    settle(lambda: [str(step) for step in now().steps if not hasattr(step, "wait_ms")] == ["Ctrl+K", "b"])
    hands.ask(room, "e", "nothing")
    settle(lambda: now() is None)


def test_recorded_pauses_are_made_even() -> None:
    from glimber.core.model.folio import Wait
    from glimber.core.notation.keys import Chord

    struck = [(Chord((), "a"), 0.0), (Chord((), "b"), 83.0), (Chord((), "c"), 174.0), (Chord((), "d"), 400.0)]
    steps = even_steps(struck)
    assert [step.wait_ms for step in steps if isinstance(step, Wait)] == [90, 90, 90] and len(steps) == 7


def test_labels_icons_groups_pins_and_free_places(room: Any, hands: Any, settle: Settle) -> None:
    hands.ask(room, "t", "Snd")
    settle(lambda: room.session.folio.bindings["sounding-s"].label == "Snd")
    hands.ask(room, "i", "anchor")
    settle(lambda: room.session.folio.bindings["sounding-s"].icon is not None)
    hands.ask(room, "u", "Depths")
    settle(lambda: room.session.folio.commands["shoalwright/add-sounding"].group == "depths")
    hands.ask(room, "shift+u", "pine", "notch")
    settle(lambda: room.session.folio.programs["shoalwright"].groups["depths"].mark == "notch")
    assert room.session.folio.programs["shoalwright"].groups["depths"].ink == "pine"
    hands.strike("k")
    settle(lambda: room.session.folio.bindings["sounding-s"].pinned)
    told = heard(room.session)
    hands.strike("Delete")
    settle(lambda: bool(told) and "is pinned" in told[-1])
    room.side.bench.setFocus()
    hands.strike("o")
    chooser = room.window().chooser()
    settle(chooser.line.hasFocus)
    assert "Free places for Quay list" in chooser.head.text()
    hands.strike("Return")
    settle(lambda: "shoalwright/quay-list" in room.session.folio.bindings_of)


def test_findings_flag_keys_and_are_cured(room: Any, hands: Any, settle: Settle) -> None:
    room.session.edit(
        "odd", lambda folio: __import__("glimber.core.edit.spots", fromlist=["x"]).type_on(folio, room.desk.place.on("KeyF"), "Ctrl+Alt+Q")
    )
    settle(lambda: [one.code for one in room.side.findings] == ["sends-nothing-known", "slow-gesture"])
    assert room.number() == 2
    assert room.canvas.shown.flags == {"KeyF": 1}
    room.side.list.setFocus()
    room.side.list.setCurrentRow(0)
    hands.strike("Return")
    settle(lambda: [one.code for one in room.side.findings] == ["slow-gesture"])
    assert room.desk.place.on("KeyF") not in room.session.folio.by_trigger


@pytest.mark.parametrize("width", range(240, 320, 16))
def test_findings_lie_below_each_other_from_the_first_time_on(qtbot: Any, width: int) -> None:
    """The bar that comes when they have been laid made them narrower, and longer than the room they had."""
    pane = SidePane()
    qtbot.addWidget(pane)
    pane.resize(width, 300)
    pane.show()
    texts = [" ".join(("soundings", "on", "Draw", "come", "late")[: 1 + n % 5] * (1 + n // 5)) for n in range(20)]
    pane.show_findings([Finding("slow-gesture", "warning", "split-42:draw", (), text) for text in texts], lambda finding: ())
    qtbot.waitUntil(lambda: pane.list.verticalScrollBar().isVisible())
    qtbot.wait(200)
    rows = [pane.list.visualItemRect(pane.list.item(row)) for row in range(20)]
    assert all(one.bottom() < other.top() for one, other in pairwise(rows))


def test_keys_are_dragged_and_selected_with_the_pointer(room: Any, settle: Settle) -> None:
    def middle(key: str) -> QPoint:
        u, x0, y0 = room.canvas._scale()
        x, y = room.canvas.board.centre((key,))
        return QPoint(round(x0 + x * u), round(y0 + y * u))

    QTest.mouseClick(room.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, middle("KeyD"))
    settle(lambda: room.desk.place.selected == {"KeyS", "KeyD"})
    QTest.mouseClick(room.canvas, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, middle("KeyD"))
    assert room.desk.place.selected == {"KeyS", "KeyD"}  # a menu is for all of them
    QTest.mousePress(room.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle("KeyS"))
    QTest.mouseMove(room.canvas, middle("KeyG"))
    QTest.mouseRelease(room.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle("KeyG"))
    settle(lambda: str(room.session.folio.bindings["sounding-s"].trigger) == "split-42:draw:KeyG:tap")
    assert room.session.undo_name() == "move S to G"


def drag(start: Any, at: QPoint, end: Any, to: QPoint) -> None:
    """Press in one widget and let go over another."""
    QTest.mousePress(start, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    over = start.mapFromGlobal(end.mapToGlobal(to))
    QTest.mouseMove(start, over)
    QTest.mouseRelease(start, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, over)


def test_keys_are_dragged_to_other_layers_and_to_the_bench_and_back(room: Any, settle: Settle) -> None:
    def middle(key: str) -> QPoint:
        u, x0, y0 = room.canvas._scale()
        x, y = room.canvas.board.centre((key,))
        return QPoint(round(x0 + x * u), round(y0 + y * u))

    base = room.ladder.visualItemRect(room.ladder.item(0)).center()
    drag(room.canvas, middle("KeyD"), room.ladder.viewport(), base)
    settle(lambda: str(room.session.folio.bindings["range-d"].trigger) == "split-42:base:KeyD:tap")
    drag(room.canvas, middle("KeyS"), room.side.bench, QPoint(60, 60))
    settle(lambda: "sounding-s" not in room.session.folio.bindings)
    bench = room.side.bench
    settle(lambda: bench.count() > 0)
    drag(bench.viewport(), bench.visualItemRect(bench.item(0)).center(), room.canvas, middle("KeyG"))
    settle(lambda: room.desk.place.on("KeyG") in room.session.folio.by_trigger)


def test_a_layout_is_carried_over_after_it_was_seen(room: Any, hands: Any, settle: Settle) -> None:
    hands.ask(room, "v", "split-36")
    settle(lambda: room.carrying().isVisible() and room.carrying().hasFocus())
    said = room.carrying().accessibleDescription()
    assert "keys are the same" in said and "to the bench" in said
    room.carrying().grab()
    hands.strike("Escape")
    settle(lambda: not room.carrying().isVisible())
    assert "split-36" not in room.session.folio.layouts
    hands.ask(room, "v", "split-36")
    settle(lambda: room.carrying().hasFocus())
    hands.strike("Return")
    settle(lambda: room.desk.place.board == "split-36")
    assert "split-42" not in saved(room).layouts and str(saved(room).bindings["sounding-s"].trigger) == "split-36:draw:KeyS:tap"
    hands.strike("ctrl+z")
    settle(lambda: "split-42" in room.session.folio.layouts)
    hands.ask(room, "shift+b", "half-26")
    settle(lambda: room.desk.place.board == "half-26")
    assert saved(room).layouts["half-26"].base.name == "Base"


def test_free_play_says_what_keys_do_and_why_nothing_happens(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("y")
    settle(lambda: room.desk.mode is not None)
    hands.strike("+b", 0.25, "+s", 0.03, "-s", "-b")  # B stands in for the thumb key that holds Draw
    settle(lambda: "Add sounding in Shoalwright, by Ctrl+Shift+S" in room.mode.text())
    hands.strike("+b", 0.25, "+q", 0.03, "-q", "-b")
    settle(lambda: "the key is dead on Draw" in room.mode.text())
    hands.strike("ctrl+k")
    room.desk.mode.hear(Event(1e9, "down", "F9"), 0.0)
    settle(lambda: "split-42 has no key where F9 is" in room.mode.text())
    hands.strike("+Escape", 0.9, "-Escape")
    settle(lambda: room.desk.mode is None)


def test_a_folio_without_anything_bound_says_what_to_do(tmp_path: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    bare = {"layouts/split-42.toml": None, "programs/shoalwright.toml": None, "programs/everywhere.toml": None}
    room = open_room(write_folio(tmp_path / "bare", bare), "arrange").room("arrange")
    assert room.empty.isVisible() and "Import a program's shortcuts in Gather" in room.empty.text()
    room.setFocus()
    hands.ask(room, "shift+b", "compact-61")
    settle(lambda: room.desk.place is not None and room.desk.place.board == "compact-61")


SVG = '<svg><rect id="KeyA" width="20" height="20"/><rect id="KeyB" x="21" width="20" height="20"/><circle id="knob-1" cx="60" cy="10" r="10"/></svg>'


def test_a_board_is_drawn_and_its_shape_edited(room: Any, hands: Any, settle: Settle, tmp_path: Path) -> None:
    told = heard(room.session)
    (tmp_path / "lap-pad.svg").write_text(SVG)
    room.board_verbs.from_drawing(tmp_path / "lap-pad.svg")
    assert room.desk.place.board == "lap-pad" and "has 2 keys and 1 knobs" in told[-1]
    room.board_verbs.from_drawing(tmp_path / "gone.svg")
    assert "gone.svg: " in told[-1]
    room.canvas.setFocus()
    hands.strike("shift+e")
    settle(room.shape().isVisible)
    hands.strike("alt+Down")
    settle(lambda: room.session.folio.boards["lap-pad"].by_id["KeyA"].y == 0.25)
    room.shape().numbers["w"].setFocus()
    room.shape().numbers["w"].selectAll()
    hands.strike("1", "period", "5", "Return")
    settle(lambda: room.session.folio.boards["lap-pad"].by_id["KeyA"].w == 1.5)
    room.shape().reach.setCurrentText("avoid")
    room.shape().reach.activated.emit(3)
    room.canvas.setFocus()
    hands.ask(room, "shift+n", "extra-1")
    settle(lambda: room.session.folio.boards["lap-pad"].has("extra-1"))
    assert saved(room).boards["lap-pad"].by_id["KeyA"].reach == "avoid" and room.desk.place.key == "extra-1"
    hands.strike("ctrl+Delete", "shift+e")
    settle(lambda: not room.session.folio.boards["lap-pad"].has("extra-1") and room.side.isVisible())


def test_the_real_board_is_checked_and_drift_taken_over(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("shift+c")
    settle(lambda: room.desk.mode is not None)
    assert room.mode.text().startswith("On the real board strike P on Base. 1 of 3, 0 differ.")
    hands.strike("p", "F2")
    settle(lambda: "3 of 3" in room.mode.text())
    hands.strike("ctrl+shift+d")
    chooser = room.window().chooser()
    settle(chooser.line.hasFocus)
    assert "the board sends Ctrl+Shift+D, the folio says Ctrl+Shift+S" in chooser.list.item(0).text()
    hands.strike("Return")
    settle(lambda: str(room.session.folio.bindings["sounding-s"].sends) == "Ctrl+Shift+D")


def test_sequences_as_a_tree(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("q")
    settle(lambda: room.tree().tree.hasFocus())
    tree = room.tree()
    assert tree.texts() == ["Ctrl+K: 2 sequences", "Ctrl+K Ctrl+L: Lead line", "Ctrl+K Ctrl+S: Name strait"]
    hands.ask(room, "F2", "Lines and names")
    settle(lambda: tree.texts()[0] == "Ctrl+K: Lines and names")
    tree.tree.setFocus()
    hands.strike("o")
    settle(lambda: tree.texts()[0].endswith("stays open"))
    for key, text in (("k", "Enter finish, Escape cancel"), ("s", "menu Lines, click Go, field 2")):
        hands.ask(room, key, text)
        settle(lambda: tree.tree.hasFocus())
    stem = saved(room).programs["shoalwright"].stems[0]
    assert stem.closes == (("Enter", "finish"), ("Escape", "cancel")) and stem.slow_way == ("menu Lines", "click Go", "field 2")
    hands.strike("Right", "Return")
    settle(lambda: room.window().press_it().isVisible())
    hands.strike("ctrl+k", "ctrl+j", "Return")
    settle(lambda: str(room.session.folio.bindings["lead-line"].trigger) == "Ctrl+K Ctrl+J")
    hands.strike("Delete")
    settle(lambda: "lead-line" not in room.session.folio.bindings)
    hands.strike("Escape")
    settle(lambda: not tree.isVisible())
    assert saved(room).programs["shoalwright"].stems[0].name == "Lines and names"


def test_free_play_on_a_board_read_as_a_device(room: Any, settle: Settle) -> None:
    read, write = os.pipe()
    room.board_verbs.free_play(read)
    s = EVDEV_NUMBERS["KeyS"]
    for ms, value in ((0, 1), (60, 0)):
        os.write(write, RECORD.pack(1000, ms * 1000, 1, s, value))
    settle(lambda: "S on Base: sends S" in room.mode.text())
    os.close(write)
    room.desk.end_mode()
