"""Print sheets: cards in their true size on larger paper, several to a page, with marks where to cut."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import product
from math import ceil, cos, radians, sin, sqrt
from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.drawing.drawing import Circle, Drawing, Group, Image, Item, Path, Rect, Stroke, Text
from glimber.core.drawing.paper import PAPERS_MM

Edge = Literal["long", "short"]
MARGIN: Final = 6.0
_MARK: Final = 4.0
_GAP: Final = 6.0
EXACT: Final = 0.02
"""Halves of a paper are rounded to whole mm: a card may be over by so much."""
EVERY_CHOICE: Final = 5


class _Place(Struct, frozen=True):
    """A card's rectangle on a page, in mm. ``scale`` 1 is true size; ``turned``: it lies on its side."""

    x: float
    y: float
    w: float
    h: float
    scale: float = 1.0
    turned: bool = False


class _Layout(Struct, frozen=True):
    """A page and the places of the cards on it."""

    width: float
    height: float
    places: tuple[_Place, ...]

    def behind(self, edge: Edge) -> list[_Place]:
        """Return where the places are on the back of the page, once it is turned over on one of its edges."""
        sideways = (edge == "long") == (self.height >= self.width)
        return [
            replace(one, x=self.width - one.x - one.w) if sideways else replace(one, y=self.height - one.y - one.h)
            for one in self.places
        ]


def print_sheets(
    sheets: Sequence[Drawing], paper: str | None = None, per_page: int = 1, backs: Edge | None = None
) -> list[Drawing]:
    """Return cards on pages of a paper (A4 by default), at most ``per_page`` on each, in their order.

    Cards are in true size wherever they fit so: turned, and without gaps or margins where only that fits. Of cards of several
    sizes that do not fit on one page the rest goes on the next; only cards of one size that are too large for two on a page are
    made smaller, because more on a page was asked for, and a card that is larger than the paper.

    ``backs``: the edge that a two-sided printer turns the paper on. Then each page is followed by its back, on which the back
    of every card (answers, reasons) lies exactly behind it.
    """
    short, long = PAPERS_MM[paper or "A4"]
    count = max(1, per_page)
    both = _with_backs(sheets) if backs is not None else [(sheet, None) for sheet in sheets]
    turned = any(back is not None for _, back in both)
    pages: list[Drawing] = []
    first = 0
    while first < len(both):
        layout = _layout([sheet for sheet, _ in both[first : first + count]], short, long, count)
        group = both[first : first + len(layout.places)]
        first += len(group)
        if count == 1 and sorted((group[0][0].width, group[0][0].height)) == [short, long]:
            # As large as the paper: it is the page, and nothing is left to cut.
            pages += [one for one in (group[0][0], group[0][1]) if one is not None]
            if backs is not None and turned and group[0][1] is None:
                pages.append(Drawing(group[0][0].width, group[0][0].height, "Empty back", "", (), back=True))
            continue
        pages.append(_page(layout, [(sheet, place) for (sheet, _), place in zip(group, layout.places, strict=True)]))
        if backs is not None and turned:
            behind = zip(group, layout.behind(backs), strict=True)
            pages.append(replace(_page(layout, [(back, at) for (_, back), at in behind if back is not None]), back=True))
    return pages


def least_scale(sheets: Sequence[Drawing], paper: str | None = None, per_page: int = 1) -> float:
    """Return the smallest scale that ``print_sheets`` draws one of the cards in; 1: all are in true size."""
    short, long = PAPERS_MM[paper or "A4"]
    first, least = 0, 1.0
    while first < len(sheets):
        if per_page > 1 or sorted((sheets[first].width, sheets[first].height)) != [short, long]:
            places = _layout(sheets[first : first + per_page], short, long, per_page).places
            least = min(least, *(place.scale for place in places))
            first += len(places)
        else:
            first += 1
    return least


def _with_backs(sheets: Sequence[Drawing]) -> list[tuple[Drawing, Drawing | None]]:
    """Return every front with its back, where it has one."""
    found: list[tuple[Drawing, Drawing | None]] = []
    for sheet in sheets:
        if sheet.back and found and found[-1][1] is None:
            found[-1] = (found[-1][0], sheet)
        else:
            found.append((sheet, None))
    return found


def _layout(sheets: Sequence[Drawing], short: float, long: float, per_page: int) -> _Layout:
    """Return the places of the first of some cards: all of them, or as many of several sizes as fit in true size."""
    sizes = [(sheet.width, sheet.height) for sheet in sheets]
    found = max(_true_sizes(sizes, short, long), key=lambda one: len(one.places), default=None)
    most = len(found.places) if found is not None else 0
    several = len({tuple(sorted(one)) for one in sizes}) > 1
    if found is not None and (most == len(sizes) or (several and most > 0)):
        return _centred(found)
    return _cells(sizes, short, long, per_page)


def _true_sizes(sizes: Sequence[tuple[float, float]], short: float, long: float) -> Iterator[_Layout]:
    """Yield every way to lay cards out in true size, those with room to cut first."""
    for margin, gap in ((MARGIN, _GAP), (MARGIN, 0.0), (0.0, 0.0)):
        for width, height in ((short, long), (long, short)):
            for turns in _turns(sizes):
                places = _rows(sizes, turns, width, height, margin, gap)
                if places:
                    yield _Layout(width, height, tuple(places))


