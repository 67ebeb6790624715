"""Shared by all commands: opening folios, error messages, JSON output, moments."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import NoReturn

import typer

from glimber.core.cards.frame import CannotDraw
from glimber.core.edit.edit import EditError
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known
from glimber.core.notation.keys import NotationError
from glimber.core.practice.answer import CannotAnswer
from glimber.core.practice.known import known_from
from glimber.core.practice.log import Practice
from glimber.core.practice.tries import jsonable, parse_moment
from glimber.store.faults import FolioError, StoreError
from glimber.store.files import LARGEST, expanded
from glimber.store.folder import Opened
from glimber.store.settings import load_settings

UNUSABLE = 2
PROGRESS_AFTER_S = 0.3
EARLIEST_YEAR, LATEST_YEAR = 1990, 9000
_TOLD = (FolioError, StoreError, EditError, CannotAnswer, CannotDraw, NotationError)


@contextmanager
def reported_errors() -> Iterator[None]:
    """Errors of input and disk become a message on standard error and exit status 2, never a traceback."""
    try:
        yield
    except _TOLD as error:
        stop(str(error))


@contextmanager
def progress(what: str, of: str = "rows") -> Iterator[Callable[[int], None]]:
    """Work that may be long: after 0.3 s a line on standard error counts along, on a terminal only."""
    from rich.console import Console
    from rich.progress import Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

    console, began = Console(stderr=True), time.monotonic()
    columns = (
        SpinnerColumn(),
        TextColumn("{task.description}"),
        TextColumn(f"{{task.completed:,}} {of}"),
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
    print(shown(message), file=sys.stderr)
    raise typer.Exit(UNUSABLE)


_UNSEEN = {code: f"\\x{code:02x}" for code in (*range(0x20), *range(0x7F, 0xA0)) if chr(code) not in "\n\t"}
_UNSEEN |= {code: f"\\u{code:04x}" for code in (0x200E, 0x200F, *range(0x202A, 0x202F), *range(0x2066, 0x206A))}


def shown(text: str) -> str:
    """Return a text as it may go to a terminal: control characters are written out, so that none of them does anything there."""
    return text.translate(_UNSEEN).encode("utf-8", "backslashreplace").decode()


def put(text: str = "") -> None:
    """Print one line for a person."""
    print(shown(text).replace("\n", "\\n").replace("\t", "\\t"))


def say(text: str) -> None:
    """Print one line on standard error."""
    print(shown(text), file=sys.stderr)


def standard_input(largest: int = LARGEST) -> bytes:
    """Return all of standard input, within limits. Raises StoreError where there is none."""
    if sys.stdin is None:
        raise StoreError("standard input is closed; give a file instead of -")
    try:
        data = sys.stdin.buffer.read(largest + 1)
    except OSError as error:
        raise StoreError(f"standard input cannot be read ({error.strerror})") from error
    if len(data) > largest:
        raise StoreError(f"standard input is longer than {largest / 1e6:.0f} MB; expected less")
    return data


def put_json(value: object) -> None:
    """One JSON document on standard output."""
    text = json.dumps(jsonable(value), ensure_ascii=False, allow_nan=False)
    print(text.encode("utf-8", "backslashreplace").decode())


def rounded(value: float | None, digits: int = 3) -> float | None:
    return None if value is None else round(value, digits)


def moment(text: str | None) -> datetime:
    """Return the moment given, or now."""
    if text is None:
        return datetime.now(UTC)
    try:
        found = parse_moment(text)
    except ValueError as error:
        stop(str(error))
    if not EARLIEST_YEAR <= found.year <= LATEST_YEAR:
        stop(f"{text} is out of range; expected a moment from {EARLIEST_YEAR} to {LATEST_YEAR}")
    return found


def practice_of(opened: Opened) -> Practice:
    """Return the practice so far, only read; empty where there is no log yet. Raises StoreError for a log that cannot be read."""
    from glimber.store.practice.log import read_practice

    return read_practice(opened.folder, opened.folio.settings.log)


def known_of(opened: Opened) -> Known:
    """Return what cards may show of practice; nothing where the log cannot be read, for a card can do without."""
    from glimber.core.stats.measures import measure

    cards = opened.folio.cards.values()
    asked = (card.weakest is not None or card.most_used is not None or card.changed_since is not None or
             "grip" in card.shows or card.kind == "facing" for card in cards)  # fmt: skip
    if not any(asked):
        return NOTHING_KNOWN
    practice = practice_of(opened)
    ledger = measure(opened.folio, practice, datetime.now(UTC), load_settings().computer_name)
    grips = {id: row.grip for id, row in ledger.rows.items() if row.grip is not None}
    uses = {id: row.uses_week for id, row in ledger.rows.items() if not row.uses_guessed}
    return known_from(grips, practice.changes, uses)


def folder_of(text: str) -> Path:
    """Return a path as it was given on the command line."""
    with reported_errors():
        return expanded(text)
