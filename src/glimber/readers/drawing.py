"""A board from an SVG drawing: every shape with an id is a key, every circle a knob. Scripts and references are not followed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from math import atan2, degrees, hypot, inf
from statistics import median
from typing import Final

from msgspec import Struct

from glimber.core.edit.shape import guess_fingers
from glimber.core.model.board import Board, Key, Knob
from glimber.core.notation.keys import is_slug
from glimber.readers.element import Element
from glimber.readers.safesvg import SvgError, parse_svg

Matrix = tuple[float, float, float, float, float, float]
_SAME: Final[Matrix] = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
_NUMBER: Final = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_CALL: Final = re.compile(r"(matrix|translate|scale|rotate)\s*\(([^)]*)\)")
MOST_SHAPES: Final = 2000
WIDEST_UNITS: Final = 500
SMALLEST_UNITS: Final = 0.05


class DrawingError(ValueError):
    """A drawing that no board can be made of; the message says why."""


def board_from_svg(data: bytes, id: str, name: str) -> tuple[Board, list[str]]:
    """Return the board of a drawing, and what in it was no key. Raises DrawingError.

    A key unit is the middle one of the shorter sides of all keys; places are counted from the upper left key. Fingers are
    guessed from the places.
    """
    try:
        root = parse_svg(data)
    except SvgError as error:
        raise DrawingError(str(error)) from error
    found, problems = _shapes_with_ids(root)
    if not found:
        raise DrawingError("no shape in it has an id; give every key's shape the id of the key")
    unit = median(min(_sides(shape.corners)) for shape in found)
    if not 0 < unit < inf:
        raise DrawingError("its shapes have no size")
    small = {shape.key for shape in found if min(_sides(shape.corners)) < SMALLEST_UNITS * unit}
    problems += [f"{shape.key} is too small to be a key" for shape in found if shape.key in small]
    found = [shape for shape in found if shape.key not in small]
    if not found:
        raise DrawingError("its shapes have no size")
    corners = _corners_within(found, unit)
    left, top = min(x for x, _ in corners), min(y for _, y in corners)
    keys = tuple(_key(shape.key, shape.corners, unit, left, top) for shape in found if not shape.is_knob)
    knobs = tuple(_knob(shape.key, shape.corners, unit, left, top) for shape in found if shape.is_knob)
    return guess_fingers(Board(id, name, keys, knobs)), problems


def _corners_within(shapes: Sequence[_Shape], unit: float) -> list[tuple[float, float]]:
    """Return all corners of shapes. Raises DrawingError where they are too far apart."""
    corners = [corner for shape in shapes for corner in shape.corners]
    if not max(abs(value) for corner in corners for value in corner) / unit < WIDEST_UNITS:
        raise DrawingError(f"its shapes lie more than {WIDEST_UNITS} keys apart, or have no number for a place")
    return corners


class _Shape(Struct, frozen=True):
    """A shape with the id of a key: its corners in the drawing's own units."""

    key: str
    corners: list[tuple[float, float]]
    is_knob: bool


def _shapes_with_ids(root: Element) -> tuple[list[_Shape], list[str]]:
    """Return the shapes that are keys, each id once, and what of the others could not be one."""
    found: dict[str, _Shape] = {}
    problems: list[str] = []
    for element, matrix in _shapes(root, _SAME, 0):
        if len(found) >= MOST_SHAPES:
            raise DrawingError(f"more than {MOST_SHAPES} shapes with an id")
        key = element.get("id")
        corners, is_knob = _corners(element)
        if corners is None:
            continue
        if not is_slug(key):
            problems.append(f"{key!r} cannot be a key; expected a code such as KeyS or a word")
        elif key in found:
            problems.append(f"{key} is there twice; the second shape is left out")
        else:
            found[key] = _Shape(key, [_apply(matrix, x, y) for x, y in corners], is_knob)
    return list(found.values()), problems


def _shapes(element: Element, matrix: Matrix, depth: int) -> list[tuple[Element, Matrix]]:
    """Return shapes with an id, each with all the transforms above it; what is only defined is not drawn."""
    if not isinstance(element.tag, str) or depth > 60:
        return []
    tag = element.tag.rpartition("}")[2]
    if tag in ("defs", "symbol", "clipPath", "mask", "pattern", "metadata", "style", "script"):
        return []
    matrix = _times(matrix, _matrix(element.get("transform", "")))
    if tag in ("rect", "circle", "ellipse", "polygon", "path") and element.get("id"):
        return [(element, matrix)]
    return [pair for child in element for pair in _shapes(child, matrix, depth + 1)]


