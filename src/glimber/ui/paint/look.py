"""Every colour, size and distance of Glimber, in one place. No Qt here: the command line paints cards with it too."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

from msgspec import Struct

INKS_ON_PAPER: Final = MappingProxyType(
    {
        "tide": "#2E6F9E", "moss": "#456F34", "clay": "#A4502F", "plum": "#7A3F72",
        "sand": "#7A5F14", "slate": "#4B5866", "rose": "#A83A55", "pine": "#1F6B62",
    }
)  # fmt: skip
INKS_ON_DESK: Final = MappingProxyType(
    {
        "tide": "#6FB1DD", "moss": "#93C47D", "clay": "#E08C67", "plum": "#C58ABC",
        "sand": "#D9B95B", "slate": "#9FB0C0", "rose": "#EE8BA2", "pine": "#62BDAF",
    }
)  # fmt: skip

PAPER: Final[Mapping[str, str]] = MappingProxyType(
    {
        "paper": "#F6F1E6", "paper-front": "#EDE5D2", "paper-line": "#CDC4B2", "ink": "#23262B", "prints": "#5F6772",
        "tile": "#FFFDF8", "faint": "#8C8778", **INKS_ON_PAPER,
        "lamp-0": "#D8D2C4", "lamp-1": "#CDBB92", "lamp-2": "#C9A65A",
        "lamp-3": "#C48F2A", "lamp-4": "#B57400", "lamp-5": "#8A5200",
    }
)  # fmt: skip
"""The meaning of a drawing's colour names. The same by day and by night: paper is paper."""


class Theme(Struct, frozen=True):
    """The colours of one desk. ``lamp`` has six steps of grip from 0 to 1."""

    name: str
    desk: str
    panel: str
    raised: str
    line: str
    text: str
    quiet: str
    faint: str
    lamp: tuple[str, str, str, str, str, str]
    slip: str
    settled: str
    on_lamp: str
    inks: Mapping[str, str]

    @property
    def light(self) -> str:
        """The lamp that marks where one is; words are written in it too, so on the day desk it is the firmest one."""
        return self.lamp[4] if self.name == "dark" else self.lamp[5]

    def lamp_at(self, grip: float) -> str:
        """Return the lamp of a grip from 0 to 1, between the six steps."""
        place = max(0.0, min(1.0, grip)) * (len(self.lamp) - 1)
        low = min(int(place), len(self.lamp) - 2)
        return mixed(self.lamp[low], self.lamp[low + 1], place - low)


def mixed(one: str, other: str, share: float) -> str:
    """Return a colour between two, ``share`` of the way."""
    channels = [round(int(one[i : i + 2], 16) * (1 - share) + int(other[i : i + 2], 16) * share) for i in (1, 3, 5)]
    return "#" + "".join(f"{channel:02X}" for channel in channels)


DARK: Final = Theme(
    "dark", "#12151B", "#1A1E26", "#242A34", "#333B47", "#ECE7DB", "#A9AFB8", "#8A929E",
    ("#2B303A", "#4A4334", "#7A5E2E", "#B8862F", "#F0B948", "#FFE3A0"), "#E8795B", "#7FC8A9", "#23262B", INKS_ON_DESK,
)  # fmt: skip
DAY: Final = Theme(
    "day", "#E9E5DA", "#F3F0E8", "#FFFFFF", "#C9C2B3", "#1F232A", "#565D68", "#5F656D",
    ("#D8D2C4", "#CDBB92", "#C9A65A", "#C48F2A", "#B57400", "#8A5200"), "#A94026", "#27704F", "#FFFFFF", INKS_ON_PAPER,
)  # fmt: skip
THEMES: Final = {theme.name: theme for theme in (DARK, DAY)}

LIT_ON_PAPER: Final = "#B8862F"
"""A filled stroke on paper: the lamp of the dark desk that can be seen there."""

SIZES: Final = (48, 28, 20, 15, 13, 11)
PROMPT, TITLE, HEADING, LARGE, BODY, SMALL = SIZES
GRID: Final = 4
PANEL_RADIUS: Final = 10
KEY_RADIUS: Final = 6
TOP_LINE: Final = 44
BOTTOM_LINE: Final = 32
FAMILY: Final = "Manrope"
