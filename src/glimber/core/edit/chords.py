"""Edits of a program's chords as keys of the ordinary keyboard: a folio in, a new folio out.

A key stands for a chord, or for a sequence after its stem. An exchange takes everything that begins with it: the binding on it,
and the group of sequences where it is a stem.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from glimber.core.edit.edit import EditError, add_trigger, with_program
from glimber.core.model.folio import Binding, Folio, Program
from glimber.core.model.meaning import following
from glimber.core.notation.keys import Sequence, Strike, strikes_of


def strikes(folio: Folio, trigger: object) -> tuple[Strike, ...]:
    """Return the strikes of a chord or sequence; empty for other triggers and for keys the legend lacks."""
    return (strikes_of(trigger, folio.legend, folio.bundles) or ()) if isinstance(trigger, Sequence) else ()


def bound_at(folio: Folio, program: str, trigger: Sequence) -> list[Binding]:
    """Return the bindings of a program on exactly this chord or sequence, whatever their context."""
    wanted = strikes(folio, trigger)
    return [
        binding for binding in folio.programs[program].bindings if wanted and strikes(folio, binding.trigger) == wanted
    ]


def exchange_chords(folio: Folio, program: str, one: Sequence, other: Sequence) -> Folio:
    """Exchange everything on two keys: bindings, and groups of sequences that begin there. Raises EditError."""
    here, there = strikes(folio, one), strikes(folio, other)
    if not here or not there:
        raise EditError(f"{one if not here else other} has a key that is not on this keyboard")
    if here == there:
        raise EditError("choose another key")
    if here == there[: len(here)] or there == here[: len(there)]:
        raise EditError(f"{other} begins with {one}; a key cannot go behind itself")
    found = folio.programs[program]
    moved = {
        binding.id: changed
        for binding in found.bindings
        if (changed := _moved(folio, binding, (one, here), (other, there))) is not None
    }
    if not moved:
        raise EditError(f"nothing of {found.name} is on {one} or {other}")
    pinned = next((binding for binding in found.bindings if binding.pinned and binding.id in moved), None)
    if pinned is not None:
        raise EditError(f"{pinned.id} on {pinned.trigger} is pinned; take the pin off first")
    stems = tuple(
        replace(stem, trigger=_turned(folio, stem.trigger, (one, here), (other, there)) or stem.trigger)
        for stem in found.stems
    )
    bindings = tuple(moved.get(binding.id, binding) for binding in found.bindings)
    return with_program(folio, replace(found, bindings=bindings, stems=stems))


def _moved(
    folio: Folio, binding: Binding, one: tuple[Sequence, tuple[Strike, ...]], other: tuple[Sequence, tuple[Strike, ...]]
) -> Binding | None:
    turned = _turned(folio, binding.trigger, one, other)
    return None if turned is None else replace(binding, trigger=turned, given_id=True)


def _turned(
    folio: Folio, trigger: object, one: tuple[Sequence, tuple[Strike, ...]], other: tuple[Sequence, tuple[Strike, ...]]
) -> Sequence | None:
    """Return the trigger with its beginning exchanged; None where it begins with neither."""
    found = strikes(folio, trigger)
    for (_, mine), (theirs, _) in ((one, other), (other, one)):
        if found[: len(mine)] == mine and isinstance(trigger, Sequence):
            return Sequence((*theirs.chords, *trigger.chords[len(mine) :]))
    return None


def clear_chords(folio: Folio, program: str, triggers: Iterable[Sequence]) -> Folio:
    """Take the bindings off chords; their commands wait on the bench if that was their last one. Raises EditError."""
    taken = [binding for trigger in triggers for binding in bound_at(folio, program, trigger)]
    if not taken:
        raise EditError("nothing is bound there")
    pinned = next((binding for binding in taken if binding.pinned), None)
    if pinned is not None:
        raise EditError(f"{pinned.id} on {pinned.trigger} is pinned; take the pin off first")
    ids = {binding.id for binding in taken}
    found = folio.programs[program]
    return with_program(folio, replace(found, bindings=tuple(b for b in found.bindings if b.id not in ids)))


def give_chord(folio: Folio, ref: str, trigger: Sequence) -> Folio:
    """Put a command of a program on a chord: its first chord moves there with its id and history, one on the bench gets it.
    What is there goes to where that came from, or to the bench. Raises EditError."""
    program = _owner(folio, ref, trigger)
    own = [binding for binding in program.bindings if binding.command == ref and strikes(folio, binding.trigger)]
    if own:
        first = own[0]
        assert isinstance(first.trigger, Sequence)
        if strikes(folio, first.trigger) == strikes(folio, trigger):
            raise EditError(f"{folio.commands[ref].name} is on {trigger} already")
        return exchange_chords(folio, program.id, first.trigger, trigger)
    if bound_at(folio, program.id, trigger):
        folio = clear_chords(folio, program.id, [trigger])
    return add_trigger(folio, ref, trigger)


def copy_chord(folio: Folio, ref: str, triggers: Iterable[Sequence]) -> Folio:
    """Give a command further chords beside those it has. Raises EditError where one is taken."""
    for trigger in triggers:
        program = _owner(folio, ref, trigger)
        there = bound_at(folio, program.id, trigger)
        if there:
            name = folio.commands[there[0].command or ""].name
            raise EditError(f"{trigger} is taken by {name}; remove it first, or choose a free key")
        folio = add_trigger(folio, ref, trigger)
    return folio


def _owner(folio: Folio, ref: str, trigger: Sequence) -> Program:
    program = folio.programs[folio.commands[ref].program]
    ahead = following(folio, program.id, trigger)
    if ahead:
        raise EditError(f"{len(ahead)} sequences of {program.name} begin with {trigger}; move them first")
    return program