def _corners(element: Element) -> tuple[list[tuple[float, float]] | None, bool]:
    """Return the corners of a shape before its transforms, and whether it is round; None for one without a size."""
    tag = element.tag.rpartition("}")[2]

    def number(name: str) -> float:
        match = _NUMBER.search(element.get(name, "0"))
        return float(match.group()) if match else 0.0

    if tag == "rect":
        x, y, w, h = (number(name) for name in ("x", "y", "width", "height"))
        return ([(x, y), (x + w, y), (x + w, y + h), (x, y + h)] if w > 0 and h > 0 else None), False
    if tag in ("circle", "ellipse"):
        rx = number("r") if tag == "circle" else number("rx")
        ry = number("r") if tag == "circle" else number("ry")
        x, y = number("cx"), number("cy")
        return (
            [(x - rx, y - ry), (x + rx, y - ry), (x + rx, y + ry), (x - rx, y + ry)] if rx > 0 and ry > 0 else None
        ), True
    points = _points(element.get("points", "")) if tag == "polygon" else _path_points(element.get("d", ""))
    if len(points) < 3:
        return None, False
    if len(points) in (4, 5) and (len(points) == 4 or points[0] == points[-1]):
        return points[:4], False
    xs, ys = [x for x, _ in points], [y for _, y in points]
    if max(xs) <= min(xs) or max(ys) <= min(ys):
        return None, False
    return [(min(xs), min(ys)), (max(xs), min(ys)), (max(xs), max(ys)), (min(xs), max(ys))], False


def _points(text: str) -> list[tuple[float, float]]:
    numbers = [float(number) for number in _NUMBER.findall(text)]
    return list(zip(numbers[::2], numbers[1::2], strict=False))


def _path_points(text: str) -> list[tuple[float, float]]:
    """Return where a path goes through; of its curves only the ends."""
    takes = {"m": 2, "l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2, "a": 7}
    points: list[tuple[float, float]] = []
    x = y = 0.0
    for command, rest in re.findall(r"([A-Za-z])([^A-Za-z]*)", text):
        lower = command.lower()
        count = takes.get(lower, 0)
        numbers = [float(number) for number in _NUMBER.findall(rest)]
        for at in range(0, len(numbers) - count + 1, count) if count else ():
            part = numbers[at : at + count]
            relative = command.islower()
            if lower == "h":
                x = x + part[0] if relative else part[0]
            elif lower == "v":
                y = y + part[0] if relative else part[0]
            else:
                x, y = (x + part[-2], y + part[-1]) if relative else (part[-2], part[-1])
            points.append((x, y))
    return points


def _matrix(text: str) -> Matrix:
    found = _SAME
    for name, rest in _CALL.findall(text):
        n = [float(number) for number in _NUMBER.findall(rest)]
        if name == "matrix" and len(n) == 6:
            step: Matrix = (n[0], n[1], n[2], n[3], n[4], n[5])
        elif name == "translate" and n:
            step = (1.0, 0.0, 0.0, 1.0, n[0], n[1] if len(n) > 1 else 0.0)
        elif name == "scale" and n:
            step = (n[0], 0.0, 0.0, n[1] if len(n) > 1 else n[0], 0.0, 0.0)
        elif name == "rotate" and n:
            step = _rotation(n[0], *(n[1:3] if len(n) > 2 else (0.0, 0.0)))
        else:
            continue
        found = _times(found, step)
    return found


def _rotation(angle: float, cx: float, cy: float) -> Matrix:
    from math import cos, radians, sin

    c, s = cos(radians(angle)), sin(radians(angle))
    return c, s, -s, c, cx - c * cx + s * cy, cy - s * cx - c * cy


def _times(one: Matrix, other: Matrix) -> Matrix:
    a, b, c, d, e, f = one
    g, h, i, j, k, m = other
    return a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f


def _apply(matrix: Matrix, x: float, y: float) -> tuple[float, float]:
    a, b, c, d, e, f = matrix
    return a * x + c * y + e, b * x + d * y + f


def _sides(corners: Sequence[tuple[float, float]]) -> tuple[float, float]:
    (x1, y1), (x2, y2), _, (x4, y4) = corners
    return hypot(x2 - x1, y2 - y1), hypot(x4 - x1, y4 - y1)


def _key(id: str, corners: Sequence[tuple[float, float]], unit: float, left: float, top: float) -> Key:
    """Return a key by the corners of its shape: its size, its turn about its middle, and where it would be unturned."""
    w, h = (side / unit for side in _sides(corners))
    (x1, y1), (x2, y2) = corners[0], corners[1]
    angle = degrees(atan2(y2 - y1, x2 - x1))
    cx = sum(x for x, _ in corners) / 4 / unit - left / unit
    cy = sum(y for _, y in corners) / 4 / unit - top / unit
    turned = abs(angle) > 0.5
    return Key(
        id, round(cx - w / 2, 3), round(cy - h / 2, 3), round(w, 3), round(h, 3), round(angle, 2) if turned else 0.0,
        (round(cx, 3), round(cy, 3)) if turned else None,
    )  # fmt: skip


def _knob(id: str, corners: Sequence[tuple[float, float]], unit: float, left: float, top: float) -> Knob:
    w = max(_sides(corners)) / unit
    cx, cy = sum(x for x, _ in corners) / 4, sum(y for _, y in corners) / 4
    return Knob(id, round((cx - left) / unit - w / 2, 3), round((cy - top) / unit - w / 2, 3), round(w, 3))
