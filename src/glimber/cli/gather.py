"""Commands that take stock: read, uses."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime
from typing import Annotated, Any

import typer
from msgspec import Struct, to_builtins
from msgspec.structs import replace

from glimber.cli.common import folder_of, progress, put, put_json, reported_errors, say, standard_input, stop
from glimber.cli.inspect import FolioArgument, Json
from glimber.cli.options import spelled_out
from glimber.core.edit.compare import Incoming, compare, take
from glimber.core.edit.counts import match_counts, with_uses
from glimber.core.edit.program_name import program_id_of
from glimber.core.model.folio import EVERYWHERE
from glimber.core.notation.nearest import did_you_mean
from glimber.readers.counts import read_counts
from glimber.readers.found import Found, Options, for_this_system
from glimber.readers.process import read_apart
from glimber.readers.registry import Chosen, kinds
from glimber.readers.sureness import SURE
from glimber.store.files import expanded, read_given
from glimber.store.pack import pack_bytes
from glimber.store.settings import load_settings
from glimber.store.system.installed_programs import with_icon
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import save_folio

_REASONS = 5
"""Lines that are shown of a source of which nothing is imported."""


class ReadOptions(Struct, frozen=True):
    """Options for reading a source and importing its rows."""

    kind: Annotated[str | None, typer.Option("--as", metavar="KIND", help="The kind of source; detected without it.")] = None
    program: Annotated[str | None, typer.Option(help="The program the commands belong to.")] = None
    column: Annotated[str | None, typer.Option(help="The column that has the keys, by its heading.")] = None
    into: Annotated[str | None, typer.Option(metavar="FOLIO", help="Import new commands into this folio.")] = None
    new_version: Annotated[
        bool, typer.Option("--new-version", help="It is the program's own set after a new version: merge it in.")
    ] = False
    comma: Annotated[
        str | None, typer.Option(help="What a comma separates: steps or alternates; detected without it.")
    ] = None
    capitals: Annotated[
        bool | None, typer.Option("--capitals/--no-capitals", help="A bare capital is struck with Shift, or not.")
    ] = None
    anyway: Annotated[bool, typer.Option("--anyway", help="Import doubtful rows, and a source with few bindings.")] = False
    running: Annotated[
        bool, typer.Option("--running", help="Read the menus of a running program; without a name list the programs.")
    ] = False
    open_menus: Annotated[
        bool, typer.Option("--open-menus", help="With --running: open each menu once that is empty until then.")
    ] = False


@spelled_out
def read(
    file: Annotated[
        str | None, typer.Argument(metavar="FILE", help="A list of shortcuts, or - for standard input; with --running a program.")
    ] = None,
    *,
    options: ReadOptions,
    json: Json = False,
) -> None:
    """Read shortcuts from a file: a page, a table, a spreadsheet, settings; or with --running from a program that runs, over the
    accessibility bus. Without --into it only shows them.

    Example: glimber read shortcuts.html --column Linux --program Shoalwright --into chart-office
    """
    if options.running and file is None:
        _show_programs(json)
        return
    if file is None:
        stop("which file? Give FILE, or --running for a program that runs")
    _refuse_unknown(options.kind, options.comma)
    if options.running:
        from glimber.store.system.running_menus import menus_of

        with reported_errors():
            file, data = menus_of(file, options.open_menus)
        options = replace(options, program=options.program or file, kind="menus")
    else:
        data = _bytes(file)
    read_as = _read(file, data, options)
    found = read_as.found
    answer: dict[str, object] = {"kind": read_as.kind, "rows": to_builtins(found.rows),
                              "not_bindings": to_builtins(found.not_bindings),
                              "problems": to_builtins(found.problems),
                              "headings": to_builtins(found.headings), "second": read_as.second,
                              "comma": found.ways.comma, "capitals": found.ways.capitals}  # fmt: skip
    if options.into is not None:
        answer["taken"] = _imported(file, read_as, options, options.into)
    if json:
        put_json(answer)
    else:
        _show(file, answer)


def _read(file: str, data: bytes, options: ReadOptions) -> Chosen:
    """Return a source as it was read; stops where nothing is in it."""
    with reported_errors():
        bundles = open_folio(folder_of(options.into)).folio.bundles if options.into is not None else {}
    with progress(f"Reading {file}") as watch:
        system = load_settings().system
        ways = Options(options.column, watch, options.comma, options.capitals, system=system, bundles=bundles)  # type: ignore[arg-type]
        read_as = read_apart(file, data, ways, options.kind)
    found = read_as.found
    if not found.rows and not found.not_bindings:
        first = found.problems[0] if found.problems else None
        where = f":{first.line}" if first and first.line else ""
        stop(f"{file}{where}: {first.text if first else 'nothing to read in it'}")
    return read_as


def _imported(file: str, read_as: Chosen, options: ReadOptions, into: str) -> dict[str, object]:
    """Import what was read into a folio; return the counts of what came of it."""
    if not options.anyway:
        _refuse_few(file, read_as.found)
    name = options.program or (EVERYWHERE if read_as.kind == "gsettings" else None)
    if name is None:
        stop("which program do these commands belong to? Give --program NAME")
    with reported_errors():
        return _taken(into, name, read_as.found, options.new_version, options.anyway)


def _refuse_unknown(kind: str | None, comma: str | None) -> None:
    """Stop with what was expected where a kind of source or a meaning of the comma is not known."""
    known = kinds()
    if kind is not None and kind not in known:
        stop(f"{kind} is not a kind of source{did_you_mean(kind, known)}; expected one of {', '.join(known)}")
    if comma not in (None, "steps", "alternates"):
        stop(f"--comma {comma}: expected steps or alternates")


def _refuse_few(file: str, found: Found) -> None:
    """Stop where few of the lines of a source are bindings, with the first that are none."""
    keyed, rest = found.sound, len(found.not_bindings) + len(found.problems)
    if rest <= 2 * keyed:
        return
    for place, text in _first_reasons(found):
        say(f"{file}:{place}: {text}" if place else f"{file}: {text}")
    stop(f"{file}: only {keyed} of {keyed + rest} lines are bindings; nothing was imported. --anyway imports them")


def _first_reasons(found: Found) -> list[tuple[int, str]]:
    """Return the first lines that are no bindings, with why, in their order."""
    reasons = [(one.line, one.text) for one in found.problems]
    reasons += [(one.line, f"{one.text} ({one.why})") for one in found.not_bindings]
    return sorted(reasons)[:_REASONS]


def _show_programs(json: bool) -> None:
    """List the programs that run and speak on the accessibility bus."""
    from glimber.store.system.running_menus import programs

    with reported_errors():
        found = programs()
    if json:
        put_json({"programs": [{"name": one.name, "windows": list(one.windows)} for one in found]})
        return
    for one in found:
        put(f"{one.name:24} {', '.join(one.windows)}")
    if not found:
        put("No program speaks on the accessibility bus. A program started before the bus was on must be started again.")


def _bytes(file: str) -> bytes:
    """Return what a file, a folio's folder or standard input holds."""
    with reported_errors():
        if file == "-":
            return standard_input()
        path = expanded(file)
        return pack_bytes(path) if (path / "folio.toml").is_file() else read_given(path)


