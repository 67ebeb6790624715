"""What is asked by the chooser, what stands on a page, and what is told."""

from __future__ import annotations

from typing import Any


def asked(window: Any) -> list[str]:
    """What there is to choose."""
    rows = window.chooser().list
    return [rows.item(place).text() for place in range(rows.count())]


def page_title(widget: Any) -> str:
    """The title of the page that lies over the room; nothing where none does."""
    over = widget.window().page_over
    return str(over().head.text()) if over.made is not None and over().isVisible() else ""


def page_rows(widget: Any) -> list[str]:
    """What the rows of the page say."""
    return [row.spoken for row in widget.window().page_over().rows]


def heard(speaker: Any) -> list[str]:
    """What is told from now on."""
    told: list[str] = []
    speaker.notified.connect(told.append)
    return told