def _turns(sizes: Sequence[tuple[float, float]]) -> Iterator[tuple[bool, ...]]:
    """Yield the cards that may lie on their side: none, all, and of a few of several sizes every choice."""
    count = len(sizes)
    if count <= EVERY_CHOICE and len({tuple(sorted(one)) for one in sizes}) > 1:
        yield from product((False, True), repeat=count)
    else:
        yield from ((False,) * count, (True,) * count)


def _rows(
    sizes: Sequence[tuple[float, float]], turns: Sequence[bool], width: float, height: float, margin: float, gap: float
) -> list[_Place]:
    """Lay cards out in rows, as many from the first on as fit. ``turns``: which are rather on their side."""
    found: list[_Place] = []
    x = y = margin
    high = 0.0
    right, bottom = width - margin + EXACT, height - margin + EXACT
    for (w, h), turn in zip(sizes, turns, strict=True):
        ways = [(h, w, True), (w, h, False)] if turn else [(w, h, False), (h, w, True)]
        way = next((one for one in ways if x + one[0] <= right and y + one[1] <= bottom), None)
        if way is None and found:
            x, y, high = margin, y + high + gap, 0.0
            way = next((one for one in ways if x + one[0] <= right and y + one[1] <= bottom), None)
        if way is None:
            break
        found.append(_Place(x, y, way[0], way[1], turned=way[2]))
        x, high = x + way[0] + gap, max(high, way[1])
    return found


def _centred(layout: _Layout) -> _Layout:
    """Return the same with what room is left shared out around."""
    right, bottom = (max(ends) for ends in zip(*((one.x + one.w, one.y + one.h) for one in layout.places), strict=True))
    left, top = min(one.x for one in layout.places), min(one.y for one in layout.places)
    dx, dy = (layout.width - left - right) / 2, (layout.height - top - bottom) / 2
    return replace(layout, places=tuple(replace(one, x=one.x + dx, y=one.y + dy) for one in layout.places))


def _cells(sizes: Sequence[tuple[float, float]], short: float, long: float, per_page: int) -> _Layout:
    """Cut a page so that cards which do not fit in true size are as large as they can be, each in the middle of its place."""
    ways = []
    for width, height in ((short, long), (long, short)):
        for across in range(1, per_page + 1):
            down = ceil(per_page / across)
            cell = (
                (width - 2 * MARGIN - _GAP * (across - 1)) / across,
                (height - 2 * MARGIN - _GAP * (down - 1)) / down,
            )
            if min(cell) > 10.0:
                scale = min(1.0, *(min(cell[0] / w, cell[1] / h) for w, h in sizes))
                ways.append((round(scale, 6), -abs(sqrt(across / down) - 1), width, height, across, cell))
    _, _, width, height, across, cell = max(ways)
    places = []
    for nth, (w, h) in enumerate(sizes):
        down, along = divmod(nth, across)
        scale = min(1.0, cell[0] / w, cell[1] / h)
        x, y = MARGIN + along * (cell[0] + _GAP), MARGIN + down * (cell[1] + _GAP)
        wide, high = w * scale, h * scale
        places.append(_Place(x + (cell[0] - wide) / 2, y + (cell[1] - high) / 2, wide, high, scale))
    return _Layout(width, height, tuple(places))


def _page(layout: _Layout, cards: Sequence[tuple[Drawing, _Place]]) -> Drawing:
    """Return one page with cards in their places, and marks where to cut."""
    groups: list[Group] = []
    for sheet, at in cards:
        if at.turned:
            groups += [_turned(group, sheet.height, at.x, at.y) for group in sheet.groups]
        else:
            groups += [_moved(group, at.scale, at.x, at.y) for group in sheet.groups]
        groups.append(Group(tuple(_marks(at.x, at.y, at.w, at.h))))
    sheets = [sheet for sheet, _ in cards]
    more = f" and {len(sheets) - 1} more" if len(sheets) > 1 else ""
    title = f"{sheets[0].title}{more}" if sheets else "Empty back"
    description = " ".join(sheet.description for sheet in sheets)
    return Drawing(layout.width, layout.height, title, description, tuple(groups))


def _turned(group: Group, height: float, x: float, y: float) -> Group:
    """Return a group of a card that lies on its side, turned clockwise, with its corner at (x, y).

    A point (p, q) of the card, after the group's own turn, comes to (height − q + x, p + y). Both turns together are one, about
    the point that they leave where it is; where they cancel out, the items are moved instead.
    """
    own, whole = radians(group.angle), radians(group.angle + 90)
    px, py = group.pivot
    cx, cy = px - (px * cos(own) - py * sin(own)), py - (px * sin(own) + py * cos(own))
    bx, by = height - cy + x, cx + y  # what is left of both beside the turn
    det = 2 - 2 * cos(whole)
    if det < 1e-9:
        return replace(_moved(replace(group, angle=0.0), 1.0, bx, by), pivot=(0.0, 0.0))
    pivot = (((1 - cos(whole)) * bx - sin(whole) * by) / det, (sin(whole) * bx + (1 - cos(whole)) * by) / det)
    return replace(group, angle=group.angle + 90, pivot=pivot)


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
