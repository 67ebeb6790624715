"""Values worked out from a frozen value and kept as long as it lives."""

from __future__ import annotations

import weakref
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Owner = TypeVar("Owner")
Key = TypeVar("Key", bound=Hashable)
Derived = TypeVar("Derived")


class Same(Generic[Owner]):
    """A value as a key by its identity. It is held, so that no other value can come to its address while the key is kept."""

    __slots__ = ("_value",)

    def __init__(self, value: Owner) -> None:
        self._value = value

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other._value is self._value

    def __hash__(self) -> int:
        return id(self._value)


class DerivedCache(Generic[Owner, Key, Derived]):
    """Keep what is derived from an owner, per owner and key, until the owner is collected.

    Owners are told apart by identity: two equal folios are two owners, because comparing them costs more than deriving again.
    """

    def __init__(self) -> None:
        self._kept: dict[int, tuple[weakref.ref[Owner], dict[Key, Derived]]] = {}

    def get(self, owner: Owner, key: Key, derive: Callable[[], Derived]) -> Derived:
        """Return the value kept under ``key``, deriving it first where there is none yet."""
        kept = self._of(owner)
        if key not in kept:
            kept[key] = derive()
        return kept[key]

    def _of(self, owner: Owner) -> dict[Key, Derived]:
        id_ = id(owner)
        found = self._kept.get(id_)
        if found is None or found[0]() is not owner:
            found = self._kept[id_] = (weakref.ref(owner, lambda _: self._kept.pop(id_, None)), {})
        return found[1]
