"""What is asked by the chooser, read and answered as a person would."""

from __future__ import annotations

from typing import Any

from tests.ui.kinds import Settle


def asked(window: Any) -> list[str]:
    """What there is to choose."""
    rows = window.chooser().list
    return [rows.item(place).text() for place in range(rows.count())]


def answer(window: Any, settle: Settle, hands: Any, text: str) -> None:
    """Write what is meant, and take it."""
    chooser = window.chooser()
    settle(chooser.line.hasFocus)
    chooser.line.setText(text)
    chooser.line.textEdited.emit(text)
    hands.strike("Return")
