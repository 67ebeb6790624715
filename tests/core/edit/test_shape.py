"""The shape of boards: guessed fingers, edits, and boards drawn as SVG."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.edit.shape import add_key, edit_keys, guess_fingers, move_keys, remove_keys, with_own_board
from glimber.core.model.board import Board, Key
from glimber.readers.drawing import DrawingError, board_from_svg
from glimber.store.toml.reading import shipped_board
from tests.helpers import folio_of

SMALL = folio_of()
BOARD = SMALL.boards["split-42"]


def bare(board: Board) -> Board:
    return replace(board, keys=tuple(replace(key, finger=None, home=False) for key in board.keys))


@pytest.mark.parametrize(("id", "least"), [("full-104", 55), ("split-42", 38), ("split-36", 32), ("grid-48", 42), ("compact-61", 58)])
def test_guessed_fingers_are_mostly_those_that_people_chose(id: str, least: int) -> None:
    board = shipped_board(id)
    guessed = guess_fingers(bare(board))
    same = sum(guessed.by_id[key.id].finger == key.finger for key in board.keys)
    assert same >= least, [(k.id, k.finger, guessed.by_id[k.id].finger) for k in board.keys if guessed.by_id[k.id].finger != k.finger]


def test_fingers_by_place_alone_on_a_board_of_two_halves() -> None:
    named = {key.id: f"k{place}" for place, key in enumerate(BOARD.keys)}
    keys = tuple(replace(key, id=named[key.id], finger=None, home=False, mirror=None) for key in BOARD.keys)
    guessed = guess_fingers(Board("b", "B", keys))
    for code, finger in (("KeyF", "left-index"), ("KeyD", "left-middle"), ("KeyS", "left-ring"), ("KeyA", "left-little"),
                         ("KeyK", "right-middle"), ("thumb-left-2", "left-thumb"), ("thumb-right-1", "right-thumb")):  # fmt: skip
        assert guessed.by_id[named[code]].finger == finger, code
    homes = {code for code, name in named.items() if guessed.by_id[name].home}
    assert {"KeyA", "KeyS", "KeyD", "KeyF", "KeyJ", "KeyK", "KeyL", "Semicolon"} <= homes


def test_what_is_said_already_is_not_guessed() -> None:
    board = Board("b", "B", (Key("KeyF", 0, 0, finger="left-ring"), Key("KeyG", 1, 0)))
    assert guess_fingers(board).by_id["KeyF"].finger == "left-ring"
    assert guess_fingers(Board("b", "B", ())).keys == ()


def test_edits_of_keys() -> None:
    after = edit_keys(BOARD, ["KeyS", "KeyD"], finger="left-ring", reach="stretch")
    assert [after.by_id[key].reach for key in ("KeyS", "KeyD", "KeyF")] == ["stretch", "stretch", None]
    moved = move_keys(BOARD, ["thumb-left-1"], 0.25, -0.5)
    assert moved.by_id["thumb-left-1"].centre == pytest.approx(
        (BOARD.by_id["thumb-left-1"].centre[0] + 0.25, BOARD.by_id["thumb-left-1"].centre[1] - 0.5)
    )
    assert add_key(BOARD, "extra", 15, 1).by_id["extra"].x == 15
    gone = remove_keys(SMALL, BOARD, ["KeyQ"])
    assert not gone.has("KeyQ") and gone.by_id["KeyP"].mirror is None
    own = with_own_board(SMALL, gone)
    assert own.own_boards == {"split-42"} and own.boards["split-42"] is gone


@pytest.mark.parametrize(("edit", "said"), [
    (lambda: edit_keys(BOARD, ["KeyS"], w=0.0), "0.2 to 20 units"),
    (lambda: edit_keys(BOARD, ["KeyS"], x=float("nan")), "not a number of units"),
    (lambda: edit_keys(BOARD, ["KeyS"], finger="left-toe"), "left-toe is not a finger"),
    (lambda: edit_keys(BOARD, ["KeyS"], reach="far"), "far is not a reach"),
    (lambda: edit_keys(BOARD, ["KeyS"], mirror="KeyJ2"), "not a key of split-42"),
    (lambda: edit_keys(BOARD, ["KeyS"], colour="red"), "a key has no colour"),
    (lambda: add_key(BOARD, "KeyS", 0, 0), "on split-42 already"),
    (lambda: add_key(BOARD, "key 1", 0, 0), "cannot be a key"),
    (lambda: remove_keys(SMALL, BOARD, ["KeyS"]), "carries sounding-s on Draw"),
])  # fmt: skip
def test_what_is_refused_says_why(edit: Callable[[], Board], said: str) -> None:
    with pytest.raises(EditError, match=said):
        edit()


SVG = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 200"><defs><rect id="never" width="9" height="9"/></defs>
<script>alert("no")</script>
<g transform="translate(10 20) scale(2)">
<rect id="KeyQ" x="0" y="0" width="20" height="20" rx="3"/>
<rect id="KeyW" x="21" y="0" width="30" height="20"/>
<path id="KeyE" d="M52 0 h20 v20 h-20 z"/>
<polygon id="KeyR" points="73,0 93,0 93,20 73,20"/>
<g transform="rotate(15 10 40)"><rect id="thumb-1" x="0" y="30" width="20" height="20"/></g>
<circle id="knob-1" cx="110" cy="10" r="12"/>
<rect x="200" y="0" width="20" height="20"/>
<rect id="two words" x="0" y="60" width="20" height="20"/>
<rect id="KeyQ" x="0" y="90" width="20" height="20"/>
</g></svg>"""


