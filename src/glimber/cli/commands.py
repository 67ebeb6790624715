"""All commands in one place."""

from __future__ import annotations

import typer

from glimber.cli import desktop, gather, inspect, make, practice, practise, setting, share, tally, weighing

app = typer.Typer(
    name="glimber",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Reference cards, timed recall and a verdict for every binding. Without a command: the window. "
    "Example: glimber demo",
)

app.command("demo")(make.demo)
app.command("new")(make.new)
app.command("read")(gather.read)
app.command("uses")(gather.uses)
app.command("list")(inspect.list_)
app.command("check")(inspect.check)
app.command("boards")(inspect.boards)
app.command("resolve")(inspect.resolve)
app.command("judge")(inspect.judge)
app.command("plan")(practice.plan)
app.command("practise")(practise.practise)
app.command("missed")(practice.missed)
app.command("calendar")(practice.calendar)
app.command("timing")(practice.timing)
app.command("weigh")(weighing.weigh)
app.command("change")(weighing.change)
app.command("replan")(weighing.replan)
app.command("sheet")(weighing.sheet)
app.command("set")(setting.set_)
app.command("card")(make.card)
app.command("cards")(make.cards)
app.command("pack")(share.pack)
app.command("unpack")(share.unpack_)
app.command("agree")(share.agree)
app.command("confirm-log")(practice.confirm_log)
app.command("up")(make.up)
app.command("install-desktop")(desktop.install_desktop)
app.add_typer(practice.tries, name="tries")
app.add_typer(practice.log, name="log")
app.add_typer(tally.tally, name="tally")
