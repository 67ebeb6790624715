"""Commands about what is decided: weigh, change, replan, sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer
from msgspec import Struct
from msgspec.structs import asdict

from glimber.cli.common import folder_of, moment, practice_of, put, put_json, reported_errors, rounded, stop
from glimber.cli.inspect import FolioArgument, Json
from glimber.cli.options import spelled_out
from glimber.cli.practice import At
from glimber.core.edit.edit import is_move
from glimber.core.notation.keys import parse_trigger
from glimber.core.notation.nearest import did_you_mean
from glimber.core.session.change_sheet import OLD
from glimber.core.session.changes import Note
from glimber.store.files import expanded
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio

if TYPE_CHECKING:
    from glimber.core.decide.rearrange import Plan
    from glimber.core.decide.settling import Settling
    from glimber.core.decide.verdict import Verdict
    from glimber.core.stats.accuracy import Beta
    from glimber.store.folder import Opened
    from glimber.store.practice.team import Spread


def weigh(
    folio: FolioArgument,
    binding: Annotated[str | None, typer.Option(help="Only this binding.")] = None,
    at: At = None,
    team: Annotated[
        bool, typer.Option("--team", help="The spread over everybody whose practice is on the folio's server.")
    ] = False,
    name: Annotated[
        str | None, typer.Option(help="With --team: be named in it from now on; an empty name: no longer.")
    ] = None,
    json: Json = False,
) -> None:
    """Measures and verdicts, most seconds a week first.

    Example: glimber weigh chart-office --binding sounding-s --json
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        if team or name is not None:
            _team(opened, binding, name, json)
            return
        from glimber.core.decide.settling import settlings
        from glimber.core.decide.verdict import verdicts
        from glimber.core.stats.measures import measure

        computer = load_settings().computer_name
        ledger = measure(opened.folio, practice_of(opened), moment(at), computer)
        if binding is not None and binding not in ledger.rows:
            stop(f"{binding} is not a binding that can be weighed here{did_you_mean(binding, ledger.rows)}")
        found = verdicts(ledger, computer=computer, only=None if binding is None else [binding])
    rows = [row for row in ledger.by_cost() if binding is None or row.binding.id == binding]
    if json:
        settles = {one.change.binding: one for one in settlings(ledger)}
        put_json({"bindings": [verdict_json(found[row.binding.id], settles.get(row.binding.id)) for row in rows]})
        return
    for row in rows:
        one = found[row.binding.id]
        cost = "" if row.weekly_s is None else f"{row.weekly_s:.0f} s a week"
        put(f"{row.command.name:28} {row.binding.trigger!s:34} {cost:>14}  {one.choice:9} {one.words}")


def _team(opened: Opened, binding: str | None, name: str | None, json: bool) -> None:
    from glimber.store.practice.log import open_log
    from glimber.store.practice.team import team_figures

    folio = opened.folio
    triggers = {one.id: str(one.trigger) for one in folio.drillable() if binding in (None, one.id)}
    if binding is not None and not triggers:
        stop(f"{binding} is not a binding that can be weighed here{did_you_mean(binding, folio.bindings)}")
    with open_log(opened.folder, folio.settings.log) as log:
        if name is not None:
            log.be_named(" ".join(name.split()))
        rows = team_figures(log, triggers)
    names = {one.id: command.name for one in folio.drillable() if (command := folio.command_of(one)) is not None}
    if json:
        put_json({"bindings": [{
            "id": row.binding, "command": names[row.binding], "trigger": triggers[row.binding], "people": row.people,
            "tries": row.tries, "clean": _spread_json(row.clean, 4), "time_ms": _spread_json(row.time_ms, 1),
            "named": [{"name": one.name, "tries": one.tries, "clean": rounded(one.clean, 4), "time_ms": rounded(one.time_ms, 1)}
                      for one in row.named]} for row in rows]})  # fmt: skip
        return
    if not rows:
        put("Nobody has practised this yet. Spreads are shown once three people have.")
    for row in rows:
        clean, time = row.clean, row.time_ms
        text = (
            "fewer than three people"
            if clean is None
            else f"{100 * clean.lower:.0f} to {100 * clean.upper:.0f} % clean"
        )
        slow = "" if time is None else f", {time.lower:.0f} to {time.upper:.0f} ms"
        put(f"{names[row.binding]:28} {triggers[row.binding]:34} {row.people:4} people  {text}{slow}")
        for one in row.named:
            put(f"    {one.name}: {100 * one.clean:.0f} % clean in {one.tries} tries")


def _spread_json(spread: Spread | None, digits: int) -> dict[str, float | None] | None:
    if spread is None:
        return None
    return {part: rounded(getattr(spread, part), digits) for part in ("low", "lower", "middle", "upper", "high")}


def beta_json(one: Beta) -> dict[str, float | None]:
    """Return a chance with its central 90 % interval."""
    low, high = one.interval()
    return {"mean": rounded(one.mean, 4), "low": rounded(low, 4), "high": rounded(high, 4)}