def test_a_board_is_made_from_a_drawing() -> None:
    board, told = board_from_svg(SVG.encode(), "drawn", "Drawn")
    assert [key.id for key in board.keys] == ["KeyQ", "KeyW", "KeyE", "KeyR", "thumb-1"] and [k.id for k in board.knobs] == ["knob-1"]
    first = board.by_id["KeyQ"]
    assert first.w == 1.0 and board.by_id["KeyW"].w == 1.5
    assert board.by_id["KeyE"].x - first.x == pytest.approx(2.6, abs=0.002) and board.by_id["KeyR"].x - first.x == pytest.approx(
        3.65, abs=0.002
    )
    assert board.by_id["thumb-1"].angle == pytest.approx(15) and board.by_id["thumb-1"].centre[1] == pytest.approx(2.1, abs=0.01)
    assert board.knobs[0].w == pytest.approx(1.2)
    assert all(key.finger for key in board.keys)
    assert told == [
        "'two words' cannot be a key; expected a code such as KeyS or a word",
        "KeyQ is there twice; the second shape is left out",
    ]


@pytest.mark.parametrize(("svg", "said"), [
    ("nothing", "not an SVG drawing"),
    ("<svg/>", "no shape in it has an id"),
    ('<svg><rect id="KeyQ" width="0" height="10"/></svg>', "no shape in it has an id"),
    ("<svg>" + "".join(f'<rect id="k{n}" width="1" height="1"/>' for n in range(2_100)) + "</svg>", "more than 2000"),
    ('<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg><text>&x;</text></svg>', "no shape in it has an id"),
])  # fmt: skip
def test_a_drawing_of_no_board_says_why(svg: str, said: str) -> None:
    with pytest.raises(DrawingError, match=said):
        board_from_svg(svg.encode(), "drawn", "Drawn")


@given(at=st.integers(0, len(SVG)), length=st.integers(0, 40), piece=st.binary(max_size=12))
def test_no_damage_to_a_drawing_raises_anything_else(at: int, length: int, piece: bytes) -> None:
    body = SVG.encode()
    try:
        board, _ = board_from_svg(body[:at] + piece + body[at + length :], "drawn", "Drawn")
    except DrawingError:
        return
    assert board.keys or board.knobs
