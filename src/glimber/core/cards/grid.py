"""The grid card: a program's chords, keys down in the order of the board's rows, modifiers across.

Keys and columns with nothing on them are folded away; an empty place is a free one, a hatched one the desktop's. What does not
fit one sheet at a readable size goes on on the next.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.card_bindings import NOTHING_KNOWN, Known, chords_of, chosen, label_of
from glimber.core.model.folio import EVERYWHERE, Card, Folio
from glimber.core.model.folio import Group as CommandGroup
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, strike_of

SECTIONS: Final = ("digits", "upper", "home", "lower", "others")
_ROWS: Final = {
    "digits": ("Backquote", *(f"Digit{n}" for n in "1234567890"), "Minus", "Equal"),
    "upper": (*(f"Key{c}" for c in "QWERTYUIOP"), "BracketLeft", "BracketRight", "Backslash"),
    "home": (*(f"Key{c}" for c in "ASDFGHJKL"), "Semicolon", "Quote"),
    "lower": ("IntlBackslash", *(f"Key{c}" for c in "ZXCVBNM"), "Comma", "Period", "Slash", "Space"),
}
_PLACES: Final = {code: (SECTIONS.index(name), at) for name, codes in _ROWS.items() for at, code in enumerate(codes)}
_AROUND: Final = ("Escape", "Tab", "Enter", "Backspace", "Insert", "Delete", "Home", "End", "PageUp", "PageDown", "ArrowLeft",
                  "ArrowRight", "ArrowUp", "ArrowDown")  # fmt: skip


class Entry(Struct, frozen=True):
    """One binding in a place of the grid."""

    binding: str
    label: str
    full: str
    group: CommandGroup | None
    careful: bool
    reason: str | None
    grip: float | None = None


class Row(Struct, frozen=True):
    """One key: its section, what is printed on it, and what it does with each set of modifiers."""

    section: int
    order: tuple[int, int, str]
    key: str
    cells: Mapping[tuple[str, ...], tuple[Entry, ...]]
    taken: frozenset[tuple[str, ...]]

    @property
    def lines(self) -> int:
        """Return how many bindings the fullest of its places has."""
        return max((len(cell) for cell in self.cells.values()), default=1)

    def parted(self, count: int) -> tuple[Row, Row]:
        """Return the row with at most ``count`` bindings in a place, and one with the others."""
        first = {held: cell[:count] for held, cell in self.cells.items()}
        more = {held: cell[count:] for held, cell in self.cells.items() if len(cell) > count}
        return replace(self, cells=first), replace(self, cells=more, taken=frozenset())


class Grid(Struct, frozen=True):
    """Rows in order of the board, and the sets of modifiers that are used, few first."""

    rows: tuple[Row, ...]
    columns: tuple[tuple[str, ...], ...]


def grid_of(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> Grid:
    """Return the grid of a card's chords."""
    cells: dict[tuple[tuple[int, int, str], str], dict[tuple[str, ...], list[Entry]]] = {}
    for binding, command, chord in chords_of(chosen(folio, card, known)):
        order, key, held = _place(folio, chord)
        entry = Entry(binding.id, label_of(binding, command), command.name, folio.group_of(command), command.careful,
                      binding.reason, known.grips.get(binding.id) if "grip" in card.shows else None)  # fmt: skip
        cells.setdefault((order, key), {}).setdefault(held, []).append(entry)
    desktop = _taken(folio) if card.program != EVERYWHERE else frozenset()
    columns = sorted({held for row in cells.values() for held in row}, key=_column_order)
    rows = [
        Row(order[0], order, key, {held: tuple(entries) for held, entries in row.items()},
            frozenset(held for held in columns if (order, held) in desktop and held not in row))
        for (order, key), row in sorted(cells.items())
    ]  # fmt: skip
    return Grid(tuple(rows), tuple(columns))


def _place(folio: Folio, chord: Chord) -> tuple[tuple[int, int, str], str, tuple[str, ...]]:
    """Return where a chord stands: its key's place in reading order, the key's print, the modifiers that are held."""
    strike = strike_of(chord, folio.legend, folio.bundles)
    if strike is None:
        return (len(SECTIONS) - 1, 999, chord.key), chord.key, tuple(m for m in MODIFIERS if m in chord.modifiers)
    held, code = strike
    order = (*_PLACES[code], "") if code in _PLACES else (len(SECTIONS) - 1, _others(code), code)
    return order, folio.legend.print_of(code) or code, tuple(m for m in MODIFIERS if m in held)


def _others(code: str) -> int:
    """Return keys round the letters: the function row first, then moving and editing keys, the number pad last."""
    if code.startswith("F") and code[1:].isdigit():
        return int(code[1:])
    return _AROUND.index(code) + 100 if code in _AROUND else 500 if not code.startswith("Numpad") else 600


def _taken(folio: Folio) -> frozenset[tuple[tuple[int, int, str], tuple[str, ...]]]:
    """Places that the desktop itself answers to."""
    everywhere = Card("", "", "grid", program=EVERYWHERE)
    places = [_place(folio, chord) for _, _, chord in chords_of(chosen(folio, everywhere))]
    return frozenset((order, held) for order, _, held in places)


def _column_order(held: tuple[str, ...]) -> tuple[int, tuple[int, ...]]:
    rank = ("Shift", "Ctrl", "Alt", "AltGr", "Super", "Hyper")
    return len(held), tuple(sorted(rank.index(m) for m in held))
