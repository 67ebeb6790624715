"""Taking stock: rows that were read compared with a program of the folio, and taken into it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.edit.defaults import give_all_triggers, struck
from glimber.core.model.folio import Command, Folio, Group, Program
from glimber.core.model.group_marks import next_pair
from glimber.core.notation.ids import free_id, slug_of

Kind = Literal["new", "same", "more", "changed", "renamed", "gone", "yours", "conflict"]
NOTHING_TO_TAKE: Final = ("same", "yours")
ALIKE: Final = 88.0
ALIKE_WITH_KEYS: Final = 60.0
"""The likeness two names must have, of 100, to be taken for one; less where the keys are the same."""
WHOLE_SHARE: Final = 0.5
"""A source that names more than this share of what a program had is the whole of it: what it does not name is gone."""


class Incoming(Struct, frozen=True):
    """One row of a source: a command by its exact name, its triggers in our notation, its group, its note, how it is
    reached without keys, and its other names."""

    name: str
    triggers: tuple[str, ...]
    group: str | None = None
    note: str = ""
    slow_way: tuple[str, ...] = ()
    words: tuple[str, ...] = ()
    keys_of: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """Its keys on other systems: system and triggers."""


class Difference(Struct, frozen=True):
    """One row compared with the folio. ``command``: the folio's command it matches; ``was``: that command's triggers. Of kind
    "more" is a row with the same keys that tells how its command is reached without them, other names of it, or its keys on
    other systems.

    For a renamed one ``was`` has the former name. ``taken_by`` names the command whose own change has the row's trigger.
    A command that is gone has a row without triggers.
    """

    kind: Kind
    row: Incoming
    command: str | None = None
    was: tuple[str, ...] = ()
    taken_by: str | None = None

    @property
    def to_take(self) -> bool:
        """Return True if there is anything in it to take into the folio."""
        return self.kind not in NOTHING_TO_TAKE


def merged(rows: Iterable[Incoming]) -> list[Incoming]:
    """Return one row for each command: a command that comes twice has the triggers of both."""
    found: dict[str, Incoming] = {}
    for row in rows:
        key = row.name.casefold()
        before = found.get(key)
        triggers = tuple(dict.fromkeys((*before.triggers, *row.triggers))) if before else row.triggers
        keys_of = dict(before.keys_of) | dict(row.keys_of) if before else dict(row.keys_of)
        found[key] = replace(before or row, triggers=triggers, keys_of=tuple(keys_of.items()))
    return list(found.values())


def compare(folio: Folio, program: str, rows: Sequence[Incoming], new_version: bool = False) -> list[Difference]:
    """Return every row against the program's commands, by name or former name; then what the rows no longer name.

    A row that no command is called may be a command under a new name: one that no row is called, and is alike enough.
    ``new_version``: the rows are the program's own set after a new version. Then each is a merge of three: the set the
    program had (its defaults), what the person made of it, and the new set; only what both changed is a conflict.
    """
    here = folio.programs.get(program)
    names = _names(here)
    found = []
    rows = merged(rows)
    whole = {_letters(command.name): command for command in names.values()} if any(row.note for row in rows) else {}
    commands = [names.get(row.name.casefold()) or whole.get(_letters(row.name + row.note)) for row in rows]
    called = {command.ref for command in commands if command is not None}
    left = {command.ref: command for command in names.values() if command.ref not in called}
    own = _own_changes(folio, here) if here is not None and new_version else {}
    for row, known in zip(rows, commands, strict=True):
        if known is None:
            found.append(_difference_of_unknown(folio, here, row, left, own))
            continue
        assert here is not None
        was = _triggers_of(here, known.ref)
        if struck(folio, row.triggers) == struck(folio, was):
            found.append(Difference("more" if _tells_more(row, known) else "same", row, known.ref, was))
        elif new_version:
            found.append(_merged_three(folio, here, row, known, was, own))
        else:
            found.append(Difference("changed", row, known.ref, was))
    return found + (_gone(here, left, called) if here is not None else [])


def _difference_of_unknown(
    folio: Folio, here: Program | None, row: Incoming, left: dict[str, Command], own: Mapping[object, Command]
) -> Difference:
    """Return the difference of a row that names no known command: a new command, or one renamed, which leaves ``left``."""
    former = _former(folio, here, row, left)
    if former is None:
        taken_by = _taken_by(folio, row, None, own)
        return Difference("conflict" if taken_by else "new", row, taken_by=taken_by)
    del left[former.ref]
    return Difference("renamed", row, former.ref, (former.name,))


def _tells_more(row: Incoming, command: Command) -> bool:
    others = {**dict(command.keys_of), **dict(row.keys_of)} != dict(command.keys_of)
    return bool(row.slow_way and not command.slow_way) or bool(set(row.words) - set(command.words)) or others


def _letters(text: str) -> str:
    """Return letters and digits only: a command may have been taken in under its name and explanation in one."""
    return "".join(filter(str.isalnum, text.casefold()))


def _names(program: Program | None) -> dict[str, Command]:
    names: dict[str, Command] = {}
    for command in program.commands.values() if program else ():
        for name in (*command.was, command.name):
            names[name.casefold()] = command
    return names


def _triggers_of(program: Program, ref: str) -> tuple[str, ...]:
    return tuple(str(binding.trigger) for binding in program.bindings if binding.command == ref)


def _own_changes(folio: Folio, program: Program) -> dict[object, Command]:
    """Return what the person's own changes strike, by the command they are for."""
    found: dict[object, Command] = {}
    for slug, command in program.commands.items():
        mine = struck(folio, _triggers_of(program, command.ref))
        for strike in mine - struck(folio, program.defaults.get(slug, ())):
            found[strike] = command
    return found


