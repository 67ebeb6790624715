"""Commands about practice: plan, weigh, change, tries export and merge."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from typing import Annotated

import typer

from glimber.cli.common import folder_of, moment, practice_of, put, put_json, reported_errors, rounded, stop
from glimber.cli.events import read_text
from glimber.cli.inspect import FolioArgument, Json
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.nearest import did_you_mean
from glimber.core.practice.tries import Record
from glimber.store.faults import StoreError
from glimber.store.files import expanded
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

At = Annotated[str | None, typer.Option(help="At which moment, as ISO 8601; else now.")]


def plan(
    folio: FolioArgument,
    at: At = None,
    minutes: Annotated[float, typer.Option(min=0.5, max=60, help="How long the round is to be.")] = 3,
    size: Annotated[int | None, typer.Option(min=1, max=500, help="At most so many bindings.")] = None,
    json: Json = False,
) -> None:
    """The next round: which bindings, how many clean hits each, and why.

    Example: glimber plan chart-office --minutes 5
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.decide.next_round import next_round
        from glimber.core.stats.measures import measure

        ledger = measure(opened.folio, practice_of(opened), moment(at), load_settings().computer_name)
        due = next_round(ledger, minutes, size)
    if json:
        rows = [{"id": one.binding, "why": one.why, "p_now": rounded(one.p_now), "new": one.new, "hits": one.hits,
                 "worth_s_week": rounded(one.worth_s_week), "seconds": rounded(one.seconds)} for one in due]  # fmt: skip
        seconds, worth = sum(one.seconds for one in due), sum(one.worth_s_week for one in due)
        put_json({"bindings": rows, "seconds": rounded(seconds), "worth_s_week": rounded(worth)})
        return
    for one in due:
        row = ledger.rows[one.binding]
        planned = f"{one.why}, {one.hits} hits, {one.worth_s_week:.1f} s a week"
        put(f"{row.command.name:32} {row.binding.trigger!s:40} {planned}")


def missed(
    folio: FolioArgument,
    text: Annotated[
        str | None, typer.Argument(metavar="TEXT", help="Its name, or part of it; else it is asked in a window.")
    ] = None,
    json: Json = False,
) -> None:
    """Note that a binding was missed at work (you used the menu), so that it is due in the next round.

    Example: glimber missed chart-office "add sounding"
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        computer = load_settings().computer_name
        if text is None:
            from glimber.cli.asking import ask_missed

            text = ask_missed(opened.folio, computer)
            if text is None:
                return
        from glimber.store.change_log import note_verdict
        from glimber.store.practice.log import open_log

        binding = missed_binding(opened.folio, text, computer)
        with open_log(opened.folder, opened.folio.settings.log) as log:
            note_verdict(log, binding, "missed", "missed at work", moment(None), computer)
    if json:
        put_json({"binding": binding.id})
    else:
        put(f"{opened.folio.commands[binding.command or ''].name} ({binding.trigger}) is due in the next round")


def missed_binding(folio: Folio, text: str, computer: str | None) -> Binding:
    """Return the binding that a text means: its id, its command's name, or the only one in whose name all of its words are."""
    known = folio.drillable(computer)
    names = {one.id: folio.commands[one.command or ""].name for one in known}
    low, words = " ".join(text.casefold().split()), text.casefold().split()
    exact = [one for one in known if one.id == text or names[one.id].casefold() == low]
    found = exact or [one for one in known if words and all(word in names[one.id].casefold() for word in words)]
    if not found:
        stop(f"no binding of this folio is called {text}{did_you_mean(text, names.values())}")
    if len({one.command for one in found}) > 1:
        stop(f"{text} may be {', '.join(sorted({names[one.id] for one in found})[:6])}; say which")
    return found[0]


