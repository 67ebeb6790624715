"""The frame of every card around its table, tree or board: title, legend, notes, and extra sheets for notes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import Final, TypeVar

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.cards.tiles import band, line_of
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Icons, Image, Item, Path, Picture, Rect, Text
from glimber.core.drawing.metrics import Face, Faces
from glimber.core.drawing.paper import Paper
from glimber.core.drawing.text import LINE, broken, wrap
from glimber.core.model.card_bindings import Known
from glimber.core.model.folio import Group as CommandGroup

T = TypeVar("T")
LEGEND_SHARE: Final = 0.2
"""Of the height of a sheet at most for the names of groups."""
_MOST_NAMED: Final = 24
"""So many groups are named in their own order; more are named by how often they come."""
NOTES_SHARE: Final = 0.4
"""Of the height below the title at most for notes; the others are on a sheet of their own."""


class CannotDraw(ValueError):
    """A card that cannot be drawn; the message says why."""


class Note(Struct, frozen=True):
    """A line under a card: the number or keys it belongs to, and its text in full."""

    head: str
    text: str


class Kit(Struct, frozen=True):
    """Everything a card is drawn with: the type, the stamp at its upper right, the icons by name, practice data, and the
    bindings whose labels are left blank, in the room that they take."""

    faces: Faces
    stamp: str
    icons: Icons
    known: Known
    hidden: frozenset[str] = frozenset()
    sign: Picture | None = None
    """The icon of the card's program, drawn before its title."""


class SetNote(Struct, frozen=True):
    """A note in lines; ``indent``: where its text begins, in mm."""

    note: Note
    head: tuple[str, ...]
    text: tuple[str, ...]
    indent: float

    @property
    def lines(self) -> int:
        return max(len(self.head), len(self.text))


class Footnotes(Struct):
    """Full names of what did not fit where it stands, numbered in the order they came."""

    names: list[str] = field(default_factory=list)

    def number(self, full: str) -> str:
        """Return the number of a name; the same name keeps its number."""
        if full not in self.names:
            self.names.append(full)
        return str(self.names.index(full) + 1)

    def notes(self) -> list[Note]:
        return [Note(str(number), name) for number, name in enumerate(self.names, start=1)]


