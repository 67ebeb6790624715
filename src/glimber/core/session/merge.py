"""Two edits of one value laid over each other: what each of them changed against the value both began with.

>>> merged((1,), (1,), (1, 2))
(1, 2)
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot

T = TypeVar("T")
_GONE: Final = object()


class ClashError(ValueError):
    """Both sides changed the same thing, each in another way; the message says what."""


def merged(base: T, mine: T, theirs: T) -> T:
    """``theirs`` with what ``mine`` changed against ``base``. Raises ClashError where both changed the same thing.

    Where one side changed nothing the other side itself is returned, the same object.
    """
    found: T = _merged(base, mine, theirs, ())
    return found


def over(base: Folio, mine: Folio, theirs: Folio) -> Folio:
    """Folios merged; raises ClashError too where the result would break a rule of the folio."""
    folio = merged(base, mine, theirs)
    if folio is not mine and folio is not theirs:
        fault = fault_of(folio)
        if fault is not None:
            raise ClashError(fault)
    return folio


def _merged(base: object, mine: object, theirs: object, path: tuple[str, ...]) -> Any:
    if mine is base or (theirs is not base and mine is not theirs and mine == base):
        return theirs
    if theirs is base or mine is theirs or theirs == base or mine == theirs:
        return mine
    return _merged_both(base, mine, theirs, path)


def _merged_both(base: object, mine: object, theirs: object, path: tuple[str, ...]) -> object:
    """Merge what both sides changed, part by part. Raises ClashError for a value without parts."""
    if isinstance(base, Struct) and type(base) is type(mine) is type(theirs):
        values = {
            name: _merged(getattr(base, name), getattr(mine, name), getattr(theirs, name), (*path, name))
            for name in base.__struct_fields__
        }
        return replace(theirs, **values)
    if isinstance(base, Mapping) and isinstance(mine, Mapping) and isinstance(theirs, Mapping):
        return _items(base, mine, theirs, path)
    if isinstance(base, frozenset) and isinstance(mine, frozenset) and isinstance(theirs, frozenset):
        return (theirs | (mine - base)) - (base - mine)
    sides = [one for one in (base, mine, theirs) if isinstance(one, tuple) and all(hasattr(item, "id") for item in one)]
    if len(sides) == 3:
        one, two, three = ({item.id: item for item in side} for side in sides)
        return tuple(_items(one, two, three, path).values())
    raise ClashError(f"{' '.join(path) or 'it'} was changed meanwhile")


def _items(
    base: Mapping[object, object], mine: Mapping[object, object], theirs: Mapping[object, object], path: tuple[str, ...]
) -> dict[object, object]:
    found = {}
    for key in dict.fromkeys((*base, *mine, *theirs)):
        one, two, three = (side.get(key, _GONE) for side in (base, mine, theirs))
        value = _merged(one, two, three, (*path, str(key)))
        if value is not _GONE:
            found[key] = value
    return {key: found[key] for key in _order(list(base), list(mine), list(theirs)) if key in found}


def _order(base: Sequence[object], mine: Sequence[object], theirs: Sequence[object]) -> list[object]:
    """Return the order of the side that changed it, with what only the other one has after what it stands after there."""
    in_both = set(base) & set(theirs)
    lead, other = (
        (theirs, mine) if [k for k in base if k in in_both] != [k for k in theirs if k in in_both] else (mine, theirs)
    )
    order = list(lead)
    for at, key in enumerate(other):
        if key not in order:
            before = next((one for one in reversed(other[:at]) if one in order), None)
            order.insert(order.index(before) + 1 if before is not None else 0, key)
    return order


def fault_of(folio: Folio) -> str | None:
    """Return the first rule of the folio that a value breaks: ids unique, references there, one binding on a spot; None if
    none."""
    ids: set[str] = set()
    spots: set[Spot] = set()
    for binding in folio.all_bindings():
        if binding.id in ids:
            return f"{binding.id} would be there twice"
        ids.add(binding.id)
        if binding.command is not None and binding.command not in folio.commands:
            return f"{binding.command} is gone, and {binding.id} carries it out"
        if isinstance(binding.trigger, Spot):
            if binding.trigger in spots:
                return f"{binding.trigger} would carry two bindings"
            spots.add(binding.trigger)
            layout = folio.layouts[binding.trigger.board]
            if layout.layer(binding.trigger.layer) is None or (binding.enters and layout.layer(binding.enters) is None):
                return f"a layer that {binding.id} needs is gone"
    missing = [id for id in folio.layouts if id not in folio.boards]
    return f"the board {missing[0]} is gone, and it is laid out" if missing else None
