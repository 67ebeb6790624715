"""Edits: a folio in, a folio out; ids and everything that hangs on them stay."""

from __future__ import annotations

import pytest

from glimber.core.edit.edit import EditError, is_move, move_binding, retire_binding, state_ids
from glimber.core.notation.keys import parse_trigger
from tests.helpers import LAYOUT, folio_of

SMALL = folio_of()


def test_moving_changes_the_trigger_and_nothing_else() -> None:
    moved = move_binding(SMALL, "sounding-s", parse_trigger("split-42:draw:KeyA:tap"))
    before, after = SMALL.bindings["sounding-s"], moved.folio.bindings["sounding-s"]
    assert str(after.trigger) == "split-42:draw:KeyA:tap"
    assert (after.id, after.command, after.reason) == (before.id, before.command, before.reason)
    assert {b.id for b in moved.folio.all_bindings()} == {b.id for b in SMALL.all_bindings()}
    assert str(SMALL.bindings["sounding-s"].trigger) == "split-42:draw:KeyS:tap"


def test_moving_back_gives_the_first_value() -> None:
    there = move_binding(SMALL, "range-d", parse_trigger("split-42:base:KeyW:tap")).folio
    back = move_binding(there, "range-d", parse_trigger("split-42:draw:KeyD:tap")).folio
    assert back.by_trigger == SMALL.by_trigger


def test_swapping_exchanges_two() -> None:
    moved = move_binding(SMALL, "sounding-s", parse_trigger("split-42:draw:KeyD:tap"), swap=True)
    assert moved.swapped == "range-d"
    assert str(moved.folio.bindings["range-d"].trigger) == "split-42:draw:KeyS:tap"
    chords = move_binding(SMALL, "add-sounding", parse_trigger("Ctrl+K Ctrl+L"), swap=True).folio
    assert str(chords.bindings["lead-line"].trigger) == "Ctrl+Shift+S"


@pytest.mark.parametrize(("id", "to", "swap", "why"), [
    ("gone", "Ctrl+K", False, "gone is not a binding"),
    ("sounding-s", "split-42:draw:KeyS:tap", False, "already"),
    ("sounding-s", "split-42:draw:KeyD:tap", False, "already carries Depth range; use --swap"),
    ("sounding-s", "split-42:draw:KeyA:tap", True, "nothing is on split-42:draw:KeyA:tap to swap with"),
    ("sounding-s", "split-42:drawn:KeyA:tap", False, "drawn is not a layer of split-42; it has base, draw"),
    ("sounding-s", "split-42:draw:KeyJ2:tap", False, "KeyJ2 is not a key of split-42"),
    ("sounding-s", "split-42:draw:KeyA:left", False, "left is not a gesture of KeyA"),
    ("sounding-s", "pad-21:base:Numpad4:tap", False, "pad-21 has no layout"),
    ("sounding-s", "Ctrl+K", False, "different kinds"),
    ("add-sounding", "Ctrl+K Ctrl+L", False, "already carries Lead line in Shoalwright"),
])  # fmt: skip
def test_an_edit_that_would_break_a_rule_says_which(id: str, to: str, swap: bool, why: str) -> None:
    with pytest.raises(EditError, match=why):
        move_binding(SMALL, id, parse_trigger(to), swap)


def test_pinned_bindings_stay() -> None:
    pinned = folio_of({"layouts/split-42.toml": LAYOUT.replace('id = "range-d"', 'id = "range-d", pinned = true')})
    for id, to in (("range-d", "split-42:draw:KeyA:tap"), ("sounding-s", "split-42:draw:KeyD:tap")):
        with pytest.raises(EditError, match="is pinned; take the pin off first"):
            move_binding(pinned, id, parse_trigger(to), swap=id == "sounding-s")
    with pytest.raises(EditError, match="pinned"):
        retire_binding(pinned, "range-d")


def test_retiring_takes_the_binding_and_keeps_the_command() -> None:
    retired = retire_binding(SMALL, "tide-table")
    assert "tide-table" not in retired.bindings
    assert "shoalwright/tide-table" in {command.ref for command in retired.bench()}


def test_stating_ids_only_marks_them() -> None:
    stated = state_ids(SMALL, {"tide-table"})
    assert stated.bindings["tide-table"].given_id and not SMALL.bindings["tide-table"].given_id
    assert stated.by_trigger == SMALL.by_trigger


@pytest.mark.parametrize(("old", "new", "moved"), [
    ("split-42:draw:KeyS:tap", "split-42:base:KeyD:tap", True), ("split-42:draw:KeyS:tap", "split-42:draw:KeyS:hold", False),
    ("split-42:draw:KeyS:tap", "split-42:draw:KeyJ&KeyK:tap", False), ("Ctrl+K", "Ctrl+L", True), ("Ctrl+K", "Ctrl+Shift+K", False),
    ("Ctrl+K Ctrl+S", "Ctrl+L", False), ("Ctrl+K", "split-42:draw:KeyS:tap", False),
])  # fmt: skip
def test_a_move_keeps_kind_gesture_and_modifiers(old: str, new: str, moved: bool) -> None:
    assert is_move(parse_trigger(old), parse_trigger(new)) == moved
