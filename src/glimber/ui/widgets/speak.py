"""Spoken prompts, by the desktop's speech service: eyes can stay on the other screen."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from typing import Final

from PySide6.QtCore import QProcess

PROGRAM: Final = "spd-say"
MISSING: Final = f"Prompts cannot be spoken: {PROGRAM} is not installed (package speech-dispatcher)."
_ARGUMENTS: Final = ("--application-name", "Glimber", "--priority", "text", "--")
"""Of the priority "text" a new message ends the one that is being spoken. Source: the SSIP documentation of speech-dispatcher."""


class Speech:
    """Speaks texts where that is ``wanted``. ``tell`` reports once that nothing can be spoken."""

    def __init__(self, wanted: Callable[[], bool], tell: Callable[[str], object]) -> None:
        self._wanted, self._tell, self._spoken = wanted, tell, False

    def say(self, text: str) -> None:
        """Speak a text; nothing is waited for."""
        if not self._wanted():
            return
        program = shutil.which(PROGRAM)
        if program is not None:
            QProcess.startDetached(program, [*_ARGUMENTS, text])
        elif not self._spoken:
            self._spoken = True
            self._tell(MISSING)
