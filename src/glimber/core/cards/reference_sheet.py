"""The sheet card: every shortcut of a program by group, key chips beside the full name, in balanced columns.

Sizes of a layout are in em of its type: how names wrap depends only on the width of a column in em, so one layout serves
every size that is tried. Type is as large as the sheet holds.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from msgspec import Struct

from glimber.core.cards.frame import CannotDraw, Frame, Kit, numbered, wrapped
from glimber.core.cards.packing import Block, Column, Sheets, balanced, pack
from glimber.core.cards.sheet_measure import (
    BESIDE,
    CHIP_HIGH,
    CHIP_PAD,
    CHIP_TYPE,
    CHIPS_SHARE,
    GAP,
    HEAD,
    HEAD_LINE,
    HEAD_TYPE,
    NOTE,
    PLUS,
    STEP,
    WAY_ROW,
    RowWidths,
    SectionWidths,
    blocks_of,
    row_height,
)  # fmt: skip
from glimber.core.cards.sheet_rows import Chips, Sections, SheetRow, sections_of
from glimber.core.cards.tiles import line_of
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Stroke
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.text import LINE, one_line
from glimber.core.model.folio import Card, Folio
from glimber.core.model.folio import Group as CommandGroup

MOST_COLUMNS: Final = 6
LARGEST: Final = 5.6
"""Type of names at most, in mm on A5 and larger."""
_CONTINUED: Final = "continued"
_NARROWEST: Final = 17.0
_SPLIT_WORTH: Final = 1.04
_HALVINGS: Final = 5
_MOST_LINES: Final = 30
_MOST_STRETCH: Final = 1.5


Steps = tuple[Chips, ...]
"""The chips of a sequence, step by step."""


class _Set(Struct, frozen=True):
    """A row set into a column: lines of chips for each of its ways, of its name and of its note (``beside`` the name or below
    it); height in em."""

    row: SheetRow
    chips: tuple[tuple[Steps, ...], ...]
    name: tuple[str, ...]
    note: tuple[str, ...]
    beside: bool
    height: float


class _Section(Struct, frozen=True):
    """A group's rows set into a column; ``chips``: the width of the chips before the names, in em."""

    group: CommandGroup | None
    name: tuple[str, ...]
    count: int
    chips: float
    rows: tuple[_Set, ...]

    @property
    def head(self) -> float:
        """Height of its heading, in em."""
        return HEAD + (len(self.name) - 1) * HEAD_LINE if self.name else 0.0


class _Layout(Struct, frozen=True):
    """Columns across, the size of type in mm, sections set for it, and where they are on each sheet."""

    across: int
    size: float
    sections: tuple[_Section, ...]
    sheets: tuple[tuple[Column, ...], ...]


