"""The command line. ``glimber`` alone opens the window: that path loads none of the commands."""

from __future__ import annotations

import os
import sys
from pathlib import Path


def main() -> None:
    """Entry point."""
    arguments = sys.argv[1:]
    if not arguments or (len(arguments) == 1 and not arguments[0].startswith("-") and Path(arguments[0]).is_dir()):
        sys.exit(open_window(Path(arguments[0]) if arguments else None))
    from glimber.cli.commands import app

    app()


def has_display() -> bool:
    """Whether a window can be shown: a display, or a platform chosen by hand."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def open_window(folder: Path | None) -> int:
    """Open the window on a folio, or on the last one, or on the demo the first time."""
    if not has_display():
        print(
            "There is no display to open a window on. glimber --help lists what can be done without one.",
            file=sys.stderr,
        )
        return 2
    try:
        from glimber.ui.app import run
    except ModuleNotFoundError as error:
        return _no_toolkit(error)
    return run(folder)


def open_demo(folder: Path) -> int:
    """Open the window on the demo, made first where it is not there yet."""
    try:
        from glimber.ui.app import run_demo
    except ModuleNotFoundError as error:
        return _no_toolkit(error)
    return run_demo(folder)


def _no_toolkit(error: ModuleNotFoundError) -> int:
    print(f"The window needs PySide6 ({error.name} is missing): pip install 'glimber[ui]'", file=sys.stderr)
    return 2
