"""Entry point of the command line. ``glimber`` alone opens the window: that path loads none of the commands."""

from __future__ import annotations

import os
import sys


def main() -> None:
    """Entry point. Whatever happens ends with a sentence and a status, never with a traceback."""
    try:
        status = _run(sys.argv[1:])
        if sys.stdout is not None:
            sys.stdout.flush()
    except SystemExit:
        _flush_or_tell()
        raise
    except KeyboardInterrupt:
        status = 130
    except BrokenPipeError:
        status = _silence(1)
    except Exception as error:
        status = _silence(_last_resort(error))
    sys.exit(status)


def _run(arguments: list[str]) -> int:
    if not arguments or (len(arguments) == 1 and not arguments[0].startswith("-") and _is_folder(arguments[0])):
        from glimber.store.system.running import come_forward

        folder = arguments[0] if arguments else None
        if come_forward(folder):
            print("Glimber runs already: its window came to the front.")
            return 0
        from pathlib import Path

        from glimber.cli.window import open_window

        return open_window(Path(folder) if folder is not None else None)
    if arguments == ["--version"]:
        from glimber import __version__

        print(f"glimber {__version__}")
        return 0
    if arguments[0] == "up":
        from glimber.cli.up import up

        return up(arguments[1:])
    from glimber.cli.commands import app
    from glimber.store.system.logs import keep_log

    keep_log()
    app()
    return 0


def _is_folder(text: str) -> bool:
    try:
        return os.path.isdir(text)  # noqa: PTH112  # a call of ``glimber up`` has no time to load pathlib
    except ValueError:
        return False


def _flush_or_tell() -> None:
    """Flush standard output, and report a full disk behind it instead of swallowing the error."""
    try:
        if sys.stdout is not None:
            sys.stdout.flush()
    except BrokenPipeError:
        sys.exit(_silence(1))
    except OSError as error:
        sys.exit(_silence(_last_resort(error)))


def _silence(status: int) -> int:
    """Nothing more can be written to standard output: Python must not try again when it ends."""
    sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: PTH123, SIM115  # open until the process ends
    return status


def _last_resort(error: Exception) -> int:
    """Return a sentence for what nobody expected; where it happened goes into the log file."""
    words = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
    try:
        from glimber.store.system.logs import note_failure

        where = note_failure(error)
    except Exception:  # telling must not fail because noting does
        where = ""
    if isinstance(error, OSError):
        text = f"It could not be written or read: {words}."
    else:
        text = f"This went wrong in a way that was not expected ({type(error).__name__}: {words[:200]})."
    print(text + (f" {where} has the rest." if where else ""), file=sys.stderr)
    return 2
