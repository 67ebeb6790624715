"""Faults of files, worded so that they can be found and fixed."""

from __future__ import annotations

import json
from collections.abc import Iterable

from msgspec import Struct


class Fault(Struct, frozen=True, order=True):
    """One thing wrong: the file's name within the folio, its line (0: the file as a whole), what and what was expected.

    ``code`` is the audit's code for a fault that leaves the rest of the folio usable, such as a broken reference.
    """

    file: str
    line: int
    text: str
    code: str | None = None
    where: str = ""

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.text}" if self.line else f"{self.file}: {self.text}"


class FolioError(Exception):
    """A folio that cannot be used, with all its faults."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = sorted(faults)
        super().__init__("\n".join(map(str, self.faults)))


class StoreError(Exception):
    """Something about the disk or the log that the person can mend; the message says what and what to try."""


def json_problem(error: ValueError | RecursionError) -> str:
    """Return what is wrong with a text that is no JSON."""
    if isinstance(error, json.JSONDecodeError):
        return f"{error.msg.lower()} at character {error.pos + 1}"
    return "nested too deeply" if isinstance(error, RecursionError) else str(error).partition(";")[0].lower()
