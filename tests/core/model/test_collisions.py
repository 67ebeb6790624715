"""What already answers to a trigger."""

from __future__ import annotations

import pytest

from glimber.core.edit.commands import edit_binding, edit_command
from glimber.core.edit.edit import EditError, add_shortcut
from glimber.core.model.collisions import collisions
from glimber.core.notation.keys import Sequence, parse_trigger
from tests.helpers import folio_of

SMALL = folio_of()


def chord(text: str) -> Sequence:
    found = parse_trigger(text)
    assert isinstance(found, Sequence)
    return found


@pytest.mark.parametrize(("text", "expected"), [
    ("Ctrl+Shift+S", [("add-sounding", "same")]), ("Ctrl+Shift+[KeyS]", [("add-sounding", "same")]),
    ("Super+D", [("show-desktop", "same")]), ("Ctrl+K", [("lead-line", "continues"), ("name-strait", "continues")]),
    ("Ctrl+Shift+S x", [("add-sounding", "begins")]), ("Ctrl+Q", []), ("[Digit4]", []),
])  # fmt: skip
def test_what_is_in_the_way(text: str, expected: list[tuple[str, str]]) -> None:
    found = collisions(SMALL, "shoalwright", chord(text))
    assert [(one.binding, one.kind) for one in found] == expected
    assert all(one.words(chord(text)).endswith(".") for one in found)


def test_another_programs_keys_are_not_in_the_way() -> None:
    assert collisions(SMALL, "everywhere", chord("Ctrl+Shift+S")) == []


def test_a_shortcut_is_added_with_an_id_of_its_own() -> None:
    after = add_shortcut(SMALL, "shoalwright/add-sounding", chord("F9"))
    assert str(after.bindings["add-sounding-2"].trigger) == "F9" and "add-sounding" in after.bindings
    with pytest.raises(EditError, match="already carries Add sounding in Shoalwright"):
        add_shortcut(SMALL, "shoalwright/quay-list", chord("Ctrl+Shift+S"))
    with pytest.raises(EditError, match="is not a command"):
        add_shortcut(SMALL, "shoalwright/gone", chord("F9"))


def test_another_context_and_another_computer_are_not_in_the_way() -> None:
    canvas = edit_command(SMALL, "shoalwright/add-sounding", context="canvas")
    assert collisions(canvas, "shoalwright", chord("Ctrl+Shift+S"), "sheet list") == []
    assert collisions(canvas, "shoalwright", chord("Ctrl+Shift+S"), None) != []
    there = edit_binding(SMALL, "add-sounding", computers=("bridge",))
    assert collisions(there, "shoalwright", chord("Ctrl+Shift+S"), computer="quay") == []
    assert len(collisions(there, "shoalwright", chord("Ctrl+Shift+S"), computer="bridge")) == 1


@pytest.mark.parametrize(("spot", "said"), [
    ("split-42:draw:KeyD:tap", ["split-42:draw:KeyD:tap already does Depth range."]),
    ("split-42:draw:KeyP:tap", ["Underneath, on Base, the key does P."]),
    ("split-42:draw:KeyP:hold", ["Underneath, on Base, the key does the bundle Crown."]),
    ("split-42:base:thumb-left-1:hold", ["split-42:base:thumb-left-1:hold already does the layer Draw."]),
    ("split-42:draw:KeyQ:tap", []),
])  # fmt: skip
def test_what_is_on_a_spot_and_underneath_it(spot: str, said: list[str]) -> None:
    trigger = parse_trigger(spot)
    found = collisions(SMALL, "shoalwright", trigger)
    assert [one.words(trigger).replace(" p.", " P.") for one in found] == said
