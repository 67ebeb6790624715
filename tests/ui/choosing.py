"""What is asked by the chooser, and what is told."""

from __future__ import annotations

from typing import Any


def asked(window: Any) -> list[str]:
    """What there is to choose."""
    rows = window.chooser().list
    return [rows.item(place).text() for place in range(rows.count())]


def heard(speaker: Any) -> list[str]:
    """What is told from now on."""
    told: list[str] = []
    speaker.told.connect(told.append)
    return told
