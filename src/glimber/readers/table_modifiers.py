"""Tables with a column for each modifier, ticked where it is held."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from glimber.core.notation.keywords import modifier_named

_TICKED: Final = frozenset("x X ✓ ✔ ● • * + yes y true 1 on ja oui sí".split())
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


def _is_ticked_or_not(cell: str, modifier: str) -> bool:
    return _is_tick(cell.strip(), modifier) or cell.strip().lower() in _EMPTY


def _is_tick(cell: str, modifier: str) -> bool:
    return cell in _TICKED or cell.lower() in _TICKED or modifier_named(cell) == modifier
