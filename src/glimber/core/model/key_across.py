"""One key of the ordinary keyboard across all programs and sets of modifiers."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from glimber.core.model.chord_layers import ChordLayer, chord_layers, taken_by_desktop, with_empty
from glimber.core.model.folio import EVERYWHERE, Command, Folio


class ProgramRow(Struct, frozen=True):
    """The work of a key in one program, by layer id; ``bound``: the layers on which it carries out a command."""

    program: str
    name: str
    cells: Mapping[str, str]
    bound: frozenset[str]


class KeyAcross(Struct, frozen=True):
    """The rows, the program in front first, and the layers in their order; ``commands``: those of the program in front."""

    layers: tuple[ChordLayer, ...]
    rows: tuple[ProgramRow, ...]
    commands: Mapping[str, tuple[Command, str]]
    """By layer id, with the reason of its binding."""


def key_across(folio: Folio, program: str, code: str) -> KeyAcross:
    """Return a key across every program of the folio, in the columns of the program in front."""
    layers = with_empty(chord_layers(folio, program))
    others = [id for id in folio.programs if id != program]
    rows = tuple(_row(folio, id, code, layers) for id in (program, *others))
    commands = {}
    for layer in layers:
        for binding in layer.bindings.get(code, ())[:1]:
            command = folio.command_of(binding)
            if command is not None:
                commands[layer.id] = (command, binding.reason or "")
    return KeyAcross(layers, rows, commands)


def _row(folio: Folio, program: str, code: str, layers: tuple[ChordLayer, ...]) -> ProgramRow:
    mine = {(layer.stem, layer.modifiers): layer for layer in chord_layers(folio, program)}
    cells, bound = {}, set()
    for layer in layers:
        own = mine.get((layer.stem, layer.modifiers))
        names = [command.name for binding in (own.bindings.get(code, ()) if own else ())
                 if (command := folio.command_of(binding)) is not None]  # fmt: skip
        if names:
            bound.add(layer.id)
        _, count = own.stems.get(code, (None, 0)) if own else (None, 0)
        desktop = taken_by_desktop(folio, layer).get(code) if program != EVERYWHERE else None
        words = " / ".join(names) or (f"{count} more" if count else "")
        cells[layer.id] = words or (f"desktop: {desktop}" if desktop else _types(folio, layer, code))
    return ProgramRow(program, folio.programs[program].name, cells, frozenset(bound))


def _types(folio: Folio, layer: ChordLayer, code: str) -> str:
    """Return the text that the key types where nothing is bound."""
    levels = folio.legend.levels.get(code, ())
    at = {(): 0, ("Shift",): 1}.get(layer.modifiers) if layer.stem is None else None
    return f"types {levels[at]}" if at is not None and at < len(levels) and levels[at] else ""
