"""The grid card: a program's chords, keys down in the order of the board's rows, modifiers across.

Keys and columns with nothing on them are folded away; an empty place is a free one, a hatched one the desktop's. What does not
fit one sheet at a readable size goes on on the next.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw, Footnotes, Frame, Kit, Note, note_sheets, numbered, wrapped
from glimber.core.cards.tiles import line_of
from glimber.core.drawing import marks
from glimber.core.drawing.abbreviations import abbreviations_of
from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.text import LINE, fit
from glimber.core.model.card_bindings import NOTHING_KNOWN, Known, chords_of, chosen, label_of
from glimber.core.model.folio import EVERYWHERE, Card, Folio
from glimber.core.model.folio import Group as CommandGroup
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Chord, strike_of

SECTIONS: Final = ("digits", "upper", "home", "lower", "others")
_ROWS: Final = {
    "digits": ("Backquote", *(f"Digit{n}" for n in "1234567890"), "Minus", "Equal"),
    "upper": (*(f"Key{c}" for c in "QWERTYUIOP"), "BracketLeft", "BracketRight", "Backslash"),
    "home": (*(f"Key{c}" for c in "ASDFGHJKL"), "Semicolon", "Quote"),
    "lower": ("IntlBackslash", *(f"Key{c}" for c in "ZXCVBNM"), "Comma", "Period", "Slash", "Space"),
}
_PLACES: Final = {code: (SECTIONS.index(name), at) for name, codes in _ROWS.items() for at, code in enumerate(codes)}
_AROUND: Final = ("Escape", "Tab", "Enter", "Backspace", "Insert", "Delete", "Home", "End", "PageUp", "PageDown", "ArrowLeft",
                  "ArrowRight", "ArrowUp", "ArrowDown")  # fmt: skip
_MOST_BLOCKS: Final = 4


class Entry(Struct, frozen=True):
    """One binding in a place of the grid."""

    binding: str
    label: str
    full: str
    group: CommandGroup | None
    careful: bool
    reason: str | None
    grip: float | None = None


class Row(Struct, frozen=True):
    """One key: its section, what is printed on it, and what it does with each set of modifiers."""

    section: int
    order: tuple[int, int, str]
    key: str
    cells: Mapping[tuple[str, ...], tuple[Entry, ...]]
    taken: frozenset[tuple[str, ...]]

    @property
    def lines(self) -> int:
        """Return how many bindings the fullest of its places has."""
        return max((len(cell) for cell in self.cells.values()), default=1)


class Grid(Struct, frozen=True):
    """Rows in order of the board, and the sets of modifiers that are used, few first."""

    rows: tuple[Row, ...]
    columns: tuple[tuple[str, ...], ...]


def grid_of(folio: Folio, card: Card, known: Known = NOTHING_KNOWN) -> Grid:
    """The grid of a card's chords."""
    cells: dict[tuple[tuple[int, int, str], str], dict[tuple[str, ...], list[Entry]]] = {}
    for binding, command, chord in chords_of(chosen(folio, card, known)):
        order, key, held = _place(folio, chord)
        entry = Entry(binding.id, label_of(binding, command), command.name, folio.group_of(command), command.careful,
                      binding.reason, known.grips.get(binding.id) if "grip" in card.shows else None)  # fmt: skip
        cells.setdefault((order, key), {}).setdefault(held, []).append(entry)
    desktop = _taken(folio) if card.program != EVERYWHERE else frozenset()
    columns = sorted({held for row in cells.values() for held in row}, key=_column_order)
    rows = [
        Row(order[0], order, key, {held: tuple(entries) for held, entries in row.items()},
            frozenset(held for held in columns if (order, held) in desktop and held not in row))
        for (order, key), row in sorted(cells.items())
    ]  # fmt: skip
    return Grid(tuple(rows), tuple(columns))


def _place(folio: Folio, chord: Chord) -> tuple[tuple[int, int, str], str, tuple[str, ...]]:
    """Return where a chord stands: its key's place in reading order, the key's print, the modifiers that are held."""
    strike = strike_of(chord, folio.legend, folio.bundles)
    if strike is None:
        return (len(SECTIONS) - 1, 999, chord.key), chord.key, tuple(m for m in MODIFIERS if m in chord.modifiers)
    held, code = strike
    order = (*_PLACES[code], "") if code in _PLACES else (len(SECTIONS) - 1, _others(code), code)
    return order, folio.legend.print_of(code) or code, tuple(m for m in MODIFIERS if m in held)


