"""Print sheets: cards in their true size on larger paper, several to a page, with marks where to cut."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, sqrt
from typing import Final, Literal

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.drawing.drawing import Circle, Drawing, Group, Image, Item, Path, Rect, Stroke, Text
from glimber.core.drawing.paper import PAPERS_MM

Edge = Literal["long", "short"]
MARGIN: Final = 6.0
_MARK: Final = 4.0
_GAP: Final = 6.0


class _Cells(Struct, frozen=True):
    """A page cut into places for cards: ``across`` beside each other, each ``cell`` wide and high, in mm."""

    width: float
    height: float
    across: int
    cell: tuple[float, float]

    def at(self, place: int) -> tuple[float, float]:
        """The upper left corner of a place."""
        down, along = divmod(place, self.across)
        return MARGIN + along * (self.cell[0] + _GAP), MARGIN + down * (self.cell[1] + _GAP)

    def behind(self, place: int, edge: Edge) -> tuple[float, float]:
        """Return where a place is on the back of the page, once the page is turned over on one of its edges."""
        x, y = self.at(place)
        sideways = (edge == "long") == (self.height >= self.width)
        return (self.width - x - self.cell[0], y) if sideways else (x, self.height - y - self.cell[1])


def print_sheets(
    sheets: Sequence[Drawing], paper: str | None = None, per_page: int = 1, backs: Edge | None = None
) -> list[Drawing]:
    """Cards on pages of a paper (A4 unless said), at most ``per_page`` on each, never larger than drawn; one that is larger than
    its place is made smaller. Cards follow each other in order, so that what belongs together stays together.

    ``backs``: the edge that a two-sided printer turns the paper on. Then each page is followed by its back, on which the back
    of every card (answers, reasons) lies exactly behind it.
    """
    short, long = PAPERS_MM[paper or "A4"]
    count = max(1, per_page)
    both = _with_backs(sheets) if backs is not None else [(sheet, None) for sheet in sheets]
    turned = any(back is not None for _, back in both)
    pages: list[Drawing] = []
    for first in range(0, len(both), count):
        group = both[first : first + count]
        cells = _cells([sheet for sheet, _ in group], short, long, count)
        if count == 1 and sorted((group[0][0].width, group[0][0].height)) == [short, long]:
            # As large as the paper: it is the page, and nothing is left to cut.
            pages += [one for one in (group[0][0], group[0][1]) if one is not None]
            if backs is not None and turned and group[0][1] is None:
                pages.append(Drawing(group[0][0].width, group[0][0].height, "Empty back", "", (), back=True))
            continue
        pages.append(_page(cells, [(sheet, cells.at(place)) for place, (sheet, _) in enumerate(group)]))
        if backs is not None and turned:
            behind = [(back, cells.behind(place, backs)) for place, (_, back) in enumerate(group) if back is not None]
            pages.append(replace(_page(cells, behind), back=True))
    return pages


def _with_backs(sheets: Sequence[Drawing]) -> list[tuple[Drawing, Drawing | None]]:
    """Every front with its back, where it has one."""
    found: list[tuple[Drawing, Drawing | None]] = []
    for sheet in sheets:
        if sheet.back and found and found[-1][1] is None:
            found[-1] = (found[-1][0], sheet)
        else:
            found.append((sheet, None))
    return found


def _cells(sheets: Sequence[Drawing], short: float, long: float, per_page: int) -> _Cells:
    """A page upright or lying, cut so that its cards are as large as they can be."""
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
    return _Cells(width, height, across, cell)


def _page(cells: _Cells, cards: Sequence[tuple[Drawing, tuple[float, float]]]) -> Drawing:
    """One page with cards in the middle of their places, and marks where to cut."""
    groups: list[Group] = []
    for sheet, (x, y) in cards:
        scale = min(1.0, cells.cell[0] / sheet.width, cells.cell[1] / sheet.height)
        w, h = sheet.width * scale, sheet.height * scale
        left, top = x + (cells.cell[0] - w) / 2, y + (cells.cell[1] - h) / 2
        groups += [_moved(group, scale, left, top) for group in sheet.groups]
        groups.append(Group(tuple(_marks(left, top, w, h))))
    sheets = [sheet for sheet, _ in cards]
    more = f" and {len(sheets) - 1} more" if len(sheets) > 1 else ""
    title = f"{sheets[0].title}{more}" if sheets else "Empty back"
    said = " ".join(sheet.description for sheet in sheets)
    return Drawing(cells.width, cells.height, title, said, tuple(groups))


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
