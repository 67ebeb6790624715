"""The five things that can be done with a binding."""

from __future__ import annotations

from typing import Final, Literal

Choice = Literal["keep", "move", "rebind", "practise", "retire"]
CHOICES: Final[tuple[Choice, ...]] = ("keep", "move", "rebind", "practise", "retire")
