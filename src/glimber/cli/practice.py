"""Commands about practice: plan, weigh, change, tries export and merge."""

from __future__ import annotations

from dataclasses import fields
from typing import Annotated, Any

import typer

from glimber.cli.common import folder_of, moment, practice_of, put, put_json, rounded, stop, told
from glimber.cli.events import read_text
from glimber.cli.inspect import FolioArgument, Json
from glimber.core.notation.keys import parse_trigger
from glimber.core.notation.nearest import did_you_mean
from glimber.store.faults import StoreError
from glimber.store.files import expanded
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

At = Annotated[str | None, typer.Option(help="At which moment, as ISO 8601; else now.")]


def plan(
    folio: FolioArgument,
    at: At = None,
    size: Annotated[int, typer.Option(min=1, max=50, help="How many bindings.")] = 5,
    json: Json = False,
) -> None:
    """The next round: which bindings, and why.

    Example: glimber plan chart-office --size 3
    """
    with told():
        opened = open_folio(folder_of(folio))
        from glimber.core.weigh.measures import measure
        from glimber.core.weigh.plan import plan_round

        ledger = measure(opened.folio, practice_of(opened), moment(at), load_settings().computer_name)
        due = plan_round(ledger, size)
    if json:
        put_json({"bindings": [{"id": d.binding, "why": d.why, "p_now": rounded(d.p_now), "new": d.new} for d in due]})
        return
    for one in due:
        command = ledger.rows[one.binding].command
        put(f"{command.name:32} {ledger.rows[one.binding].binding.trigger!s:40} {one.why}, {100 * one.p_now:.0f} %")


def weigh(
    folio: FolioArgument,
    binding: Annotated[str | None, typer.Option(help="Only this binding.")] = None,
    at: At = None,
    json: Json = False,
) -> None:
    """Measures and verdicts, most seconds a week first.

    Example: glimber weigh chart-office --binding sounding-s --json
    """
    with told():
        opened = open_folio(folder_of(folio))
        from glimber.core.weigh.measures import measure
        from glimber.core.weigh.verdict import verdicts

        ledger = measure(opened.folio, practice_of(opened), moment(at), load_settings().computer_name)
        if binding is not None and binding not in ledger.rows:
            stop(f"{binding} is not a binding that can be weighed here{did_you_mean(binding, ledger.rows)}")
        found = verdicts(ledger)
    rows = [row for row in ledger.by_cost() if binding is None or row.binding.id == binding]
    if json:
        put_json({"bindings": [verdict_json(found[row.binding.id]) for row in rows]})
        return
    for row in rows:
        one = found[row.binding.id]
        cost = "" if row.weekly_s is None else f"{row.weekly_s:.0f} s a week"
        put(f"{row.command.name:28} {row.binding.trigger!s:34} {cost:>14}  {one.choice:9} {one.words}")


def verdict_json(verdict: Any) -> dict[str, Any]:
    """One binding as contract: measures, verdict and where to go; None where it is not known yet."""
    row, best = verdict.row, verdict.best
    accuracy = None
    if row.posterior is not None:
        low, high = row.posterior.interval()
        accuracy = {"mean": rounded(row.posterior.mean, 4), "low": rounded(low, 4), "high": rounded(high, 4)}
    return {
        "id": row.binding.id, "command": row.command.ref, "trigger": str(row.binding.trigger), "tries": len(row.tries),
        "cold_tries": row.cold, "accuracy": accuracy, "recall_ms": rounded(row.recall_ms), "motor_ms": rounded(row.motor_ms),
        "recall_over_deadline": row.over_deadline, "reach_ms": rounded(row.reach_ms), "grip": rounded(row.grip, 4),
        "p_clean": rounded(row.p_clean, 4), "p_know": rounded(row.p_know, 4), "trend": rounded(row.trend, 4),
        "slips": dict(row.slips.kinds), "blanks": row.slips.blanks, "uses_week": rounded(row.uses_week),
        "uses_guessed": row.uses_guessed, "slow_way_s": rounded(row.slow_s), "weekly_s": rounded(row.weekly_s),
        "lost_s_week": rounded(row.lost_s), "earned_s_week": rounded(row.earned_s), "verdict": verdict.choice,
        "reason": verdict.reason, "words": verdict.words, "to": str(best.to) if best else None,
        "swap_with": best.swap_with if best else None, "saves_s_week": rounded(best.gain.per_week_s) if best else None,
        "p_better": rounded(best.gain.p_better, 4) if best else None,
        "break_even_day": best.gain.break_even_day if best else None,
    }  # fmt: skip


