"""A family of chords changed at once: every one that is held with the same modifiers, or that begins with the same steps."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError, with_program
from glimber.core.model.collisions import collisions
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord
from glimber.core.notation.keys import Sequence as Keys
from glimber.core.notation.nearest import did_you_mean


class FamilyMove(Struct, frozen=True):
    """One binding of a family: where it is, where it would go, and what is in the way there; nothing where it is free."""

    binding: str
    command: str
    start: Keys
    to: Keys
    in_the_way: str = ""


def held_with(folio: Folio, program: str, modifiers: Sequence[str], group: str | None = None) -> list[Binding]:
    """Return the bindings of a program whose last chord is held with just these modifiers; of one group, if given."""
    wanted = frozenset(modifiers)
    return [
        binding for binding in folio.programs[program].bindings
        if isinstance(binding.trigger, Keys) and frozenset(binding.trigger.chords[-1].modifiers) == wanted
        and (group is None or _group_of(folio, binding) == group)
    ]  # fmt: skip


def _group_of(folio: Folio, binding: Binding) -> str | None:
    command = folio.command_of(binding)
    return command.group if command is not None else None


def modifiers_of(text: str) -> tuple[str, ...]:
    """Read modifiers such as "Ctrl+Alt", or "none". Raises EditError."""
    words = [word.strip() for word in text.split("+") if word.strip() and word.strip().casefold() != "none"]
    known = {name.casefold(): name for name in MODIFIERS}
    for word in words:
        if word.casefold() not in known:
            raise EditError(f"{word} is not a modifier{did_you_mean(word, MODIFIERS)}; expected {', '.join(MODIFIERS)}, or none")
    held = {known[word.casefold()] for word in words}
    return tuple(name for name in MODIFIERS if name in held)


def plan_family(
    folio: Folio, program: str, bindings: Iterable[Binding], modifiers: Sequence[str], computer: str | None = None
) -> list[FamilyMove]:
    """Return where each binding would go with other modifiers at its last chord, and what is in the way; nothing is changed.

    What a binding of the family leaves is not in the way of another.
    """
    family = [binding for binding in bindings if isinstance(binding.trigger, Keys)]
    leaving = {binding.id for binding in family if not binding.pinned}
    found: list[FamilyMove] = []
    for binding in family:
        start = binding.trigger
        assert isinstance(start, Keys)
        last = start.chords[-1]
        to = Keys((*start.chords[:-1], Chord(tuple(modifiers), last.key, last.by_place)))
        command = folio.command_of(binding)
        context = command.context if command is not None else None
        met = [one for one in collisions(folio, program, to, context, computer) if one.binding not in leaving]
        way = "it is pinned" if binding.pinned else met[0].words(to).rstrip(".") if met else ""
        found.append(FamilyMove(binding.id, command.name if command is not None else binding.id, start, to, way))
    return found


def move_family(folio: Folio, program: str, moves: Iterable[FamilyMove]) -> Folio:
    """Return the folio with every move made that nothing is in the way of, as one edit; ids and history stay.

    Raises EditError where all of them are in each other's or something's way.
    """
    to = {move.binding: move.to for move in moves if not move.in_the_way and move.to != move.start}
    if not to:
        raise EditError("none of these can move; something is in the way of each")
    found = folio.programs[program]
    bindings = tuple(
        replace(binding, trigger=to[binding.id], given_id=True) if binding.id in to else binding for binding in found.bindings
    )
    return with_program(folio, replace(found, bindings=bindings))
