"""What all commands share: opening, error messages, JSON, moments."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NoReturn

import typer

from glimber.core.cards.boardcard import CannotDraw
from glimber.core.drill.answer import CannotAnswer
from glimber.core.drill.tries import Practice, jsonable, parse_moment
from glimber.core.edits.edit import EditError
from glimber.core.notation.keys import NotationError
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened

UNUSABLE = 2
PROGRESS_AFTER_S = 0.3
_TOLD = (FolioError, StoreError, EditError, CannotAnswer, CannotDraw, NotationError)


@contextmanager
def told() -> Iterator[None]:
    """Errors of input and disk become a message on standard error and exit status 2, never a traceback."""
    try:
        yield
    except _TOLD as error:
        stop(str(error))


@contextmanager
def progress(what: str) -> Iterator[Callable[[int], None]]:
    """Work that may be long: after 0.3 s a line on standard error counts along, on a terminal only."""
    from rich.console import Console
    from rich.progress import Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

    console, began = Console(stderr=True), time.monotonic()
    columns = (
        SpinnerColumn(),
        TextColumn("{task.description}"),
        TextColumn("{task.completed:,} rows"),
        TimeElapsedColumn(),
    )
    shown = Progress(*columns, console=console, transient=True)
    task = shown.add_task(what, total=None)

    def watch(count: int) -> None:
        shown.update(task, completed=count)
        if console.is_terminal and not shown.live.is_started and time.monotonic() - began > PROGRESS_AFTER_S:
            shown.start()

    try:
        yield watch
    finally:
        shown.stop()


def stop(message: str) -> NoReturn:
    print(message, file=sys.stderr)
    raise typer.Exit(UNUSABLE)


def put_json(value: Any) -> None:
    """One JSON document on standard output."""
    print(json.dumps(jsonable(value), ensure_ascii=False))


def rounded(value: float | None, digits: int = 3) -> float | None:
    return None if value is None else round(value, digits)


def moment(text: str | None) -> datetime:
    """The moment given, or now."""
    if text is None:
        return datetime.now(UTC)
    try:
        return parse_moment(text)
    except ValueError as error:
        stop(str(error))


def practice_of(opened: Opened) -> Practice:
    """The practice so far; empty where there is no log yet. Raises StoreError for a log that cannot be read."""
    from glimber.store.practice.log import open_log

    setting = opened.folio.settings.log
    if "://" not in setting and not (opened.folder / setting).exists():
        return Practice()
    with open_log(opened.folder, setting) as log:
        return log.practice()


def folder_of(text: str) -> Path:
    return Path(text).expanduser()