def change(
    folio: FolioArgument,
    binding: Annotated[str, typer.Argument(metavar="BINDING", help="The binding to move.")],
    to: Annotated[str, typer.Option(help="The new trigger.")],
    why: Annotated[str, typer.Option(help="Why: it is kept with the change.")],
    swap: Annotated[bool, typer.Option("--swap", help="Exchange with what is there.")] = False,
    json: Json = False,
) -> None:
    """Make one change: the file is edited, the history keeps it.

    Example: glimber change chart-office sounding-s --to split-42:draw:KeyD:tap --swap --why "the hand goes there"
    """
    with told():
        opened = open_folio(folder_of(folio))
        if binding not in opened.folio.bindings:
            stop(f"{binding} is not a binding of this folio{did_you_mean(binding, opened.folio.bindings)}")
        if not why.strip():
            stop("--why is empty; say why, it is what will be asked later")
        trigger = parse_trigger(to, opened.folio.bundles)
        from glimber.store.practice.changing import take_move
        from glimber.store.practice.log import open_log

        with open_log(opened.folder, opened.folio.settings.log) as log:
            taken = take_move(opened, log, binding, trigger, why, moment(None), load_settings().computer_name, swap)
    first = taken.changes[0]
    if json:
        put_json({f.name: getattr(first, f.name) for f in fields(first)})
        return
    for one in taken.changes:
        put(f"{one.binding}: {one.from_trigger} → {one.to_trigger}")


def confirm_log(folio: FolioArgument, json: Json = False) -> None:
    """Agree that this folio keeps its practice on the server it names. Until then nothing is sent there.

    Example: glimber confirm-log chart-office
    """
    with told():
        from glimber.store.practice.place import confirm_server, is_server

        setting = open_folio(folder_of(folio)).folio.settings.log
        if not is_server(setting):
            stop(f"the practice of this folio is in its own file {setting}; there is nothing to confirm")
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
    with told():
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
        put(f"{len(lines)} lines written to {file}")


@tries.command("merge")
def merge(folio: FolioArgument, file: Annotated[str, typer.Argument(metavar="FILE.jsonl")], json: Json = False) -> None:
    """Add the records of a JSON Lines file, or of another log, that the log does not have yet. Merging twice changes nothing.

    Example: glimber tries merge chart-office from-the-other-computer.jsonl
    """
    with told():
        opened = open_folio(folder_of(folio))
        from glimber.store.practice.backups import copy_daily
        from glimber.store.practice.jsonl import LARGEST_LINES, lines_of
        from glimber.store.practice.log import merge as merge_records
        from glimber.store.practice.log import open_log

        found = lines_of(read_text(file, LARGEST_LINES) if file == "-" else expanded(file))
        copy_daily(opened.folder, opened.folio.settings.log, moment(None))
        if found.read and not found.records:
            first = found.bad[0]
            raise StoreError(
                f"{file}:{first['line']}: {first['text']}; no line of the file could be read, nothing was merged"
            )
        with open_log(opened.folder, opened.folio.settings.log) as log:
            new = merge_records(log, found.records)
    known = len(found.records) - new
    if json:
        put_json({"read": found.read, "new": new, "known": known, "bad": found.bad})
        return
    put(f"{found.read} lines read: {new} new, {known} known already, {len(found.bad)} bad")
    for bad in found.bad:
        put(f"{file}:{bad['line']}: {bad['text']}")
