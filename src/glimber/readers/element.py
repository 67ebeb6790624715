"""An element of an XML or HTML tree: its type, its name and its own text."""

from __future__ import annotations

from typing import Any, TypeAlias

Element: TypeAlias = Any
"""An ``lxml.etree._Element``. lxml ships no types, and the stubs there are for it miss half of what is used here."""


def name_of(element: Element) -> str:
    """Return an element's name without its namespace; empty for a comment."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def own_text(element: Element) -> str | None:
    """Return the text of an element without children, blanks folded; None where it has none."""
    text = " ".join((element.text or "").split())
    return text if text and len(element) == 0 else None
