"""Practice data for cards, taken from the history."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Final

from glimber.core.model.card_bindings import Known, Moved
from glimber.core.practice.tries import Change, format_moment

_NONE: Final[Mapping[str, float]] = MappingProxyType({})


def known_from(grips: Mapping[str, float], changes: Iterable[Change], uses: Mapping[str, float] = _NONE) -> Known:
    """Return what is known from the history: changes that stand; ``uses`` a week by binding, where they are no guess."""
    moves = tuple(
        Moved(format_moment(one.at), one.binding, one.from_trigger, one.to_trigger)
        for one in changes
        if one.from_trigger is not None and one.to_trigger is not None and one.reverted is None
    )
    return Known(grips, moves, uses)
