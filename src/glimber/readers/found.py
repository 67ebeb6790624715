"""What readers give: rows, what is no key binding, and what could not be read; every candidate is in one of the three."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

from glimber.core.notation.keys import NotationError
from glimber.core.notation.spelling import NotKeysError, may_be_keys, read_spelling

WATCHED_EVERY: Final = 200
MOST_CANDIDATES: Final = 100_000
LONGEST_KEYS: Final = 400
LONGEST_COMMAND: Final = 1_000


class StoppedError(Exception):
    """The reading was stopped by whoever watches it."""


class TooManyError(Exception):
    """More candidates than any list of shortcuts has; ``found`` is what there was up to then."""

    def __init__(self, found: Found) -> None:
        self.found = found
        super().__init__(f"more than {MOST_CANDIDATES:,} rows; expected a list of shortcuts. The rest was not read")


@dataclass(frozen=True)
class Options:
    """``column``: which column has the keys, by its heading, where there are several.

    ``watch`` is called with the number of candidates so far, every 200; it may raise StoppedError, which ends the reading.
    """

    column: str | None = None
    watch: Callable[[int], None] | None = None


@dataclass(frozen=True)
class Row:
    """A command with its triggers in our notation; without any where the source says it has none."""

    command: str
    triggers: tuple[str, ...]
    group: str | None
    line: int


@dataclass(frozen=True)
class NotBinding:
    """A row that is about the mouse, the wheel or touch."""

    text: str
    line: int
    why: str


@dataclass(frozen=True)
class Problem:
    """A row that could not be read, and what was expected; line 0 for the source as a whole."""

    line: int
    text: str


@dataclass
class Found:
    """Gathers the rows of one source."""

    rows: list[Row] = field(default_factory=list)
    not_bindings: list[NotBinding] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    columns: list[str] = field(default_factory=list)
    """Headings of the columns that could have the keys, the one that was read first."""
    watch: Callable[[int], None] | None = field(default=None, repr=False, compare=False)
    candidates: int = 0

    def add(self, command: str, keys: str, group: str | None, line: int) -> None:
        """Take one candidate: it becomes a row, no binding, or a problem. Raises TooManyError."""
        self._count()
        if self.watch is not None and self.candidates % WATCHED_EVERY == 0:
            self.watch(self.candidates)
        command, keys = " ".join(command.split()), keys.strip()
        if len(keys) > LONGEST_KEYS or len(command) > LONGEST_COMMAND:
            told = f"{command[:40]}: {len(keys)} characters of keys and {len(command)} of a command; too long to be a shortcut"
            self.problems.append(Problem(line, told))
            return
        if not command and not keys:
            return
        if not command:
            self.problems.append(Problem(line, f"{keys}: no command beside these keys"))
            return
        try:
            triggers = read_spelling(keys)
        except NotKeysError as error:
            self.not_bindings.append(NotBinding(f"{command}: {' '.join(keys.split())}", line, str(error)))
        except NotationError as error:
            self.problems.append(Problem(line, f"{command}: {error}"))
        else:
            self.rows.append(Row(command, tuple(map(str, triggers)), group or None, line))

    def _count(self) -> None:
        self.candidates += 1
        if self.candidates > MOST_CANDIDATES:
            raise TooManyError(self)

    def fail(self, text: str, line: int = 0) -> Found:
        """Note a problem of the source; the same object, so that a reader can end with it. Raises TooManyError."""
        self._count()
        self.problems.append(Problem(line, text))
        return self


def decoded(data: bytes) -> str:
    """The text of a source: UTF-8 or UTF-16 by its mark, UTF-8 where it is valid, otherwise Windows-1252."""
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def looks_like_keys(text: str) -> bool:
    """Whether a text is spelt like keys rather than like a command."""
    body = text.strip()
    if not body or len(body) > 80 or not may_be_keys(body):
        return False
    try:
        return bool(read_spelling(body)) and not (body.isalpha() and len(body) > 1 and body.islower())
    except NotKeysError:
        return True
    except NotationError:
        return False
