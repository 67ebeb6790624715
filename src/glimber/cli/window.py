"""Opening the window from the command line. Nothing of the toolkit is loaded before a display has been found."""

from __future__ import annotations

import sys

TYPE_CHECKING = False
if TYPE_CHECKING:
    from pathlib import Path


def has_display() -> bool:
    """Return True if a window can be shown."""
    from glimber.cli.display import display_problem

    return display_problem() is None


def open_window(folder: Path | None) -> int:
    """Open the window on a folio, or on the last one, or on the demo the first time."""
    from glimber.cli.display import display_problem

    problem = display_problem()
    if problem is not None:
        print(f"{problem}. glimber --help lists what can be done without one.", file=sys.stderr)
        return 2
    make_ready()
    try:
        from glimber.ui.shell.app import run
    except ModuleNotFoundError as error:
        return _no_toolkit(error)
    return run(folder)


def make_ready() -> None:
    """Switch the garbage collector off until the window is up: nothing that a window is made of becomes garbage."""
    import gc

    gc.disable()


def open_demo(folder: Path) -> int:
    """Open the window on the demo, made first where it is not there yet."""
    make_ready()
    try:
        from glimber.ui.shell.app import run_demo
    except ModuleNotFoundError as error:
        return _no_toolkit(error)
    return run_demo(folder)


def _no_toolkit(error: ModuleNotFoundError) -> int:
    print(f"The window needs PySide6 ({error.name} is missing): pip install PySide6-Essentials", file=sys.stderr)
    return 2