def _taken(into: str, name: str, found: Found, new_version: bool, anyway: bool) -> dict[str, object]:
    """Take what is new, and of a new version what only the program changed; everything else stays, and is listed.

    Doubtful rows wait unless they are to be imported anyway; their number is given.
    """
    opened = open_folio(folder_of(into))
    program = program_id_of(name, opened.folio.programs)
    rows_here = for_this_system(found)
    sure = [row for row in rows_here if anyway or row.sure >= SURE]
    rows = [Incoming(row.command, row.triggers, row.group, row.note, row.slow_way, row.words, row.keys_of) for row in sure]
    differences = compare(opened.folio, program, rows, new_version)
    wanted = ("new", "same", "more", *(("changed",) if new_version else ()))
    chosen = [one for one in differences if one.kind in wanted]
    after = take(opened.folio, program, chosen, name, rows if new_version else None)
    after = with_icon(after, opened.folder, program)
    save_folio(opened, after, datetime.now(UTC))
    kinds = Counter(one.kind for one in differences)
    listed: dict[str, object] = {"new": kinds["new"], "same": kinds["same"] + kinds["more"], "slow_ways": kinds["more"]}
    for kind in ("changed", "yours", "conflict"):
        listed[kind] = [{"command": one.command or one.row.name, "here": list(one.was), "there": list(one.row.triggers),
                         "taken_by": one.taken_by} for one in differences if one.kind == kind]  # fmt: skip
    listed["renamed"] = [{"command": one.command, "here": one.was[0], "there": one.row.name}
                         for one in differences if one.kind == "renamed"]  # fmt: skip
    listed["gone"] = [{"command": one.command, "here": list(one.was)} for one in differences if one.kind == "gone"]
    return {"program": program, "new_version": new_version, "waiting": len(rows_here) - len(sure), **listed}


