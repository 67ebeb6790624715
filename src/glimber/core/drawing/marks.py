"""Signs: the mark of a group, drawn with its ink so that colour is never alone, and the sign of a gesture."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Final

from glimber.core.drawing.drawing import Circle, Item, Path, Rect, Stroke

SIGNS: Final = {"hold": "–", "double": "··", "tap-hold": "·–", "tap": "·", "press": "·"}
"""A dot for short and a dash for long, as the finger moves; knobs have an open arc instead, see ``arc``."""


def mark(name: str, x: float, y: float, size: float, colour: str) -> tuple[Item, ...]:
    """Return a group's mark centred on (x, y), ``size`` across."""
    r = size / 2
    line = Stroke(colour, size * 0.2)
    if name == "ring":
        return (Circle(x, y, r * 0.82, stroke=line),)
    if name == "bar":
        return (Rect(x - r, y - r * 0.28, size, r * 0.56, r * 0.2, fill=colour),)
    if name == "wedge":
        return (Path((("M", x, y - r), ("L", x + r, y + r * 0.8), ("L", x - r, y + r * 0.8), ("Z",)), fill=colour),)
    if name == "pair":
        return (Circle(x - r * 0.55, y, r * 0.4, fill=colour), Circle(x + r * 0.55, y, r * 0.4, fill=colour))
    if name == "cross":
        steps = (("M", x - r, y), ("L", x + r, y), ("M", x, y - r), ("L", x, y + r))
        return (Path(steps, stroke=line),)
    if name == "wave":
        steps_w: tuple[tuple[str | float, ...], ...] = (
            ("M", x - r, y), ("C", x - r * 0.5, y - r * 1.1, x - r * 0.3, y - r * 0.7, x, y),
            ("C", x + r * 0.3, y + r * 0.7, x + r * 0.5, y + r * 1.1, x + r, y),
        )  # fmt: skip
        return (Path(steps_w, stroke=line),)
    if name == "square":
        return (Rect(x - r * 0.78, y - r * 0.78, size * 0.78, size * 0.78, stroke=line),)
    steps_n = (("M", x - r, y - r * 0.7), ("L", x, y - r * 0.7), ("L", x, y + r * 0.7), ("L", x + r, y + r * 0.7))
    return (Path(steps_n, stroke=line),)  # notch


def arc(way: str, x: float, y: float, size: float, colour: str) -> tuple[Item, ...]:
    """Return an open arc with its arrow, centred on (x, y): a knob turned "left" or "right"."""
    r, side = size * 0.4, 1 if way == "right" else -1
    points = [(x + side * r * sin(a), y - r * cos(a)) for a in (-2.2 + 4.0 * i / 10 for i in range(11))]
    steps: list[tuple[str | float, ...]] = [("M", *points[0])]
    steps += [("L", px, py) for px, py in points[1:]]
    end_x, end_y = points[-1]
    heading = 1.8 + (pi / 2)
    for turn in (2.5, -2.5):
        a = heading + turn
        steps += [("M", end_x, end_y), ("L", end_x + side * r * 0.7 * sin(a), end_y - r * 0.7 * cos(a))]
    return (Path(tuple(steps), stroke=Stroke(colour, size * 0.12)),)


LAMPS: Final = tuple(f"lamp-{step}" for step in range(6))
"""Names of the colours of a lamp, grip 0 to 1."""


def lamp(grip: float, x: float, y: float, size: float) -> tuple[Item, ...]:
    """Return how firmly a binding is held, centred on (x, y): brighter the firmer, and larger, so that it is seen without
    colour."""
    step = min(5, max(0, round(grip * 5)))
    r = size / 2
    return (
        Circle(x, y, r, stroke=Stroke("paper-line", size * 0.12)),
        Circle(x, y, r * (0.25 + 0.65 * step / 5), LAMPS[step]),
    )
