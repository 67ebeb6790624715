"""How wide text is: advances of a face, in em, as the font file gives them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

MISSING_EM = 1.0
"""Characters the face lacks (other scripts) are drawn by the system's fallback font and count one em each."""


@dataclass(frozen=True)
class Face:
    """One weight of a font family. ``ascent``, ``descent`` and ``cap`` in em, all positive."""

    family: str
    weight: int
    advances: Mapping[str, float] = field(repr=False)
    ascent: float
    descent: float
    cap: float

    def width(self, text: str, size: float) -> float:
        """Width of one line of text at a size, in the unit of the size. Kerning is left out: it only narrows."""
        advances = self.advances
        return size * sum(advances.get(char, MISSING_EM) for char in text)


Faces = Mapping[int, Face]
