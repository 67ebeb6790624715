"""Words as they are: names may hold anything, and nothing in them is markup."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

_MARKUP = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#x27;"})


class Label(QLabel):
    """A label whose text is shown letter by letter, whatever it looks like."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def tip(text: str) -> str:
    """Return a text for a tooltip: one that would be taken for markup is escaped, so that it is shown as it is."""
    return f"<qt>{escaped(text)}</qt>" if "<" in text else text


def escaped(text: str) -> str:
    """Return a text as it stands in markup. Not by ``html``, which brings the names of two thousand characters with it."""
    return text.translate(_MARKUP)