def _show(file: str, answer: dict[str, Any]) -> None:
    second = f"; --as {answer['second']} is the second choice" if answer["second"] else ""
    text = [f"a comma separates {answer['comma']}"] if answer["comma"] else []
    text += ["a bare capital is struck with Shift"] if answer["capitals"] else []
    put(f"{file}: read as {answer['kind']}{second}{''.join(f'; {one}' for one in text)}")
    for row in answer["rows"]:
        doubt = "  ? doubtful" if row["sure"] < SURE else ""
        put(f"{row['command']:40} {', '.join(row['triggers']) or '(no key)':32} {row['group'] or ''}{doubt}".rstrip())
        if row["remark"]:
            put(f"{file}:{row['line']}:   {row['remark']}")
    for one in answer["not_bindings"]:
        put(f"{file}:{one['line']}: no key binding: {one['text']} ({one['why']})")
    for one in answer["problems"]:
        put(f"{file}:{one['line']}: {one['text']}")
    if answer.get("taken") is not None:
        _show_taken(answer["taken"])


def _show_taken(taken: dict[str, Any]) -> None:
    """Show what was imported, and what was not and why."""
    counts = f"{taken['new']} new, {taken['same']} unchanged, {len(taken['changed'])} different"
    put(f"Imported into {taken['program']}: {counts}")
    if taken["waiting"]:
        rows = "1 doubtful row was" if taken["waiting"] == 1 else f"{taken['waiting']} doubtful rows were"
        put(f"  {rows} left; --anyway imports doubtful rows as well")
    for one in taken["renamed"]:
        put(f"  {one['command']}: probably called {one['there']} now; here {one['here']}")
    for kind, what in _WHAT.items():
        for one in taken[kind]:
            here, there = ", ".join(one["here"]) or "no key", ", ".join(one.get("there", ())) or "no key"
            by = f" ({one['taken_by']} has it here)" if one.get("taken_by") else ""
            put(f"  {one['command']}: " + what.format(here=here, there=there) + by)


_WHAT = {
    "changed": "{here} here, {there} there",
    "yours": "{here}, as you changed it; the program did not",
    "conflict": "{here} here, {there} in the new version; both changed, decide in Gather",
    "gone": "no longer named; {here} here",
}


def uses(
    folio: FolioArgument,
    file: Annotated[
        str, typer.Argument(metavar="FILE", help="A table of commands and counts, or - for standard input.")
    ],
    days: Annotated[
        float, typer.Option(min=0.01, help="Working days the counts cover, where the table does not say.")
    ] = 1,
    program: Annotated[str | None, typer.Option(help="The id of the program they belong to; else all.")] = None,
    json: Json = False,
) -> None:
    """Set uses a day from counts: how often each command was used.

    Example: glimber uses chart-office counts.csv --days 10
    """
    data = _bytes(file)
    counts, problems = read_counts(data)
    if not counts:
        first = problems[0]
        stop(f"{file}{f':{first.line}' if first.line else ''}: {first.text}; nothing was changed")
    with reported_errors():
        opened = open_folio(folder_of(folio))
        if program is not None and program not in opened.folio.programs:
            stop(f"{program} is not a program of this folio{did_you_mean(program, opened.folio.programs)}")
        counted = match_counts(opened.folio, counts, days, program)
        save_folio(opened, with_uses(opened.folio, counted.uses), datetime.now(UTC))
    told_of = [*(f"line {one.line}: {one.text}" for one in problems), *(text for _, text in counted.unknown)]
    if json:
        put_json({"uses_per_day": counted.uses, "problems": told_of})
        return
    many = len(counted.uses)
    put(f"{many} command{'s have their' if many != 1 else ' has its'} uses a day from {file}")
    for text in told_of:
        put(f"{file}: {text}")
