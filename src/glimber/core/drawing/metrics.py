"""Text widths: advances of a face, in em, as the font file gives them."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct

MOST_KNOWN = 20_000
"""Texts whose width is kept: a card tries the same words at many sizes."""
MISSING_EM = 1.0
"""Characters the face lacks (other scripts) are drawn by the system's fallback font and count one em each."""


class Face(Struct, frozen=True, dict=True):
    """One weight of a font family. ``ascent``, ``descent`` and ``cap`` in em, all positive."""

    family: str
    weight: int
    advances: Mapping[str, float]
    ascent: float
    descent: float
    cap: float

    @cached_property
    def _ems(self) -> dict[str, float]:
        """Widths measured so far, in em."""
        return {}

    def width(self, text: str, size: float) -> float:
        """Return the width of one line of text at a size, in the unit of the size. Kerning is left out: it only narrows."""
        ems = self._ems.get(text)
        if ems is None:
            if len(self._ems) > MOST_KNOWN:
                self._ems.clear()
            advances = self.advances
            ems = self._ems[text] = sum(advances.get(char, MISSING_EM) for char in text)
        return size * ems


Faces = Mapping[int, Face]