def verdict_json(verdict: Verdict, settling: Settling | None = None) -> dict[str, object]:
    """Return one binding as contract: measures, verdict and where to go; None where it is not known yet."""
    row, best = verdict.row, verdict.best
    accuracy = beta_json(row.posterior) if row.posterior is not None else None
    return {
        "id": row.binding.id, "command": row.command.ref, "trigger": str(row.binding.trigger), "tries": row.count,
        "cold_tries": row.cold, "accuracy": accuracy, "recall_ms": rounded(row.recall_ms), "motor_ms": rounded(row.motor_ms),
        "recall_over_deadline": row.over_deadline, "reach_ms": rounded(row.reach_ms), "grip": rounded(row.grip, 4),
        "p_clean": beta_json(row.p_clean_beta), "p_know": rounded(row.p_know, 4), "trend": rounded(row.trend, 4),
        "slips": dict(row.slips.kinds), "blanks": row.slips.blanks, "uses_week": rounded(row.uses_week),
        "uses_guessed": row.uses_guessed, "slow_way_s": rounded(row.slow_s), "weekly_s": rounded(row.weekly_s),
        "lost_s_week": rounded(row.lost_s), "earned_s_week": rounded(row.earned_s), "verdict": verdict.choice,
        "reason": verdict.reason, "words": verdict.words, "to": str(best.to) if best else None,
        "swap_with": best.swap_with if best else None, "saves_s_week": rounded(best.gain.per_week_s) if best else None,
        "p_better": rounded(best.gain.p_better, 4) if best else None,
        "break_even_day": best.gain.break_even_day if best else None,
        "place": row.place, "pair": verdict.pair, "depends_on_uses": verdict.depends_on_uses,
        "others": [{"to": str(one.to), "swap": one.swap_with, "p_better": rounded(one.gain.p_better, 4),
                    "saves_s_week": rounded(one.gain.per_week_s)} for one in verdict.others],
        "settling": None if settling is None else {
            "day": settling.day, "p_better": rounded(settling.p_better, 4), "advice": settling.advice,
            "before_s": rounded(settling.before.weekly_s), "after_s": rounded(settling.after.weekly_s)},
        "causes": {cause: rounded(chance, 4) for cause, chance in row.causes.items()} if row.count else {},
        "lasting": rounded(row.lasting, 4) if row.count else None,
        "knowing_now": rounded(row.knowing_now, 4) if row.count else None,
    }  # fmt: skip


def change(
    folio: FolioArgument,
    binding: Annotated[str, typer.Argument(metavar="BINDING", help="The binding to move.")],
    to: Annotated[str, typer.Option(help="The new trigger.")],
    why: Annotated[str, typer.Option(help="Why: it is kept with the change.")],
    swap: Annotated[bool, typer.Option("--swap", help="Exchange with what is there.")] = False,
    old: Annotated[
        str, typer.Option(help="What becomes of the old trigger until it is set: works, dead or reminds.")
    ] = "dead",
    json: Json = False,
) -> None:
    """Make one change: the file is edited, the history keeps it.

    Example: glimber change chart-office sounding-s --to split-42:draw:KeyD:tap --swap --why "the hand goes there"
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        if binding not in opened.folio.bindings:
            stop(f"{binding} is not a binding of this folio{did_you_mean(binding, opened.folio.bindings)}")
        if not why.strip():
            stop("--why is empty; say why, it is what will be asked later")
        if old not in OLD:
            stop(f"{old} is not what becomes of an old trigger; expected {', '.join(OLD)}")
        trigger = parse_trigger(to, opened.folio.bundles)
        from glimber.store.change_log import take_move
        from glimber.store.practice.log import open_log

        verdict = "move" if is_move(opened.folio.bindings[binding].trigger, trigger) else "rebind"
        note = Note(verdict, why, old)  # type: ignore[arg-type]
        with open_log(opened.folder, opened.folio.settings.log) as log:
            taken = take_move(opened, log, binding, trigger, note, moment(None), load_settings().computer_name, swap)
    records = [*taken.changes, *taken.taken_back]
    if json:
        put_json(asdict(next(one for one in records if one.binding == binding)))
        return
    for one in taken.changes:
        put(f"{one.binding}: {one.from_trigger} → {one.to_trigger}")
    for one in taken.taken_back:
        put(f"{one.binding}: {one.to_trigger} → {one.from_trigger}, the change of {one.at:%Y-%m-%d} is taken back")


class ReplanOptions(Struct, frozen=True):
    """Options for rearranging a layer: where, in how many moves, and what must stay."""

    board: Annotated[str, typer.Option(help="The board.")]
    layer: Annotated[str, typer.Option(help="The layer whose keys are rearranged.")]
    moves: Annotated[int | None, typer.Option(min=0, help="Only the best plan with at most so many moves.")] = None
    stay: Annotated[list[str] | None, typer.Option(help="A binding that stays where it is; may be given again.")] = None
    hands: Annotated[bool, typer.Option("--hands", help="Each stays on its hand.")] = False
    shape: Annotated[bool, typer.Option("--shape", help="Siblings keep their sides of each other.")] = False


@spelled_out
def replan(folio: FolioArgument, options: ReplanOptions, at: At = None, json: Json = False) -> None:
    """Rearrange a layer with few changes: what each further move saves in a week.

    Example: glimber replan chart-office --board split-42 --layer draw --moves 4
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.decide.candidates import Forecasts
        from glimber.core.decide.rearrange import CannotReplanError, Wish, best_within, stays_of
        from glimber.core.decide.rearrange import replan as plan_again
        from glimber.core.stats.measures import measure

        computer = load_settings().computer_name
        forecasts = Forecasts(measure(opened.folio, practice_of(opened), moment(at), computer), computer)
        try:
            wish = Wish(stays_of(options.stay or [], opened.folio.bindings), options.hands, options.shape)
            plans = plan_again(forecasts, options.board, options.layer, options.moves, wish)
        except CannotReplanError as error:
            stop(str(error))
        shown = plans if options.moves is None else [best_within(plans, options.moves)]
    if json:
        put_json({"frontier": [_plan_json(one) for one in shown]})
        return
    for plan in shown:
        verb = "move saves" if plan.moves == 1 else "moves save"
        put(f"{plan.moves:3} {verb} {plan.saves_s_week:.0f} s a week, {plan.learn_s:.0f} s to learn")
        if options.moves is not None:
            for step in plan.steps:
                put(f"    {step.binding:28} {step.start} → {step.to}")


