"""``glimber install-desktop``: the desktop finds Glimber by its entry, and shells complete its commands."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import typer

from glimber.cli.common import put, put_json, reported_errors
from glimber.cli.inspect import Json


def install_desktop(
    context: typer.Context,
    undo: Annotated[bool, typer.Option("--undo", help="Take away what this has put there.")] = False,
    into: Annotated[
        str | None,
        typer.Option(metavar="DIR", help="A folder for data instead of the person's own, such as usr/share."),
    ] = None,
    program: Annotated[str | None, typer.Option(metavar="PATH", help="How Glimber is started, in the entry.")] = None,
    json: Json = False,
) -> None:
    """Put Glimber's entry, icon, manual page and shell completions where the desktop finds them, for this person only.

    Example: glimber install-desktop
    """
    from glimber.cli.manual import MAN, completions, man_page
    from glimber.store.files import expanded
    from glimber.store.system.desktop_files import data_folder, desktop_files, install, own_program, uninstall

    with reported_errors():
        folder = expanded(into) if into is not None else data_folder()
        root = context.find_root().command
        texts = {MAN: man_page(root), **completions(root)}
        files = desktop_files(program or own_program(), texts, _draw())
        paths = uninstall(files, folder) if undo else install(files, folder)
    if json:
        put_json({"took_away" if undo else "wrote": [str(path) for path in paths]})
        return
    for path in paths:
        put(f"{'taken away' if undo else 'written'}: {path}")
    if undo and not paths:
        put("nothing was there")


def _draw() -> Callable[[int], bytes] | None:
    """Draws the icon as PNG; None without the toolkit."""
    try:
        from glimber.ui.paint.icon import icon_png
    except ModuleNotFoundError:
        return None
    return icon_png
