"""``glimber tally``: how often the folio's bindings are struck in the real day, counted only where a person turns it on."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from glimber.cli.common import folder_of, put, put_json, reported_errors, rounded, say, stop
from glimber.cli.inspect import Json
from glimber.core.notation.nearest import did_you_mean
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

if TYPE_CHECKING:
    from glimber.store.folder import Opened

tally = typer.Typer(
    help="Count uses a day of the folio's bindings, and nothing else. Off until it is turned on.",
    no_args_is_help=False, invoke_without_command=True,
)  # fmt: skip
Folder = Annotated[str | None, typer.Argument(metavar="[FOLIO]", help="The folio; else the one that was open last.")]


@tally.callback()
def whole(
    context: typer.Context,
    status_: Annotated[
        bool, typer.Option("--status", help="The same as status, of the folio that was open last.")
    ] = False,
) -> None:
    """Count uses a day of the folio's bindings, and nothing else. Example: glimber tally on chart-office"""
    if context.invoked_subcommand is None:
        status(None)


@tally.command("on")
def on(
    folio: Folder = None,
    device: Annotated[
        str | None, typer.Option(metavar="PATH", help="Read a keyboard as a device, such as /dev/input/event3.")
    ] = None,
    json: Json = False,
) -> None:
    """Count from now on. A small lamp in the corner of the screen shows it as long as it counts.

    Example: glimber tally on chart-office
    """
    with reported_errors():
        opened = _opened(folio)
        from glimber.store.work.running import begin

        begin(opened.folder, None if device is None else Path(device))
        _show(opened, json)


@tally.command("off")
def off(folio: Folder = None, json: Json = False) -> None:
    """Count no more; what was counted stays.

    Example: glimber tally off chart-office
    """
    with reported_errors():
        opened = _opened(folio)
        from glimber.store.work.running import end

        end(opened.folder)
        _show(opened, json)


@tally.command("status")
def status(folio: Folder = None, json: Json = False) -> None:
    """Show whether uses are being counted, and what was counted so far.

    Example: glimber tally status chart-office
    """
    with reported_errors():
        _show(_opened(folio), json)


@tally.command("forget")
def forget(
    folio: Folder = None,
    binding: Annotated[str | None, typer.Option(help="Only this binding.")] = None,
    day: Annotated[str | None, typer.Option(help="Only this day, such as 2026-11-27.")] = None,
    json: Json = False,
) -> None:
    """Throw away what was counted: all of it, or of one binding, or of one day.

    Example: glimber tally forget chart-office --day 2026-11-27
    """
    with reported_errors():
        opened = _opened(folio)
        from glimber.store.tally import change_tally, forget_tally, read_tally

        if binding is None and day is None:
            forget_tally(opened.folder)
        else:
            found = read_tally(opened.folder)
            if day is not None and day not in found.days:
                stop(f"{day} was not counted{did_you_mean(day, found.days)}")
            if binding is not None and binding not in found.bindings:
                stop(f"{binding} was not counted{did_you_mean(binding, found.bindings)}")
            change_tally(opened.folder, lambda tally: tally.without(binding, day))
        _show(opened, json)


def _opened(folio: str | None) -> Opened:
    last = load_settings().last_folio
    if folio is None and not last:
        stop("which folio? None was open yet: glimber tally on FOLIO")
    return open_folio(folder_of(folio or last))


def _show(opened: Opened, json: bool) -> None:
    from glimber.core.practice.tally import measured, uses_words
    from glimber.core.practice.watched import watched
    from glimber.store.tally import read_tally, tally_file
    from glimber.store.work.running import is_on, problem_of, process_of

    found, folio = read_tally(opened.folder), opened.folio
    table = watched(folio, load_settings().computer_name)
    counts = measured(folio, found, table.countable)
    running, problem = process_of(opened.folder) is not None, problem_of(opened.folder)
    if json:
        put_json({
            "on": running, "turned_on": is_on(opened.folder), "days": len(found.days), "bindings": len(found.bindings),
            "countable": len(table.countable), "not_counted": dict(table.not_counted), "problem": problem or None,
            "file": str(tally_file(opened.folder)),
            "uses": {ref: {"mean": rounded(one.mean), "low": rounded(one.low), "high": rounded(one.high),
                           "weekend": rounded(one.weekend), "days": one.days, "struck": one.struck, "undone": one.undone}
                     for ref, one in sorted(counts.items()) if one.struck or one.enough},
        })  # fmt: skip
        return
    put(
        f"{'Counting' if running else 'Not counting'}: {len(table.countable)} bindings of {folio.settings.title} can be counted."
    )
    if problem and not running:
        say(problem)
    put(f"{len(found.days)} days counted so far, in {tally_file(opened.folder)}")
    for ref, one in sorted(counts.items(), key=lambda row: -row[1].struck):
        if one.struck:
            undone = f", {one.undone} undone immediately" if one.undone else ""
            put(f"{folio.commands[ref].name:32} {one.struck:6} times  {uses_words(one)}{undone}")
    for id, why in table.not_counted.items():
        put(f"not counted: {id}: {why}")