def _plan_json(plan: Plan) -> dict[str, object]:
    steps = [{"binding": step.binding, "from": str(step.start), "to": str(step.to)} for step in plan.steps]
    return {"moves": plan.moves, "saves_s_week": rounded(plan.saves_s_week), "steps": steps, "learn_s": rounded(plan.learn_s),
            "load_uses_day": {finger: rounded(uses) for finger, uses in plan.load.items()}}  # fmt: skip


def sheet(
    folio: FolioArgument,
    to: Annotated[
        str | None, typer.Option(metavar="FILE", help="An .md, .csv or .pdf file; else Markdown is shown.")
    ] = None,
    done: Annotated[
        list[str] | None, typer.Option(metavar="BINDING", help="Tick a change off: it is set. May be given again.")
    ] = None,
    whole: Annotated[bool, typer.Option("--all", help="With what is set already.")] = False,
    json: Json = False,
) -> None:
    """The change sheet: what is still to be set in each program and on each board. Drills ask for the old place until it is.

    Example: glimber sheet chart-office --to changes.md
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        from glimber.core.session.change_sheet import sheet_of, to_csv, to_markdown
        from glimber.store.files import write_atomically

        title = opened.folio.settings.title
        if done:
            _tick(opened, done)
        edits = sheet_of(opened.folio, practice_of(opened).changes, whole)
        if to is not None:
            file = expanded(to)
            if file.suffix == ".md":
                write_atomically(file, to_markdown(title, edits).encode())
            elif file.suffix == ".csv":
                write_atomically(file, to_csv(edits).encode())
            elif file.suffix == ".pdf":
                from glimber.core.sheets.list import change_pages
                from glimber.store.cache.fonts import faces
                from glimber.ui.paint.export import write_sheets

                write_sheets(change_pages(title, edits, faces()), file)
            else:
                stop(f"{to}: expected a file that ends in .md, .csv or .pdf")
    if json:
        put_json({"edits": [{"binding": one.change.binding, "where": one.where, "set_at": one.set_at, "command": one.command,
                             "from": one.change.from_trigger, "to": one.change.to_trigger, "old": one.change.old_trigger,
                             "why": one.change.why, "done": one.done} for one in edits],
                  "wrote": [] if to is None else [str(expanded(to))]})  # fmt: skip
    elif to is None:
        for line in to_markdown(title, edits).rstrip().split("\n"):
            put(line)
    else:
        put(f"{len(edits)} {'line' if len(edits) == 1 else 'lines'} written to {to}")


def _tick(opened: Opened, done: list[str]) -> None:
    from glimber.core.session.pending import open_changes, with_partners
    from glimber.store.change_log import tick
    from glimber.store.practice.log import open_log

    with open_log(opened.folder, opened.folio.settings.log) as log:
        waiting = {one.binding: one for one in open_changes(log.practice().changes)}
        for binding in done:
            if binding not in waiting:
                stop(f"no change of {binding} waits to be set{did_you_mean(binding, waiting)}")
        ticked = {one.id: one for binding in done for one in with_partners(waiting[binding], waiting.values())}
        tick(log, ticked.values(), moment(None))
