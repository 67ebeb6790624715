"""The practice log as JSON Lines: one record a line, each with its kind."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Iterator
from contextlib import suppress
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import Any, Final

import msgspec
from msgspec import Struct, field
from msgspec.structs import asdict

from glimber.core.practice.tries import Change, KeyEvents, Record, Round, Try, jsonable
from glimber.store.faults import StoreError, json_problem
from glimber.store.files import lines_given
from glimber.store.practice.log import Log, open_log_reading
from glimber.store.practice.rows import KINDS

LARGEST_LINES: Final = 1_000_000_000
"""Bytes of the largest file of tries: some 400 a try."""
BATCH: Final = 5_000
"""Lines that are read, checked and written together."""
EARLIEST_YEAR: Final = 1990
LATEST_YEAR: Final = 9000
LARGEST_NUMBER: Final = 2**53


_KIND: Final = re.compile(r'\{"kind": "(\w+)", "id": ')


class Lines(Struct):
    """The contents of a JSON Lines text: records, and the lines that could not be read with the reason."""

    read: int = 0
    records: list[Record] = field(default_factory=list)
    bad: list[dict[str, Any]] = field(default_factory=list)

    def add(self, other: Lines) -> None:
        """Append what was read further on."""
        self.read += other.read
        self.records += other.records
        self.bad += other.bad


@cache
def _decoder(kind: type[Record]) -> msgspec.json.Decoder[Record]:
    return msgspec.json.Decoder(kind)


def parse_lines(text: str) -> Lines:
    """Read JSON Lines; a bad line is noted and the rest is read."""
    found = Lines()
    for batch in _batches(text.split("\n")):
        found.add(batch)
    return found


def _batches(lines: Iterable[str]) -> Iterator[Lines]:
    """Read lines some thousand at a time, so that a long file is never in memory as text and as records at once."""
    found = Lines()
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        found.read += 1
        try:
            found.records.append(_parse(line))
        except ValueError as error:
            found.bad.append({"line": number, "text": str(error)})
        if found.read == BATCH:
            yield found
            found = Lines()
    yield found


def _parse(line: str) -> Record:
    kind = _KIND.match(line)
    if kind is not None and kind[1] in KINDS:
        # As Glimber writes it: read in one go. Whatever is amiss is reported by the slow path below.
        with suppress(msgspec.MsgspecError, OverflowError, RecursionError):
            quick = _decoder(KINDS[kind[1]]).decode(line)
            _check_values(quick)
            return quick
    return _parse_slowly(line)


def _parse_slowly(line: str) -> Record:
    try:
        value = json.loads(line)
    except (ValueError, RecursionError) as error:
        raise ValueError(f"not JSON: {json_problem(error)}") from None
    kind = value.get("kind") if isinstance(value, dict) else None
    if not isinstance(kind, str) or kind not in KINDS:
        raise ValueError(f"kind is {str(kind)[:40]!r}; expected one of {', '.join(KINDS)}")
    try:
        record: Record = msgspec.convert(value, KINDS[kind])
    except msgspec.ValidationError as error:
        text, _, path = str(error).replace("`", "").partition(" - at $.")
        raise ValueError(f"{path}: {text[:1].lower()}{text[1:]}" if path else text) from None
    except (OverflowError, RecursionError) as error:
        raise ValueError(f"a value is out of range ({str(error) or 'nested too deeply'})") from None
    _check_values(record)
    return record


def _check_values(record: Record) -> None:
    """Check for values that the types allow and no log can hold. Raises ValueError."""
    for name, value in asdict(record).items():
        kind = type(value)
        if kind is str:
            if not value.isascii() and _has_half_a_character(value):
                raise ValueError(f"{name}: half of a character (a lone surrogate)")
        elif value is None or kind is bool:
            continue
        elif kind is float:
            if not math.isfinite(value):
                raise ValueError(f"{name}: {value} is not a number that can be measured")
        elif kind is int:
            if abs(value) > LARGEST_NUMBER:
                raise ValueError(f"{name}: out of range")
        elif isinstance(value, datetime):
            if not EARLIEST_YEAR <= value.year <= LATEST_YEAR:
                raise ValueError(f"{name}: in the year {value.year}; expected {EARLIEST_YEAR} to {LATEST_YEAR}")
        elif isinstance(value, tuple):
            try:
                json.dumps(value, allow_nan=False)
            except (ValueError, RecursionError):
                raise ValueError(f"{name}: holds a number that no log can keep") from None


def _has_half_a_character(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return True
    return False


def lines_of(source: str | Path) -> Lines:
    """Return the records of a text of JSON Lines, of a file of them, or of another practice log. Raises StoreError."""
    found = Lines()
    for batch in batches_of(source):
        found.add(batch)
    return found


def batches_of(source: str | Path) -> Iterator[Lines]:
    """As ``lines_of``, some thousand records at a time. Raises StoreError, for a file at any batch."""
    if isinstance(source, str):
        yield from _batches(source.split("\n"))
    elif source.suffix in (".sqlite", ".db", ".sqlite3"):
        with open_log_reading(source.parent, source.name) as log:
            for kind in (Round, Try, KeyEvents, Change):
                records = log.records(kind)
                yield Lines(len(records), records)
    else:
        try:
            yield from _batches(line.decode("utf-8") for line in lines_given(source, LARGEST_LINES))
        except UnicodeDecodeError as error:
            raise StoreError(f"{source}: not UTF-8; expected JSON Lines") from error


def to_json(record: Record) -> str:
    """Return one record as a line."""
    kind = next(name for name, type_ in KINDS.items() if isinstance(record, type_))
    values = {name: jsonable(value) for name, value in asdict(record).items()}
    return json.dumps({"kind": kind, **values}, ensure_ascii=False)


def all_lines(log: Log) -> Iterator[str]:
    """Yield every record of a log, rounds first so that a reader meets a round before its tries."""
    for kind in (Round, Try, KeyEvents, Change):
        for record in log.records(kind):
            yield to_json(record)
