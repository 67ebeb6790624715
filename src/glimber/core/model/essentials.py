"""The acts that every keyboard must be able to do: type a space, end a line, take a letter back, and reach each of its layers."""

from __future__ import annotations

from typing import Final

from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio, Layout
from glimber.core.notation.keycodes import MODIFIERS, NAMED_KEYS
from glimber.core.notation.keys import Sequence

ESSENTIAL: Final = ("Space", "Enter", "Backspace", "Tab", "Escape")
"""Keys without which nobody can work, by their names."""
_LETTERS: Final = frozenset(f"Key{letter}" for letter in "ETAOINSHR")


def is_keyboard(board: Board) -> bool:
    """Return True for a board that is typed on, and not a pad beside one."""
    return all(board.has(letter) for letter in _LETTERS)


def key_sent(binding: Binding) -> str | None:
    """Return the essential key or modifier that a binding sends alone; None for all else."""
    sent = binding.sends
    if not isinstance(sent, Sequence) or len(sent.chords) != 1 or sent.chords[0].modifiers:
        return None
    key = sent.chords[0].key
    return key if key in ESSENTIAL or key in MODIFIERS else None


def keys_lacking(folio: Folio, layout: Layout, board: Board | None = None) -> list[str]:
    """Return the essential keys that nothing on a layout can type; none for a board that is not typed on."""
    shape = board or folio.boards[layout.board]
    if not is_keyboard(shape):
        return []
    sent = {key_sent(binding) for layer in layout.layers for binding in layer.bindings}
    return [name for name in ESSENTIAL if name not in sent and not _types_itself(layout, shape, NAMED_KEYS[name])]


def _types_itself(layout: Layout, board: Board, code: str) -> bool:
    """Return True if a key is there and its tap is left alone on the base layer."""
    base = layout.base
    taken = "tap" in base.by_key.get(code, {}) or base.unset.get(code, base.unbound) == "dead"
    return board.has(code) and not taken


def ways_lacking(layout: Layout, entered: frozenset[str]) -> list[str]:
    """Return the names of layers that were entered by a key before and are not any more."""
    ways = {binding.enters for layer in layout.layers for binding in layer.bindings}
    return [layer.name for layer in layout.layers if layer.id in entered and layer.id not in ways]
