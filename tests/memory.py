"""What a running process holds in memory, searched as somebody would who wants to know what was typed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path


def may_look(pid: int) -> bool:
    """Return True if this test may read the memory of a process: root may, whatever the process says."""
    try:
        with Path(f"/proc/{pid}/mem").open("rb"):
            return True
    except OSError:
        return False


def finds(pid: int, pattern: bytes) -> int:
    """Count the places in the writable memory of a process at which a pattern stands."""
    wanted, count = re.compile(pattern, re.DOTALL), 0
    with Path(f"/proc/{pid}/mem").open("rb", buffering=0) as memory:
        for line in Path(f"/proc/{pid}/maps").read_text().splitlines():
            bounds, rights, *_ = line.split()
            if not rights.startswith("rw"):
                continue
            start, end = (int(one, 16) for one in bounds.split("-"))
            try:
                memory.seek(start)
                data = memory.read(end - start)
            except (OSError, OverflowError, ValueError):
                continue
            count += len(wanted.findall(data))
    return count


def one_after_another(events: Sequence[bytes], apart: int = 160) -> bytes:
    """A pattern of events that stand near each other in memory in their order."""
    return (b".{0,%d}?" % apart).join(map(re.escape, events))
