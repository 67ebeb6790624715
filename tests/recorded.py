"""Outcomes as they were when somebody looked at them: a test compares with its file in tests/recorded.

Where a change is meant, look at the outcome (a card as a picture, rows as a table), then record it anew with
``RECORD=1 script/test tests/core/cards/test_recorded.py`` and read the difference.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

FOLDER = Path(__file__).with_name("recorded")


def assert_recorded(name: str, lines: Sequence[str]) -> None:
    """Fail with the first lines that differ from the file ``name``."""
    path = FOLDER / f"{name}.txt"
    text = "\n".join(lines) + "\n"
    if os.environ.get("RECORD"):
        path.parent.mkdir(exist_ok=True)
        path.write_text(text)
    known = path.read_text().splitlines()
    apart = [(number, was, now) for number, (was, now) in enumerate(zip(known, lines, strict=False), start=1) if was != now]
    assert not apart, f"{path.name} differs in {len(apart)} lines, first: {apart[:3]}"
    assert len(known) == len(lines), f"{path.name} has {len(known)} lines, now there are {len(lines)}"
