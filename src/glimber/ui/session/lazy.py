"""Values made when they are first needed: the first painted frame pays for nothing that it does not show."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")


class Lazy(Generic[T]):
    """Calling it gives the thing, made at the first call; ``made`` is None until then."""

    def __init__(self, make: Callable[[], T]) -> None:
        self._make = make
        self.made: T | None = None

    def __call__(self) -> T:
        if self.made is None:
            self.made = self._make()
        return self.made
