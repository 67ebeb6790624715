"""The readers there are, and the choice of one for a source."""

from __future__ import annotations

import gc
import logging
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from functools import cache
from importlib import import_module
from importlib.metadata import entry_points
from pkgutil import iter_modules
from typing import Final

from msgspec import Struct

import glimber.readers
from glimber.readers.bundles import with_bundles_written_out
from glimber.readers.found import (
    MOST_CANDIDATES,
    PROSE,
    Found,
    NotBinding,
    Options,
    StoppedError,
    TooManyError,
    decoded,
)
from glimber.readers.leftover_keys import leftover_keys
from glimber.readers.reader import Reader
from glimber.readers.source_page import lines_of
from glimber.readers.sureness import SURE, with_sureness

_LOG: Final = logging.getLogger("glimber.readers")
GROUP: Final = "glimber.readers"
MOST_BYTES: Final = 64_000_000
MOST_LINES: Final = 2_000_000
_BLANK_LINES: Final = re.compile(r"\n(?:[ \t\r]*\n){2,}")
_HEAD: Final = 24_000
_CLOSE: Final = 0.35
_DRAWN: Final = 12
_TORN: Final = re.compile(r"[+/=*-]+ \S|\(\w+\) /|\d+ +[A-Z]|(?:ctrl|control|alt|shift|super|meta|cmd)[+-]\S+\s+\S", re.I)
"""A command that begins like this is the rest of keys that were cut off too early."""
"""A reader is tried as well where it is nearly as sure as the surest."""
_TRIED: Final = 5


class Chosen(Struct, frozen=True):
    """The kind a source was read as, what was found, and the kind that comes second, where there is one."""

    kind: str
    found: Found
    second: str | None = None


def kinds_of(name: str, data: bytes) -> list[str]:
    """Return the kinds a source may be, the surest first: by its contents, the ending of its name, or the look of its lines."""
    if data.startswith(b"PK\x03\x04"):
        return ["pack" if b"folio.toml" in data else "spreadsheet"]
    lower = name.lower()
    sure: dict[str, float] = {"text": 0.45, "config": 0.35}
    if lower.rsplit("/", 1)[-1] in ("inputrc", ".inputrc"):
        sure["line-editor"] = 1.0
    stem, ending = _ending(lower)
    by_ending = next((reader.kind for reader in readers().values() if ending in reader.endings), None)
    if by_ending is not None:
        sure[by_ending] = 0.8
    if ending == ".txt" and re.search(r"[_.-]man\b|\bman[_.-]", stem):
        sure["text"] = 0.8
    # Signs are looked for at every line, over blank ones as well: many of those would take long and say nothing.
    head = _BLANK_LINES.sub("\n\n", decoded(data[:_HEAD]).lstrip("\ufeff"))
    if data.startswith(b"\x1f\x8b"):
        return ["man"]
    for kind, reader in readers().items():
        for how_sure, pattern in reader.signs:
            if pattern.search(head):
                sure[kind] = max(sure.get(kind, 0.0), how_sure) + (0.1 if kind in sure and kind == by_ending else 0.0)
    if "program" in sure:
        return ["program"]
    order = sorted(sure, key=lambda kind: -sure[kind])
    return [kind for kind in order if sure[kind] >= sure[order[0]] - _CLOSE][:_TRIED]


def _ending(name: str) -> tuple[str, str]:
    stem, dot, last = name.rpartition(".")
    return (stem, f".{last}") if dot else (name, "")


def kind_of(name: str, data: bytes) -> str:
    """The kind a source is read as: of those it may be, the one that finds most sound bindings."""
    return choose(name, data).kind


def choose(name: str, data: bytes, options: Options = Options()) -> Chosen:
    """Read a source as every kind it may well be, and keep the reading with most sound bindings. Raises StoppedError."""
    order = kinds_of(name, data)
    if options.column is not None:
        order = order[:1]  # a column that is not there is no reason to read a table as something else
    tried = [(kind, read(kind, data, options)) for kind in order]
    if options.column is None and not any(found.sound for _, found in tried) and not readers()[order[0]].unpacks:
        more = [kind for kind in ("text", "config") if kind not in order]
        order += more
        tried += [(kind, read(kind, data, options)) for kind in more]
    with_keys = [one for one in tried if any(problem.keys for problem in one[1].problems)]
    tried.sort(key=lambda one: -_worth(one[1], order.index(one[0])))
    kind, found = tried[0]
    if not found.rows:
        # Keys that cannot be read say more of a source than that it has none.
        kind, found = with_keys[0] if with_keys else _reading_of_nothing(name, tried)
    second = next((other for other, its in tried[1:] if its.sound), None)
    return Chosen(kind, found, second)


