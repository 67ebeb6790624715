"""Plain documents as the text of a new TOML file: nothing is there to be kept, so that no TOML editor is needed."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping
from typing import Any, Final, TypeGuard

_TABLES: Final = frozenset(
    "commands groups stems defaults timing bundles sources keys layers tour knobs homes stand_in".split(),
)
_BARE: Final = re.compile(r"[A-Za-z0-9_-]+\Z")


def wants_table(name: str) -> bool:
    """Return True for an entry that has a table, or an array of tables, of its own."""
    return name in _TABLES


def are_rows(value: object) -> TypeGuard[list[dict[str, Any]]]:
    """Return True for a list of tables."""
    return isinstance(value, list) and bool(value) and all(isinstance(row, dict) for row in value)


def document_text(document: Mapping[str, object]) -> str:
    """Return a document as TOML: plain entries first, then tables, each entry of a table on a line."""
    lines: list[str] = []
    _table(lines, (), document)
    return "\n".join(lines).strip("\n") + "\n"


def _table(lines: list[str], path: tuple[str, ...], table: Mapping[str, Any]) -> None:
    apart = {
        name for name, value in table.items() if wants_table(name) and (isinstance(value, dict) or are_rows(value))
    }
    lines += [f"{key_text(name)} = {inline_text(value)}" for name, value in table.items() if name not in apart]
    for name in table:
        if name not in apart:
            continue
        here, value = (*path, name), table[name]
        title = ".".join(map(key_text, here))
        for row in value if are_rows(value) else [value]:
            lines += ["", f"[[{title}]]" if are_rows(value) else f"[{title}]"]
            _table(lines, here, row)


def key_text(name: str) -> str:
    """Return a key, bare where it may be."""
    return name if _BARE.match(name) else _string(name)


def inline_text(value: Any) -> str:
    """Return a value on one line, as it is written by hand: with a space inside braces and after commas.

    Raises ValueError for a value that TOML does not have.
    """
    if hasattr(value, "unwrap"):
        value = value.unwrap()
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return _string(value)
    if isinstance(value, int):
        return str(value)
    if isinstance(value, float):
        return _float(value)
    if isinstance(value, dict):
        pairs = [f"{key_text(name)} = {inline_text(entry)}" for name, entry in value.items()]
        return f"{{ {', '.join(pairs)} }}" if pairs else "{}"
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(inline_text, value))}]"
    if hasattr(value, "isoformat"):
        return str(value.isoformat())
    raise ValueError(f"{value!r} is no value of TOML")


def _string(text: str) -> str:
    """Return a basic string: JSON's escapes, and that of DEL, which JSON leaves."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007F")


def _float(value: float) -> str:
    if math.isnan(value):
        return "nan"
    if math.isinf(value):
        return "inf" if value > 0 else "-inf"
    text = repr(value)
    return text if any(sign in text for sign in ".einf") else f"{text}.0"
