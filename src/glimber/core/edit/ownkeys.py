"""Glimber's own keys as a program of the folio: found, drilled, weighed and rebound like those of any other."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import INKS, MARKS, Binding, Command, Folio, Group, Program
from glimber.core.notation.ids import free_id
from glimber.core.notation.keys import NotationError, Sequence, parse_trigger

OWN: Final = "glimber"


class OwnAction(Struct, frozen=True):
    """One thing the application does: where it works (a room, or anywhere) and the keys it comes with, in our notation."""

    id: str
    name: str
    room: str
    keys: tuple[str, ...]


def with_own_keys(folio: Folio, actions: Iterable[OwnAction]) -> Folio:
    """Return the folio with the program Glimber: every action it does not have yet, with its keys; what is there stays as it is.

    Each room is a group, and a context: the same key in two rooms is no collision.
    """
    here = folio.programs.get(OWN) or Program(OWN, "Glimber")
    groups, commands, bindings, contexts = (
        dict(here.groups),
        dict(here.commands),
        list(here.bindings),
        list(here.contexts),
    )
    defaults = dict(here.defaults)
    taken = folio
    for action in actions:
        if action.id in commands:
            continue
        room = action.room.title()
        if action.room not in groups:
            number = len(groups)
            groups[action.room] = Group(action.room, room, INKS[number % len(INKS)], MARKS[number % len(MARKS)])
        context = room if action.room != "anywhere" else None
        if context is not None and context not in contexts:
            contexts.append(context)
        commands[action.id] = Command(action.id, OWN, action.name, group=action.room, context=context)
        keys = [text for text in action.keys if _fits(text)]
        for text in keys:
            id = free_id(action.id, taken.bindings)
            binding = Binding(id, parse_trigger(text), f"{OWN}/{action.id}", given_id=True)
            bindings.append(binding)
            made = replace(here, commands=commands, bindings=tuple(bindings))
            taken = replace(folio, programs={**folio.programs, OWN: made})
        if keys:
            defaults[action.id] = tuple(str(parse_trigger(text)) for text in keys)
    program = replace(
        here, contexts=tuple(contexts), groups=groups, commands=commands, bindings=tuple(bindings), defaults=defaults
    )
    return replace(folio, programs={**folio.programs, OWN: program})


def _fits(text: str) -> bool:
    try:
        return isinstance(parse_trigger(text), Sequence)
    except NotationError:
        return False


def own_keys(folio: Folio, computer: str | None = None) -> Mapping[str, tuple[str, ...]]:
    """Return the keys of every action that the folio says something of; no keys where the person took them all off.

    A key by its place is given by its print: the application hears what is printed.
    """
    program = folio.programs.get(OWN)
    if program is None:
        return {}
    found: dict[str, tuple[str, ...]] = dict.fromkeys(program.commands, ())
    for binding in program.bindings:
        id = (binding.command or "").partition("/")[2]
        if isinstance(binding.trigger, Sequence) and binding.lives_on(computer):
            found[id] = (*found.get(id, ()), _printed(folio, binding.trigger))
    return found


def _printed(folio: Folio, trigger: Sequence) -> str:
    chords = [
        replace(chord, key=folio.legend.key_at(chord.key) or chord.key, by_place=False) if chord.by_place else chord
        for chord in trigger.chords
    ]
    return str(parse_trigger(str(Sequence(tuple(chords)))))
