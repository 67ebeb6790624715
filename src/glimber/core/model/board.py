"""Boards: keys and knobs with places, sizes and fingers, and the geometry between them.

Lengths are in key units (u, 19.05 mm); x runs to the right, y down; a positive angle turns clockwise.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from math import cos, hypot, inf, radians, sin
from typing import Annotated, Final, Literal, get_args

from msgspec import Meta, Struct, field

Number = Annotated[float, Meta(ge=-1000, le=1000)]
Size = Annotated[float, Meta(gt=0, le=100)]
Text = Annotated[str, Meta(min_length=1)]
Point = tuple[Number, Number]
Finger = Literal[
    "left-little", "left-ring", "left-middle", "left-index", "left-thumb",
    "right-little", "right-ring", "right-middle", "right-index", "right-thumb",
]  # fmt: skip
ReachMark = Literal["easy", "stretch", "avoid"]

FINGERS: Final = get_args(Finger)
REACHES: Final = get_args(ReachMark)
NEIGHBOUR_GAP_U: Final = 0.35


class Key(Struct, frozen=True, dict=True):
    """One key. ``x`` and ``y`` are its upper left corner before it is turned by ``angle`` degrees about ``pivot``."""

    id: Text
    x: Number
    y: Number
    w: Size = 1.0
    h: Size = 1.0
    angle: Number = 0.0
    pivot: Point | None = None
    finger: Finger | None = None
    home: bool = False
    reach: ReachMark | None = None
    mirror: Text | None = None
    print: str | None = None

    def _turned(self, point: Point) -> Point:
        if not self.angle:
            return point
        cx, cy = self.pivot or (self.x + self.w / 2, self.y + self.h / 2)
        dx, dy = point[0] - cx, point[1] - cy
        c, s = cos(radians(self.angle)), sin(radians(self.angle))
        return cx + dx * c - dy * s, cy + dx * s + dy * c

    @cached_property
    def centre(self) -> Point:
        """Centre after turning, in u."""
        return self._turned((self.x + self.w / 2, self.y + self.h / 2))

    @cached_property
    def outline(self) -> tuple[Point, Point, Point, Point]:
        """Corners after turning, clockwise from the upper left one, in u."""
        x, y, w, h = self.x, self.y, self.w, self.h
        return (
            self._turned((x, y)),
            self._turned((x + w, y)),
            self._turned((x + w, y + h)),
            self._turned((x, y + h)),
        )

    @property
    def hand(self) -> str | None:
        return self.finger.partition("-")[0] if self.finger else None

    @property
    def digit(self) -> str | None:
        """Return which finger of the hand: index, middle, ring, little or thumb."""
        return self.finger.partition("-")[2] if self.finger else None


class Knob(Struct, frozen=True):
    """One knob, drawn as a circle in the square whose upper left corner is (x, y)."""

    id: Text
    x: Number
    y: Number
    w: Size = 1.0
    print: str | None = None

    @property
    def centre(self) -> Point:
        return self.x + self.w / 2, self.y + self.w / 2


class Board(Struct, frozen=True, dict=True, weakref=True):
    """A physical keyboard or pad."""

    id: str
    name: str
    keys: tuple[Key, ...]
    knobs: tuple[Knob, ...] = ()
    homes: Mapping[str, Point] = field(default_factory=dict)
    stand_in: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def by_id(self) -> Mapping[str, Key]:
        return {key.id: key for key in self.keys}

    @cached_property
    def knob_ids(self) -> frozenset[str]:
        return frozenset(knob.id for knob in self.knobs)

    def has(self, key: str) -> bool:
        return key in self.by_id or key in self.knob_ids

    def centre(self, keys: tuple[str, ...]) -> Point | None:
        """Centre of a key, a knob, or midway between two keys struck together; None when one is not on the board."""
        knobs = {knob.id: knob.centre for knob in self.knobs}
        points = [self.by_id[key].centre if key in self.by_id else knobs.get(key) for key in keys]
        known = [point for point in points if point is not None]
        if not known or len(known) < len(points):
            return None
        return sum(x for x, _ in known) / len(known), sum(y for _, y in known) / len(known)

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of everything on the board, in u."""
        corners = [corner for key in self.keys for corner in key.outline]
        corners += [(knob.x + a * knob.w, knob.y + a * knob.w) for knob in self.knobs for a in (0.0, 1.0)]
        return _box(corners) if corners else (0.0, 0.0, 1.0, 1.0)

    @cached_property
    def home_block(self) -> tuple[float, float, float, float] | None:
        """Left, top, right, bottom around the outlines of the home keys; None on a board without home keys."""
        corners = [corner for key in self.keys if key.home for corner in key.outline]
        return _box(corners) if corners else None

    def off_home_u(self, point: Point) -> float:
        """Return how far a point lies outside the box around the home keys, in u; 0 inside or without home keys."""
        if self.home_block is None:
            return 0.0
        left, top, right, bottom = self.home_block
        x, y = point
        return hypot(max(left - x, x - right, 0.0), max(top - y, y - bottom, 0.0))

    @cached_property
    def neighbours(self) -> Mapping[str, frozenset[str]]:
        """Keys whose outlines are at most 0.35 u apart, for each key."""
        found: dict[str, set[str]] = {key.id: set() for key in self.keys}
        for i, one in enumerate(self.keys):
            reach = NEIGHBOUR_GAP_U + hypot(one.w, one.h) / 2
            for other in self.keys[i + 1 :]:
                apart = hypot(one.centre[0] - other.centre[0], one.centre[1] - other.centre[1])
                if apart > reach + hypot(other.w, other.h) / 2:
                    continue
                if gap_u(one, other) <= NEIGHBOUR_GAP_U + 1e-9:
                    found[one.id].add(other.id)
                    found[other.id].add(one.id)
        return {key: frozenset(others) for key, others in found.items()}

    def mirror_of(self, key: str) -> str | None:
        """Return the key the board names as mirror, from either side."""
        if key in self.by_id and self.by_id[key].mirror:
            return self.by_id[key].mirror
        return next((other.id for other in self.keys if other.mirror == key), None)


def _box(points: list[Point]) -> tuple[float, float, float, float]:
    xs, ys = [x for x, _ in points], [y for _, y in points]
    return min(xs), min(ys), max(xs), max(ys)


def gap_u(one: Key, other: Key) -> float:
    """Distance between the outlines of two keys, in u; 0 where they touch or overlap."""
    if _overlap(one.outline, other.outline):
        return 0.0
    best = inf
    for a, b in ((one.outline, other.outline), (other.outline, one.outline)):
        for corner in a:
            for i in range(4):
                best = min(best, _to_segment(corner, b[i], b[(i + 1) % 4]))
    return best


def _overlap(a: tuple[Point, ...], b: tuple[Point, ...]) -> bool:
    """Separating axis test for two convex outlines."""
    for outline in (a, b):
        for i in range(4):
            (x1, y1), (x2, y2) = outline[i], outline[(i + 1) % 4]
            nx, ny = y1 - y2, x2 - x1
            in_a = [nx * x + ny * y for x, y in a]
            in_b = [nx * x + ny * y for x, y in b]
            if max(in_a) <= min(in_b) or max(in_b) <= min(in_a):
                return False
    return True


def _to_segment(point: Point, start: Point, end: Point) -> float:
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = dx * dx + dy * dy
    along = 0.0 if length == 0 else ((point[0] - start[0]) * dx + (point[1] - start[1]) * dy) / length
    along = min(1.0, max(0.0, along))
    return hypot(point[0] - start[0] - along * dx, point[1] - start[1] - along * dy)
