"""Taps that only type a key, such as Space on a key that opens a layer while held, as something a round can ask for.

A round asks for commands, and typing a space is none. For the exercise of the timing study the folio is seen with a command
for each of those taps, so that their times become known; files, verdicts and every other round know nothing of it.
"""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace

from glimber.core.model.folio import Binding, Command, Folio, Layer, Program
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, Sequence, Spot

PROGRAM: Final = "typed-keys"


def with_plain_taps(folio: Folio) -> Folio:
    """Return the folio with a command for each tap that types one key where a hold on the same key does something else."""
    commands: dict[str, Command] = {}
    layouts = {}
    for id, layout in folio.layouts.items():
        layers = tuple(_with_commands(folio, id, layer, layer is layout.base, commands) for layer in layout.layers)
        layouts[id] = replace(layout, layers=layers)
    if not commands or PROGRAM in folio.programs:
        return folio
    program = Program(PROGRAM, "Typing", commands=commands)
    return replace(folio, layouts=layouts, programs={**folio.programs, PROGRAM: program})


def _with_commands(folio: Folio, board: str, layer: Layer, is_base: bool, commands: dict[str, Command]) -> Layer:
    asked: dict[str, Binding] = {}
    for key, gestures in layer.by_key.items():
        if "hold" not in gestures or "&" in key:
            continue
        tap = gestures.get("tap")
        if tap is None and is_base:  # it types what it prints
            own = folio.legend.key_at(key)
            tap = Binding(f"typed-{board}-{key}", Spot(board, layer.id, (key,), "tap"), sends=_typing(own)) if own else None
        typed = _key_typed(tap) if tap is not None else None
        if tap is not None and typed is not None:
            command = Command(f"{board}-{layer.id}-{key}".lower(), PROGRAM, f"Type {typed}")
            commands[command.id] = command
            asked[tap.id] = replace(tap, command=command.ref)
    known = {one.id for one in layer.bindings}
    bindings = (*(asked.get(one.id, one) for one in layer.bindings), *(one for id, one in asked.items() if id not in known))
    return replace(layer, bindings=bindings)


def _typing(key: str) -> Sequence:
    return Sequence((Chord((), key),))


def _key_typed(tap: Binding) -> str | None:
    """Return the one key that a tap types; None for a command, a modifier, or anything else."""
    sent = tap.sends
    if tap.command is not None or not isinstance(sent, Sequence) or len(sent.chords) != 1:
        return None
    chord = sent.chords[0]
    return None if chord.modifiers or chord.key in MODIFIERS else chord.key
