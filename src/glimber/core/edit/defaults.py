"""A program's own set of shortcuts: what differs from it, and the way back to it."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from itertools import chain

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.ids import free_id
from glimber.core.notation.keys import Spot, Trigger, parse_trigger, strikes_of


class Departure(Struct, frozen=True):
    """A command whose shortcuts are not those its program came with."""

    command: str
    now: tuple[str, ...]
    default: tuple[str, ...]


def struck(folio: Folio, triggers: Iterable[str]) -> set[object]:
    """Return what triggers ask of the hand: two spellings of the same strike are no difference."""
    parsed = [parse_trigger(text, folio.bundles) for text in triggers]
    return {_strikes(folio, trigger) or str(trigger) for trigger in parsed}


def _strikes(folio: Folio, trigger: Trigger) -> object:
    return None if isinstance(trigger, Spot) else strikes_of(trigger, folio.legend, folio.bundles)


def departures(folio: Folio, program: str) -> list[Departure]:
    """Return commands of a program that differ from its own set, in its order; none while that set is not known."""
    here = folio.programs[program]
    if not here.defaults:
        return []
    now: dict[str, list[str]] = {}
    for binding in here.bindings:
        now.setdefault(str(binding.command), []).append(str(binding.trigger))
    found = []
    for slug, command in here.commands.items():
        mine, default = tuple(now.get(command.ref, ())), here.defaults.get(slug, ())
        if struck(folio, mine) != struck(folio, default):
            found.append(Departure(command.ref, mine, default))
    return found


def back_to_defaults(folio: Folio, program: str, only: Collection[str] | None = None) -> Folio:
    """Give commands the shortcuts their program came with: those named (``program/command``), or all of them.

    Bindings keep their ids as far as there are as many of them. Raises EditError where there is no such set, nothing
    differs from it, or a pinned binding would change.
    """
    here = folio.programs[program]
    if not here.defaults:
        raise EditError(f"what {here.name} came with is not known; read its own list first")
    chosen = [one for one in departures(folio, program) if only is None or one.command in only]
    if not chosen:
        raise EditError(f"{here.name} has the shortcuts it came with" if only is None else "it has its default keys")
    bindings, taken = here.bindings, set(folio.bindings)
    for one in chosen:
        bindings = give_triggers(bindings, one.command, one.default, taken, folio.bundles)
    return replace(folio, programs={**folio.programs, program: replace(here, bindings=bindings)})


def give_triggers(
    bindings: Sequence[Binding], command: str, triggers: Sequence[str], taken: set[str], bundles: Collection[str]
) -> tuple[Binding, ...]:
    """Return a program's bindings with other triggers for one command, as ``give_all_triggers``."""
    return give_all_triggers(bindings, {command: triggers}, taken, bundles)


def give_all_triggers(
    bindings: Sequence[Binding], wanted: Mapping[str, Sequence[str]], taken: set[str], bundles: Collection[str]
) -> tuple[Binding, ...]:
    """Return a program's bindings with the wanted triggers for the commands named; other commands keep theirs.

    A command's bindings keep their ids in order and their place among the others; ``taken`` gets new ids. Takes time in
    proportion to the bindings and the commands together. Raises EditError where a pinned binding would change.
    """
    of_command: dict[str, list[Binding]] = {command: [] for command in wanted}
    for binding in bindings:
        if binding.command in of_command:
            of_command[binding.command].append(binding)
    made = {command: _given(of_command[command], command, triggers, taken, bundles) for command, triggers in wanted.items()}
    found: list[Binding] = []
    for binding in bindings:
        found += [binding] if binding.command not in wanted else made.pop(binding.command or "", ())
    return (*found, *chain.from_iterable(made.values()))


def _given(
    kept: Sequence[Binding], command: str, triggers: Sequence[str], taken: set[str], bundles: Collection[str]
) -> list[Binding]:
    made: list[Binding] = []
    wanted = [parse_trigger(text, bundles) for text in triggers]
    # A trigger that stays keeps its own binding; the others are given out in order.
    staying = {binding.trigger: binding for binding in kept if binding.trigger in wanted}
    free = [binding for binding in kept if binding.trigger not in wanted]
    lost = [binding for binding in free if binding.pinned]
    if lost:
        raise EditError(f"{lost[0].id} on {lost[0].trigger} is pinned; take the pin off first")
    for trigger in wanted:
        if trigger in staying:
            made.append(staying[trigger])
        elif free:
            made.append(replace(free.pop(0), trigger=trigger, given_id=True))
        else:
            id = free_id(command.partition("/")[2], taken)
            taken.add(id)
            made.append(Binding(id, trigger, command))
    return made
