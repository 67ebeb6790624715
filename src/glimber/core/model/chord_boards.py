"""A folio seen with the ordinary keyboard as a board of each program: derived layouts beside those that have a file.

The view has everything of the folio and, for each program, a board ``chords/PROGRAM`` with a layer for each set of modifiers. Its
bindings keep the ids of the shortcuts they stand for. Edits never go through it: ``trigger_at`` says what a key of such a board
stands for in the folio itself.
"""

from __future__ import annotations

from functools import partial
from typing import Final

from msgspec.structs import replace

from glimber.core.model.board import Board
from glimber.core.model.chord_layers import (
    ChordLayer,
    block_of,
    chord_layers,
    keyboard_key,
    part_of_board,
    trigger_on,
    with_empty,
)
from glimber.core.model.derived import DerivedCache
from glimber.core.model.folio import Binding, Folio, Layer, Layout, Program
from glimber.core.notation.keycodes import MODIFIER_PLACES
from glimber.core.notation.keys import Sequence, Spot

_PREFIX: Final = "chords/"
_VIEWS: DerivedCache[Folio, bool, Folio] = DerivedCache()
_BOARDS: DerivedCache[Program, object, tuple[Board, Layout]] = DerivedCache()


def chord_board_id(program: str) -> str:
    """Return the id of the ordinary keyboard as a board of a program; no file can have such an id."""
    return _PREFIX + program


def program_of_board(board: str) -> str | None:
    """Return the program whose chords a board shows; None for a board with a layout of its own."""
    return board.removeprefix(_PREFIX) if board.startswith(_PREFIX) else None


def with_chord_boards(folio: Folio, unfolded: bool = False) -> Folio:
    """Return the folio with a derived board and layout for each of its programs. ``unfolded``: with every block of the keyboard,
    otherwise with the main block, and the function row where the program uses it."""
    return _VIEWS.get(folio, unfolded, lambda: _view(folio, unfolded))


def _view(folio: Folio, unfolded: bool) -> Folio:
    boards, layouts = dict(folio.boards), dict(folio.layouts)
    for program in folio.programs.values() if folio.keyboard.keys else ():
        id = chord_board_id(program.id)
        # Kept by program, so that an edit of one leaves the boards of the others what they were.
        key = (keyboard_key(folio), unfolded)
        boards[id], layouts[id] = _BOARDS.get(program, key, partial(_board_and_layout, folio, id, unfolded))
    return replace(folio, boards=boards, layouts=layouts)


def _board_and_layout(folio: Folio, id: str, unfolded: bool) -> tuple[Board, Layout]:
    layers = with_empty(chord_layers(folio, program_of_board(id) or ""))
    return _board(folio, id, layers, unfolded), Layout(id, tuple(_layer(folio, id, layer) for layer in layers))


def _board(folio: Folio, id: str, layers: tuple[ChordLayer, ...], unfolded: bool) -> Board:
    keyboard = folio.keyboard
    program = folio.programs[program_of_board(id) or ""]
    used = {code for layer in layers for code in (*layer.bindings, *layer.stems) if block_of(code) == "function"}
    part = keyboard if unfolded else part_of_board(keyboard, used)
    return replace(part, id=id, name=f"This keyboard: {program.name}")


def _layer(folio: Folio, board: str, layer: ChordLayer) -> Layer:
    found = []
    for code, many in layer.bindings.items():
        spot = Spot(board, layer.id, (code,), "tap")
        found.append(replace(many[0], trigger=spot, sends=many[0].trigger))
    return Layer(layer.id, layer.name, "dead", bindings=tuple(found))


def chord_layer(folio: Folio, board: str, layer: str) -> ChordLayer | None:
    """Return the derived layer of a program's board; None for a board with a layout of its own."""
    program = program_of_board(board)
    if program is None or program not in folio.programs:
        return None
    return next((one for one in with_empty(chord_layers(folio, program)) if one.id == layer), None)


def trigger_at(folio: Folio, board: str, layer: str, key: str) -> Sequence | None:
    """Return the trigger that a key of a program's board stands for."""
    found = chord_layer(folio, board, layer)
    return trigger_on(folio, found, key) if found is not None else None


def spot_on_keyboard(folio: Folio, binding: Binding) -> Spot | None:
    """Return the spot of a chord or a sequence on its program's board; None for triggers of other kinds."""
    program = (binding.command or "").partition("/")[0]
    if program not in folio.programs:
        return None
    for layer in chord_layers(folio, program):
        for code, many in layer.bindings.items():
            if any(one.id == binding.id for one in many):
                return Spot(chord_board_id(program), layer.id, (code,), "tap")
    return None


def held_keys(layer: ChordLayer) -> frozenset[str]:
    """Return the modifier keys that are down while a derived layer is struck."""
    return frozenset(code for name in layer.modifiers for code in MODIFIER_PLACES.get(name, ()))


def beyond(folio: Folio, board: str, layer: str) -> int:
    """Return the number of bindings of a derived layer on keys that its board leaves out."""
    found = chord_layer(folio, board, layer)
    return (
        sum(len(many) for code, many in found.bindings.items() if code not in folio.boards[board].by_id) if found else 0
    )
