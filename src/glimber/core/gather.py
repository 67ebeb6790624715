"""Taking stock: rows that were read compared with a program of the folio, and taken into it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final, Literal

from glimber.core.folio import INKS, MARKS, Binding, Command, Folio, Group, Program
from glimber.core.keys import Trigger, parse_trigger, strikes_of

Kind = Literal["new", "same", "changed", "renamed"]
ALIKE: Final = 88.0
ALIKE_WITH_KEYS: Final = 60.0
"""How alike two names must be, of 100, to be taken for one; less where the keys are the same."""
_OF_SLUG: Final = re.compile(r"[^a-z0-9]+")


@dataclass(frozen=True)
class Incoming:
    """One row of a source: a command by its exact name, its triggers in our notation, its group."""

    name: str
    triggers: tuple[str, ...]
    group: str | None = None


@dataclass(frozen=True)
class Difference:
    """What a row is against the folio. ``command``: the command of the folio it is about; ``was``: its triggers there.

    For a renamed one ``was`` has the former name.
    """

    kind: Kind
    row: Incoming
    command: str | None = None
    was: tuple[str, ...] = ()


def slug_of(name: str) -> str:
    """An id from a name: plain small letters, digits and dashes."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return _OF_SLUG.sub("-", plain).strip("-")[:60].rstrip("-") or "command"


def merged(rows: Iterable[Incoming]) -> list[Incoming]:
    """One row for each command: a command that comes twice has the triggers of both."""
    found: dict[str, Incoming] = {}
    for row in rows:
        key = row.name.casefold()
        before = found.get(key)
        triggers = tuple(dict.fromkeys((*before.triggers, *row.triggers))) if before else row.triggers
        found[key] = replace(before or row, triggers=triggers)
    return list(found.values())


def compare(folio: Folio, program: str, rows: Sequence[Incoming]) -> list[Difference]:
    """Every row against the program's commands, by name or former name.

    A row that no command is called may be a command under a new name: one that no row is called, and is alike enough.
    """
    here = folio.programs.get(program)
    names: dict[str, Command] = {}
    for command in here.commands.values() if here else ():
        for name in (*command.was, command.name):
            names[name.casefold()] = command
    found = []
    rows = merged(rows)
    called = {names[row.name.casefold()].ref for row in rows if row.name.casefold() in names}
    left = {command.ref: command for command in names.values() if command.ref not in called}
    for row in rows:
        known = names.get(row.name.casefold())
        if known is None:
            former = _former(folio, here, row, left)
            if former is None:
                found.append(Difference("new", row))
            else:
                del left[former.ref]
                found.append(Difference("renamed", row, former.ref, (former.name,)))
            continue
        was = tuple(str(b.trigger) for b in (here.bindings if here else ()) if b.command == known.ref)
        same = _struck(folio, row.triggers) == _struck(folio, was)
        found.append(Difference("same" if same else "changed", row, known.ref, was))
    return found


def likely_program(folio: Folio, rows: Iterable[Incoming]) -> str | None:
    """The id of the program that has most of the rows' commands by name; None where no program has any."""
    names = {row.name.casefold() for row in rows}
    shared = {id: sum(command.name.casefold() in names for command in program.commands.values())
              for id, program in folio.programs.items()}  # fmt: skip
    best = max(shared, key=lambda id: shared[id], default=None)
    return best if best is not None and shared[best] else None


def _former(folio: Folio, program: Program | None, row: Incoming, left: Mapping[str, Command]) -> Command | None:
    """The command that a row is probably a new name of."""
    from rapidfuzz import fuzz, process, utils

    names = {ref: command.name for ref, command in left.items()}
    struck = _struck(folio, row.triggers)
    for _, score, ref in process.extract(row.name, names, scorer=fuzz.ratio, processor=utils.default_process, limit=3):
        own = [str(b.trigger) for b in (program.bindings if program else ()) if b.command == ref]
        if score >= ALIKE or (score >= ALIKE_WITH_KEYS and struck and struck == _struck(folio, own)):
            return left[ref]
    return None


def _struck(folio: Folio, triggers: Sequence[str]) -> set[object]:
    """What triggers ask of the hand: two spellings of the same strike are no difference."""
    parsed = [parse_trigger(text, folio.bundles) for text in triggers]
    return {_strikes(folio, trigger) or str(trigger) for trigger in parsed}


def _strikes(folio: Folio, trigger: Trigger) -> object:
    return strikes_of(trigger, folio.legend, folio.bundles) if not hasattr(trigger, "gesture") else None


def take(folio: Folio, program: str, differences: Sequence[Difference], name: str | None = None) -> Folio:
    """The folio with some differences taken in: new commands added, changed ones given the source's triggers.

    A changed command keeps the ids of its bindings, and so their history; a renamed one keeps its own, and its former name
    can still be found. A program that is not there yet is made, called
    ``name``. The first taking-in is kept as the program's own default set.
    """
    here = folio.programs.get(program) or Program(program, name or program.replace("-", " ").capitalize())
    groups, commands, bindings = dict(here.groups), dict(here.commands), list(here.bindings)
    taken = set(folio.bindings)
    first: dict[str, tuple[str, ...]] = {}
    for one in differences:
        slug = one.command.partition("/")[2] if one.command else _free(slug_of(one.row.name), commands)
        first[slug] = one.row.triggers
        if one.kind == "same":
            continue
        if one.kind == "new":
            commands[slug] = Command(slug, program, one.row.name, group=_group(groups, one.row.group))
        if one.kind == "renamed":
            former = commands[slug]
            commands[slug] = replace(former, name=one.row.name, was=(*former.was, former.name))
            continue
        ref = f"{program}/{slug}"
        kept = [binding for binding in bindings if binding.command == ref]
        bindings = [binding for binding in bindings if binding.command != ref]
        for place, text in enumerate(one.row.triggers):
            trigger = parse_trigger(text, folio.bundles)
            if place < len(kept):
                bindings.append(replace(kept[place], trigger=trigger, given_id=True))
                continue
            id = _free(slug, taken)
            taken.add(id)
            bindings.append(Binding(id, trigger, ref))
    defaults = here.defaults or {slug: triggers for slug, triggers in first.items() if triggers}
    made = replace(here, groups=groups, commands=commands, bindings=tuple(bindings), defaults=defaults)
    return replace(folio, programs={**folio.programs, program: made})


def _group(groups: dict[str, Group], name: str | None) -> str | None:
    """The id of a group by name, made with the next ink and mark where it is not there yet."""
    if name is None:
        return None
    for id, group in groups.items():
        if group.name.casefold() == name.casefold():
            return id
    id, number = _free(slug_of(name), groups), len(groups)
    groups[id] = Group(id, name, INKS[number % len(INKS)], MARKS[number % len(MARKS)])
    return id


def _free(wish: str, taken: Iterable[str]) -> str:
    known, id, number = set(taken), wish, 1
    while id in known:
        number += 1
        id = f"{wish}-{number}"
    return id
