"""The ordinary keyboard as a board of layers: for each program, one layer for each set of modifiers and for what follows a stem.

These layers are derived from the program's bindings and never stored. Arrange, cards, rounds and the audit read the same value.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Final, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.model.board import Board
from glimber.core.model.derived import DerivedCache, Same
from glimber.core.model.folio import EVERYWHERE, Binding, Folio, Program
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Sequence, Strike, chord_of, strike_of

Block = Literal["main", "function", "navigation", "number-pad"]
ALONE: Final = "alone"
ALWAYS: Final[tuple[tuple[str, ...], ...]] = ((), ("Shift",), ("Ctrl",), ("Ctrl", "Shift"), ("Alt",), ("Ctrl", "Alt"))
"""Sets of modifiers that Arrange offers even where a program binds nothing with them."""
_RANK: Final = {name: at for at, name in enumerate(("Shift", "Ctrl", "Alt", "AltGr", "Super", "Hyper"))}
_NAVIGATION: Final = frozenset(
    "Insert Home PageUp Delete End PageDown ArrowUp ArrowLeft ArrowDown ArrowRight PrintScreen ScrollLock Pause".split()
)


class ChordLayer(Struct, frozen=True):
    """The keys' work while a set of modifiers is held, after ``stem`` where there is one.

    ``bindings``: by key code, several where contexts differ. ``stems``: by key code, the sequence up to that key and how many
    bindings follow it.
    """

    stem: Sequence | None
    modifiers: tuple[str, ...]
    bindings: Mapping[str, tuple[Binding, ...]] = field(default_factory=dict)
    stems: Mapping[str, tuple[Sequence, int]] = field(default_factory=dict)

    @property
    def id(self) -> str:
        held = "-".join(self.modifiers).lower() or ALONE
        return held if self.stem is None else f"after {self.stem}, {held}"

    @property
    def name(self) -> str:
        held = "+".join(self.modifiers)
        if self.stem is None:
            return held or ALONE
        return f"after {self.stem}" + (f", {held}" if held else "")

    @property
    def count(self) -> int:
        """Return the number of its bindings."""
        return sum(map(len, self.bindings.values()))


_LAYERS: DerivedCache[Program, object, tuple[ChordLayer, ...]] = DerivedCache()
_DESKTOP: DerivedCache[Folio, str, Mapping[Strike, Binding]] = DerivedCache()


def chord_layers(folio: Folio, program: str) -> tuple[ChordLayer, ...]:
    """Return the derived layers of a program that bind something, few modifiers first, those after stems last."""
    found = folio.programs[program]
    return _LAYERS.get(found, keyboard_key(folio), lambda: _layers(folio, found))


def keyboard_key(folio: Folio) -> tuple[object, ...]:
    """Return all that the layers of a program rest on besides the program itself."""
    return Same(folio.legend), Same(folio.keyboard), tuple(folio.bundles.items())


def with_empty(layers: Iterable[ChordLayer]) -> tuple[ChordLayer, ...]:
    """Return the layers, with the usual sets of modifiers that bind nothing among them."""
    found = list(layers)
    has = {layer.modifiers for layer in found if layer.stem is None}
    return tuple(sorted([*found, *(ChordLayer(None, held) for held in ALWAYS if held not in has)], key=_order))


def _layers(folio: Folio, program: Program) -> tuple[ChordLayer, ...]:
    bound: dict[tuple[Sequence | None, tuple[str, ...]], dict[str, list[Binding]]] = {}
    stems: dict[tuple[Sequence | None, tuple[str, ...]], dict[str, tuple[Sequence, int]]] = {}
    for binding in program.bindings:
        if not isinstance(binding.trigger, Sequence):
            continue
        chords = binding.trigger.chords
        for at, chord in enumerate(chords):
            strike = strike_of(chord, folio.legend, folio.bundles)
            if strike is None:
                break
            stem = Sequence(chords[:at]) if at else None
            key = (stem, held_in_order(strike[0]))
            if at == len(chords) - 1:
                bound.setdefault(key, {}).setdefault(strike[1], []).append(binding)
            else:
                here = stems.setdefault(key, {})
                _, count = here.get(strike[1], (None, 0))
                here[strike[1]] = (Sequence(chords[: at + 1]), count + 1)
    layers = [
        ChordLayer(key[0], key[1], {code: tuple(many) for code, many in bound.get(key, {}).items()}, stems.get(key, {}))
        for key in {**bound, **stems}
    ]
    return tuple(sorted(layers, key=_order))


def held_in_order(modifiers: Iterable[str]) -> tuple[str, ...]:
    """Return modifiers in their canonical order."""
    held = set(modifiers)
    return tuple(name for name in MODIFIERS if name in held)


def _order(layer: ChordLayer) -> tuple[int, str, int, tuple[int, ...]]:
    stem = layer.stem
    return (
        len(stem.chords) if stem else 0,
        str(stem or ""),
        len(layer.modifiers),
        tuple(sorted(_RANK[name] for name in layer.modifiers)),
    )


def trigger_on(folio: Folio, layer: ChordLayer, code: str) -> Sequence:
    """Return the trigger that a key has on a derived layer."""
    chord = chord_of((frozenset(layer.modifiers), code), folio.legend)
    return Sequence((*(layer.stem.chords if layer.stem else ()), chord))


def desktop_strikes(folio: Folio) -> Mapping[Strike, Binding]:
    """Return the chords that the desktop itself answers to."""
    return _DESKTOP.get(folio, "desktop", lambda: _single_strikes(folio, folio.programs.get(EVERYWHERE)))


def _single_strikes(folio: Folio, program: Program | None) -> Mapping[Strike, Binding]:
    found: dict[Strike, Binding] = {}
    for binding in program.bindings if program is not None else ():
        if isinstance(binding.trigger, Sequence) and len(binding.trigger.chords) == 1:
            strike = strike_of(binding.trigger.chords[0], folio.legend, folio.bundles)
            if strike is not None:
                found.setdefault(strike, binding)
    return found


def taken_by_desktop(folio: Folio, layer: ChordLayer) -> Mapping[str, str]:
    """Return the keys that the desktop takes before the program sees them, each with the name of what it does."""
    if layer.stem is not None:
        return {}
    held = frozenset(layer.modifiers)
    found = {}
    for (modifiers, code), binding in desktop_strikes(folio).items():
        command = folio.command_of(binding)
        if modifiers == held and command is not None:
            found[code] = command.short
    return found


def elsewhere(folio: Folio, program: str, layer: ChordLayer) -> Mapping[str, tuple[str, ...]]:
    """Return the keys that other programs use with the same modifiers for something else: "Namewell: New entry"."""
    mine = {code: {b.command.partition("/")[2] for b in many if b.command} for code, many in layer.bindings.items()}
    found: dict[str, list[str]] = {}
    for other in folio.programs.values():
        if other.id in (program, EVERYWHERE):
            continue
        match = next(
            (
                one
                for one in chord_layers(folio, other.id)
                if (one.stem, one.modifiers) == (layer.stem, layer.modifiers)
            ),
            None,
        )
        for code, many in match.bindings.items() if match is not None else ():
            command = folio.command_of(many[0])
            if command is not None and command.id not in mine.get(code, set()):
                found.setdefault(code, []).append(f"{other.name}: {command.name}")
    return {code: tuple(names) for code, names in found.items()}


# The shape of the keyboard


def block_of(code: str) -> Block:
    """Return the part of an ordinary keyboard that a key is in."""
    if code == "Escape" or (code[:1] == "F" and code[1:].isdigit()):
        return "function"
    if code.startswith("Num"):
        return "number-pad"
    return "navigation" if code in _NAVIGATION else "main"


def part_of_board(board: Board, needed: Iterable[str]) -> Board:
    """Return the main block of a keyboard, with those of its other blocks that have one of the needed keys; gaps are closed."""
    blocks = {block_of(code) for code in needed} | {"main"}
    keys = [key for key in board.keys if block_of(key.id) in blocks]
    if not keys or len(keys) == len(board.keys):
        return board
    if "number-pad" in blocks and "navigation" not in blocks:
        pad = [key for key in keys if block_of(key.id) == "number-pad"]
        main = [key for key in keys if block_of(key.id) != "number-pad"]
        if pad and main:
            by = min(key.x for key in pad) - max(key.x + key.w for key in main) - 0.25
            keys = [*main, *(replace(key, x=key.x - by) for key in pad)]
    return replace(board, keys=tuple(keys), knobs=())
