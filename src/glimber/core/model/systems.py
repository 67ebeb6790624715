"""Operating systems that a page of shortcuts may have columns for, and what their keys are called."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

SYSTEMS: Final = {"linux": "Linux", "windows": "Windows", "mac": "macOS"}
"""The id of each system and its name."""
_CALLED: Final = {"mac": {"Super": "Cmd", "Alt": "Option"}, "windows": {"Super": "Win"}}


def as_called_on(system: str, trigger: str) -> str:
    """Return a trigger of our notation with its modifiers as a system calls them: "Super+S" is "Cmd+S" on macOS."""
    called = _CALLED.get(system, {})
    return " ".join("+".join(called.get(part, part) for part in step.split("+")) for step in trigger.split(" "))


def keys_of_words(keys_of: Iterable[tuple[str, tuple[str, ...]]]) -> str:
    """Return the keys on other systems as they are read and typed: "mac Super+S; windows Ctrl+S or F2"."""
    return "; ".join(f"{system} {' or '.join(triggers)}" for system, triggers in keys_of)


def keys_of_from(text: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Return the keys on other systems from what ``keys_of_words`` makes of them; whether they are keys is not checked."""
    parts = [part.strip().partition(" ") for part in re.split(r";\s+", text) if part.strip()]
    return tuple((system.lower(), tuple(one.strip() for one in keys.split(" or ") if one.strip())) for system, _, keys in parts)
