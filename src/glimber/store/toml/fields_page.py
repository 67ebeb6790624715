"""Prints every field of every file of a folio: ``python -m glimber.store.toml.fields_page > docs/fields.md``.

Types, ranges, defaults and what is required come from the declarations that files are checked against; what a field means is in
``fields.toml`` beside this module.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from importlib.resources import files
from typing import Final, get_args

import msgspec
from msgspec import inspect

from glimber.core.model.folio import CardKind
from glimber.store.toml.documents import FORMATS, KINDS, VERSION, BindingDoc, SpotDoc

_NONE: Final[tuple[object, ...]] = (msgspec.NODEFAULT, None, (), {})
_FILES: Final = {"folio": "folio.toml", "program": "programs/ID.toml", "layout": "layouts/BOARD.toml", "board": "boards/ID.toml",
                 "card": "cards/ID.toml", "run": "runs/ID.toml"}  # fmt: skip
_OWN_ORDER: Final = (get_args(CardKind), ("A3", "A4", "A5", "A6", "Letter", "Legal", "index", "strip", "screen", "large-screen"))


def fields_page() -> str:
    """Return the page as the declarations are now. Raises KeyError for a field whose meaning is not written down."""
    meanings = tomllib.loads(files("glimber.store.toml").joinpath("fields.toml").read_text(encoding="utf-8"))
    parts = [meanings["about"]["text"].strip()]
    for kind, document in KINDS.items():
        parts.append(f"## {_FILES[kind]}\n\nBegins with `format = \"{FORMATS[kind]}/{VERSION}\"`.")
        for heading, key, struct in _tables(kind, inspect.type_info(document)):
            shared = meanings["binding"] if issubclass(struct.cls, BindingDoc) else {}
            parts.append(f"{heading}{_table(struct, {**shared, **meanings[key]})}")
        parts.append(f"```toml\n{meanings[kind]['example'].strip()}\n```")
    return "\n\n".join(parts) + "\n"


def _tables(kind: str, struct: inspect.Type, path: str = "") -> Iterator[tuple[str, str, inspect.StructType]]:
    """Yield the heading, the key of its meanings and the structure of a file's top level, then of each table in it."""
    assert isinstance(struct, inspect.StructType)
    yield (f"### {path}\n\n" if path else ""), (f"{kind}{path}" if path else kind), struct
    for one in struct.fields:
        inner, form = _inner(one.type)
        if isinstance(inner, inspect.StructType):
            name = f"{path.strip('[]')}.{one.name}" if path else one.name
            yield from _tables(kind, inner, form.format(name))
    if struct.cls.__name__ == "LayerDoc":
        yield from _tables(kind, inspect.type_info(SpotDoc), "[layers.keys.KEY.GESTURE]")


def _inner(type_: inspect.Type) -> tuple[inspect.Type, str]:
    """Return the type of the members of a list or table, and how its table is headed."""
    if isinstance(type_, inspect.VarTupleType):
        return type_.item_type, "[[{}]]"
    if isinstance(type_, inspect.DictType):
        return type_.value_type, "[{}.ID]"
    return type_, "[{}]"


def _table(struct: inspect.StructType, meanings: Mapping[str, str]) -> str:
    rows = ["| field | value | without it | |", "|---|---|---|---|"]
    for one in struct.fields:
        if one.name != "format":
            default = "**required**" if one.required else "" if _is_nothing(one) else f"`{_written(one.default)}`"
            rows.append(f"| `{one.name}` | {_words(one.type)} | {default} | {meanings[one.name]} |")
    return "\n".join(rows)


def _is_nothing(one: inspect.Field) -> bool:
    return any(one.default is nothing or one.default == nothing for nothing in _NONE) or isinstance(one.default, msgspec.Struct)


def _written(value: object) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    return f"[{', '.join(map(_written, value))}]" if isinstance(value, tuple) else str(value)


def _words(type_: inspect.Type) -> str:
    """Return a type as a person would say it, with its limits."""
    if isinstance(type_, inspect.UnionType):
        return " or ".join(_words(one) for one in type_.types if not isinstance(one, inspect.NoneType))
    if isinstance(type_, inspect.LiteralType):
        known = next((order for order in _OWN_ORDER if set(order) == set(type_.values)), type_.values)
        return f"one of {', '.join(f'`{value}`' for value in known)}"
    if isinstance(type_, inspect.VarTupleType):
        return f"list of: {_words(type_.item_type)}" if not isinstance(type_.item_type, inspect.StructType) else "tables"
    if isinstance(type_, inspect.TupleType):
        return f"list of {len(type_.item_types)} numbers"
    if isinstance(type_, inspect.DictType):
        inner = type_.value_type
        return "a table for each id" if isinstance(inner, inspect.StructType) else f"table, each {_words(inner)}"
    if isinstance(type_, inspect.IntType | inspect.FloatType):
        return ("a whole number" if isinstance(type_, inspect.IntType) else "a number") + _limits(type_)
    if isinstance(type_, inspect.StructType):
        return "a table"
    return {inspect.BoolType: "`true` or `false`", inspect.StrType: "text"}.get(type(type_), "see below")


def _limits(type_: inspect.IntType | inspect.FloatType) -> str:
    limits = {"over": type_.gt, "at least": type_.ge, "under": type_.lt, "at most": type_.le}
    words = [f"{word} {limit:,}" for word, limit in limits.items() if limit is not None]
    return f", {' and '.join(words)}" if words else ""


if __name__ == "__main__":
    print(fields_page(), end="")
