"""From the bytes of one file to a checked document, with every fault of the file at its line."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable
from typing import Final, TypeVar

import msgspec
from msgspec import Struct, field

from glimber.core.notation.keys import NotationError
from glimber.store.faults import Fault
from glimber.store.toml.documents import FORMATS, KINDS, VERSION, Document
from glimber.store.toml.locate import Locator, Path
from glimber.store.toml.shape import mistakes, quote

T = TypeVar("T")
_VERSION = re.compile(r"[0-9]{1,6}")
_NUMBER = re.compile(r"[0-9_]{1000,}")


class Page(Struct):
    """One file while it is read: its text, where its lines are, and the faults found so far."""

    file: str
    text: str
    plain: dict[str, object] = field(default_factory=dict)
    faults: list[Fault] = field(default_factory=list)
    _locator: Locator | None = None

    def line(self, path: Path) -> int:
        if self._locator is None:
            self._locator = Locator(self.text)
        return self._locator.line(path)

    def fault(self, path: Path, text: str, code: str | None = None, where: str = "") -> None:
        self.faults.append(Fault(self.file, self.line(path), text, code, where))

    def attempt(self, path: Path, read: Callable[[], T]) -> T | None:
        """Return what ``read`` gives, or None and a fault where the text is not in the notation."""
        try:
            return read()
        except NotationError as error:
            self.fault(path, str(error))
            return None


def parse_document(file: str, data: bytes, kind: str) -> tuple[Page, Document | None]:
    """Decode, parse and check one file. The document is None when any fault was found."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        return Page(file, "", faults=[Fault(file, line, "not UTF-8; expected a text file saved as UTF-8")]), None
    page = Page(file, text)
    expected = f'format = "{FORMATS[kind]}/{VERSION}"'
    if not text.strip():
        page.faults.append(Fault(file, 1, f"the file is empty; expected {expected} on top"))
        return page, None
    try:
        page.plain = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        page.faults.append(_toml_fault(file, text, error))
        return page, None
    except RecursionError:
        page.faults.append(Fault(file, _deepest_line(text), "not TOML that can be read: nested too deeply"))
        return page, None
    except ValueError as error:  # a number of thousands of digits
        page.faults.append(Fault(file, _longest_number_line(text), f"not TOML: {str(error).partition(';')[0].lower()}"))
        return page, None
    problem = _format_problem(page.plain.get("format"), kind, expected)
    if problem:
        page.fault(("format",), problem)
        return page, None
    try:
        return page, check(page, (), page.plain, KINDS[kind])
    except RecursionError:
        page.faults.append(Fault(file, _deepest_line(text), "nested too deeply"))
        return page, None


def _deepest_line(text: str) -> int:
    """Return the line with most brackets or dots: where a text that is nested too deeply most likely is."""
    lines = text.split("\n")
    return max(range(len(lines)), key=lambda at: lines[at].count("[") + lines[at].count("{") + lines[at].count(".")) + 1


def _longest_number_line(text: str) -> int:
    found = max(_NUMBER.finditer(text), key=lambda match: len(match.group()), default=None)
    return 1 if found is None else text.count("\n", 0, found.start()) + 1


_PLACE: Final = re.compile(r"line (\d+), column (\d+)")
_FIELD_BEFORE: Final = re.compile(r"([\w.\"'-]+)\s*=\s*$")
_VALUE: Final = re.compile(r"[^,}\]#]{1,40}")

D = TypeVar("D", bound=Document)


def check(page: Page, at: Path, value: object, kind: type[D]) -> D | None:
    """Return the value as a document of ``kind``, or None with its faults noted at paths below ``at``."""
    found = mistakes(value, kind)
    for path, text in found:
        page.fault((*at, *path), text)
    return None if found else msgspec.convert(value, kind)


def _toml_fault(file: str, text: str, error: tomllib.TOMLDecodeError) -> Fault:
    message, _, place = str(error).partition(" (at ")
    at = _PLACE.match(place)
    if at is None:
        return Fault(file, text.count("\n") + 1, f"not TOML: {message[:1].lower()}{message[1:]}")
    line, column = int(at[1]), int(at[2])
    written = text.split("\n")[line - 1]
    if message == "Invalid value":
        field = _FIELD_BEFORE.search(written[: column - 1])
        value = _VALUE.match(written[column - 1 :])
        named = f"{written.strip()[:60]!r} has no value"
        if field is not None and value is not None and value[0].strip():
            named = f"{field[1]} is {value[0].strip()}"
        return Fault(file, line, f"not TOML: {named}; expected a text in quotes, a number, true, false, a list or a table")
    return Fault(file, line, f"not TOML: {message[:1].lower()}{message[1:]}: {written.strip()[:60]}".rstrip(": "))


def _format_problem(value: object, kind: str, expected: str) -> str | None:
    name, _, version = value.partition("/") if isinstance(value, str) else ("", "", "")
    if name != FORMATS[kind] or not _VERSION.fullmatch(version):
        return f"{'format is missing' if value is None else f'format {quote(value)} is not known here'}; expected {expected}"
    if int(version) > VERSION:
        return f"written in a newer format ({version}); this Glimber reads up to {VERSION} and leaves the file alone"
    return None
