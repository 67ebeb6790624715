"""Commands that make things: demo, new, card."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any

import typer

from glimber.cli.common import folder_of, known_of, progress, put, put_json, reported_errors, say, stop
from glimber.cli.inspect import FolioArgument, Json
from glimber.cli.window import has_display
from glimber.core.notation.nearest import did_you_mean
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio, shipped_board_ids
from glimber.ui.paint.export import Imposition, write_card, write_cards


def demo(
    folio: Annotated[str | None, typer.Option(help="Where to make it; else among the person's own data.")] = None,
    no_window: Annotated[bool, typer.Option("--no-window", help="Run a full example and list what it wrote.")] = False,
    json: Json = False,
) -> None:
    """Make the demo folio, the chart office, and open it.

    Example: glimber demo --folio chart-office --no-window
    """
    from glimber.demo.build import default_folder

    folder = folder_of(folio) if folio else default_folder()
    if not no_window and has_display():
        from glimber.cli.window import open_demo

        raise typer.Exit(open_demo(folder))
    with reported_errors():
        from glimber.demo.example import run_example
        from glimber.ui.paint.look import PAPER

        _put_example(run_example(folder, datetime.now(UTC), load_settings().computer_name, _report, PAPER), json)


def _report(text: str) -> None:
    say(text)


def _put_example(result: dict[str, Any], json: bool) -> None:
    if json:
        put_json(result)
        return
    put(f"{result['folio']}: {result['tries']} tries; " + ", ".join(f"{n} {v}" for v, n in result["verdicts"].items()))
    for name in result["wrote"]:
        put(f"  {name}")


def new(
    folder: Annotated[str, typer.Argument(metavar="DIR", help="A folder that is new or empty.")],
    board: Annotated[str | None, typer.Option(help="A programmable board to lay out; none without.")] = None,
    title: Annotated[str | None, typer.Option(help="Its title; else the folder's name.")] = None,
    json: Json = False,
) -> None:
    """Make an empty folio.

    Example: glimber new my-keys --board pad-21
    """
    with reported_errors():
        known = shipped_board_ids()
        if board is not None and board not in known:
            stop(
                f"{board} is not a board that comes with Glimber{did_you_mean(board, known)}; it has {', '.join(known)}"
            )
        from glimber.store.toml.writing import new_folio

        path = folder_of(folder)
        new_folio(path, title or path.name, board)
    if json:
        put_json({"folio": str(path), "board": board})
    else:
        put(f"{path}: an empty folio{f' for {board}' if board else ''}. Open it with: glimber {path}")


def card(
    folio: FolioArgument,
    card: Annotated[
        str, typer.Argument(metavar="CARD", help="The card's id: its file's name in cards/, or the shelf's.")
    ],
    to: Annotated[str, typer.Option(metavar="FILE", help="An .svg, .pdf or .png file.")],
    outlines: Annotated[bool, typer.Option("--outlines", help="In an SVG, draw type as outlines.")] = False,
    json: Json = False,
) -> None:
    """Write one card: a file, and one more for each sheet on which it continues; in a PDF a page.

    Example: glimber card chart-office grid-shoalwright --to shoalwright.pdf
    """
    with reported_errors():
        opened = open_folio(folder_of(folio))
        wrote = [str(path) for path in write_card(opened, card, folder_of(to), known_of(opened), outlines)]
    if json:
        put_json({"wrote": wrote})
        return
    for name in wrote:
        put(name)


def cards(
    folio: FolioArgument,
    to: Annotated[str, typer.Option(metavar="DIR|FILE.pdf", help="A folder for an SVG each, or a PDF of all.")],
    paper: Annotated[str | None, typer.Option(help="Print sheets on this paper: a4 or letter.")] = None,
    per_page: Annotated[int, typer.Option(min=1, max=16, help="Cards on a page of the print sheets.")] = 1,
    backs: Annotated[
        str | None, typer.Option(help="Both sides of the paper, turned on its long or its short edge.")
    ] = None,
    program: Annotated[str | None, typer.Option(metavar="ID", help="Only the cards of this program.")] = None,
    outlines: Annotated[bool, typer.Option("--outlines", help="In SVG files, draw type as outlines.")] = False,
    json: Json = False,
) -> None:
    """Write all cards, the automatic ones among them.

    Example: glimber cards chart-office --to cards.pdf --paper a4 --per-page 2
    """
    with reported_errors():
        name = (
            None if paper is None else {"a4": "A4", "a3": "A3", "letter": "Letter", "legal": "Legal"}.get(paper.lower())
        )
        if paper is not None and name is None:
            stop(f"{paper} is not a paper for print sheets; expected a4, a3, letter or legal")
        if backs not in (None, "long", "short"):
            stop(f"{backs} is not an edge of the paper; expected long or short")
        if backs is not None and (paper is None or not to.lower().endswith(".pdf")):
            stop("--backs prints on both sides of a paper: give --paper a4 or letter, and --to FILE.pdf")
        opened = open_folio(folder_of(folio))
        if program is not None and program not in opened.folio.programs:
            stop(f"{program} is not a program of this folio{did_you_mean(program, opened.folio.programs)}")
        with progress("Drawing cards", "cards") as watch:
            imposition = Imposition(name, per_page, backs)  # type: ignore[arg-type]
            paths, notes = write_cards(opened, folder_of(to), imposition, known_of(opened), watch, program, outlines)
    for note in notes:
        say(note)
    if json:
        put_json({"wrote": [str(path) for path in paths]})
        return
    for path in paths:
        put(str(path))


def up(
    card: Annotated[
        str, typer.Argument(metavar="CARD", help="The card's id: its file's name in cards/, or the shelf's.")
    ],
) -> None:
    """Put a card up over the desktop in the running Glimber, or take it down.

    Example: glimber up grid-shoalwright
    """
    from glimber.cli.up import up as ask

    raise typer.Exit(ask([card]))
