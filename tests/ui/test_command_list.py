"""The list of commands in the Gather room: worked through by keys, several at once, and what was imported in front."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from glimber.core.edit.edit import add_trigger
from glimber.core.notation.keys import parse_trigger
from tests.helpers import write_folio
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle
from tests.ui.test_gather import show_bench


@pytest.fixture
def room(tmp_path: Path, open_room: OpenRoom) -> Any:
    return open_room(write_folio(tmp_path / "small"), "gather").room("gather")


def cells_of(room: Any, ref: str) -> list[str]:
    from glimber.core.edit.command_cells import CELLS

    folio = room.session.folio
    return [cell.text(folio, folio.commands[ref]) for cell in CELLS]


def test_the_list_of_commands_is_worked_through_by_keys(room: Any, hands: Any, settle: Settle) -> None:
    list_ = room.bench.list
    list_.setFocus()
    names = [stake.command.name for stake in room.bench.stakes]
    assert names[0] == "Add sounding" and names[-1] == "Show desktop" and not room.right.isVisible()
    assert room.bench.head.text() == f"{len(names)} commands, 1 of them without a key. B shows only those."
    assert list_.heads[0][0].startswith("Shoalwright · ")
    before = cells_of(room, "shoalwright/add-sounding")[1:]
    hands.strike("Home", "Return")
    settle(lambda: list_._field is not None and list_._field.isVisible())
    hands.strike("S", "n", "d", "Return")
    settle(lambda: cells_of(room, "shoalwright/add-sounding")[1] == "Snd")
    settle(lambda: list_.currentRow() == 1 and list_._field.hasFocus())  # the row below is written in next
    hands.strike("Escape", "Up", "Right", "Return")
    settle(lambda: list_.cell == "uses" and list_._field.hasFocus())
    hands.strike("1", "2", "Tab")
    settle(lambda: cells_of(room, "shoalwright/add-sounding")[2] == "12" and list_.cell == "reason")
    settle(list_._field.hasFocus)
    hands.strike("S", "Tab")
    settle(lambda: cells_of(room, "shoalwright/add-sounding")[3] == "S" and list_.cell == "group")
    settle(list_._field.hasFocus)
    hands.strike(*"Depths", "Down")
    settle(lambda: cells_of(room, "shoalwright/add-sounding")[4] == "Depths")
    hands.strike("Escape", "Left", "Left", "Return", "x", "Return")
    settle(lambda: list_._field.hasFocus())
    assert cells_of(room, names_to_refs(room)[1])[2] != "x"  # refused, and told
    hands.strike("Escape", "ctrl+z", "ctrl+z", "ctrl+z", "ctrl+z")
    settle(lambda: cells_of(room, "shoalwright/add-sounding")[1:] == before)


def names_to_refs(room: Any) -> list[str]:
    return [stake.command.ref for stake in room.bench.stakes]


def test_several_commands_get_a_group_at_once(room: Any, hands: Any, settle: Settle) -> None:
    list_ = room.bench.list
    list_.setFocus()
    refs = names_to_refs(room)[:3]
    hands.strike("Home", "shift+Down", "shift+Down")
    settle(lambda: list_.refs() == refs)
    list_.cell = "group"
    hands.strike("Return", *"Bridge", "Return")
    settle(lambda: [cells_of(room, ref)[4] for ref in refs] == ["Bridge"] * 3)
    hands.strike("ctrl+z")
    settle(lambda: "Bridge" not in [cells_of(room, ref)[4] for ref in refs])


def test_the_whole_form_is_one_key_away(room: Any, hands: Any, settle: Settle) -> None:
    room.bench.list.setFocus()
    hands.strike("e")
    settle(lambda: room.right.isVisible() and room.command().name.hasFocus())
    hands.strike("Escape")
    settle(lambda: not room.right.isVisible() and room.bench.list.hasFocus())


def test_what_was_imported_is_seen_when_the_page_is_put_away(room: Any, hands: Any, settle: Settle) -> None:
    room.desk.read_bytes("list.txt", b"Wake watch    Ctrl+B\nZero tide    Ctrl+Shift+F8\n")
    settle(lambda: room.desk.reading is not None and room.page().page.hasFocus())
    hands.strike("Return")
    settle(lambda: "wake-watch" in room.session.folio.bindings)
    hands.strike("Escape")
    settle(lambda: room.desk.reading is None)
    assert room.bench.everything and room.bench.stakes[room.bench.list.currentRow()].command.name == "Wake watch"


def test_a_command_of_the_bench_is_one_key_from_being_bound(room: Any, hands: Any, settle: Settle) -> None:
    show_bench(room)
    free = room.bench.free
    settle(lambda: free.isVisible() and len(free.places) == 3)
    assert free.label.text() == "Free for Quay list:" and free.buttons[1].text() == f"2  {free.places[1].trigger}"
    wanted = free.places[1].trigger
    room.bench.list.setFocus()
    hands.strike("2")
    settle(lambda: "quay-list" in room.session.folio.bindings)
    assert room.session.folio.bindings["quay-list"].trigger == wanted
    settle(lambda: not free.isVisible())
    hands.strike("ctrl+z")
    settle(lambda: "quay-list" not in room.session.folio.bindings)
    settle(lambda: free.isVisible())
    free.buttons[0].click()
    settle(lambda: "quay-list" in room.session.folio.bindings)


def test_the_keys_of_several_commands_are_changed_at_once(room: Any, hands: Any, settle: Settle) -> None:
    """All are selected and go behind other keys; one undo takes it back. What is in the way is shown before."""
    room.bench.list.setFocus()
    hands.strike("Home", "shift+End")
    settle(lambda: len(room.bench.list.refs()) == room.bench.list.count() > 2)
    before = {id: str(one.trigger) for id, one in room.session.folio.bindings.items()}
    hands.strike("c")
    hands.answer(room, "The selected commands", "After other keys", "Ctrl+M")
    window = room.window()
    settle(lambda: window.page_over().isVisible() and any("Ctrl+M" in one.spoken for one in window.page_over().rows))
    hands.strike("Return")
    settle(lambda: str(room.session.folio.bindings["lead-line"].trigger) == "Ctrl+M Ctrl+L")
    assert "Ctrl+M s" in {str(one.trigger) for one in room.session.folio.bindings_of["shoalwright/add-sounding"]}
    hands.strike("ctrl+z")
    settle(lambda: {id: str(one.trigger) for id, one in room.session.folio.bindings.items()} == before)


def test_a_key_is_removed_from_a_command(room: Any, hands: Any, settle: Settle) -> None:
    """Of several keys the one that is chosen; the command stays, with its reason, on the bench."""
    folio, told = room.session.folio, heard(room.session)
    room.session.edit("add", lambda now: add_trigger(now, "shoalwright/add-sounding", parse_trigger("Ctrl+Alt+F9")))
    first = folio.bindings_of["shoalwright/add-sounding"][0]
    keys = lambda: [one.trigger for one in room.session.folio.bindings_of.get("shoalwright/add-sounding", ())]  # noqa: E731
    count = len(keys())
    room.choose("shoalwright/add-sounding")
    hands.ask(room, "Delete", "Ctrl+Alt+F9")
    settle(lambda: len(keys()) == count - 1)
    assert first.trigger in keys() and told[-1] == "Add sounding keeps Ctrl+Shift+S and S on Draw. Ctrl+Z takes it back."
    while len(keys()) > 1:
        hands.ask(room, "Delete", "")
    settle(room.bench.list.hasFocus)
    hands.strike("Delete")
    settle(lambda: not keys())
    assert told[-1] == "Add sounding has no key now and waits on the bench. Ctrl+Z takes it back."
    hands.strike("Delete", "ctrl+z")  # nothing is left to remove
    settle(lambda: len(keys()) == 1)