def calendar(
    folio: FolioArgument,
    to: Annotated[
        str | None, typer.Option(metavar="FILE.ics|.pdf|.svg|.png", help="Where it is written; else it is listed.")
    ] = None,
    at: At = None,
    json: Json = False,
) -> None:
    """Practice by date: what was done, and on which days something will be due. As an iCalendar file, or as a sheet.

    Example: glimber calendar chart-office --to practice.ics
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.decide.calendar import calendar as calendar_of
        from glimber.core.stats.measures import measure

        now, practice = moment(at), practice_of(opened)
        found = calendar_of(measure(opened.folio, practice, now, load_settings().computer_name))
        title = opened.folio.settings.title
        if to is not None:
            file = expanded(to)
            if file.suffix == ".ics":
                from glimber.store.files import write_atomically
                from glimber.store.ics import to_ics

                write_atomically(file, to_ics(title, found, practice.rounds, now))
            elif file.suffix in (".pdf", ".svg", ".png"):
                from glimber.core.sheets.week import weeks
                from glimber.store.cache.fonts import faces
                from glimber.ui.paint.export import write_sheets

                write_sheets([weeks(title, found, now.astimezone().date(), faces())], file)
            else:
                stop(f"{to}: expected a file that ends in .ics, .pdf, .svg or .png")
    days = [{"day": str(day), "minutes": rounded(one.practice_s / 60), "tries": one.tries, "clean": rounded(one.clean)}
            for day, one in sorted(found.done.items())]  # fmt: skip
    due = [{"day": str(day), "due": count} for day, count in sorted(found.due.items())]
    if json:
        put_json({"days": days, "due": due, "wrote": [] if to is None else [str(expanded(to))]})
    elif to is not None:
        put(f"written to {to}")
    else:
        for one in days:
            put(
                f"{one['day']}   {one['minutes']} min, {one['tries']} tries, {100 * float(str(one['clean'])):.0f} % clean"
            )
        for each in due:
            put(f"{each['day']}   {each['due']} due")


def timing(
    folio: FolioArgument,
    apply: Annotated[bool, typer.Option("--apply", help="Set what is suggested in the folio.")] = False,
    json: Json = False,
) -> None:
    """Show how long keys were tapped and held, and which limit and policy would misread fewest of them.

    Example: glimber timing chart-office --apply
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.stats.timing import presses_of, study, with_timing
        from glimber.store.practice.log import read_key_events

        events = read_key_events(opened.folder, opened.folio.settings.log)
        found = study(opened.folio, presses_of(opened.folio, events, practice_of(opened).tries))
        if found is not None and apply:
            from glimber.store.toml.writing import save_folio

            save_folio(opened, with_timing(opened.folio, found), moment(None))
    if found is None:
        if json:
            put_json({"presses": 0, "keys": []})
        else:
            put("no key that is tapped and held was pressed often enough yet")
        return
    keys = [{"board": one.board, "layer": one.layer, "key": one.key, "presses": one.presses, "tap_ms": rounded(one.tap_ms),
             "hold_ms": rounded(one.hold_ms), "misread_now": rounded(one.now), "limit_ms": one.limit_ms, "policy": one.policy,
             "misread": rounded(one.best), "pays": one in found.own} for one in found.keys]  # fmt: skip
    if json:
        put_json({"presses": found.presses, "misread_now": rounded(found.now), "limit_ms": found.limit_ms,
                  "policy": found.policy, "misread": rounded(found.best), "keys": keys, "applied": apply})  # fmt: skip
        return
    put(f"{found.presses} presses: {100 * found.now:.1f} % are misread now; hold from {found.limit_ms} ms, {found.policy}, "
        f"misreads {100 * found.best:.1f} %{' (set)' if apply else ''}")  # fmt: skip
    for own in found.keys:
        put(f"{own.board}:{own.layer}:{own.key:18} {own.limit_ms} ms, {own.policy:8} {100 * own.best:.1f} % instead of "
            f"{100 * own.now:.1f} % of {own.presses}{'  pays' if own in found.own else ''}")  # fmt: skip


