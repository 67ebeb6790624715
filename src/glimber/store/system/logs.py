"""The log file: what went wrong and nobody expected, with where it happened."""

from __future__ import annotations

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType
from typing import Final

_LOG: Final = logging.getLogger("glimber")
_BYTES, _KEPT = 500_000, 2


def log_file() -> Path:
    """Return where it is: the person's folder for the state of programs."""
    from platformdirs import user_log_path

    return user_log_path("glimber") / "glimber.log"


def keep_log() -> None:
    """Write what is logged, and every exception that nothing caught, to the file; done twice is done once.

    Where the file cannot be written, what is logged goes to the standard error as before.
    """
    if any(isinstance(handler, RotatingFileHandler) for handler in _LOG.handlers):
        return
    path = log_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=_BYTES, backupCount=_KEPT, encoding="utf-8", delay=True)
    except OSError:
        return
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    _LOG.addHandler(handler)
    _LOG.setLevel(logging.INFO)
    before = sys.excepthook

    def uncaught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        _LOG.error("nothing caught this", exc_info=(kind, error, trace))
        before(kind, error, trace)

    sys.excepthook = uncaught


def note_failure(error: Exception) -> str:
    """Write one failure with where it happened into the log file, and give its path. Raises OSError."""
    keep_log()
    _LOG.error("a command ended with this", exc_info=error)
    path = log_file()
    return str(path) if path.exists() else ""
