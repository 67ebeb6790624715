"""The type of an element of an XML or HTML tree."""

from __future__ import annotations

from typing import Any, TypeAlias

Element: TypeAlias = Any
"""An ``lxml.etree._Element``. lxml ships no types, and the stubs there are for it miss half of what is used here."""
