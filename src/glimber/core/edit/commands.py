"""Edits of commands, their groups and their shortcuts: their fields, never the names they go by elsewhere."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from collections.abc import Sequence as Rows
from math import isfinite
from typing import Any

from msgspec.structs import replace

from glimber.core.edit.edit import EditError, map_bindings, with_program
from glimber.core.model.folio import INKS, MARKS, Binding, Command, Folio, Group
from glimber.core.model.group_marks import next_pair
from glimber.core.model.systems import SYSTEMS
from glimber.core.notation.ids import free_id, slug_of
from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.core.notation.nearest import did_you_mean

STEPS = "menu X, click X, field N, drag X, scroll or wait S"


def step_fault(step: str) -> str | None:
    """Return what is wrong with a step of a slow way; None where nothing is."""
    verb, _, rest = step.partition(" ")
    if verb in ("menu", "click", "drag") and rest.strip():
        return None
    if verb == "scroll" and not rest:
        return None
    if verb == "field" and rest.isdigit() and rest.isascii():
        return None
    if verb == "wait" and _is_seconds(rest):
        return None
    return f"{step!r} is not a step; expected {STEPS}"


def _is_seconds(text: str) -> bool:
    try:
        return isfinite(float(text)) and float(text) >= 0
    except ValueError:
        return False


def edit_command(folio: Folio, ref: str, **changes: Any) -> Folio:
    """Change the fields of a command (``program/command``): any but its id and program. Raises EditError.

    A renamed command can still be found by its former name.
    """
    command = _command(folio, ref)
    program = folio.programs[command.program]
    if "name" in changes:
        changes["name"] = " ".join(str(changes["name"]).split())
        if not changes["name"]:
            raise EditError("a command needs its name, exactly as the program has it")
        if changes["name"] != command.name and "was" not in changes:
            was = [name for name in command.was if name != changes["name"]]
            changes["was"] = (*was, command.name)
    uses = changes.get("uses_per_day")
    if uses is not None and not (isfinite(uses) and uses >= 0):
        raise EditError(f"{uses} is not a number of uses a day; expected 0 or more")
    if "keys_of" in changes:
        changes["keys_of"] = tuple((system, _keys_on(system, triggers)) for system, triggers in changes["keys_of"])
    fault = next((fault for step in changes.get("slow_way", ()) if (fault := step_fault(step))), None)
    if fault is not None:
        raise EditError(fault)
    for field, known in (("group", program.groups), ("context", program.contexts)):
        wanted = changes.get(field)
        if wanted is not None and wanted not in known:
            raise EditError(f"{wanted} is not a {field} of {program.name}{did_you_mean(wanted, known)}")
    commands = {**program.commands, command.id: replace(command, **changes)}
    return with_program(folio, replace(program, commands=commands))


def _keys_on(system: str, triggers: Iterable[str]) -> tuple[str, ...]:
    if system not in SYSTEMS:
        raise EditError(f"{system} is not a system{did_you_mean(system, SYSTEMS)}; expected one of {', '.join(SYSTEMS)}")
    try:
        return tuple(str(parse_trigger(trigger)) for trigger in triggers)
    except NotationError as error:
        raise EditError(f"{SYSTEMS[system]}: {error}") from error


def add_command(folio: Folio, program: str, name: str) -> tuple[Folio, str]:
    """Return the folio with one more command on the bench, and its ``program/command``. Raises EditError."""
    here, name = folio.programs[program], " ".join(name.split())
    if not name:
        raise EditError("a command needs its name, exactly as the program has it")
    if any(command.name.casefold() == name.casefold() for command in here.commands.values()):
        raise EditError(f"{here.name} has a command called {name} already")
    slug = free_id(slug_of(name), here.commands)
    made = Command(slug, program, name)
    return with_program(folio, replace(here, commands={**here.commands, slug: made})), made.ref


def remove_command(folio: Folio, ref: str) -> Folio:
    """Return the folio without a command and its shortcuts. Raises EditError while a spot, a card or a task run needs it."""
    command = _command(folio, ref)
    for binding in folio.bindings_of.get(ref, ()):
        if not any(binding is own for own in folio.programs[command.program].bindings):
            raise EditError(f"{command.name} is on {binding.trigger}; clear that key first")
    run = next((run for run in folio.runs.values() if ref in run.commands), None)
    if run is not None:
        raise EditError(f"{command.name} is part of the task run {run.name}; take it out there first")
    program = folio.programs[command.program]
    return with_program(
        folio,
        replace(
            program,
            commands={id: one for id, one in program.commands.items() if id != command.id},
            bindings=tuple(binding for binding in program.bindings if binding.command != ref),
            defaults={id: keys for id, keys in program.defaults.items() if id != command.id},
        ),
    )


def put_in_group(folio: Folio, refs: Rows[str], name: str, ink: str | None = None, mark: str | None = None) -> Folio:
    """Put commands into a group by its name, made with the next ink and mark where it is new; an empty name takes them out.

    ``ink`` and ``mark`` change the group's own. Raises EditError for an ink or a mark there is not.
    """
    for chosen, known, kind in ((ink, INKS, "an ink"), (mark, MARKS, "a mark")):
        if chosen is not None and chosen not in known:
            raise EditError(f"{chosen} is not the name of {kind}; expected one of {', '.join(known)}")
    name = " ".join(name.split())
    for id in dict.fromkeys(_command(folio, ref).program for ref in refs):
        program = folio.programs[id]
        group = None
        if name:
            here = next((one for one in program.groups.values() if one.name.casefold() == name.casefold()), None)
            group = here or _new_group(program.groups, name)
            group = replace(group, ink=ink or group.ink, mark=mark or group.mark)
        mine = {ref.partition("/")[2] for ref in refs if ref.startswith(f"{id}/")}
        commands = {
            slug: replace(command, group=group.id if group else None) if slug in mine else command
            for slug, command in program.commands.items()
        }
        groups = {**program.groups, group.id: group} if group else program.groups
        folio = with_program(folio, replace(program, commands=commands, groups=groups))
    return folio


def _new_group(groups: Mapping[str, Group], name: str) -> Group:
    id = free_id(slug_of(name), groups)
    return Group(id, name, *next_pair(groups))


def add_context(folio: Folio, program: str, context: str) -> Folio:
    """Return a program with one more part that has keys of its own. Raises EditError."""
    here, context = folio.programs[program], " ".join(context.split())
    if not context:
        raise EditError("a context needs a name, such as canvas")
    if context in here.contexts:
        return folio
    return with_program(folio, replace(here, contexts=(*here.contexts, context)))


def set_picture(folio: Folio, program: str, picture: str | None) -> Folio:
    """Return the icon of a program, a file within the folio, drawn on its cards. Raises EditError."""
    if program not in folio.programs:
        raise EditError(f"{program} is not a program of this folio")
    return with_program(folio, replace(folio.programs[program], picture=picture))


def set_windows(folio: Folio, program: str, windows: Iterable[str]) -> Folio:
    """Return the window classes a program is known by while it is in front, each once; none: its own name. Raises EditError."""
    if program not in folio.programs:
        raise EditError(f"{program} is not a program of this folio")
    named = tuple(dict.fromkeys(" ".join(one.split()) for one in windows if one.strip()))
    for other in folio.programs.values():
        taken = {one.casefold() for one in other.windows} & {one.casefold() for one in named}
        if other.id != program and taken:
            raise EditError(f"{sorted(taken)[0]} is a window of {other.name} already")
    return with_program(folio, replace(folio.programs[program], windows=named))


def edit_binding(folio: Folio, id: str, **changes: Any) -> Folio:
    """Change the fields of a binding: reason, where it is set, on which computers, pin, share, label. Raises EditError."""
    if id not in folio.bindings:
        raise EditError(f"{id} is not a binding of this folio")
    share = changes.get("share")
    if share is not None and not 0 <= share <= 1:
        raise EditError(f"{share} is not a share; expected 0 to 1")

    def changed(binding: Binding) -> Binding:
        return replace(binding, **changes, given_id=True) if binding.id == id else binding

    return map_bindings(folio, changed)


def _command(folio: Folio, ref: str) -> Command:
    if ref not in folio.commands:
        raise EditError(f"{ref} is not a command of this folio")
    return folio.commands[ref]
