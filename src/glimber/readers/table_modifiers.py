"""Tables with a column for each modifier, ticked where it is held, or with a modifier in the heading of the keys."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named

_TICKED: Final = frozenset("x X ✓ ✔ ● • * + yes y true 1 on ja oui sí".split())
_HELD: Final = re.compile(r"\S.*[+-]")
_EMPTY: Final = frozenset(("", "-", "–", "—", "no", "n", "false", "0", "off", "nein", "non"))


def with_ticked_modifiers(
    head: Sequence[str], rows: Sequence[tuple[str, ...]], names_keys: Callable[[str], bool]
) -> list[tuple[str, ...]] | None:
    """Return the rows with their ticked modifiers before the key; None for a table without such columns."""
    named = {place: name for place, word in enumerate(head) if (name := modifier_named(word)) is not None}
    held = {place: name for place, name in named.items() if all(_is_ticked_or_not(row[place], name) for row in rows)}
    keys = next((place for place, word in enumerate(head) if names_keys(word.strip().lower())), None)
    if not held or keys is None or keys in held:
        return None
    found = []
    for row in rows:
        ticked = [name for place, name in held.items() if _is_tick(row[place].strip(), name)]
        key = row[keys].strip()
        key = key.lower() if ticked and len(key) == 1 else key  # the capital is the key's print, Shift has its own column
        spelt = "+".join([*ticked, key]) if key else ""
        found.append(tuple(spelt if place == keys else "" if place in held else cell for place, cell in enumerate(row)))
    return found


def with_headed_modifier(
    head: Sequence[str], rows: Sequence[tuple[str, ...]]
) -> tuple[tuple[str, ...], list[tuple[str, ...]]] | None:
    """Return the heading and the rows of a table whose keys are all struck with what stands in their heading, "Ctrl +", with that
    before each of them; None for a table without one such column of keys."""
    named = [place for place, word in enumerate(head) if _HELD.fullmatch(word.strip()) and _modifiers(word)]
    if len(named) != 1 or not all(_is_short_key(row[named[0]].strip()) for row in rows):
        return None
    place, held = named[0], "+".join(_modifiers(head[named[0]]))
    cells = [f"{held}+{row[place].strip()}" if row[place].strip() else "" for row in rows]
    found = [tuple(cell if at == place else its for at, its in enumerate(row)) for row, cell in zip(rows, cells, strict=True)]
    return tuple("Key" if at == place else word for at, word in enumerate(head)), found


def _modifiers(word: str) -> list[str]:
    names = [modifier_named(part) for part in re.split(r"[\s+-]+", word.strip()) if part]
    return [name for name in names if name is not None] if all(names) else []


def _is_short_key(text: str) -> bool:
    return len(text) <= 1 or key_named(text, marked=True) is not None


def _is_ticked_or_not(cell: str, modifier: str) -> bool:
    return _is_tick(cell.strip(), modifier) or cell.strip().lower() in _EMPTY


def _is_tick(cell: str, modifier: str) -> bool:
    return cell in _TICKED or cell.lower() in _TICKED or modifier_named(cell) == modifier
