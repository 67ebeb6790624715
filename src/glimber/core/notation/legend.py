"""The legend of a keyboard: from place to printed characters and back."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct

from glimber.core.notation.keycodes import NAMED_KEYS, NAMES_OF_CODES

_US_ROWS = (
    "Backquote `~ Digit1 1! Digit2 2@ Digit3 3# Digit4 4$ Digit5 5% Digit6 6^ Digit7 7& Digit8 8* Digit9 9( Digit0 0) "
    "Minus -_ Equal =+ BracketLeft [{ BracketRight ]} Backslash \\| Semicolon ;: Quote '\" Comma ,< Period .> Slash /? "
    "IntlBackslash <>"
)


class Legend(Struct, frozen=True, dict=True):
    """Characters by place: ``levels[code]`` = plain, with Shift, with AltGr, with both; as many as are known."""

    name: str
    levels: Mapping[str, tuple[str, ...]]

    @cached_property
    def places(self) -> Mapping[str, tuple[str, frozenset[str]]]:
        """Character -> its place and the modifiers that choose its level; the first place in reading order wins."""
        found: dict[str, tuple[str, frozenset[str]]] = {}
        levels = (frozenset[str](), frozenset({"Shift"}), frozenset({"AltGr"}), frozenset({"AltGr", "Shift"}))
        # The extra key of an ISO board repeats characters that other keys have; it is the last to be asked.
        for extra in (False, True):
            for depth, modifiers in enumerate(levels):
                for code, characters in self.levels.items():
                    if (code == "IntlBackslash") == extra and depth < len(characters) and characters[depth]:
                        found.setdefault(characters[depth], (code, modifiers))
        return found

    def print_of(self, code: str) -> str:
        """Return what is printed on the key at ``code``: its name, its character (letters upper-case), or "" if nothing is."""
        if code in NAMES_OF_CODES:
            return NAMES_OF_CODES[code]
        characters = self.levels.get(code)
        if not characters:
            return ""
        return characters[0].upper() if len(characters[0].upper()) == 1 else characters[0]

    def key_at(self, code: str) -> str | None:
        """Return the notation's key for a place: a name or the plain character; None for a place the legend does not know."""
        if code in NAMES_OF_CODES:
            return NAMES_OF_CODES[code]
        characters = self.levels.get(code)
        return characters[0] if characters else None

    def place_of(self, key: str) -> tuple[str, frozenset[str]] | None:
        """Place and level modifiers of a key name or character; letters in either case give the plain key."""
        if key in NAMED_KEYS:
            return NAMED_KEYS[key], frozenset()
        if key.lower() in self.places and key.lower() != key:
            return self.places[key.lower()][0], frozenset()
        if "a" not in self.places and key.isascii() and key.isalpha():
            return US.place_of(key)  # in another script's layout, programs still know Ctrl+S by its place
        return self.places.get(key)


def _us() -> Legend:
    levels = {f"Key{letter}": (letter.lower(), letter) for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"}
    cells = _US_ROWS.split(" ")
    for code, characters in zip(cells[::2], cells[1::2], strict=True):
        levels.setdefault(code, (characters[0], characters[1]))
    return Legend("us", levels)


US = _us()
