"""Outcomes as they were when somebody looked at them: a test compares with its file in tests/recorded.

Where a change is meant, look at the outcome (a card as a picture, rows as a table), then record it again with
``RECORD=1 script/test tests/core/cards/test_recorded.py`` and read the difference.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from difflib import unified_diff
from pathlib import Path

FOLDER = Path(__file__).with_name("recorded")
RECORDING = bool(os.environ.get("RECORD"))
_MOST_TOLD = 30


def recorded_lines(name: str) -> list[str]:
    """Return the lines of the file ``name``."""
    return (FOLDER / f"{name}.txt").read_text().splitlines()


def assert_recorded(name: str, lines: Sequence[str]) -> None:
    """Fail with what differs from the file ``name``."""
    path = FOLDER / f"{name}.txt"
    text = "\n".join(lines) + "\n"
    if RECORDING:
        path.parent.mkdir(exist_ok=True)
        path.write_text(text)
    known = recorded_lines(name)
    apart = list(unified_diff(known, lines, path.name, "now", lineterm="", n=0))
    assert not apart, "\n".join(apart[:_MOST_TOLD])
