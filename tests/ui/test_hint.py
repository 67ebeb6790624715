"""The hint at work: a card with a key that takes no focus and goes by itself."""

from __future__ import annotations

import subprocess
import sys
from typing import Any

from PySide6.QtCore import Qt

from glimber.ui.shell.hint import HintCard
from tests.ui.kinds import Settle


def test_the_card_takes_no_focus_and_says_what_it_shows(qtbot: Any) -> None:
    card = HintCard("Add sounding", "Ctrl+Shift+S or F2")
    qtbot.addWidget(card)
    card.show_in_corner()
    assert card.accessibleName() == "Add sounding: Ctrl+Shift+S or F2"
    assert card.windowFlags() & Qt.WindowType.WindowDoesNotAcceptFocus and not card.isActiveWindow()
    screen = card.screen().availableGeometry()
    assert screen.contains(card.geometry()) and screen.right() - card.geometry().right() < 40


def test_it_goes_by_itself(settle: Settle) -> None:
    process = subprocess.Popen([sys.executable, "-m", "glimber.ui.shell.hint", "Add sounding", "Ctrl+Shift+S"])
    settle(lambda: process.poll() is not None, 20_000)
    assert process.returncode == 0
