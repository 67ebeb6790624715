"""A buffer that events are read into and wiped from, so that what was typed does not stay in freed memory."""

from __future__ import annotations

import ctypes
import os
from typing import Final

_SIZE: Final = 1 << 16
_SET_DUMPABLE: Final = 4
"""PR_SET_DUMPABLE of prctl(2)."""


class WipedBuffer:
    """Bytes read from a descriptor into one block of memory; those that were dealt with are overwritten with zeros."""

    def __init__(self, size: int = _SIZE) -> None:
        self._view = memoryview(bytearray(size))
        self._filled = 0

    def read_from(self, descriptor: int) -> bool:
        """Read what waits, without a copy in between. False where nothing more comes. Raises OSError."""
        count = os.readv(descriptor, [self._view[self._filled :]])
        self._filled += count
        return count > 0

    @property
    def waiting(self) -> memoryview:
        """Bytes that were read and not dropped yet."""
        return self._view[: self._filled]

    def drop(self, count: int) -> None:
        """Forget the first ``count`` bytes."""
        rest = self._filled - count
        self._view[:rest] = self._view[count : self._filled]
        self._view[rest : self._filled] = bytes(count)
        self._filled = rest


def close_memory() -> None:
    """Let no other program of this person read the memory of this process, and write no core file of it.

    Source: prctl(2), PR_SET_DUMPABLE.
    """
    ctypes.CDLL(None, use_errno=True).prctl(_SET_DUMPABLE, 0, 0, 0, 0)
