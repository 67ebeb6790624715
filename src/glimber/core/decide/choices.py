"""The five things that can be done with a binding."""

from __future__ import annotations

from typing import Final, Literal

Choice = Literal["keep", "move", "rebind", "practise", "retire"]
CHOICES: Final[tuple[Choice, ...]] = ("keep", "move", "rebind", "practise", "retire")
PAIR_ANSWERS: Final = {"pair-keys": "The keys feel the wrong way round", "pair-commands": "I mix up what they do"}
"""The answers about two commands that are taken for each other, as verdicts of the history."""
