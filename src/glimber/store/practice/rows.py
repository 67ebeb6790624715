"""Records of practice as rows of tables, and back."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any, Final

import sqlalchemy as sa

from glimber.core.practice.tries import Change, KeyEvents, Record, Round, Try, format_moment, parse_moment

KINDS: Final[dict[str, type[Record]]] = {"try": Try, "round": Round, "change": Change, "events": KeyEvents}
_TABLES: Final[dict[type[Record], str]] = {Try: "tries", Round: "rounds", Change: "changes", KeyEvents: "events"}
_MOMENTS: Final = frozenset({"at", "began", "ended", "applied", "reverted", "until"})
_LISTS: Final = frozenset({"offset_u", "bindings", "hits", "events"})
_TRUTHS: Final = frozenset({"strict", "first", "cold"})


def _columns(kind: type[Record]) -> list[sa.ColumnClause[object]]:
    return [sa.column(name) for name in kind.__struct_fields__]


SQL: Final = {kind: sa.table(name, *_columns(kind)) for kind, name in _TABLES.items()}
INSERTS: Final = {kind: sa.insert(table) for kind, table in SQL.items()}


_SPECIAL: Final = {
    kind: [place for place, column in enumerate(table.c) if column.name in _MOMENTS | _LISTS]
    for kind, table in SQL.items()
}
_NAMES: Final = {kind: [column.name for column in table.c] for kind, table in SQL.items()}


def row_of(record: Record) -> dict[str, object]:
    """Return a record as the values of its columns."""
    return dict(zip(_NAMES[type(record)], values_of(record), strict=True))


def values_of(record: Record) -> list[object]:
    """Return the values of a record's columns, in their order."""
    found = [getattr(record, name) for name in _NAMES[type(record)]]
    for place in _SPECIAL[type(record)]:
        value = found[place]
        if isinstance(value, datetime):
            found[place] = format_moment(value)
        elif value is not None:
            found[place] = json.dumps(value)
    return found


def _deep_tuple(value: object) -> object:
    return tuple(_deep_tuple(item) for item in value) if isinstance(value, list) else value


def record_of(kind: type, row: sa.RowMapping) -> Any:
    """Return the record of a row. Raises ValueError, TypeError for a value that no log has."""
    values: dict[str, Any] = dict(row)
    for name, value in values.items():
        if value is None:
            continue
        if name in _MOMENTS:
            values[name] = parse_moment(value)
        elif name in _LISTS:
            values[name] = _deep_tuple(json.loads(value))
        elif name in _TRUTHS:
            values[name] = bool(value)
    return kind(**values)