def _taken_by(folio: Folio, row: Incoming, command: Command | None, own: Mapping[object, Command]) -> str | None:
    others = [own[strike] for strike in struck(folio, row.triggers) if strike in own]
    return next((other.name for other in others if other is not command), None)


def _merged_three(
    folio: Folio, program: Program, row: Incoming, command: Command, was: tuple[str, ...], own: Mapping[object, Command]
) -> Difference:
    former = struck(folio, program.defaults.get(command.id, ()))
    if struck(folio, row.triggers) == former:
        return Difference("yours", row, command.ref, was)
    taken_by = _taken_by(folio, row, command, own)
    mine_changed = struck(folio, was) != former
    return Difference("conflict" if mine_changed or taken_by else "changed", row, command.ref, was, taken_by)


def _gone(program: Program, left: Mapping[str, Command], called: set[str]) -> list[Difference]:
    """Return what a source that is the whole of a program's set no longer names."""
    bound = {binding.command for binding in program.bindings}
    known = {f"{program.id}/{slug}" for slug in program.defaults} or bound
    if len(called & known) <= WHOLE_SHARE * len(known):
        return []
    return [
        Difference("gone", Incoming(command.name, ()), ref, _triggers_of(program, ref))
        for ref, command in left.items()
        if ref in known
    ]


def likely_program(folio: Folio, rows: Iterable[Incoming]) -> str | None:
    """Return the id of the program that has most of the rows' commands by name; None where no program has any."""
    names = {row.name.casefold() for row in rows}
    shared = {id: sum(command.name.casefold() in names for command in program.commands.values())
              for id, program in folio.programs.items()}  # fmt: skip
    best = max(shared, key=lambda id: shared[id], default=None)
    return best if best is not None and shared[best] else None


def _former(folio: Folio, program: Program | None, row: Incoming, left: Mapping[str, Command]) -> Command | None:
    """Return the command that a row is probably a new name of."""
    from rapidfuzz import fuzz, process, utils

    names = {ref: command.name for ref, command in left.items()}
    wanted = struck(folio, row.triggers)
    for _, score, ref in process.extract(row.name, names, scorer=fuzz.ratio, processor=utils.default_process, limit=3):
        own = _triggers_of(program, ref) if program else ()
        if score >= ALIKE or (score >= ALIKE_WITH_KEYS and wanted and wanted == struck(folio, own)):
            return left[ref]
    return None


