"""Arrange on the ordinary keyboard: a program's chords as keys of layers, driven by real keys in a real window."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QWidget

from glimber.core.practice.mnemonics import proposed_reason
from glimber.store.toml.reading import open_folio
from glimber.ui.arrange.place import Place
from tests.helpers import text_of, write_folio
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle

BOARD = "chords/shoalwright"
CHORDS = text_of("chords-of-a-program.toml")
NAMES = """format = "glimber-program/1"
name = "Namewell"
[commands.new-tab]
name = "New tab"
shortcut = "Ctrl+T"
"""
DESKTOP = """format = "glimber-program/1"
name = "Everywhere"
[commands.switch]
name = "Switch workspace"
shortcut = "Ctrl+F"
"""


@pytest.fixture
def room(tmp_path: Path, open_room: OpenRoom) -> Any:
    files = {"layouts/split-42.toml": None, "programs/shoalwright.toml": CHORDS, "programs/namewell.toml": NAMES,
             "programs/everywhere.toml": DESKTOP}  # fmt: skip
    room = open_room(write_folio(tmp_path / "small", files), "arrange").room("arrange")
    room.desk.move_to(Place(BOARD, "ctrl", "KeyS"))
    room.canvas.setFocus()
    return room


def saved(room: Any) -> Any:
    room.session.flush()
    return open_folio(room.session.folder).folio


def trigger(room: Any, id: str) -> str:
    return str(room.session.folio.bindings[id].trigger)


def test_it_opens_on_the_program_with_most_and_says_what_is_there(tmp_path: Path, open_room: OpenRoom) -> None:
    files = {"layouts/split-42.toml": None, "programs/shoalwright.toml": CHORDS, "programs/namewell.toml": NAMES,
             "programs/everywhere.toml": DESKTOP}  # fmt: skip
    room = open_room(write_folio(tmp_path / "other", files), "arrange").room("arrange")
    assert room.desk.place.board == BOARD and room.title.text() == "Ctrl" and room.how.text() == "Shoalwright · this keyboard"
    assert room.count.text().startswith("2 bound, 1 used by the desktop") and not room.empty.isVisible()
    faces = room.canvas.faces
    assert faces["KeyS"].lines[0].full == "Save chart" and faces["KeyK"].stem == "2 more"
    assert faces["KeyT"].others == ("Namewell: New tab",) and faces["KeyD"].free and not faces["KeyT"].free
    assert "Ctrl+T" not in faces["KeyT"].spoken() and "in Namewell: New tab" in faces["KeyT"].spoken()


def test_a_chord_is_moved_and_waits_on_the_change_sheet(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("x", "Right", "p")
    settle(lambda: trigger(room, "save-chart") == "Ctrl+D")
    assert room.canvas.faces["KeyD"].lines[0].full == "Save chart" and room.canvas.faces["KeyS"].free
    hands.strike("ctrl+z")
    settle(lambda: trigger(room, "save-chart") == "Ctrl+S")
    room.desk.move_to(Place(BOARD, "ctrl", "KeyS"))
    hands.strike("s", "Right", "s")
    settle(lambda: trigger(room, "save-chart") == "Ctrl+D")
    assert str(saved(room).bindings["save-chart"].trigger) == "Ctrl+D"


def test_a_chord_goes_to_other_modifiers(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("x", "bracketright", "bracketright")
    settle(lambda: room.desk.place.layer == "ctrl-shift")
    hands.strike("p")  # what is there comes back
    settle(lambda: (trigger(room, "save-chart"), trigger(room, "add-sounding")) == ("Ctrl+Shift+S", "Ctrl+S"))


def test_a_stem_moves_with_its_sequences_and_enter_goes_behind_it(room: Any, hands: Any, settle: Settle) -> None:
    room.desk.move_to(Place(BOARD, "ctrl", "KeyK"))
    hands.strike("x", "Right", "p")
    settle(lambda: (trigger(room, "sheet-scale"), trigger(room, "sheet-copy")) == ("Ctrl+L Ctrl+C", "Ctrl+L Ctrl+S"))
    hands.strike("Return")
    settle(lambda: room.desk.place.layer == "after Ctrl+L, ctrl")
    assert room.title.text() == "after Ctrl+L, Ctrl" and room.canvas.faces["KeyC"].lines[0].full == "Sheet scale"


def test_a_command_is_found_put_copied_and_taken_off(room: Any, hands: Any, settle: Settle) -> None:
    room.desk.move_to(Place(BOARD, "ctrl", "KeyD"))
    hands.ask(room, "f", "Shade slope")
    settle(lambda: trigger(room, "shade-slope") == "Ctrl+D")
    hands.strike("c", "Right", "Right", "space", "Escape")
    settle(lambda: [str(b.trigger) for b in room.session.folio.bindings_of["shoalwright/shade-slope"]] == ["Ctrl+D", "Ctrl+G"])
    room.desk.move_to(Place(BOARD, "ctrl", "KeyD"))
    hands.strike("Delete")
    settle(lambda: [str(b.trigger) for b in room.session.folio.bindings_of["shoalwright/shade-slope"]] == ["Ctrl+G"])


def test_what_a_layout_has_alone_says_why_it_is_not_here(room: Any, hands: Any, settle: Settle) -> None:
    told = heard(room.session)
    for key in ("g", "n", "e"):
        hands.strike(key)
    settle(lambda: len(told) >= 3)
    assert all("this works on a board with a layout" in text for text in told)


def test_modifiers_really_held_show_their_layer_while_held(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("+Control_L", "+Shift_L", 0.3)
    settle(lambda: room.desk.place.layer == "ctrl-shift")
    assert room.canvas.shown.lit >= {"ShiftLeft", "ControlLeft"}
    hands.strike("-Shift_L", "-Control_L")
    settle(lambda: room.desk.place.layer == "ctrl")


def test_the_through_view_has_a_row_for_each_program(room: Any, settle: Settle) -> None:
    room.desk.move_to(Place(BOARD, "ctrl", "KeyT"))
    settle(room.programs.isVisible)
    said = room.programs.accessibleDescription()
    assert "Trace coast" in said and "Namewell: alone types t, Shift types T, Ctrl New tab" in said
    assert not room.through.isVisible()


def test_the_number_pad_is_shown_when_asked_for(room: Any, hands: Any, settle: Settle) -> None:
    assert "Numpad4" not in room.canvas.faces
    hands.strike("shift+z")
    settle(lambda: "Numpad4" in room.canvas.faces)
    hands.strike("shift+z")
    settle(lambda: "Numpad4" not in room.canvas.faces)


def test_a_first_round_shows_what_is_new_and_asks_for_it_later(room: Any, hands: Any, settle: Settle) -> None:
    """From a folio with one ordinary keyboard: the first prompt is a showing, struck once, and no try."""
    window = room.window()
    hands.strike("ctrl+4")
    settle(lambda: window.current == "drill" and bool(window.room("drill").setup.due()))
    drill = window.room("drill")
    assert 1 <= len(drill.setup.due()) <= 13 and all(one.new for one in drill.setup.due())
    hands.strike("Return")
    settle(lambda: drill.play is not None and drill.play.prompt_ms is not None)
    play = drill.play
    assert play.drill.showing and drill.prompt.board.isVisible()
    said = drill.prompt.sentence.accessibleDescription()
    assert said.startswith("New: ") and "Strike it once" in said
    proposed = proposed_reason(play.drill.folio, play.binding)  # for what has no reason of its own
    assert (f" Perhaps: {proposed}." in said) == (proposed is not None and not play.binding.reason)
    assert ("F2 keeps that reason" in said) == (play.suggested_reason is not None)
    if play.suggested_reason is not None:
        hands.strike("F2")
        settle(lambda: room.session.folio.bindings[play.binding.id].reason == proposed)
        settle(lambda: f" {proposed}." in drill.prompt.sentence.accessibleDescription())
        assert play.drill.showing and "Perhaps" not in drill.prompt.sentence.accessibleDescription()
    names = {"Ctrl": "Control_L", "Shift": "Shift_L"}
    seen = []
    for _ in range(3):
        settle(lambda: play.prompt_ms is not None)
        seen.append((play.binding.id, play.drill.showing))
        for chord in play.binding.trigger.chords:
            held = [names[one] for one in chord.modifiers]
            key = chord.key.lower()
            hands.strike(*(f"+{one}" for one in held), 0.05, f"+{key}", 0.04, f"-{key}", *(f"-{one}" for one in reversed(held)), 0.05)
        settle(lambda: (play.binding.id, play.drill.showing) != seen[-1] or len(play.tries) > 0)
    assert [showing for _, showing in seen] == [True, True, True] and len({id for id, _ in seen}) == 3
    assert play.tries == () or all(one.first for one in play.tries)
    drill.put_aside()


def sorting(room: Any, hands: Any, settle: Settle) -> Any:
    """Open the sorting of what to learn; the room Drill."""
    window = room.window()
    hands.strike("ctrl+4")
    settle(lambda: window.current == "drill")
    drill = window.room("drill")
    settle(lambda: bool(drill.setup.due()) and window.focusWidget() is drill.setup.begin_button)
    hands.strike("l")
    settle(lambda: drill.sorting.isVisible() and drill.sorting.hasFocus())
    return drill


def test_what_to_learn_is_sorted_with_a_key_each(room: Any, hands: Any, settle: Settle) -> None:
    drill = sorting(room, hands, settle)
    first = drill.sorting.front.command
    assert first.name in drill.sorting.accessibleDescription() and first.name != "Save chart"  # everybody knows Ctrl+S
    settle(lambda: "begin" not in dict(room.window().bottom._keys).values())  # the keys are the page's own

    def learn(ref: str) -> Any:
        return room.session.folio.commands[ref].learn

    hands.strike("1")
    settle(lambda: room.session.folio.commands[first.ref].uses_per_day == 60.0)
    hands.strike("k")
    settle(lambda: learn(first.ref) == "known")
    hands.strike("BackSpace")
    settle(lambda: learn(first.ref) is None and drill.sorting.front.command.ref == first.ref)
    hands.strike("n", "space")
    settle(lambda: learn(first.ref) == "never")
    hands.strike("shift+l")  # the rest of the group at once
    settle(lambda: sum(command.learn == "learn" for command in room.session.folio.commands.values()) >= 2)
    hands.strike("Escape")
    settle(lambda: not drill.sorting.isVisible() and "begin" in dict(room.window().bottom._keys).values())
    settle(lambda: all(one.binding != first.id for one in drill.setup.due()))
    assert saved(room).commands[first.ref].learn == "never"


def test_a_set_of_modifiers_is_changed_at_once(room: Any, hands: Any, settle: Settle) -> None:
    """Ctrl to Ctrl+Shift: Ctrl+S is in the way of nothing but Add sounding, which stays; one undo takes it all back."""
    window = room.window()
    settle(lambda: room.desk.place.layer == "ctrl")
    hands.strike("m")
    hands.answer(room, "Other modifiers", "Ctrl+Shift")
    settle(lambda: window.page_over().isVisible() and window.page_over().rows[0].spoken.startswith("Save chart"))
    hands.strike("Return")
    settle(lambda: str(room.session.folio.bindings_of["shoalwright/trace-coast"][0].trigger) == "Ctrl+Shift+T")
    assert str(room.session.folio.bindings_of["shoalwright/save-chart"][0].trigger) == "Ctrl+S"
    assert str(room.session.folio.bindings_of["shoalwright/add-sounding"][0].trigger) == "Ctrl+Shift+S"
    hands.strike("ctrl+z")
    settle(lambda: str(room.session.folio.bindings_of["shoalwright/trace-coast"][0].trigger) == "Ctrl+T")


def test_what_is_struck_right_when_tried_is_known(room: Any, hands: Any, settle: Settle) -> None:
    """Every name once: the first is struck, the second struck wrongly, the third waited out; Esc stops. Nothing is a try."""
    drill = sorting(room, hands, settle)
    hands.strike("t")
    settle(lambda: drill.sorting.trial is not None and drill.sorting.trial.front is not None)
    trial, folio = drill.sorting.trial, room.session.folio
    first = trial.front.command
    chord = folio.bindings_of[first.ref][0].trigger.chords[0]
    names = {"Ctrl": "Control_L", "Shift": "Shift_L", "Alt": "Alt_L"}
    held = [names[one] for one in chord.modifiers]
    hands.strike(*(f"+{one}" for one in held), 0.05, f"+{chord.key.lower()}", 0.04, f"-{chord.key.lower()}",
                 *(f"-{one}" for one in reversed(held)), 0.05)  # fmt: skip
    settle(lambda: room.session.folio.commands[first.ref].learn == "known")
    settle(lambda: trial.front is not None and trial.front.command.ref != first.ref and trial.was_right is None)
    second = trial.front.command
    hands.strike("F9")
    settle(lambda: trial.was_right is False)
    settle(lambda: trial.front is not None and trial.front.command.ref != second.ref and trial.was_right is None)
    third = trial.front.command
    settle(lambda: trial.front is not None and trial.front.command.ref != third.ref, 15_000)
    hands.strike("Escape")
    settle(lambda: drill.sorting.trial is None and drill.sorting.isVisible())
    states = {ref: command.learn for ref, command in room.session.folio.commands.items()}
    assert states[second.ref] is None and states[third.ref] is None
    hands.strike("BackSpace")
    settle(lambda: room.session.folio.commands[first.ref].learn is None and drill.sorting.front.command.ref == first.ref)
    assert not room.session.ledger.practice.tries
    hands.strike("Escape")


def test_trying_ends_when_another_window_is_in_front(room: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    """Until it ends, the page has every key of the desktop."""
    drill = sorting(room, hands, settle)
    hands.strike("t")
    settle(lambda: drill.sorting.trial is not None and QWidget.keyboardGrabber() is drill.sorting)
    other = QWidget()
    qtbot.addWidget(other)
    other.show()
    other.activateWindow()
    settle(lambda: drill.sorting.trial is None)
    assert QWidget.keyboardGrabber() is None and drill.sorting.front is not None


def test_anything_pressed_is_explained_and_can_be_gone_to(room: Any, hands: Any, settle: Settle) -> None:
    window = room.window()
    hands.strike("ctrl+i")
    settle(lambda: window.press_it().isVisible())
    hands.strike("+Control_L", "+t", 0.05, "-t", "-Control_L", 0.3)
    settle(lambda: str(window.press_it().trigger()) == "Ctrl+T")
    hands.strike("Return")
    settle(lambda: window.chooser().isVisible() and window.chooser().head.text() == "Ctrl+T")
    shown = [window.chooser().list.item(row).text() for row in range(window.chooser().list.count())]
    assert shown == ["New tab: Namewell", "Trace coast: Shoalwright", "Free: in Everywhere"]
    hands.strike("Return")
    settle(lambda: room.desk.place.board == "chords/namewell" and room.desk.place.key == "KeyT")
