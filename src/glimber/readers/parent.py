"""Processes that must not outlive the one that began them."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
from typing import Final

_SET_PARENT_DEATH_SIGNAL: Final = 1
"""PR_SET_PDEATHSIG of prctl(2)."""


def die_with_parent(parent: int | None = None) -> None:
    """Let the system end this process when the one that began it ends, however that was; at once where ``parent`` is gone
    already."""
    with contextlib.suppress(OSError):
        ctypes.CDLL(None).prctl(_SET_PARENT_DEATH_SIGNAL, signal.SIGKILL)
    if parent is not None and os.getppid() != parent:
        os._exit(0)