def take(
    folio: Folio,
    program: str,
    differences: Sequence[Difference],
    name: str | None = None,
    own_set: Sequence[Incoming] | None = None,
) -> Folio:
    """Return the folio with some differences taken in: new commands added, changed ones given the source's triggers.

    A changed command keeps the ids of its bindings, and so their history; a renamed one keeps its own, and its former name
    can still be found; one that is gone loses its shortcuts, and goes itself where no spot and no task run needs it. A
    program that is not there yet is made, called ``name``. ``own_set``: the rows of the program's own new set, kept as its
    defaults; where it has none yet, the first taking-in is. Raises EditError where a pinned binding would change.
    """
    here = folio.programs.get(program) or Program(program, name or program.replace("-", " ").capitalize())
    groups, commands = dict(here.groups), dict(here.commands)
    wanted_triggers: dict[str, tuple[str, ...]] = {}
    needed = _needed_elsewhere(folio, program)
    for one in differences:
        slug = one.command.partition("/")[2] if one.command else free_id(slug_of(one.row.name), commands)
        if not one.to_take:
            continue
        if one.command is None:
            commands[slug] = Command(slug, program, one.row.name, group=_group(groups, one.row.group), words=one.row.words,
                                     slow_way=one.row.slow_way, note=one.row.note or None, keys_of=one.row.keys_of)  # fmt: skip
        elif one.kind == "renamed":
            former = commands[slug]
            commands[slug] = replace(former, name=one.row.name, was=(*former.was, former.name))
            continue
        else:
            commands[slug] = _with_more(commands[slug], one.row)
            if one.kind == "more":
                continue
        wanted_triggers[f"{program}/{slug}"] = one.row.triggers
        if one.kind == "gone" and f"{program}/{slug}" not in needed:
            del commands[slug]
    bindings = give_all_triggers(here.bindings, wanted_triggers, set(folio.bindings), folio.bundles)
    made = replace(here, groups=groups, commands=commands, bindings=bindings)
    if own_set is None and not here.defaults:
        own_set = [one.row for one in differences if one.kind != "gone"]
    defaults = {slug: triggers for slug, triggers in here.defaults.items() if slug in commands}
    if own_set is not None:
        defaults = _defaults_of(made, own_set)
    return replace(folio, programs={**folio.programs, program: replace(made, defaults=defaults)})


def _with_more(known: Command, row: Incoming) -> Command:
    """Return the command with the names, the slow way and the keys on other systems that a row has beside its own."""
    words = tuple(dict.fromkeys((*known.words, *row.words)))
    keys_of = tuple({**dict(known.keys_of), **dict(row.keys_of)}.items())
    return replace(known, slow_way=known.slow_way or row.slow_way, words=words, keys_of=keys_of)


def _defaults_of(program: Program, own_set: Sequence[Incoming]) -> dict[str, tuple[str, ...]]:
    """Return the triggers of a program's own set, by command."""
    slugs = {name: command.id for name, command in _names(program).items()}
    rows = [row for row in merged(own_set) if row.triggers and row.name.casefold() in slugs]
    return {slugs[row.name.casefold()]: row.triggers for row in rows}


def _needed_elsewhere(folio: Folio, program: str) -> set[str]:
    """Return commands of a program that spots carry out or task runs name."""
    spots = {b.command for layout in folio.layouts.values() for layer in layout.layers for b in layer.bindings}
    runs = {ref for run in folio.runs.values() for ref in run.commands}
    return {ref for ref in spots | runs if ref is not None and ref.startswith(f"{program}/")}


def _group(groups: dict[str, Group], name: str | None) -> str | None:
    """Return the id of a group by name, made with the next ink and mark where it is not there yet."""
    if name is None:
        return None
    for id, group in groups.items():
        if group.name.casefold() == name.casefold():
            return id
    id = free_id(slug_of(name), groups)
    groups[id] = Group(id, name, *next_pair(groups))
    return id