def _others(code: str) -> int:
    """Keys round the letters: the function row first, then moving and editing keys, the number pad last."""
    if code.startswith("F") and code[1:].isdigit():
        return int(code[1:])
    return _AROUND.index(code) + 100 if code in _AROUND else 500 if not code.startswith("Numpad") else 600


def _taken(folio: Folio) -> frozenset[tuple[tuple[int, int, str], tuple[str, ...]]]:
    """Places that the desktop itself answers to."""
    everywhere = Card("", "", "grid", program=EVERYWHERE)
    places = [_place(folio, chord) for _, _, chord in chords_of(chosen(folio, everywhere))]
    return frozenset((order, held) for order, _, held in places)


def _column_order(held: tuple[str, ...]) -> tuple[int, tuple[int, ...]]:
    rank = ("Shift", "Ctrl", "Alt", "AltGr", "Super", "Hyper")
    return len(held), tuple(sorted(rank.index(m) for m in held))


# Layout


class _Fit(Struct, frozen=True):
    """How a part of a grid fits a sheet: blocks side by side, sizes in mm."""

    blocks: int
    row: float
    column: float
    key: float
    fits: int


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
        self.frame = Frame(self.paper, kit.faces)
        self.least, self.short = self.paper.least_label, abbreviations_of(folio)

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
            rows = [row for row in grid.rows if any(held in row.cells for held in columns)]
            while rows:
                drawing, used, left = self._sheet(header, top, replace(grid, rows=tuple(rows), columns=columns))
                sheets.append(drawing)
                waiting += left
                rows = rows[used:]
        if "reasons" in self.card.shows:
            waiting += self._reasons(grid)
        sheets += note_sheets(frame, self.card.title, "continued", self.stamp, waiting)
        return numbered(sheets)

    def _sheet(self, header: Sequence[Item], top: float, grid: Grid) -> tuple[Drawing, int, list[Note]]:
        """One sheet: the drawing, how many rows it took, and notes that found no room."""
        frame = self.frame
        signs = "an empty place is free" + (
            "; hatched: the desktop takes it" if any(row.taken for row in grid.rows) else ""
        )
        careful = any(entry.careful for row in grid.rows for cell in row.cells.values() for entry in cell)
        signs += "; ! with care" if careful else ""
        signs += "; lamp: how firmly it is held" if "grip" in self.card.shows else ""
        groups = [entry.group for row in grid.rows for cell in row.cells.values() for entry in cell if entry.group]
        legend = frame.legend(groups, signs) if "legend" in self.card.shows else ([], 0.0)

        def lay(room: float, notes: Footnotes) -> tuple[Grid, list[Group]]:
            fit_ = self._fit(grid, room)
            part = replace(grid, rows=grid.rows[: fit_.fits])
            return part, self._table(part, fit_, top, notes)

        (part, table), below, more = frame.filled(top, legend, lay)
        said = ". ".join(
            f"{'+'.join((*held, row.key))}: {', '.join(entry.full for entry in cell)}"
            for row in part.rows for held, cell in row.cells.items() if held in part.columns
        )  # fmt: skip
        drawing = frame.sheet(self.card.title, said, [*table, Group((*header, *below))])
        return drawing, len(part.rows), more

    def _key_width(self, grid: Grid) -> float:
        size = self._key_size()
        widest = max(self.faces[500].width(row.key, size) for row in grid.rows)
        return widest + 2.2 * size

    def _key_size(self) -> float:
        return max(self.least, 3.0 * self.paper.unit)

    def _head_height(self) -> float:
        return self._key_size() * 2.2

    def _fit(self, grid: Grid, room: float) -> _Fit:
        """The number of blocks that makes the type largest; where none holds all rows, the one that holds most."""
        frame, key = self.frame, self._key_width(grid)
        count, gap = len(grid.columns), 6.0 * self.paper.unit
        lines = [row.lines for row in grid.rows]
        least_row = self.least * 1.62
        ways: list[tuple[bool, float, _Fit]] = []
        for blocks in range(1, _MOST_BLOCKS + 1):
            column = ((frame.inner - gap * (blocks - 1)) / blocks - key) / count
            if column < self.least * (6.2 if blocks == 1 else 9.0) and blocks > 1:
                break
            height = room - self._head_height()
            fits, row = _rows_that_fit(lines, blocks, height, least_row)
            whole = fits == len(lines)
            size = min(row / 1.62, column / 8.5)
            ways.append((whole, size if whole else fits, _Fit(blocks, min(row, 24.0), column, key, fits)))
        return max(ways, key=lambda way: way[:2])[2]

    def _table(self, grid: Grid, fit_: _Fit, top: float, notes: Footnotes) -> list[Group]:
        """The blocks, from left to right."""
        groups: list[Group] = []
        width = fit_.key + fit_.column * len(grid.columns)
        gap = (self.frame.inner - width * fit_.blocks) / max(1, fit_.blocks - 1) if fit_.blocks > 1 else 0.0
        for block, rows in enumerate(_blocks(grid.rows, fit_.blocks)):
            if rows:
                groups += self._block(grid.columns, rows, fit_, self.frame.left + block * (width + gap), top, notes)
        return groups

    def _block(
        self,
        columns: Sequence[tuple[str, ...]],
        rows: Sequence[Row],
        fit_: _Fit,
        left: float,
        top: float,
        notes: Footnotes,
    ) -> list[Group]:
        head = self._head_height()
        right = left + fit_.key + fit_.column * len(columns)
        items: list[Item] = []
        for place, held in enumerate(columns):
            items += self._modifiers(held, left + fit_.key + place * fit_.column, top + head * 0.42, fit_.column)
        y = top + head
        tiles: list[Group] = []
        section = None
        for row in rows:
            strong = row.section != section
            items.append(line_of(left, y, right, y, "paper-line", (0.5 if strong else 0.2) * self.paper.unit))
            section = row.section
            height = fit_.row * row.lines
            items += self._cap(row.key, left, y, min(height, fit_.row))
            for place, held in enumerate(columns):
                x = left + fit_.key + place * fit_.column
                if held in row.taken:
                    items.append(_hatched(x + 0.6, y + 0.5, fit_.column - 1.2, height - 1.0))
                cell = row.cells.get(held, ())
                for at, entry in enumerate(cell):
                    own = height / len(cell)
                    tiles.append(self._tile(entry, held, row.key, x, y + at * own, fit_.column, own, notes))
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
        self, entry: Entry, held: tuple[str, ...], key: str, x: float, y: float, w: float, h: float, notes: Footnotes
    ) -> Group:
        unit, face, gap = self.paper.unit, self.faces[500], 0.35 * self.paper.unit
        ink = entry.group.ink if entry.group else "paper-line"
        box = Rect(x + gap, y + gap, w - 2 * gap, h - 2 * gap, 0.7 * unit, "tile", Stroke("paper-line", 0.18))
        items: list[Item] = [box, Rect(x + gap, y + gap, 0.9 * unit, h - 2 * gap, 0.0, ink)]
        at = x + gap + 1.8 * unit
        if entry.group and w > self.least * 7:
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
        largest = min(max(self.least, min(h / 2.2, w / 9.0)), 5.2)
        setting = fit(entry.label, face, room, h - 2 * gap - 0.3, largest, self.least, 3, self.short)
        if setting.short:
            items += self._see(notes.number(entry.full), at, x + w - gap - 0.4 * unit, y + h / 2)
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
        """Why, in the order of the rows; chords that share a reason share a line."""
        found: dict[str, list[str]] = {}
        for row in grid.rows:
            for held, cell in row.cells.items():
                for entry in cell:
                    if entry.reason:
                        found.setdefault(entry.reason, []).append("+".join((*held, row.key)))
        return [Note(", ".join(keys), reason) for reason, keys in found.items()]


