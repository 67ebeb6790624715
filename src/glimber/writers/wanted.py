"""The request to a writer, and its result."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct

from glimber.core.notation import keys as notation


class Wanted(Struct, frozen=True):
    """One edit: ``binding`` of a command goes from ``old`` to ``new``; None: it had no keys, it gets none.

    ``names``: the command's exact name, and what it was called before; ``group`` its group's name. ``partner``: the binding it
    changes places with: both are set, or neither. ``old_works``: the old keys are to go on doing what they did.
    """

    binding: str
    names: tuple[str, ...]
    old: notation.Sequence | None
    new: notation.Sequence | None
    group: str | None = None
    partner: str | None = None
    old_works: bool = False
    was: str = ""
    to: str = ""
    """Both triggers as the change has them, spots of boards too."""


class Rewritten(Struct, frozen=True):
    """The bytes that set what could be set, and by binding what was so ``already`` and why the rest is ``left``."""

    data: bytes
    set: tuple[Wanted, ...] = ()
    already: tuple[Wanted, ...] = ()
    left: tuple[tuple[Wanted, str], ...] = ()


Writer = Callable[[bytes, Sequence[Wanted]], Rewritten]


def pairs_of(wanted: Sequence[Wanted]) -> list[list[Wanted]]:
    """Return what is set in one go: two that change places, each other one by itself; in the order given."""
    by_id = {one.binding: one for one in wanted}
    found: list[list[Wanted]] = []
    seen: set[str] = set()
    for one in wanted:
        if one.binding in seen:
            continue
        other = by_id.get(one.partner or "")
        pair = [one] if other is None or other.partner != one.binding else [one, other]
        seen |= {each.binding for each in pair}
        found.append(pair)
    return found
