"""Reuse of a ledger after an edit: notes on a binding, pictures, inks, cards and task runs do not change any figure."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Final

from msgspec.structs import fields, replace

from glimber.core.decide.verdict import Verdict
from glimber.core.model.folio import Binding, Command, Folio, Layer, Layout, Program
from glimber.core.practice.log import Practice
from glimber.core.stats.ledger import Ledger

STANDS_FOR: Final = timedelta(minutes=10)
"""So long a weighing is good for: what is remembered fades no more than can be seen in that time."""
SAID_OF_BINDINGS: Final = ("reason", "label", "icon", "picture", "set_at", "given_id")
SAID_OF_COMMANDS: Final = ("words", "was", "icon", "picture", "set_at", "note", "keys_of")
SAID_OF_SETTINGS: Final = ("title", "sources", "abbreviations")
SAID_OF_FOLIOS: Final = ("own_boards", "cards", "runs", "legend")
"""The fields that nothing in a ledger or a verdict rests on. Of a command's label only the first letter counts: whether its key
prints it."""
_PLAIN_BINDING: Final[dict[str, object]] = {
    one.name: one.default for one in fields(Binding) if one.name in SAID_OF_BINDINGS
}
_PLAIN_COMMAND: Final[dict[str, object]] = {
    one.name: one.default for one in fields(Command) if one.name in SAID_OF_COMMANDS
}


def weighs_the_same(one: Folio, other: Folio) -> bool:
    """Return True if two folios differ in nothing that is weighed."""
    return _bare(one) == _bare(other)


def _bare(folio: Folio) -> Folio:
    settings = replace(folio.settings, title="", sources={}, abbreviations={})
    programs = {id: _bare_program(program) for id, program in folio.programs.items()}
    layouts = {id: Layout(one.board, tuple(map(_bare_layer, one.layers))) for id, one in folio.layouts.items()}
    return Folio(settings, folio.boards, programs=programs, layouts=layouts)


def _bare_program(program: Program) -> Program:
    groups = {id: replace(group, name="", ink="", mark="") for id, group in program.groups.items()}
    commands = {id: _bare_command(command) for id, command in program.commands.items()}
    return replace(program, groups=groups, commands=commands, bindings=tuple(map(_bare_binding, program.bindings)))


def _bare_layer(layer: Layer) -> Layer:
    return replace(layer, bindings=tuple(map(_bare_binding, layer.bindings)))


def _bare_command(command: Command) -> Command:
    return replace(command, label=command.short[:1], **_PLAIN_COMMAND)


def _bare_binding(binding: Binding) -> Binding:
    return replace(binding, **_PLAIN_BINDING)


def still_good(ledger: Ledger, folio: Folio, practice: Practice, at: datetime) -> bool:
    """Return True if what was weighed holds for a folio that has been edited: nothing weighed is another, nothing was
    practised or counted since, and it is not old."""
    before = ledger.practice
    return (
        timedelta(0) <= at - ledger.at < STANDS_FOR
        and (practice.columns is before.columns or not (practice.tries or before.tries))
        and (practice.changes, practice.rounds, practice.tally) == (before.changes, before.rounds, before.tally)
        and weighs_the_same(ledger.folio, folio)
    )


def of_folio(ledger: Ledger, found: Mapping[str, Verdict], folio: Folio) -> tuple[Ledger, dict[str, Verdict]]:
    """Return what was weighed, as that of a folio that weighs the same."""
    rows = {
        id: replace(row, binding=folio.bindings[id], command=folio.commands[row.command.ref])
        for id, row in ledger.rows.items()
    }
    return replace(ledger, folio=folio, rows=rows), {id: replace(one, row=rows[id]) for id, one in found.items()}