def _rows_that_fit(lines: Sequence[int], blocks: int, height: float, least: float) -> tuple[int, float]:
    """Return how many rows fit in balanced blocks at the least height, and the height of one line where all of them do."""
    for fits in range(len(lines), 0, -1):
        tallest = max(sum(lines[at] for at in part) for part in _split(lines[:fits], blocks))
        if tallest * least <= height or fits == 1:
            return fits, height / tallest
    return 0, least


def _split(lines: Sequence[int], blocks: int) -> list[range]:
    """Rows in blocks of like height, in order."""
    share, parts, start, total = -(-sum(lines) // blocks), list[range](), 0, 0
    for at, count in enumerate(lines):
        if at > start and total + count > share and len(parts) < blocks - 1:
            parts.append(range(start, at))
            start, total = at, 0
        total += count
    return [*parts, range(start, len(lines))]


def _blocks(rows: Sequence[Row], blocks: int) -> list[list[Row]]:
    return [[rows[at] for at in part] for part in _split([row.lines for row in rows], blocks)]


def _hatched(x: float, y: float, w: float, h: float) -> Path:
    """Slanted lines over a place, clipped to it."""
    steps: list[tuple[str | float, ...]] = []
    at = 1.2
    while at < w + h:
        x1, y1 = x + max(0.0, at - h), y + min(h, at)
        x2, y2 = x + min(w, at), y + max(0.0, at - w)
        steps += [("M", x1, y1), ("L", x2, y2)]
        at += 1.6
    return Path(tuple(steps), stroke=Stroke("paper-line", 0.2))