def confirm_log(
    folio: FolioArgument,
    log: Annotated[
        str | None,
        typer.Option(metavar="PLACE", help="Keep my practice there on this computer, whatever the folio says."),
    ] = None,
    without_tls: Annotated[
        bool, typer.Option("--without-tls", help="Agree that the server is reached without TLS.")
    ] = False,
    as_folio: Annotated[bool, typer.Option("--as-folio", help="Keep it where the folio says again.")] = False,
    json: Json = False,
) -> None:
    """Agree that this folio keeps its practice on the server it names. Until then nothing is sent there.

    Example: glimber confirm-log chart-office
    """
    with reported_errors():
        from glimber.store.practice.location import confirm_server, is_server, keep_own_log, setting_of
        from glimber.store.practice.server_address import agree_without_tls

        opened = open_folio(folder_of(folio))
        if log is not None or as_folio:
            keep_own_log(opened.folder, log)
        setting = setting_of(opened.folder, opened.folio.settings.log)
        if not is_server(setting) and (log is not None or as_folio):
            put_json({"log": setting}) if json else put(
                f"the practice of this folio is kept in its file {setting} here"
            )
            return
        if not is_server(setting):
            stop(f"the practice of this folio is in its own file {setting}; there is nothing to confirm")
        if without_tls:
            agree_without_tls(setting)
        shown = confirm_server(setting)
    if json:
        put_json({"server": shown})
    else:
        put(f"{shown}: confirmed on this computer")


tries = typer.Typer(no_args_is_help=True, help="The practice log as JSON Lines.")


@tries.command("export")
def export(
    folio: FolioArgument, file: Annotated[str, typer.Argument(metavar="FILE.jsonl")], json: Json = False
) -> None:
    """Write the practice log as JSON Lines.

    Example: glimber tries export chart-office tries.jsonl
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.store.files import write_atomically
        from glimber.store.practice.jsonl import all_lines
        from glimber.store.practice.log import open_log_reading

        with open_log_reading(opened.folder, opened.folio.settings.log) as log:
            lines = list(all_lines(log))
        write_atomically(expanded(file), "".join(f"{line}\n" for line in lines).encode())
    if json:
        put_json({"read": len(lines), "new": len(lines), "known": 0, "bad": []})
    else:
        put(f"{len(lines)} line{'' if len(lines) == 1 else 's'} written to {file}")


@tries.command("merge")
def merge(folio: FolioArgument, file: Annotated[str, typer.Argument(metavar="FILE.jsonl")], json: Json = False) -> None:
    """Add the records of a JSON Lines file, or of another log, that the log does not have yet. Merging twice changes nothing.

    Example: glimber tries merge chart-office from-the-other-computer.jsonl
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.store.practice.backups import copy_daily
        from glimber.store.practice.jsonl import LARGEST_LINES, Lines, batches_of
        from glimber.store.practice.log import merge_batches, open_log

        source = read_text(file, LARGEST_LINES) if file == "-" else expanded(file)
        found, batches = Lines(), batches_of(source)
        first = list[Record]()
        for batch in batches:  # a file of which nothing can be read is refused before the log is opened
            found.add(batch)
            if batch.records:
                first = batch.records
                break
        copy_daily(opened.folder, opened.folio.settings.log, moment(None))
        if found.read and not first:
            where = f"{file}:{found.bad[0]['line']}: {found.bad[0]['text']}"
            raise StoreError(f"{where}; no line of the file could be read, nothing was merged")
        readable = 0

        def records() -> Iterator[list[Record]]:
            nonlocal readable
            for batch in chain([Lines(records=first)], batches):
                found.read += batch.read
                found.bad += batch.bad
                readable += len(batch.records)
                yield batch.records

        with open_log(opened.folder, opened.folio.settings.log) as log:
            new = merge_batches(log, records())
    known = readable - new
    if json:
        put_json({"read": found.read, "new": new, "known": known, "bad": found.bad})
        return
    put(f"{found.read} lines read: {new} new, {known} known already, {len(found.bad)} bad")
    for bad in found.bad:
        put(f"{file}:{bad['line']}: {bad['text']}")


log = typer.Typer(no_args_is_help=True, help="The server that keeps a practice log for several people.")


@log.command("grant")
def grant(
    folio: FolioArgument,
    role: Annotated[str, typer.Argument(metavar="ROLE", help="A colleague's role on the database server.")],
    apply: Annotated[bool, typer.Option("--apply", help="Carry it out with your own role.")] = False,
    json: Json = False,
) -> None:
    """Print what a colleague's role needs on the server, as SQL, or carry it out.

    Example: glimber log grant chart-office surveyor
    """
    with reported_errors():
        from glimber.store.practice.grants import apply_grants, grants

        opened = open_folio(folder_of(folio))
        sql = apply_grants(opened.folder, opened.folio.settings.log, role) if apply else grants(role)
    if json:
        put_json({"sql": list(sql)})
    else:
        put("\n".join(f"{statement};" for statement in sql))
