"""Words that may be written short on a card where they have no room."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Final

EVERYDAY: Final[Mapping[str, str]] = {
    "and": "&", "approximate": "approx.", "average": "avg.", "background": "backgr.", "between": "betw.",
    "configuration": "config.", "directory": "dir.",
    "document": "doc.", "documents": "docs", "foreground": "foregr.", "horizontal": "horiz.",
    "information": "info", "maximum": "max.", "minimum": "min.", "number": "no.", "numbers": "nos", "picture": "pict.",
    "preferences": "prefs", "previous": "prev.", "reference": "ref.", "selection": "sel.", "temperature": "temp.",
    "vertical": "vert.", "with": "w/", "without": "w/o",
}  # fmt: skip
_WORD: Final = re.compile(r"[^\W\d_]+", re.UNICODE)


def abbreviate(text: str, short: Mapping[str, str]) -> str:
    """Return a text with every word that has a short form in it; a capital stays one."""

    def put(found: re.Match[str]) -> str:
        word = found[0]
        form = short.get(word.casefold(), word)
        return form[:1].upper() + form[1:] if word[:1].isupper() else form

    return _WORD.sub(put, text)
