"""Prints the command line's page of the manual: ``python -m glimber.cli.manualpage > docs/manual/command-line.md``."""

from __future__ import annotations

import typer

from glimber.cli.commands import app
from glimber.cli.manual import page


def command_line() -> str:
    """Return the page, as the commands are now."""
    return page(typer.main.get_command(app))


if __name__ == "__main__":
    print(command_line(), end="")
