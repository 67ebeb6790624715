"""Ids: slugs made from names, the first free one of a wish, and what a spot's binding is called where no file says."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Container
from typing import Final

from glimber.core.notation.keys import Spot

_OF_SLUG: Final = re.compile(r"[^a-z0-9]+")


def slug_of(name: str) -> str:
    """Return an id from a name: plain small letters, digits and dashes."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return _OF_SLUG.sub("-", plain).strip("-")[:60].rstrip("-") or "command"


def free_id(wish: str, taken: Container[str]) -> str:
    """Return the id wished for, or the first of ``wish-2``, ``wish-3`` … that is not taken."""
    id, number = wish, 1
    while id in taken:
        number += 1
        id = f"{wish}-{number}"
    return id


def spot_id(spot: Spot) -> str:
    """Return the id of a spot's binding where none is given: ``layer-key-gesture`` (model.md)."""
    return f"{spot.layer}-{'-'.join(spot.keys)}-{spot.gesture}"