def _reading_of_nothing(name: str, tried: Sequence[tuple[str, Found]]) -> tuple[str, Found]:
    """Return which of several readings without rows to keep.

    A source that only looks like a format is not broken: a reading that finds nothing says more than one that fails.
    """
    if _ending(name.lower())[1] in readers()[tried[0][0]].endings:
        return tried[0]
    return next((one for one in tried if all(problem.line for problem in one[1].problems)), tried[0])


def _worth(found: Found, place: int) -> float:
    """Sound bindings, less what could not be read; a reader that was less sure must find clearly more."""
    faults = sum(1 for one in found.problems if one.line)
    signs = Counter(row.triggers for row in found.rows if len(row.triggers) == 1 and not row.triggers[0][-1].isalnum()
                    and len(row.triggers[0]) == 1)  # fmt: skip
    drawn = sum(count for count in signs.values() if count > _DRAWN)  # a sign that is everywhere is no key but a mark
    torn = sum(_TORN.match(row.command) is not None or row.command.count(")") > row.command.count("(") for row in found.rows)
    pointed = sum(bool(one.command) for one in found.not_bindings)  # a row that is about the mouse was understood
    doubtful = sum(bool(row.triggers) and row.sure < SURE for row in found.rows)
    sound = found.sound - drawn - torn - doubtful + 0.6 * min(pointed, found.sound)
    return (sound - 0.5 * min(faults, found.sound + 3)) * (1.0, 0.85, 0.75, 0.7)[min(place, 3)] - 0.001 * place


@cache
def readers() -> Mapping[str, Reader]:
    """Return all readers by kind: those that modules of this package declare, and those of installed packages."""
    found = [reader for module in iter_modules(glimber.readers.__path__, "glimber.readers.")
             for reader in getattr(import_module(module.name), "READERS", ())]  # fmt: skip
    found += [reader for point in entry_points(group=GROUP) for reader in point.load()]
    return {reader.kind: reader for reader in sorted(found, key=lambda reader: reader.kind)}


_BY_LINES: Final = frozenset({"markdown", "script", "text", "config", "tex", "wiki"})


def _account(found: Found, data: bytes) -> None:
    """Note every line that ended in no list as prose; lines below one of a row and further in go on with it."""
    rows = {one.line for one in found.rows} | {one.line for one in found.problems} | found.joined
    known = rows | {one.line for one in found.headings} | {one.line for one in found.not_bindings}
    of_row: int | None = None  # how far in the row begins
    for number, line in enumerate(decoded(data).expandtabs(8).splitlines(), start=1):
        indent = len(line) - len(line.lstrip())
        if number in known:
            of_row = indent if number in rows else None
            continue
        if not line.strip() or (of_row is not None and indent <= of_row):
            of_row = None
        if of_row is None and any(char.isalnum() for char in line):
            if len(found.not_bindings) >= MOST_CANDIDATES:
                return
            found.not_bindings.append(NotBinding(" ".join(line.split())[:200], number, f"{PROSE}: no keys with a command"))
    found.not_bindings.sort(key=lambda one: one.line)


def kinds() -> list[str]:
    """Return the kinds of source there are readers for."""
    return list(readers())


def read(kind: str, data: bytes, options: Options = Options()) -> Found:
    """Read a source of a kind. Raises KeyError for a kind there is no reader for."""
    reader = readers()[kind]
    if not reader.unpacks and (len(data) > MOST_BYTES or data.count(b"\n") > MOST_LINES):
        lines = data.count(b"\n") + 1
        most = f"at most {MOST_BYTES / 1e6:.0f} MB and {MOST_LINES:,} lines"
        return Found().fail(f"{len(data) / 1e6:.1f} MB in {lines:,} lines; expected a list of {most}")
    if not reader.unpacks:
        data = with_bundles_written_out(data, options.bundles)
    # All that a reader makes lives until it is done: looking through it again and again would make long lists cost more.
    collecting = gc.isenabled()
    gc.disable()
    try:
        found = reader.read(data, options).settle(options)
        found.rows = with_sureness(found.rows)
        if kind in _BY_LINES:
            _account(found, data)
        if not reader.unpacks:
            left = leftover_keys(found, decoded(data), kind == "html", MOST_CANDIDATES - len(found.not_bindings))
            if left:
                found.not_bindings = sorted([*found.not_bindings, *left], key=lambda one: one.line)
        if options.page and not found.page and not reader.unpacks:
            found.page = lines_of(decoded(data))
        return found
    except StoppedError:
        raise
    except TooManyError:
        return Found().fail(f"more than {MOST_CANDIDATES:,} rows; expected a list of shortcuts. Nothing was read")
    except (
        Exception,
        RecursionError,
    ) as error:  # a fault of a reader is a problem of its source, never the end of Glimber
        _LOG.error("the reader of %s failed", kind, exc_info=error)
        return Found().fail(f"could not be read as {kind} ({type(error).__name__}: {str(error)[:200]})")
    finally:
        if collecting:
            gc.enable()
