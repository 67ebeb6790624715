"""Geometry of boards: outlines, gaps, neighbours, mirrors; the one table of a binding's fields, which all go by."""

from __future__ import annotations

from math import hypot

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.edit.spots import Does
from glimber.core.model.board import Board, Key, Knob, gap_u
from glimber.core.model.folio import BINDING_NOTES, DOES, Binding
from glimber.core.notation.keycodes import CODES
from glimber.store.toml.documents import BindingDoc, ShortcutDoc, SpotDoc
from glimber.store.toml.reading import shipped_board, shipped_board_ids


def test_a_turned_key_keeps_its_size() -> None:
    key = Key("a", 1, 2, 2, 1, angle=30, pivot=(0.0, 0.0))
    (x1, y1), (x2, y2), (x3, y3), _ = key.outline
    assert hypot(x2 - x1, y2 - y1) == pytest.approx(2) and hypot(x3 - x2, y3 - y2) == pytest.approx(1)


def test_positive_angles_turn_clockwise() -> None:
    turned = Key("a", 1, 0, angle=90, pivot=(0.0, 0.0))
    assert turned.centre == pytest.approx((-0.5, 1.5))


@pytest.mark.parametrize(("x", "y", "gap"), [(1.0, 0.0, 0.0), (1.35, 0.0, 0.35), (2.0, 0.0, 1.0), (1.3, 1.4, 0.5), (0.5, 0.5, 0.0)])
def test_gap_between_outlines(x: float, y: float, gap: float) -> None:
    assert gap_u(Key("a", 0, 0), Key("b", x, y)) == pytest.approx(gap)


@given(st.floats(-3, 3), st.floats(-3, 3), st.floats(-90, 90), st.floats(0.5, 3))
def test_gap_is_the_same_from_either_side_and_under_turning_both(x: float, y: float, angle: float, w: float) -> None:
    one, other = Key("a", 0, 0, w), Key("b", x, y)
    assert gap_u(one, other) == pytest.approx(gap_u(other, one))
    turned = gap_u(Key("a", 0, 0, w, angle=angle, pivot=(0.0, 0.0)), Key("b", x, y, angle=angle, pivot=(0.0, 0.0)))
    assert turned == pytest.approx(gap_u(one, other), abs=1e-6)


def test_neighbours_are_at_most_035_apart() -> None:
    board = Board("b", "B", (Key("a", 0, 0), Key("near", 1.35, 0), Key("far", 0, 1.36)))
    assert board.neighbours["a"] == {"near"} and board.neighbours["near"] == {"a"} and not board.neighbours["far"]


@pytest.mark.parametrize("id", shipped_board_ids())
def test_shipped_boards_are_sound(id: str) -> None:
    board = shipped_board(id)
    assert len(board.by_id) == len(board.keys)
    for key in board.keys:
        assert key.finger is not None, key.id
        assert key.id in CODES or key.id.startswith(("thumb-", "knob-", "fn")), key.id
        if key.mirror:
            assert board.has(key.mirror) and board.mirror_of(key.mirror) == key.id
        overlapping = [other.id for other in board.keys if other is not key and gap_u(key, other) == 0.0
                       and hypot(key.centre[0] - other.centre[0], key.centre[1] - other.centre[1]) < 0.9 * min(key.h, other.h)]  # fmt: skip
        assert not overlapping, f"{key.id} lies over {overlapping}"
    for own, code in board.stand_in.items():
        assert board.has(own) and code in CODES


def test_a_boards_id_says_how_many_keys_it_has() -> None:
    ids = shipped_board_ids()
    assert len(ids) == 11 and all(len(shipped_board(id).keys) == int(id.rpartition("-")[2]) for id in ids)
    assert len(shipped_board("pad-21").knobs) == 2
    assert shipped_board("split-42").neighbours["KeyS"] >= {"KeyW", "KeyA", "KeyD", "KeyX"}


def test_centres_of_knobs_and_of_pairs() -> None:
    board = Board("b", "B", (Key("a", 0, 0), Key("b", 2, 0)), (Knob("knob-1", 0, 2, 2),))
    assert board.centre(("a", "b")) == (1.5, 0.5)
    assert board.centre(("knob-1",)) == (1.0, 3.0)
    assert board.centre(("gone",)) is None
    assert board.extent == (0, 0, 3, 4)


def test_the_tables_are_the_fields_of_a_binding() -> None:
    assert list(Binding.__struct_fields__) == ["id", "trigger", *DOES, *BINDING_NOTES, "given_id"]
    assert Does.__struct_fields__ == DOES


def test_documents_say_what_the_tables_have() -> None:
    assert set(BindingDoc.__struct_fields__) == {"id", *BINDING_NOTES}
    assert set(ShortcutDoc.__struct_fields__) - set(BindingDoc.__struct_fields__) == {"trigger"}
    in_files = {"command": "does"}  # a spot's file says what it does by its command's name
    assert set(SpotDoc.__struct_fields__) == {"id", *BINDING_NOTES} | {in_files.get(name, name) for name in DOES}
