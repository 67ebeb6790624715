"""The drawing model: rectangles, circles, paths and text in millimetres, painted alike on screen, in SVG and in PNG.

Colours are names ("paper", "ink", a group's ink); whoever paints maps them to real ones.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

Anchor = Literal["start", "middle", "end"]
Steps = tuple[tuple[str | float, ...], ...]
"""Of a path: a letter and the numbers that go with it, each."""


class Picture(Struct, frozen=True):
    """A picture of one's own: its bytes in base64, what they are, and its width for a height of 1."""

    data: str
    mime: str
    proportion: float


Icons = Callable[[str], Steps | Picture | None]
"""The outline of an icon by name, in a square of side 1, or a picture by its file's name; None where there is none."""


class Stroke(Struct, frozen=True, gc=False):
    """A line's colour by name and its width in mm."""

    colour: str
    width: float


class Rect(Struct, frozen=True, gc=False):
    """A rectangle with rounded corners, in mm."""

    x: float
    y: float
    w: float
    h: float
    radius: float = 0.0
    fill: str | None = None
    stroke: Stroke | None = None


class Circle(Struct, frozen=True, gc=False):
    """A circle about (x, y), in mm."""

    x: float
    y: float
    r: float
    fill: str | None = None
    stroke: Stroke | None = None


class Path(Struct, frozen=True, gc=False):
    """``steps``: ("M", x, y), ("L", x, y), ("C", x1, y1, x2, y2, x, y), ("Z",)."""

    steps: Steps
    fill: str | None = None
    stroke: Stroke | None = None


class Image(Struct, frozen=True):
    """A picture within a rectangle, in mm, as large as it fits in its own proportion."""

    x: float
    y: float
    w: float
    h: float
    picture: Picture


class Text(Struct, frozen=True, gc=False):
    """One line of text; (x, y) is on its baseline. ``width`` is as measured, in mm."""

    x: float
    y: float
    text: str
    size: float
    weight: int
    colour: str
    width: float
    anchor: Anchor = "start"

    def box(self, ascent: float, descent: float) -> tuple[float, float, float, float]:
        """Left, top, right, bottom before the group's turn; ascent and descent in em."""
        left = self.x - {"start": 0.0, "middle": self.width / 2, "end": self.width}[self.anchor]
        return left, self.y - ascent * self.size, left + self.width, self.y + descent * self.size


Item = Rect | Circle | Path | Text | Image


class Group(Struct, frozen=True):
    """Items turned together by ``angle`` degrees about ``pivot``. ``name`` is the full text where the label is short."""

    items: tuple[Item, ...]
    key: str | None = None
    name: str = ""
    angle: float = 0.0
    pivot: tuple[float, float] = (0.0, 0.0)


class Drawing(Struct, frozen=True):
    """A sheet in mm. ``description`` says in words what it shows; ``back``: it belongs on the back of the sheet before."""

    width: float
    height: float
    title: str
    description: str
    groups: tuple[Group, ...]
    back: bool = False

    def texts(self) -> Iterator[tuple[Group, Text]]:
        for group in self.groups:
            for item in group.items:
                if isinstance(item, Text):
                    yield group, item

    def find(self, key: str) -> Group | None:
        return next((group for group in self.groups if group.key == key), None)

    def resized(self, width: float, height: float) -> Drawing:
        return replace(self, width=width, height=height)
