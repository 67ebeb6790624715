"""Reasons that a key suggests, for somebody who is shown a binding that has none: a letter, a direction, a pair."""

from __future__ import annotations

import re
from typing import Final

from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, Sequence, Spot

_DIRECTIONS: Final = {
    "Left": ("left", "back", "previous", "earlier"), "Right": ("right", "forward", "next", "later"),
    "Up": ("up", "above", "raise", "north"), "Down": ("down", "below", "lower", "south"),
}  # fmt: skip
_SMALL: Final = frozenset("a an and at by for from in into of off on or out the to with".split())
_WORD: Final = re.compile(r"[^\W\d_]+")


def proposed_reason(folio: Folio, binding: Binding) -> str | None:
    """Return a reason for a binding to be where it is, in words that can stand for themselves; None where nothing suggests one.

    The letter of its last key in the command's name comes first, then an arrow that points where the command goes, then the same
    key with and without Shift for a command and another one of its group.
    """
    command = folio.command_of(binding)
    chord = _last_chord(binding)
    if command is None:
        return None
    key = chord.key if chord is not None else _print_of(folio, binding)
    words = _WORD.findall(command.name)
    if key is not None and len(key) == 1 and key.isalpha():
        # The first word that is no small one is what the hand thinks of; a later one will do.
        for word in words:
            if word.lower() not in _SMALL and word[0].lower() == key.lower():
                return f"{key.upper()} as in {word.lower()}"
    lower = {word.lower() for word in words}
    if key in _DIRECTIONS and lower & set(_DIRECTIONS[key]):
        return "the arrow points where it goes"
    return _pair(folio, binding, chord)


def _last_chord(binding: Binding) -> Chord | None:
    return binding.trigger.chords[-1] if isinstance(binding.trigger, Sequence) else None


def _print_of(folio: Folio, binding: Binding) -> str | None:
    """Return the print on the one key of a spot."""
    if not isinstance(binding.trigger, Spot) or len(binding.trigger.keys) != 1:
        return None
    return folio.legend.key_at(binding.trigger.keys[0])


def _pair(folio: Folio, binding: Binding, chord: Chord | None) -> str | None:
    """Return the command on the same key without Shift, or with it, where both are of one group."""
    command = folio.command_of(binding)
    if chord is None or command is None or command.group is None or str(chord) != str(binding.trigger):
        return None
    shifted = "Shift" in chord.modifiers
    held = {*chord.modifiers} ^ {"Shift"}
    twin = Chord(tuple(name for name in MODIFIERS if name in held), chord.key, chord.by_place)
    for other in folio.all_bindings():
        pair = folio.command_of(other)
        alike = pair is not None and pair.ref != command.ref and (pair.program, pair.group) == (command.program, command.group)
        if alike and pair is not None and str(other.trigger) == str(twin):
            return f"with Shift, beside {pair.name}" if shifted else f"without Shift, beside {pair.name}"
    return None
