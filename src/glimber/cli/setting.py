"""``glimber set``: the open edits of the change sheet are set where they belong."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING, Annotated

import typer

from glimber.cli.common import folder_of, moment, practice_of, put, put_json, reported_errors, say
from glimber.cli.inspect import FolioArgument, Json
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

if TYPE_CHECKING:
    from glimber.core.model.folio import Folio
    from glimber.store.folder import Opened
    from glimber.store.inplace.setting import Plan
    from glimber.writers.wanted import Wanted


def set_(
    folio: FolioArgument,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be set.")] = False,
    back: Annotated[bool, typer.Option("--back", help="Undo what was set last.")] = False,
    into: Annotated[
        str | None, typer.Option(metavar="WRITER", help="Only by this writer, such as line-editor.")
    ] = None,
    program: Annotated[
        str | None, typer.Option(metavar="ID", help="All bindings of this program, instead of the sheet's edits.")
    ] = None,
    yes: Annotated[bool, typer.Option("--yes", help="Do not ask; a script is not asked either.")] = False,
    json: Json = False,
) -> None:
    """Set the open edits of the change sheet in the files and settings that programs read. What cannot be written stays on it.

    Example: glimber set chart-office --dry-run
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.store.inplace.setting import carry_out, plan_setting, recover
        from glimber.store.practice.log import open_log

        if not dry_run:
            for sentence in recover():
                say(sentence)
        if back:
            _set_back(opened, json)
            return
        computer = load_settings().computer_name
        plan = plan_setting(opened, practice_of(opened).changes, computer, into, program)
        if not json:
            put_lines(plan.diff)
            if not dry_run and not yes and plan.steps and not _agreed(plan):
                put("Nothing was set.")
                return
        if not dry_run and (plan.steps or plan.already):
            with open_log(opened.folder, opened.folio.settings.log) as log:
                carry_out(opened, plan, log, moment(None))
    if json:
        done = [_edit(opened.folio, one) | {"writer": place.kind, "where": place.shown} for one, place in plan.set]
        left = [_edit(opened.folio, one) | {"why": why} for one, why in plan.left]
        already = [_edit(opened.folio, one) for one in plan.already]
        put_json({"set": done, "left": left, "already": already, "diff": plan.diff, "dry_run": dry_run})
        return
    _show_plan(plan, dry_run)
    if not plan.set and not plan.left and not plan.already:
        say("Nothing waits to be set." if program is None else "Everything is set as it is here.")


def _set_back(opened: Opened, json: bool) -> None:
    from glimber.store.inplace.setting import set_back
    from glimber.store.practice.log import open_log

    with open_log(opened.folder, opened.folio.settings.log) as log:
        undone = set_back(opened, log)
    if json:
        put_json({"set": [], "left": [], "diff": undone.diff, "back": list(undone.bindings)})
        return
    put_lines(undone.diff)
    put(f"Put back: {', '.join(undone.places)}.")


def _agreed(plan: Plan) -> bool:
    """Ask at a terminal whether to set the plan; a script is not asked."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        return True
    places = ", ".join(dict.fromkeys(step.place.shown for step in plan.steps))
    return typer.confirm(f"Set this in {places}?")


def _show_plan(plan: Plan, dry_run: bool) -> None:
    for one, place in plan.set:
        put(f"{'Would be set' if dry_run else 'Set'}: {one.names[0]} → {one.new or 'nothing'} in {place.shown}")
    for one in plan.already:
        put(f"Set already: {one.names[0]} → {one.new or 'nothing'}")
    for one, why in plan.left:
        put(f"Left on the sheet: {one.names[0]}: {why}")


def put_lines(text: str) -> None:
    """Print lines, each by itself."""
    for line in text.splitlines():
        put(line)


def _edit(folio: Folio, one: Wanted) -> dict[str, object]:
    binding = folio.bindings.get(one.binding)
    command = folio.command_of(binding) if binding is not None else None
    set_at = (binding.set_at if binding is not None else None) or (command.set_at if command is not None else None)
    return {"binding": one.binding, "command": one.names[0], "program": command.program if command is not None else None,
            "old": one.was or (None if one.old is None else str(one.old)),
            "new": one.to or (None if one.new is None else str(one.new)),
            "set_at": set_at}  # fmt: skip
