"""Draw the grid card: a table of a program's chords on as many sheets as it takes at a readable size."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw, Footnotes, Frame, Kit, Note, note_sheets, numbered, wrapped
from glimber.core.cards.grid import Entry, Grid, Row, grid_of
from glimber.core.cards.grid_fit import GridFit, Room, fit_grid, split
from glimber.core.cards.tiles import hatching, line_of
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Stroke
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.drawing.text import LINE, fit
from glimber.core.model.folio import Card, Folio

_NARROWINGS = 2


def grid_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a grid card on as many sheets as it takes. Raises CannotDraw where there is nothing to show."""
    grid = grid_of(folio, card, kit.known)
    if not grid.rows:
        raise CannotDraw(f"{card.title} has no chords to show")
    subtitle = f"every chord, by key and modifier{f' · {card.context}' if card.context else ''}"
    return _Sheets(folio, card, kit, subtitle).draw(grid)


class _Sheets:
    def __init__(self, folio: Folio, card: Card, kit: Kit, subtitle: str) -> None:
        self.folio, self.card, self.faces, self.stamp, self.subtitle = folio, card, kit.faces, kit.stamp, subtitle
        self.paper = paper_of(card.paper, card.landscape)
        self.frame, self.hidden = Frame(self.paper, kit.faces, bool(kit.hidden), kit.sign), kit.hidden
        self.least, self.short = self.paper.least_label, short_forms_of(folio)

    def draw(self, grid: Grid) -> list[Drawing]:
        frame, sheets = self.frame, list[Drawing]()
        header, top = frame.header(self.card.title, self.subtitle, self.stamp)
        if frame.inner - self._key_width(grid) < self.least * 3.0:
            raise CannotDraw(
                f"{self.card.title}: {self.paper.name} is too narrow for a table of its keys; turn it or choose another"
            )
        most_columns = max(1, int((frame.inner - self._key_width(grid)) / (self.least * 6.2)))
        parts = [grid.columns[at : at + most_columns] for at in range(0, len(grid.columns), most_columns)]
        waiting: list[Note] = []
        for columns in parts:
            rows = tuple(row for row in grid.rows if any(held in row.cells for held in columns))
            while rows:
                drawing, rows, left = self._sheet(header, top, replace(grid, rows=rows, columns=columns))
                sheets.append(drawing)
                waiting += left
        if "reasons" in self.card.shows:
            waiting += self._reasons(grid)
        sheets += note_sheets(frame, self.card.title, "continued", self.stamp, waiting)
        return numbered(sheets)

    def _sheet(self, header: Sequence[Item], top: float, grid: Grid) -> tuple[Drawing, tuple[Row, ...], list[Note]]:
        """Return one sheet: the drawing, the rows that are left for the next, and notes that found no room."""
        frame = self.frame
        signs = "an empty place is free" + (
            "; hatched: the desktop takes it" if any(row.taken for row in grid.rows) else ""
        )
        careful = any(entry.careful for row in grid.rows for cell in row.cells.values() for entry in cell)
        signs += "; ! with care" if careful else ""
        signs += "; lamp: how firmly it is held" if "grip" in self.card.shows else ""
        groups = [entry.group for row in grid.rows for cell in row.cells.values() for entry in cell if entry.group]
        legend = frame.legend(groups, signs) if "legend" in self.card.shows else ([], 0.0)

        def lay(room: float, notes: Footnotes) -> tuple[Grid, tuple[Row, ...], list[Group]]:
            part, fit_, rest = self._part(grid, room)
            return part, rest, self._table(part, fit_, top, notes)

        (part, rest, table), below, more = frame.filled(top, legend, lay)
        description = ". ".join(
            f"{'+'.join((*held, row.key))}: {', '.join(entry.full for entry in cell)}"
            for row in part.rows for held, cell in row.cells.items() if held in part.columns
        )  # fmt: skip
        drawing = frame.sheet(self.card.title, description, [*table, Group((*header, *below))])
        return drawing, rest, more

    def _key_width(self, grid: Grid) -> float:
        size = self._key_size()
        widest = max(self.faces[500].width(row.key, size) for row in grid.rows)
        return widest + 2.2 * size

    def _key_size(self) -> float:
        return max(self.least, 3.0 * self.paper.unit)

    def _head_height(self) -> float:
        return self._key_size() * 2.2

    def _part(self, grid: Grid, room: float) -> tuple[Grid, GridFit, tuple[Row, ...]]:
        """Return the rows of a sheet, and those that are left; a key with more on it than a sheet holds continues on the next."""
        part, fit_ = self._whole_rows(grid, room)
        rest, most = grid.rows[len(part.rows) :], room - self._head_height()
        if len(part.rows) > 1 or fit_.rows[0] <= most:
            return part, fit_, rest
        row = part.rows[0]
        for count in range(row.lines - 1, 0, -1):
            first, more = row.parted(count)
            part = replace(part, rows=(first,))
            fit_ = self._fit(part, room)
            if fit_.rows[0] <= most:
                break
        return part, fit_, (more, *rest) if row.lines > 1 else rest

    def _whole_rows(self, grid: Grid, room: float) -> tuple[Grid, GridFit]:
        """Return the rows of a sheet, with only the columns that they use: these are wider, and may leave room for more rows."""
        fit_ = self._fit(grid, room)
        part = replace(grid, rows=grid.rows[: len(fit_.rows)])
        for _ in range(_NARROWINGS):
            used = tuple(held for held in part.columns if any(held in row.cells for row in part.rows))
            if used == part.columns:
                break
            narrower = replace(grid, columns=used)
            fit_ = self._fit(narrower, room)
            more = replace(narrower, rows=grid.rows[: len(fit_.rows)])
            if any(held not in used for row in more.rows for held in row.cells if held in grid.columns):
                # A row that came in brings a column back: without it, the rows are as before.
                more = replace(narrower, rows=part.rows)
                fit_ = self._fit(more, room)
                more = replace(more, rows=part.rows[: len(fit_.rows)])
            part = more
        return part, fit_

    def _fit(self, grid: Grid, room: float) -> GridFit:
        unit = self.paper.unit
        before = (0.35 * 2 + 1.8 + 0.8 + 3.4) * unit
        entries = [entry for row in grid.rows for cell in row.cells.values() for entry in cell]
        before += 2.5 * unit if any(entry.grip is not None for entry in entries) else 0.0
        before += self._careful_width() if any(entry.careful for entry in entries) else 0.0
        space = Room(
            self.frame.inner, room - self._head_height(), self._key_width(grid), 6.0 * unit, self.least, before
        )
        return fit_grid(grid, self.faces[500], space)

    def _careful_width(self) -> float:
        return self.faces[500].width("!", max(self.least, 2.8 * self.paper.unit)) + 0.6 * self.paper.unit

    def _table(self, grid: Grid, fit_: GridFit, top: float, notes: Footnotes) -> list[Group]:
        """Return the blocks, from left to right."""
        groups: list[Group] = []
        width = fit_.key + sum(fit_.columns)
        gap = (self.frame.inner - width * fit_.blocks) / max(1, fit_.blocks - 1) if fit_.blocks > 1 else 0.0
        for block, part in enumerate(split(fit_.rows, fit_.blocks)):
            rows = [(grid.rows[at], fit_.rows[at]) for at in part]
            if rows:
                groups += self._block(grid.columns, rows, fit_, self.frame.left + block * (width + gap), top, notes)
        return groups

    def _block(
        self,
        columns: Sequence[tuple[str, ...]],
        rows: Sequence[tuple[Row, float]],
        fit_: GridFit,
        left: float,
        top: float,
        notes: Footnotes,
    ) -> list[Group]:
        head = self._head_height()
        starts = [left + fit_.key + sum(fit_.columns[:at]) for at in range(len(columns))]
        right = left + fit_.key + sum(fit_.columns)
        items: list[Item] = []
        for held, x, wide in zip(columns, starts, fit_.columns, strict=True):
            items += self._modifiers(held, x, top + head * 0.42, wide)
        y = top + head
        tiles: list[Group] = []
        section = None
        for row, height in rows:
            strong = row.section != section
            items.append(line_of(left, y, right, y, "paper-line", (0.5 if strong else 0.2) * self.paper.unit))
            section = row.section
            items += self._cap(row.key, left, y, height / row.lines)
            for held, x, wide in zip(columns, starts, fit_.columns, strict=True):
                if held in row.taken:
                    items.append(hatching(x + 0.6, y + 0.5, wide - 1.2, height - 1.0))
                cell = row.cells.get(held, ())
                own = height / max(1, len(cell))
                tiles += [self._tile(entry, held, row.key, (x, y + at * own, wide, own), fit_.size, notes)
                          for at, entry in enumerate(cell)]  # fmt: skip
            y += height
        items.append(line_of(left, y, right, y, "paper-line", 0.5 * self.paper.unit))
        return [Group(tuple(items)), *tiles]

    def _modifiers(self, held: tuple[str, ...], x: float, y: float, width: float) -> list[Item]:
        """Chips beside each other; smaller, and without chips, where the column is narrow."""
        size, face = self._key_size(), self.faces[500]
        if not held:
            return [self.frame.text(x + 1.2, y + face.cap * size / 2, "alone", size, 400, "prints")]
        chips = [face.width(name, size) + size * 0.9 for name in held]
        if sum(chips) + 0.8 * (len(held) - 1) > width - 1.5:
            rows = wrapped("+ ".join(held), face, self.least, width - 1.5)
            return self.frame.lines(x + 1.2, y + self.least * (0.4 - 0.5 * (len(rows) - 1)), rows, self.least, 500)
        items: list[Item] = []
        for name, wide in zip(held, chips, strict=True):
            items.append(Rect(x + 1.2, y - size * 0.8, wide, size * 1.6, 0.8, "tile", Stroke("paper-line", 0.2)))
            items.append(self.frame.text(x + 1.2 + wide / 2, y + face.cap * size / 2, name, size, 500, "ink", "middle"))
            x += wide + 0.8
        return items

    def _cap(self, key: str, x: float, y: float, row: float) -> list[Item]:
        size, face = self._key_size(), self.faces[500]
        height = min(row - 0.8, size * 1.8)
        wide = max(height, face.width(key, size) + size * 0.9)
        middle = y + row / 2
        return [Rect(x, middle - height / 2, wide, height, 0.8, "tile", Stroke("paper-line", 0.2)),
                self.frame.text(x + wide / 2, middle + face.cap * size / 2, key, size, 500, "ink", "middle")]  # fmt: skip

    def _tile(
        self,
        entry: Entry,
        held: tuple[str, ...],
        key: str,
        box_mm: tuple[float, float, float, float],
        type_size: float,
        notes: Footnotes,
    ) -> Group:
        x, y, w, h = box_mm
        unit, face, gap = self.paper.unit, self.faces[500], 0.35 * self.paper.unit
        ink = entry.group.ink if entry.group else "paper-line"
        box = Rect(x + gap, y + gap, w - 2 * gap, h - 2 * gap, 0.7 * unit, "tile", Stroke("paper-line", 0.18))
        items: list[Item] = [box, Rect(x + gap, y + gap, 0.9 * unit, h - 2 * gap, 0.0, ink)]
        at = x + gap + 1.8 * unit
        if entry.group and w > self.least * 5:
            size = min(2.4 * unit, h * 0.45)
            items += marks.mark(entry.group.mark, at + size / 2, y + h / 2, size, ink)
            at += size + 1.0 * unit
        if entry.grip is not None:
            size = min(1.7 * unit, h * 0.35)
            items += marks.lamp(entry.grip, at + size / 2, y + h / 2, size)
            at += size + 0.8 * unit
        if entry.careful:
            size = max(self.least, 2.8 * unit)
            items.append(self.frame.text(at, y + h / 2 + face.cap * size / 2, "!", size, 700))
            at += face.width("!", size) + 0.6 * unit
        room = x + w - gap - 0.8 * unit - at
        largest = max(self.least, type_size)
        setting = fit(entry.label, face, room, h - 2 * gap - 0.3, largest, self.least, 3, self.short)
        number = notes.number(entry.full) if setting.short else ""
        if entry.binding in self.hidden:
            pass
        elif setting.short:
            items += self._see(number, at, x + w - gap - 0.4 * unit, y + h / 2)
        else:
            first = y + h / 2 + face.cap * setting.size / 2 - (len(setting.lines) - 1) * setting.size * LINE / 2
            items += self.frame.lines(at, first, setting.lines, setting.size, 500)
        return Group(tuple(items), entry.binding, f"{'+'.join((*held, key))}: {entry.full}")

    def _see(self, number: str, at: float, right: float, middle: float) -> list[Item]:
        """At which number of the notes a name stands; the number alone where there is no room for more."""
        size, heavy = self.least, max(self.paper.least_note, self.least * 0.9)
        see, wide = self.faces[400].width("see ", size), self.faces[700].width(number, heavy)
        base = middle + self.faces[500].cap * size / 2
        if at + see + wide <= right:
            return [
                self.frame.text(at, base, "see", size, 400, "prints"),
                self.frame.text(at + see, base, number, heavy, 700),
            ]
        return [self.frame.text(right, base, number, heavy, 700, "ink", "end")]

    def _reasons(self, grid: Grid) -> list[Note]:
        """Return why, in the order of the rows; chords that share a reason share a line."""
        found: dict[str, list[str]] = {}
        for row in grid.rows:
            for held, cell in row.cells.items():
                for entry in cell:
                    if entry.reason:
                        found.setdefault(entry.reason, []).append("+".join((*held, row.key)))
        return [Note(", ".join(keys), reason) for reason, keys in found.items()]
