"""The practice log as JSON Lines: one record a line, each with its kind."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field, fields
from functools import cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from glimber.core.drill.tries import Change, KeyEvents, Record, Round, Try, jsonable
from glimber.store.practice.log import KINDS, Log


@dataclass
class Lines:
    """What a JSON Lines text held: records, and the lines that could not be read with why."""

    read: int = 0
    records: list[Record] = field(default_factory=list)
    bad: list[dict[str, Any]] = field(default_factory=list)


@cache
def _adapter(kind: type) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def parse_lines(text: str) -> Lines:
    """Read JSON Lines; a bad line is noted and the rest is read."""
    found = Lines()
    for number, line in enumerate(text.split("\n"), start=1):
        if not line.strip():
            continue
        found.read += 1
        try:
            found.records.append(_parse(line))
        except ValueError as error:
            found.bad.append({"line": number, "text": str(error)})
    return found


def _parse(line: str) -> Record:
    try:
        value = json.loads(line)
    except json.JSONDecodeError as error:
        raise ValueError(f"not JSON: {error.msg.lower()} at character {error.pos + 1}") from None
    kind = value.get("kind") if isinstance(value, dict) else None
    if kind not in KINDS:
        raise ValueError(f"kind is {kind!r}; expected one of {', '.join(KINDS)}")
    try:
        record: Record = _adapter(KINDS[kind]).validate_python({k: v for k, v in value.items() if k != "kind"})
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        name = ".".join(str(part) for part in first["loc"])
        raise ValueError(f"{name}: {first['msg'][:1].lower()}{first['msg'][1:]}") from None
    return record


def to_json(record: Record) -> str:
    """One record as a line."""
    kind = next(name for name, type_ in KINDS.items() if isinstance(record, type_))
    values = {f.name: jsonable(getattr(record, f.name)) for f in fields(record) if not f.name.startswith("_")}
    return json.dumps({"kind": kind, **values}, ensure_ascii=False)


def all_lines(log: Log) -> Iterator[str]:
    """Every record of a log, rounds first so that a reader meets a round before its tries."""
    for kind in (Round, Try, KeyEvents, Change):
        for record in log.records(kind):
            yield to_json(record)
