"""Chords that nearly every program answers to in the same way: nobody's to give away, and known without being written down."""

from __future__ import annotations

from typing import Final

from glimber.core.notation.keys import Chord

_LETTERS: Final = "ACFNOPQSVWXYZ"
_MOVES: Final = (
    "Left",
    "Right",
    "Up",
    "Down",
    "Home",
    "End",
    "PageUp",
    "PageDown",
    "Backspace",
    "Delete",
    "Insert",
    "Tab",
)


def is_standard(chord: Chord) -> bool:
    """Return True if a chord is one that everybody knows: editing, files, moving in a text, or going from window to window."""
    if chord.by_place:
        return False
    held = set(chord.modifiers)
    if chord.key in _MOVES:
        return held <= {"Ctrl", "Shift"} or (chord.key == "Tab" and held <= {"Alt", "Shift"})
    if held == {"Alt"} and chord.key == "F4":
        return True
    return held in ({"Ctrl"}, {"Ctrl", "Shift"}) and chord.key in _LETTERS and (held == {"Ctrl"} or chord.key in "SZ")