class Frame:
    """Lays out the parts of one sheet, in mm."""

    def __init__(self, paper: Paper, faces: Faces, silent: bool = False, sign: Picture | None = None) -> None:
        """``silent``: notes take their room and are not drawn; ``sign``: a picture before the title."""
        self.paper, self.faces, self.silent, self.sign = paper, faces, silent, sign
        self.left, self.right = paper.margin, paper.width - paper.margin
        self.inner = self.right - self.left
        self.note_size = max(paper.least_note, 2.6 * paper.unit)
        self.small = max(paper.least_label, 3.1 * paper.unit)

    def text(
        self, x: float, y: float, text: str, size: float, weight: int = 400, colour: str = "ink", anchor: str = "start"
    ) -> Text:
        """Return one line of text on the baseline y."""
        return Text(x, y, text, size, weight, colour, self.faces[weight].width(text, size), anchor)  # type: ignore[arg-type]

    def lines(
        self,
        x: float,
        y: float,
        lines: Sequence[str],
        size: float,
        weight: int = 400,
        colour: str = "ink",
        anchor: str = "start",
    ) -> list[Item]:
        """Return several lines, the first on the baseline y."""
        return [self.text(x, y + place * size * LINE, line, size, weight, colour, anchor)
                for place, line in enumerate(lines)]  # fmt: skip

    def header(self, title: str, subtitle: str, stamp: str) -> tuple[list[Item], float]:
        """Title, what it is beside it, when and whose at the right; and where the rest begins."""
        face, size = self.faces[700], max(4.2, 7.0 * self.paper.unit)
        high = size
        wide = min(self.inner / 4, high * self.sign.proportion) if self.sign is not None else 0.0
        left = self.left + (wide + high * 0.3 if self.sign is not None else 0.0)
        rows = None
        while rows is None or len(rows) > 2:
            rows = wrap(title, face, size, self.right - left)
            size = size * 0.94 if rows is None or len(rows) > 2 else size
            if size < self.paper.least_label:
                rows, size = wrapped(title, face, self.paper.least_label, self.right - left), self.paper.least_label
                break
        top = self.paper.margin + size * 0.82
        items = self.lines(left, top, rows, size, 700)
        if self.sign is not None:
            middle = top - face.cap * size / 2
            items.insert(0, Image(self.left, max(self.paper.margin, middle - high / 2), wide, high, self.sign))
        y = top + (len(rows) - 1) * size * LINE
        at = left + face.width(rows[-1], size) + 3.2 * self.paper.unit
        stamp_width = self.faces[400].width(stamp, self.note_size) if stamp else 0.0
        beside = self.faces[400].width(subtitle, self.small) <= self.right - stamp_width - 4.0 - at
        if subtitle and beside:
            items.append(self.text(at, y, subtitle, self.small, 400, "prints"))
        if stamp and at + stamp_width < self.right and (beside or not subtitle):
            items.append(self.text(self.right, y, stamp, self.note_size, 400, "prints", "end"))
        if subtitle and not beside:
            rows = wrapped(subtitle, self.faces[400], self.small, self.inner)
            y += self.small * 1.5
            items += self.lines(self.left, y, rows, self.small, 400, "prints")
            y += (len(rows) - 1) * self.small * LINE
        return items, y + 4.2 * self.paper.unit

    def legend(self, groups: Sequence[CommandGroup], signs: str = "") -> tuple[list[Item], float]:
        """Marks, inks and names of the groups, then other signs; placed from y = 0 down, with its height.

        Groups are named in the order of how often they come, in a fifth of the sheet at most; the others are counted.
        """
        counts = Counter((g.name, g.ink, g.mark) for g in groups)
        of_look = {(g.name, g.ink, g.mark): g for g in groups}
        if not groups and not signs:
            return [], 0.0
        crowded = len(of_look) > _MOST_NAMED
        shown = [of_look[look] for look in counts] if not crowded else [of_look[look] for look, _ in counts.most_common()]
        size, unit, face = self.note_size * 1.1, self.paper.unit, self.faces[500]
        row = size * 1.7
        items: list[Item] = [line_of(self.left, 0.0, self.right, 0.0, "paper-line", 0.25 * unit)]
        x, y = self.left, size * 1.75
        lowest = self.paper.height * LEGEND_SHARE
        for place, group in enumerate(shown):
            needed = 8.0 * unit + face.width(group.name, size)
            if x > self.left and x + needed > self.right:
                x, y = self.left, y + row
                if y > lowest:
                    signs = "; ".join(filter(None, (f"{len(shown) - place} more groups", signs)))
                    break
            middle = y - face.cap * size / 2
            items += marks.mark(group.mark, x + 1.4 * unit, middle, 2.2 * unit, group.ink)
            items.append(band(x + 3.2 * unit, middle, 3.8 * unit, 0.8 * unit, group.ink))
            rows = wrapped(group.name, face, size, self.right - x - 8.0 * unit)
            items += self.lines(x + 8.0 * unit, y, rows, size, 500)
            y += (len(rows) - 1) * size * LINE
            x += needed + 4.5 * unit
        if signs:
            wide = self.faces[400].width(signs, size)
            if x > self.left and x + wide > self.right:
                y += row
            rows = wrapped(signs, self.faces[400], size, self.inner)
            items += self.lines(self.right, y, rows, size, 400, "prints", "end")
            y += (len(rows) - 1) * size * LINE
        return items, y + size * 0.9

    # Notes

    def columns(self) -> int:
        """Return how many notes stand beside each other."""
        return max(1, min(3, int(self.inner / (self.note_size * 22))))

    def set_notes(self, notes: Sequence[Note], most: float) -> tuple[list[SetNote], float, int]:
        """Return notes set in lines, the height that they take in balanced columns, and how many of them fit ``most`` mm."""
        count = self.columns()
        width, size = self.inner / count - 3.0 * self.paper.unit, self.note_size
        heads = min(width * 0.42, max((self.faces[700].width(one.head, size) for one in notes), default=0.0)) + 0.01
        indent = heads + 1.2
        rows = [SetNote(one, tuple(wrapped(one.head, self.faces[700], size, heads)),
                        tuple(wrapped(one.text, self.faces[400], size, width - indent)), indent) for one in notes]  # fmt: skip
        for fitting in range(len(rows), 0, -1):
            height = max(column[-1][0] for column in self._columns(rows[:fitting], count) if column)
            if height <= most:
                return rows[:fitting], height, fitting
        return [], 0.0, 0

    def _columns(self, rows: Sequence[SetNote], count: int) -> list[list[tuple[float, SetNote]]]:
        """Return notes in columns of like height, each with where it ends."""
        step = self.note_size * LINE
        heights = [row.lines * step + 0.35 * self.note_size for row in rows]
        share = max(sum(heights) / count, max(heights, default=0.0))
        while True:
            columns: list[list[tuple[float, SetNote]]] = [[]]
            for row, height in zip(rows, heights, strict=True):
                end = columns[-1][-1][0] if columns[-1] else 0.0
                if columns[-1] and end + height > share + 1e-6:
                    columns.append([])
                    end = 0.0
                columns[-1].append((end + height, row))
            if len(columns) <= count:
                return columns
            share += step

    def draw_notes(self, top: float, rows: Sequence[SetNote]) -> list[Item]:
        """Return notes in columns from ``top`` down."""
        count, size = self.columns(), self.note_size
        items: list[Item] = []
        if self.silent:
            return items
        for place, column in enumerate(self._columns(rows, count)):
            x, y = self.left + place * self.inner / count, top
            for end, row in column:
                items += self.lines(x, y + size, row.head, size, 700)
                items += self.lines(x + row.indent, y + size, row.text, size)
                y = top + end
        return items

    def filled(
        self, top: float, legend: tuple[list[Item], float], lay: Callable[[float, Footnotes], T]
    ) -> tuple[T, list[Item], list[Note]]:
        """Return the layout that ``lay`` makes of the height that legend and notes leave it, those two, and notes that found no
        room.

        How much the notes need depends on what does not fit above, and that on the room for it: a few rounds settle it.
        """
        items, legend_height = legend
        bottom, reserved = self.paper.height - self.paper.margin - legend_height, 0.0
        for _ in range(5):
            notes = Footnotes()
            laid = lay(bottom - top - reserved, notes)
            rows, height, fitting = self.set_notes(notes.notes(), (bottom - top) * NOTES_SHARE)
            if height <= reserved + 1e-6:
                break
            reserved = height
        below = [lowered(item, bottom - reserved) for item in items]
        return laid, [*below, *self.draw_notes(bottom - reserved + legend_height, rows)], notes.notes()[fitting:]

    def sheet(self, title: str, description: str, groups: Sequence[Group]) -> Drawing:
        """Return the whole sheet, on its ground."""
        ground = Group((Rect(0, 0, self.paper.width, self.paper.height, 1.0, fill="paper"),))
        return Drawing(self.paper.width, self.paper.height, title, description, (ground, *groups))