def sheet_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a sheet card on as many sheets as it takes. Raises CannotDraw where there is nothing to show."""
    sections = sections_of(folio, card, kit.known)
    if not sections:
        raise CannotDraw(f"{card.title} has no shortcuts to show")
    return _ReferenceSheet(folio, card, kit).draw(sections)


class _ReferenceSheet:
    def __init__(self, folio: Folio, card: Card, kit: Kit) -> None:
        self.card, self.faces, self.stamp, self.hidden = card, kit.faces, kit.stamp, kit.hidden
        self.sources = [(one.path or one.system or "").rpartition("/")[2] for one in folio.settings.sources.values()
                        if one.program is not None and one.program == card.program]  # fmt: skip
        self.paper = paper_of(card.paper, card.landscape)
        self.frame = Frame(self.paper, kit.faces, sign=kit.sign)
        self.gutter = 6.0 * self.paper.unit
        self._widths: dict[Steps, float] = {}
        self._chip_widths: dict[str, float] = {}
        self.least = self.paper.least_label / min(CHIP_TYPE, NOTE)

    def draw(self, sections: Sections) -> list[Drawing]:
        frame = self.frame
        count = sum(len(row.bindings) for _, _, rows in sections for row in rows)
        subtitle = f"{count} shortcuts, by group" if len(sections) > 1 else f"{count} shortcuts"
        header, top = frame.header(self.card.title, subtitle, self.stamp)
        foot = frame.note_size * 1.6
        room = self.paper.height - self.paper.margin - foot - top
        layout = self._layout(sections, room)
        drawn = []
        for nth, columns in enumerate(layout.sheets, start=1):
            groups = self._sheet(layout, columns, top, room)
            description = ". ".join(self._spoken_lines(layout, columns))
            footer = self._footer(nth, len(layout.sheets), layout)
            drawn.append(frame.sheet(self.card.title, description, [Group((*header, *footer)), *groups]))
        return numbered(drawn)

    # Layout

    def _layout(self, sections: Sections, room: float) -> _Layout:
        """Return the layout with the fewest sheets, and among those with the largest type."""
        least, largest = self.least, max(self.least, LARGEST * min(1.0, self.paper.unit * 1.15))
        measured = self._measures(sections)
        most = max(1, min(MOST_COLUMNS, int(self.frame.inner / (_NARROWEST * least))))
        counts = [len(sheets) for across in range(1, most + 1)
                  if (sheets := self._tried(measured, across, least, room, split=True)) is not None]  # fmt: skip
        if not counts:
            raise CannotDraw(
                f"{self.card.title}: {self.paper.name} is too narrow for its rows; turn it or choose another"
            )
        fewest, best = min(counts), (least, 1, True)
        for across in range(1, most + 1):
            for split in (True, False):
                # Whole groups are worth a little of the size of type.
                worth = 1.0 if split == best[2] else _SPLIT_WORTH if split else 1.0 / _SPLIT_WORTH
                size = self._largest(measured, across, (best[0] * worth, largest), room, fewest, split)
                best = (size, across, split) if size is not None else best
        return self._settled(sections, best, room, fewest)

    def _settled(self, sections: Sections, best: tuple[float, int, bool], room: float, fewest: int) -> _Layout:
        """Return the layout set exactly: at the size that was found, or a little smaller where lines were counted short."""
        size, across, split = best
        while True:
            wide = self._wide(across) / size
            laid = tuple(self._section(group, name, rows, wide) for group, name, rows in sections)
            blocks = [Block(part.head, tuple(row.height for row in part.rows), GAP) for part in laid]
            sheets = balanced(blocks, room / size, across, split)
            fits = sheets is not None and len(sheets) <= fewest
            if sheets is not None and (fits or size <= self.least):
                return _Layout(across, size, laid, sheets)
            if sheets is None and size <= self.least:
                raise CannotDraw(
                    f"{self.card.title}: {self.paper.name} is too narrow for its rows; turn it or choose another"
                )
            size = max(self.least, size * 0.98)

    def _measures(self, sections: Sections) -> list[SectionWidths]:
        face, quiet, heavy = self.faces[500], self.faces[400], self.faces[700]

        def widths(row: SheetRow) -> RowWidths:
            note = quiet.width(row.note, NOTE) if row.note else 0.0
            ways = tuple([self._chips_width(way.steps) for way in row.ways])
            return RowWidths(face.width(row.name, 1.0), note, self._before(row), ways, not note and len(ways) == 1)

        found = []
        for _, name, rows in sections:
            measured = tuple(map(widths, rows))
            widest = max(way for row in measured for way in row.ways)
            found.append(SectionWidths(heavy.width(name, HEAD_TYPE) if name else 0.0, widest, measured))
        return found

    def _wide(self, across: int) -> float:
        return (self.frame.inner - self.gutter * (across - 1)) / across

    def _largest(
        self,
        measured: Sequence[SectionWidths],
        across: int,
        sizes: tuple[float, float],
        room: float,
        fewest: int,
        split: bool,
    ) -> float | None:
        """Return the largest type in so many columns that fits the sheets; None where none is as large as the first size."""
        low, high = sizes
        low = max(low, self.least)

        def fits(size: float) -> bool:
            return self._tried(measured, across, size, room, split, fewest) is not None

        if low > high or not fits(low):
            return None
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if fits(middle) else (low, middle)
        return low

    def _tried(
        self,
        measured: Sequence[SectionWidths],
        across: int,
        size: float,
        room: float,
        split: bool,
        most: int | None = None,
    ) -> Sheets | None:
        """Return the sheets that a size takes; None where the columns are too narrow for it, or where it takes more than
        ``most``."""
        wide = self._wide(across) / size
        if across > 1 and wide < _NARROWEST:
            return None
        blocks = blocks_of(measured, wide)
        return None if blocks is None else pack(blocks, room / size, across, split, most)

    def _section(self, group: CommandGroup | None, name: str, rows: Sequence[SheetRow], wide: float) -> _Section:
        most = wide * CHIPS_SHARE
        chips = [tuple([self._chip_lines(way.steps, most) for way in row.ways]) for row in rows]
        indent = max([self._chips_width(line) for ways in chips for lines in ways for line in lines], default=0.0)
        room, face, quiet = wide - indent - BESIDE, self.faces[500], self.faces[400]
        found = []
        for row, ways in zip(rows, chips, strict=True):
            before = self._before(row)
            name_lines = self._lines(row.name, room - before)
            last = face.width(name_lines[-1], 1.0) + before * (len(name_lines) == 1) + BESIDE * 0.6
            beside = bool(row.note) and last + quiet.width(row.note, NOTE) <= room
            note = (row.note,) if beside else tuple(wrapped(row.note, quiet, NOTE, room)) if row.note else ()
            height = row_height(len(name_lines), 0 if beside else len(note), sum(map(len, ways)))
            found.append(_Set(row, ways, name_lines, note, beside, height))
        kept = quiet.width(_CONTINUED, NOTE) + 2.5
        head = tuple(wrapped(name, self.faces[700], HEAD_TYPE, wide - kept)) if name else ()
        return _Section(group, head, sum(len(row.bindings) for row in rows), indent, tuple(found))

    def _lines(self, name: str, room: float) -> tuple[str, ...]:
        face = self.faces[500]
        if face.width(name, 1.0) <= room:
            return (name,)
        lines = wrapped(name, face, 1.0, room)
        if len(lines) > _MOST_LINES:
            lines = [*lines[: _MOST_LINES - 1], one_line(" ".join(lines[_MOST_LINES - 1 :]), face, 1.0, room)]
        return tuple(lines)

    def _before(self, row: SheetRow) -> float:
        """Return the width of the signs before a name, in em."""
        return 0.7 * row.careful + (1.15 if row.grip is not None else 0.0)

    def _chip_lines(self, steps: Steps, most: float) -> tuple[Steps, ...]:
        """Return the steps of one way on as many lines as its width takes; a step is never parted."""
        if self._chips_width(steps) <= most:
            return (steps,)
        lines: list[Steps] = []
        for step in steps:
            if lines and self._chips_width((*lines[-1], step)) <= most:
                lines[-1] = (*lines[-1], step)
            else:
                lines.append((step,))
        return tuple(lines)

    def _chips_width(self, steps: Steps) -> float:
        """Return the width of steps beside each other, in em."""
        found = self._widths.get(steps)
        if found is None:
            chips = sum(self._chip_width(word) for step in steps for word in step)
            found = chips + PLUS * sum(len(step) - 1 for step in steps) + STEP * (len(steps) - 1)
            self._widths[steps] = found
        return found

    def _chip_width(self, word: str) -> float:
        """Return the width of a chip, in em; programs have the same few words on all of theirs."""
        found = self._chip_widths.get(word)
        if found is None:
            found = max(CHIP_HIGH * 0.86, self.faces[500].width(word, CHIP_TYPE) + 2 * CHIP_PAD)
            self._chip_widths[word] = found
        return found

    # Drawing

    def _sheet(self, layout: _Layout, columns: Sequence[Column], top: float, room: float) -> list[Group]:
        size, groups = layout.size, list[Group]()
        wide = self._wide(layout.across)
        tallest = max(self._fixed(layout, column) + self._loose(layout, column) for column in columns)
        free = room - tallest * size
        loose = max(self._loose(layout, column) for column in columns) * size
        stretch = min(_MOST_STRETCH, 1.0 + max(0.0, free) / loose) if loose else 1.0
        for place, column in enumerate(columns):
            x, y = self.frame.left + place * (wide + self.gutter), top
            for part in column.parts:
                section = layout.sections[part.block]
                if section.name:
                    groups.append(self._heading(section, x, y, wide, size, part.first > 0))
                    y += section.head * size
                for row in section.rows[part.first : part.last]:
                    high = row.height * size * stretch
                    groups += self._row(section, row, x, y, wide, size, high)
                    y += high
                y += GAP * size
        return groups

    def _fixed(self, layout: _Layout, column: Column) -> float:
        return sum(layout.sections[part.block].head for part in column.parts) + GAP * (len(column.parts) - 1)

    def _loose(self, layout: _Layout, column: Column) -> float:
        return sum(
            row.height for part in column.parts for row in layout.sections[part.block].rows[part.first : part.last]
        )

    def _heading(self, section: _Section, x: float, y: float, wide: float, size: float, again: bool) -> Group:
        """Return the band in the group's ink, its mark and name, and how many shortcuts it has."""
        group, face, large = section.group, self.faces[700], size * HEAD_TYPE
        ink = group.ink if group is not None else "prints"
        items: list[Item] = [Rect(x, y, wide, 0.2 * size, 0.1 * size, ink)]
        base, at = y + 1.5 * size, x
        if group is not None:
            items += marks.mark(group.mark, x + 0.5 * size, base - face.cap * large / 2, 0.95 * size, ink)
            at += 1.5 * size
        items += [self.frame.text(at, base + line * HEAD_LINE * size, text, large, 700)
                  for line, text in enumerate(section.name)]  # fmt: skip
        beside = _CONTINUED if again else str(section.count)
        items.append(self.frame.text(x + wide, base, beside, size * NOTE, 400, "prints", "end"))
        return Group(tuple(items), None, " ".join(section.name))

    def _row(
        self, section: _Section, set_: _Set, x: float, y: float, wide: float, size: float, high: float
    ) -> list[Group]:
        """Return one command: its chips on the left, its name on the right, a hairline below."""
        frame, row, face = self.frame, set_.row, self.faces[500]
        right = x + section.chips * size
        below = 0 if set_.beside else len(set_.note) * NOTE
        inner = (len(set_.name) + below) * LINE * size
        items: list[Item] = [line_of(x, y + high, x + wide, y + high, "paper-line", 0.15 * self.paper.unit)]
        at, middle = right + BESIDE * size, y + high / 2
        first = middle - inner / 2 + (LINE + face.cap) / 2 * size
        if row.careful:
            items.append(frame.text(at, first, "!", size, 700))
            at += 0.7 * size
        if row.grip is not None:
            items += marks.lamp(row.grip, at + 0.4 * size, first - face.cap * size / 2, 0.8 * size)
            at += 1.15 * size
        if not self.hidden.isdisjoint(row.bindings):
            return self._ways(set_, items, right, middle, size)
        items += frame.lines(at, first, set_.name, size, 500, "prints" if row.faint else "ink")
        end = first + (len(set_.name) - 1) * LINE * size
        if set_.beside:
            at += face.width(set_.name[-1], size) + BESIDE * 0.6 * size
            items.append(frame.text(at, end, set_.note[0], size * NOTE, 400, "prints"))
        elif set_.note:
            left = right + BESIDE * size
            items += frame.lines(left, end + 1.0 * size, set_.note, size * NOTE, 400, "prints")
        return self._ways(set_, items, right, middle, size)

    def _ways(self, set_: _Set, before: list[Item], right: float, middle: float, size: float) -> list[Group]:
        """Return the ways of a row, each a group of its own: its chips end at ``right``; the first has ``before`` too."""
        high, groups, own = WAY_ROW * size, list[Group](), before
        centre = middle - (sum(map(len, set_.chips)) - 1) / 2 * high
        for way, lines in zip(set_.row.ways, set_.chips, strict=True):
            for line in lines:
                own += self._chips(line, right, centre, size)
                centre += high
            groups.append(Group(tuple(own), way.binding, f"{way.spoken}: {set_.row.full}"))
            own = []
        return groups

    def _chips(self, steps: Steps, right: float, middle: float, size: float) -> list[Item]:
        """Chips that end at ``right``: a thin plus between those struck together, a gap between steps."""
        face, type_ = self.faces[500], CHIP_TYPE * size
        x, items = right - self._chips_width(steps) * size, list[Item]()
        high, edge = CHIP_HIGH * size, Stroke("paper-line", 0.05 * size)
        top, base = middle - high / 2, middle + face.cap * type_ / 2
        for at, step in enumerate(steps):
            x += STEP * size if at else 0.0
            for place, word in enumerate(step):
                if place:
                    arm, centre = 0.16 * size, x + PLUS * size / 2
                    items.append(line_of(centre - arm, middle, centre + arm, middle, "prints", 0.05 * size))
                    items.append(line_of(centre, middle - arm, centre, middle + arm, "prints", 0.05 * size))
                    x += PLUS * size
                wide = self._chip_width(word) * size
                items.append(Rect(x, top, wide, high, 0.22 * size, "tile", edge))
                items.append(self.frame.text(x + wide / 2, base, word, type_, 500, "ink", "middle"))
                x += wide
        return items

    def _footer(self, nth: int, many: int, layout: _Layout) -> list[Item]:
        """Page of pages, and what the signs mean."""
        y, size = self.paper.height - self.paper.margin, self.frame.note_size
        rows = [row.row for section in layout.sections for row in section.rows]
        signs = ["! with care"] if any(row.careful for row in rows) else []
        if any(row.grip is not None for row in rows):
            signs.append("lamp: how firmly it is held" if "grip" in self.card.shows else "open lamp: to learn")
        signs += [f"from {source}" for source in self.sources]
        items: list[Item] = (
            [self.frame.text(self.frame.left, y, "; ".join(signs), size, 400, "prints")] if signs else []
        )
        if many > 1:
            items.append(self.frame.text(self.frame.right, y, f"page {nth} of {many}", size, 400, "prints", "end"))
        return items

    def _spoken_lines(self, layout: _Layout, columns: Iterable[Column]) -> Iterable[str]:
        for column in columns:
            for part in column.parts:
                section = layout.sections[part.block]
                for set_ in section.rows[part.first : part.last]:
                    yield f"{' or '.join(way.spoken for way in set_.row.ways)}: {set_.row.full}"
