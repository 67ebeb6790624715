"""The command that reads lists of shortcuts: read."""

from __future__ import annotations

import sys
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from glimber.cli.common import folder_of, put_json, stop, told
from glimber.cli.inspect import Json
from glimber.core.folio import EVERYWHERE
from glimber.core.gather import Incoming, compare, slug_of, take
from glimber.core.nearest import did_you_mean
from glimber.readers.found import Found, Options
from glimber.readers.registry import kind_of, kinds
from glimber.readers.registry import read as read_source
from glimber.store.reading import open_folio
from glimber.store.writing import save_folio


def read(
    file: Annotated[str, typer.Argument(metavar="FILE", help="A list of shortcuts, or - for standard input.")],
    kind: Annotated[str | None, typer.Option("--as", metavar="KIND", help="What it is; else found out.")] = None,
    program: Annotated[str | None, typer.Option(help="The program the commands belong to.")] = None,
    column: Annotated[str | None, typer.Option(help="The column that has the keys, by its heading.")] = None,
    into: Annotated[str | None, typer.Option(metavar="FOLIO", help="Take new commands into this folio.")] = None,
    json: Json = False,
) -> None:
    """Read shortcuts from a file: a page, a table, a spreadsheet, settings. Without --into it only shows them.

    Example: glimber read shortcuts.html --column Linux --program Shoalwright --into chart-office
    """
    data = _bytes(file)
    known = kinds()
    if kind is not None and kind not in known:
        stop(f"{kind} is not a kind of source{did_you_mean(kind, known)}; expected one of {', '.join(known)}")
    chosen = kind or kind_of(file, data)
    found = read_source(chosen, data, Options(column))
    if not found.rows and not found.not_bindings:
        first = found.problems[0] if found.problems else None
        where = f":{first.line}" if first and first.line else ""
        stop(f"{file}{where}: {first.text if first else 'nothing to read in it'}")
    answer: dict[str, Any] = {"kind": chosen, "rows": [asdict(row) for row in found.rows],
                              "not_bindings": [asdict(one) for one in found.not_bindings],
                              "problems": [asdict(one) for one in found.problems]}  # fmt: skip
    if into is not None:
        name = program or (EVERYWHERE if chosen == "gsettings" else None)
        if name is None:
            stop("which program do these commands belong to? Give --program NAME")
        with told():
            answer["taken"] = _taken(into, name, found)
    if json:
        put_json(answer)
    else:
        _show(file, answer)


def _bytes(file: str) -> bytes:
    try:
        return sys.stdin.buffer.read() if file == "-" else Path(file).expanduser().read_bytes()
    except OSError as error:
        stop(f"{file}: cannot be read ({error.strerror})")


def _taken(into: str, name: str, found: Found) -> dict[str, Any]:
    """Take what is new; what the folio has otherwise stays, and is listed."""
    opened = open_folio(folder_of(into))
    ids = {program.name.casefold(): id for id, program in opened.folio.programs.items()}
    program = ids.get(name.casefold()) or slug_of(name)
    rows = [Incoming(row.command, row.triggers, row.group) for row in found.rows]
    differences = compare(opened.folio, program, rows)
    after = take(opened.folio, program, [one for one in differences if one.kind in ("new", "same")], name)
    save_folio(opened, after, datetime.now(UTC))
    changed = [{"command": one.command, "here": list(one.was), "there": list(one.row.triggers)}
               for one in differences if one.kind == "changed"]  # fmt: skip
    renamed = [
        {"command": one.command, "here": one.was[0], "there": one.row.name}
        for one in differences
        if one.kind == "renamed"
    ]
    counts = {kind: sum(one.kind == kind for one in differences) for kind in ("new", "same")}
    return {"program": program, **counts, "changed": changed, "renamed": renamed}


def _show(file: str, answer: dict[str, Any]) -> None:
    for row in answer["rows"]:
        print(f"{row['command']:40} {', '.join(row['triggers']) or '(no key)':32} {row['group'] or ''}".rstrip())
    for one in answer["not_bindings"]:
        print(f"{file}:{one['line']}: no key binding: {one['text']} ({one['why']})")
    for one in answer["problems"]:
        print(f"{file}:{one['line']}: {one['text']}")
    taken = answer.get("taken")
    if taken is not None:
        counts = f"{taken['new']} new, {taken['same']} as they were, {len(taken['changed'])} otherwise"
        print(f"Taken into {taken['program']}: {counts}")
        for one in taken["renamed"]:
            print(f"  {one['command']}: probably called {one['there']} now; here {one['here']}")
        for one in taken["changed"]:
            print(
                f"  {one['command']}: {', '.join(one['here']) or 'no key'} here, {', '.join(one['there']) or 'no key'} there"
            )