def wrapped(text: str, face: Face, size: float, width: float) -> list[str]:
    """Return a text in lines that fit; a word that is wider than the line is broken where it must be. Nothing is left out."""
    found = wrap(text, face, size, width) or broken(text, face, size, width)
    if found is not None:
        return found
    lines: list[str] = []
    for word in text.split():
        if lines and face.width(f"{lines[-1]} {word}", size) <= width:
            lines[-1] += f" {word}"
            continue
        lines.append("")
        for letter in word:
            if lines[-1] and face.width(lines[-1] + letter, size) > width:
                lines.append("")
            lines[-1] += letter
    return lines or [""]


def note_sheets(frame: Frame, title: str, subtitle: str, stamp: str, notes: Sequence[Note]) -> list[Drawing]:
    """Sheets of nothing but notes, as many as it takes: the reasons of a card, or names that found no room on it. The first is
    for the back of the card."""
    sheets: list[Drawing] = []
    waiting = list(notes)
    while waiting:
        header, top = frame.header(title, subtitle, stamp)
        rows, _, fitting = frame.set_notes(waiting, frame.paper.height - frame.paper.margin - top)
        words = waiting[0].text.split()
        if not fitting and len(words) > 1:  # one note alone is taller than the sheet
            halves = (words[: len(words) // 2], words[len(words) // 2 :])
            waiting[:1] = [Note(waiting[0].head, " ".join(half)) for half in halves]
            continue
        if not fitting:  # a single word: it is better over the edge of the margin than lost
            rows, _, fitting = frame.set_notes(waiting[:1], 1e9)
        description = ". ".join(f"{row.note.head}: {row.note.text}" for row in rows)
        sheet = frame.sheet(title, description, [Group((*header, *frame.draw_notes(top, rows)))])
        sheets.append(replace(sheet, back=not sheets))
        waiting = waiting[fitting:]
    return sheets


def numbered(sheets: list[Drawing]) -> list[Drawing]:
    """Return the sheets of one card, each with its number in its title where there are several."""
    if len(sheets) == 1:
        return sheets
    return [replace(one, title=f"{one.title} ({place} of {len(sheets)})") for place, one in enumerate(sheets, start=1)]


def lowered(item: Item, by: float) -> Item:
    """Return the same thing so much further down, in mm."""
    if isinstance(item, Path):
        moved = tuple((step[0], *(float(v) + (by if place % 2 else 0.0) for place, v in enumerate(step[1:])))
                      for step in item.steps)  # fmt: skip
        return replace(item, steps=moved)
    return replace(item, y=item.y + by)
