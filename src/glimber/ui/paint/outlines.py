"""A drawing with its type as outlines, for viewers that ignore embedded fonts and would draw over edges."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtGui import QPainterPath

from glimber.core.drawing.drawing import Drawing, Item, Path, Steps, Text
from glimber.ui.paint.fonts import font, load_fonts

_TEXT_PX = 100
_KINDS = {QPainterPath.ElementType.MoveToElement: "M", QPainterPath.ElementType.LineToElement: "L",
          QPainterPath.ElementType.CurveToElement: "C"}  # fmt: skip


def outlined(sheet: Drawing) -> Drawing:
    """Return a drawing without text: every line of it a filled path of the same ink. Needs the toolkit."""
    load_fonts()
    groups = tuple(replace(group, items=tuple(_outlined(item) for item in group.items)) for group in sheet.groups)
    return replace(sheet, groups=groups)


def _outlined(item: Item) -> Item:
    if not isinstance(item, Text):
        return item
    path = QPainterPath()
    path.addText(0.0, 0.0, font(_TEXT_PX, item.weight), item.text)
    scale = item.size / _TEXT_PX
    left = item.x - {"start": 0.0, "middle": item.width / 2, "end": item.width}[item.anchor]
    return Path(_steps(path, scale, left, item.y), fill=item.colour)


def _steps(path: QPainterPath, scale: float, x: float, y: float) -> Steps:
    """Return the elements of a path, scaled and moved; the two points that follow a curve are part of it."""
    steps: list[tuple[str | float, ...]] = []
    for place in range(path.elementCount()):
        element = path.elementAt(place)
        point = (x + element.x * scale, y + element.y * scale)
        kind = _KINDS.get(element.type)
        if kind is None:
            steps[-1] = (*steps[-1], *point)
        else:
            steps.append((kind, *point))
    return tuple(steps)
