"""The sign in a menu entry's name before the letter that chooses it."""

from __future__ import annotations

import re
from typing import Final

_MNEMONIC: Final = re.compile(r"&(?=\w)")


def without_mnemonic(text: str) -> str:
    """Return a menu entry's name without its mnemonic sign: "&Save", "Find &Next", "E&xit"."""
    return _MNEMONIC.sub("", text)
