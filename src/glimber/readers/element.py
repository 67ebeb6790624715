"""An element of an XML or HTML tree: its type, its name, its own text, and names without mnemonics."""

from __future__ import annotations

import re
from typing import Any, Final, TypeAlias

Element: TypeAlias = Any
"""An ``lxml.etree._Element``. lxml ships no types, and the stubs there are for it miss half of what is used here."""


_MNEMONIC: Final = re.compile(r"&(?=\w)(?<!\w\s&)")


def without_mnemonic(text: str) -> str:
    """Return the name of a menu entry without the sign before the letter that chooses it: "&Save", "E&xit"."""
    return _MNEMONIC.sub("", text) if text.count("&") == 1 else text


def name_of(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def own_text(element: Element) -> str | None:
    text = " ".join((element.text or "").split())
    return text if text and len(element) == 0 else None
