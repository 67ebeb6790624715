"""Print sheets: cards in their true size on larger paper, several to a page, with marks where to cut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import ceil, sqrt
from typing import Final

from glimber.core.cards.drawing import Circle, Drawing, Group, Image, Item, Path, Rect, Stroke, Text
from glimber.core.cards.paper import PAPERS_MM

MARGIN: Final = 6.0
_MARK: Final = 4.0
_GAP: Final = 6.0


def print_sheets(sheets: Sequence[Drawing], paper: str | None = None, per_page: int = 1) -> list[Drawing]:
    """Cards on pages of a paper (A4 unless said), at most ``per_page`` on each, never larger than drawn; one that is larger than
    its place is made smaller. Cards follow each other in order, so that what belongs together stays together."""
    short, long = PAPERS_MM[paper or "A4"]
    pages: list[Drawing] = []
    waiting = list(sheets)
    while waiting:
        page, taken = _page(waiting[: max(1, per_page)], short, long, max(1, per_page))
        pages.append(page)
        waiting = waiting[taken:]
    return pages


def _page(sheets: Sequence[Drawing], short: float, long: float, per_page: int) -> tuple[Drawing, int]:
    """One page, upright or lying, whichever shows its first card larger; how many cards it took."""
    ways = []
    for width, height in ((short, long), (long, short)):
        for across in range(1, per_page + 1):
            down = ceil(per_page / across)
            cell = (
                (width - 2 * MARGIN - _GAP * (across - 1)) / across,
                (height - 2 * MARGIN - _GAP * (down - 1)) / down,
            )
            if min(cell) > 10.0:
                scale = min(1.0, *(min(cell[0] / one.width, cell[1] / one.height) for one in sheets))
                ways.append((round(scale, 6), -abs(sqrt(across / down) - 1), width, height, across, cell))
    _, _, width, height, across, cell = max(ways)
    groups: list[Group] = []
    for place, sheet in enumerate(sheets):
        x = MARGIN + (place % across) * (cell[0] + _GAP)
        y = MARGIN + (place // across) * (cell[1] + _GAP)
        scale = min(1.0, cell[0] / sheet.width, cell[1] / sheet.height)
        w, h = sheet.width * scale, sheet.height * scale
        left, top = x + (cell[0] - w) / 2, y + (cell[1] - h) / 2
        groups += [_moved(group, scale, left, top) for group in sheet.groups]
        groups.append(Group(tuple(_marks(left, top, w, h))))
    title = sheets[0].title if len(sheets) == 1 else f"{sheets[0].title} and {len(sheets) - 1} more"
    said = " ".join(sheet.description for sheet in sheets)
    return Drawing(width, height, title, said, tuple(groups)), len(sheets)


def _marks(x: float, y: float, w: float, h: float) -> list[Item]:
    """Short lines outside each corner, where to cut."""
    line, off = Stroke("faint", 0.15), 1.0
    steps: list[tuple[str | float, ...]] = []
    for cx, dx in ((x, -1), (x + w, 1)):
        for cy, dy in ((y, -1), (y + h, 1)):
            steps += [
                ("M", cx + dx * off, cy),
                ("L", cx + dx * _MARK, cy),
                ("M", cx, cy + dy * off),
                ("L", cx, cy + dy * _MARK),
            ]
    return [Path(tuple(steps), stroke=line)]


def _moved(group: Group, scale: float, x: float, y: float) -> Group:
    items = tuple(_item(item, scale, x, y) for item in group.items)
    return replace(group, items=items, pivot=(group.pivot[0] * scale + x, group.pivot[1] * scale + y))


def _item(item: Item, k: float, x: float, y: float) -> Item:
    if isinstance(item, Text):
        return replace(item, x=item.x * k + x, y=item.y * k + y, size=item.size * k, width=item.width * k)
    if isinstance(item, Image):
        return replace(item, x=item.x * k + x, y=item.y * k + y, w=item.w * k, h=item.h * k)
    stroke = replace(item.stroke, width=item.stroke.width * k) if item.stroke else None
    if isinstance(item, Rect):
        return replace(
            item, x=item.x * k + x, y=item.y * k + y, w=item.w * k, h=item.h * k, radius=item.radius * k, stroke=stroke
        )
    if isinstance(item, Circle):
        return replace(item, x=item.x * k + x, y=item.y * k + y, r=item.r * k, stroke=stroke)
    steps = tuple(
        (step[0], *(float(v) * k + (y if at % 2 else x) for at, v in enumerate(step[1:]))) for step in item.steps
    )
    return replace(item, steps=steps, stroke=stroke)
