"""Check plain values against a declared type and report every fault, each at its path.

``msgspec.convert`` stops at the first fault and hides the keys of tables; people want all faults of a file at once, at their
lines. So the declarations are walked here, and ``convert`` is only called on what has none.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Iterator
from functools import cache
from typing import Any, Final

from msgspec import Struct, inspect

from glimber.core.notation.nearest import did_you_mean

Path = tuple[str | int, ...]
Mistake = tuple[Path, str]
_LONGEST = 80

_EXPECTED: dict[type[inspect.Type], str] = {
    inspect.StrType: "a text in quotes",
    inspect.IntType: "a whole number",
    inspect.FloatType: "a number",
    inspect.BoolType: "true or false",
    inspect.ListType: "a list in brackets",
    inspect.VarTupleType: "a list in brackets",
    inspect.TupleType: "a list in brackets",
    inspect.DictType: "a table",
    inspect.StructType: "a table",
}
_LIMITS: tuple[tuple[str, str, Callable[[float, float], bool]], ...] = (
    ("ge", "at least", operator.ge),
    ("gt", "more than", operator.gt),
    ("le", "at most", operator.le),
    ("lt", "less than", operator.lt),
)


@cache
def declared(kind: type[Struct]) -> inspect.Type:
    """Return the declaration of a class, with all its fields."""
    return inspect.type_info(kind)


def mistakes(value: object, kind: type[Struct]) -> list[Mistake]:
    """Return every mistake in ``value`` as a ``kind``: the path to it, and what it is and what was expected."""
    return list(_check(value, declared(kind), ()))


def quote(value: object) -> str:
    """Return a value as it would stand in a TOML file, shortened where it is long."""
    if isinstance(value, dict):
        return "a table"
    if isinstance(value, list):
        return "a list"
    text = {True: "true", False: "false"}[value] if isinstance(value, bool) else repr(value)
    return text if len(text) <= _LONGEST else f"{text[:_LONGEST]}… ({len(text)} characters)"


def _check(value: Any, kind: inspect.Type, path: Path) -> Iterator[Mistake]:
    kinds = _kinds_of(kind)
    kind = next((one for one in kinds if _may_be(value, one)), kinds[0])
    name = str(path[-1]) if path else "the file"
    if len(kinds) > 1 and not _may_be(value, kind):
        yield path, f"{name} is {quote(value)}; expected {' or '.join(_EXPECTED[type(one)] for one in kinds)}"
    elif isinstance(kind, inspect.LiteralType):
        yield from _check_choice(value, kind, path, name)
    elif not isinstance(kind, inspect.AnyType) and not _is_of(value, kind):
        yield path, f"{name} is {quote(value)}; expected {_EXPECTED[type(kind)]}"
    elif (check := _CHECKS.get(type(kind))) is not None:
        yield from check(value, kind, path, name)


def _check_choice(value: object, kind: inspect.LiteralType, path: Path, name: str) -> Iterator[Mistake]:
    if value not in kind.values or isinstance(value, bool):
        hint = did_you_mean(value, [str(one) for one in kind.values]) if isinstance(value, str) else ""
        yield path, f"{name} is {quote(value)}; expected one of {', '.join(map(str, kind.values))}{hint}"


def _check_table(value: dict[str, object], kind: inspect.DictType, path: Path, name: str) -> Iterator[Mistake]:
    for key, item in value.items():
        yield from _check(key, kind.key_type, (*path, key))
        yield from _check(item, kind.value_type, (*path, key))


def _check_list(value: list[object], kind: inspect.ListType | inspect.VarTupleType, path: Path, name: str) -> Iterator[Mistake]:
    if len(value) < (kind.min_length or 0):
        yield path, f"{name} is empty; expected at least {kind.min_length} entr{'y' if kind.min_length == 1 else 'ies'}"
    for place, item in enumerate(value):
        yield from _check(item, kind.item_type, (*path, place))


def _check_tuple(value: list[object], kind: inspect.TupleType, path: Path, name: str) -> Iterator[Mistake]:
    if len(value) != len(kind.item_types):
        yield path, f"{name} has {len(value)} entries; expected {len(kind.item_types)}"
    for place, (item, one) in enumerate(zip(value, kind.item_types, strict=False)):
        yield from _check(item, one, (*path, place))


def _check_text(value: str, kind: inspect.StrType, path: Path, name: str) -> Iterator[Mistake]:
    if len(value) < (kind.min_length or 0):
        yield path, f"{name} is empty; expected a text"


def _check_fields(value: dict[str, Any], kind: inspect.StructType, path: Path) -> Iterator[Mistake]:
    known = {field.name: field for field in kind.fields}
    for key, item in value.items():
        if key in known:
            yield from _check(item, known[key].type, (*path, key))
        else:
            yield (
                (*path, key),
                f"{key} is not known here; expected one of {', '.join(known)}{did_you_mean(key, list(known))}",
            )
    for field in kind.fields:
        if field.required and field.name not in value:
            yield (*path, field.name), f"{field.name} is missing"


def _check_range(value: float, kind: inspect.IntType | inspect.FloatType, path: Path, name: str) -> Iterator[Mistake]:
    for attribute, words, holds in _LIMITS:
        limit = getattr(kind, attribute)
        if limit is not None and not holds(value, limit):
            yield path, f"{name} is {quote(value)}; expected {words} {limit:g}"
            return
    if value != value or value in (float("inf"), float("-inf")):
        yield path, f"{name} is {quote(value)}; expected a finite number"


def _is_of(value: object, kind: inspect.Type) -> bool:
    if isinstance(kind, inspect.FloatType):
        return isinstance(value, int | float) and not isinstance(value, bool)
    if isinstance(kind, inspect.IntType):
        return isinstance(value, int) and not isinstance(value, bool)
    if isinstance(kind, inspect.StrType):
        return isinstance(value, str)
    if isinstance(kind, inspect.BoolType):
        return isinstance(value, bool)
    if isinstance(kind, inspect.ListType | inspect.VarTupleType | inspect.TupleType):
        return isinstance(value, list)
    return isinstance(value, dict)


def _kinds_of(kind: inspect.Type) -> list[inspect.Type]:
    """Return the types a field may have, None left out: TOML has no null."""
    kinds = kind.types if isinstance(kind, inspect.UnionType) else (kind,)
    plain = (one.type if isinstance(one, inspect.Metadata) else one for one in kinds)
    return [one for one in plain if not isinstance(one, inspect.NoneType)]


def _may_be(value: object, kind: inspect.Type) -> bool:
    return isinstance(kind, inspect.AnyType | inspect.LiteralType) or _is_of(value, kind)


_CHECKS: Final[dict[type[inspect.Type], Callable[[Any, Any, Path, str], Iterator[Mistake]]]] = {
    inspect.StructType: lambda value, kind, path, name: _check_fields(value, kind, path),
    inspect.DictType: _check_table,
    inspect.ListType: _check_list,
    inspect.VarTupleType: _check_list,
    inspect.TupleType: _check_tuple,
    inspect.StrType: _check_text,
    inspect.IntType: _check_range,
    inspect.FloatType: _check_range,
}
