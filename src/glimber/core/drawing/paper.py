"""Papers, cards and screens in millimetres, and the smallest type that is readable on each."""

from __future__ import annotations

from typing import Final

from msgspec import Struct

_PT: Final = 25.4 / 72
_PX: Final = 25.4 / 96
PAPERS_MM: Final = {
    "A3": (297.0, 420.0), "A4": (210.0, 297.0), "A5": (148.0, 210.0), "A6": (105.0, 148.0),
    "Letter": (215.9, 279.4), "Legal": (215.9, 355.6), "index": (76.0, 127.0), "strip": (30.0, 297.0),
    "screen": (800 * _PX, 1280 * _PX), "large-screen": (1440 * _PX, 2560 * _PX),
}  # fmt: skip
"""Shorter and longer side of each."""
SCREENS: Final = ("screen", "large-screen")


class Paper(Struct, frozen=True):
    """A sheet: its size in mm, and the smallest sizes of type on it, for labels and for notes."""

    name: str
    width: float
    height: float
    least_label: float
    least_note: float

    @property
    def unit(self) -> float:
        """Return how large things are drawn: 1 on A5 and larger across, less on what is smaller."""
        return max(0.45, min(1.35, min(self.width, self.height * 1.42) / 210.0))

    @property
    def margin(self) -> float:
        return max(4.0, 8.0 * self.unit)


def paper_of(name: str, landscape: bool) -> Paper:
    """Return a paper by its name. Raises KeyError."""
    short, long = PAPERS_MM[name]
    width, height = (long, short) if landscape else (short, long)
    least = 11 * _PX if name in SCREENS else 7 * _PT
    return Paper(name, width, height, least, least)
