"""Edits of chords as keys of the ordinary keyboard: exchanged, given, copied, taken off."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.edit.chords import clear_chords, copy_chord, exchange_chords, give_chord
from glimber.core.edit.edit import EditError
from glimber.core.model.chord_boards import spot_on_keyboard, trigger_at, with_chord_boards
from glimber.core.model.chord_layers import block_of, chord_layers, elsewhere, part_of_board, taken_by_desktop, with_empty
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Sequence, parse_trigger
from tests.helpers import folio_of, text_of

PROGRAM = text_of("chords-and-sequences.toml")
OTHER = """format = "glimber-program/1"
name = "Namewell"
[commands]
tab = { name = "New tab", shortcut = "Ctrl+T" }
"""
DESKTOP = """format = "glimber-program/1"
name = "Everywhere"
[commands]
switch = { name = "Switch workspace", shortcut = "Ctrl+F2" }
"""



def keys(text: str) -> Sequence:
    found = parse_trigger(text)
    assert isinstance(found, Sequence)
    return found


def triggers(folio: Folio) -> dict[str, str]:
    return {id: str(binding.trigger) for id, binding in folio.bindings.items()}


@pytest.fixture(scope="module")
def start() -> Folio:
    files = {"programs/shoalwright.toml": PROGRAM, "programs/namewell.toml": OTHER, "programs/everywhere.toml": DESKTOP}
    bare = 'format = "glimber-layout/1"\nboard = "split-42"\n[[layers]]\nid = "base"\nname = "Base"\n'
    return folio_of({**files, "layouts/split-42.toml": bare})


@pytest.mark.parametrize(("one", "other", "changed"), [
    ("Ctrl+S", "Ctrl+D", {"save": "Ctrl+D"}),
    ("Ctrl+S", "Ctrl+T", {"save": "Ctrl+T", "trace": "Ctrl+S"}),
    ("Ctrl+S", "Ctrl+Alt+S", {"save": "Ctrl+Alt+S"}),
    ("Ctrl+K", "Ctrl+M", {"scale": "Ctrl+M Ctrl+C", "copy": "Ctrl+M s", "deep": "Ctrl+M Ctrl+L d"}),
    ("Ctrl+K", "Ctrl+S", {"save": "Ctrl+K", "scale": "Ctrl+S Ctrl+C", "copy": "Ctrl+S s", "deep": "Ctrl+S Ctrl+L d"}),
    ("Ctrl+K Ctrl+L", "Ctrl+K d", {"deep": "Ctrl+K d d"}),
    ("Ctrl+Shift+=", "Ctrl+P", {"plus": "Ctrl+P"}),
])  # fmt: skip
def test_everything_on_two_keys_is_exchanged(start: Folio, one: str, other: str, changed: dict[str, str]) -> None:
    after = exchange_chords(start, "shoalwright", keys(one), keys(other))
    assert triggers(after) == {**triggers(start), **changed}
    if one == "Ctrl+K":
        assert [str(stem.trigger) for stem in after.programs["shoalwright"].stems] == [other]
    back = exchange_chords(after, "shoalwright", keys(one), keys(other))
    assert triggers(back).keys() == triggers(start).keys() and triggers(back)["save"] == "Ctrl+S"


@pytest.mark.parametrize(("one", "other", "error"), [
    ("Ctrl+S", "Ctrl+S", "choose another key"),
    ("Ctrl+D", "Ctrl+F", "nothing of Shoalwright is on"),
    ("Ctrl+K", "Ctrl+K Ctrl+C", "cannot go behind itself"),
])  # fmt: skip
def test_what_cannot_be_exchanged_says_why(start: Folio, one: str, other: str, error: str) -> None:
    with pytest.raises(EditError, match=error):
        exchange_chords(start, "shoalwright", keys(one), keys(other))


def test_a_command_is_given_a_chord(start: Folio) -> None:
    moved = give_chord(start, "shoalwright/save", keys("Ctrl+T"))
    assert (triggers(moved)["save"], triggers(moved)["trace"]) == ("Ctrl+T", "Ctrl+S")
    first = give_chord(start, "shoalwright/loose", keys("Ctrl+T"))
    assert triggers(first)["loose"] == "Ctrl+T" and "trace" not in first.bindings and "shoalwright/trace" in first.commands
    with pytest.raises(EditError, match="3 sequences of Shoalwright begin with Ctrl\\+K"):
        give_chord(start, "shoalwright/loose", keys("Ctrl+K"))
    with pytest.raises(EditError, match="Save chart is on Ctrl\\+S already"):
        give_chord(start, "shoalwright/save", keys("Ctrl+S"))


def test_a_chord_is_copied_and_taken_off(start: Folio) -> None:
    twice = copy_chord(start, "shoalwright/save", [keys("Ctrl+D"), keys("F2")])
    assert [str(one.trigger) for one in twice.bindings_of["shoalwright/save"]] == ["Ctrl+S", "Ctrl+D", "F2"]
    with pytest.raises(EditError, match="Ctrl\\+T is taken by Trace coast"):
        copy_chord(start, "shoalwright/save", [keys("Ctrl+T")])
    without = clear_chords(twice, "shoalwright", [keys("Ctrl+S"), keys("F2")])
    assert [str(one.trigger) for one in without.bindings_of["shoalwright/save"]] == ["Ctrl+D"]
    with pytest.raises(EditError, match="nothing is bound there"):
        clear_chords(start, "shoalwright", [keys("Ctrl+D")])


def test_layers_are_derived_from_the_bindings(start: Folio) -> None:
    layers = chord_layers(start, "shoalwright")
    assert [(layer.name, layer.count) for layer in layers] == [
        ("Ctrl", 2), ("Ctrl+Shift", 1), ("after Ctrl+K", 1), ("after Ctrl+K, Ctrl", 1), ("after Ctrl+K Ctrl+L", 1),
    ]  # fmt: skip
    ctrl = layers[0]
    assert ctrl.stems == {"KeyK": (keys("Ctrl+K"), 3)} and layers[1].bindings["Equal"][0].id == "plus"
    assert taken_by_desktop(start, ctrl) == {"F2": "Switch workspace"}
    assert elsewhere(start, "shoalwright", ctrl) == {"KeyT": ("Namewell: New tab",)}
    assert {layer.name for layer in with_empty(layers)} >= {"alone", "Shift", "Alt", "Ctrl+Alt"}


def test_the_view_has_every_binding_once_and_leads_back(start: Folio) -> None:
    view = with_chord_boards(start)
    assert with_chord_boards(start) is view and set(view.layouts) - set(start.layouts) == {
        "chords/everywhere", "chords/shoalwright", "chords/namewell",
    }  # fmt: skip
    for binding in start.programs["shoalwright"].bindings:
        spot = spot_on_keyboard(start, binding)
        assert spot is not None and view.by_trigger[spot].id == binding.id
        back = trigger_at(start, spot.board, spot.layer, spot.key)
        assert back is not None and str(back) == str(binding.trigger).replace("Ctrl++", "Ctrl+Shift+=")


@given(st.lists(st.sampled_from(["KeyA", "F4", "ArrowUp", "Numpad3", "Space", "Escape", "Delete"]), max_size=4))
def test_a_part_of_the_keyboard_has_whole_blocks_and_what_is_needed(needed: list[str]) -> None:
    board = folio_of().boards["full-105"]
    part = part_of_board(board, needed)
    assert {key for key in needed if key in board.by_id} <= set(part.by_id)
    blocks = {block_of(key.id) for key in part.keys}
    assert blocks == {"main", *map(block_of, needed)}
    assert all((key.id in part.by_id) == (block_of(key.id) in blocks) for key in board.keys)
