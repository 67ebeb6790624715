"""The board card: one layer of a board, with words on its keys, a legend of its groups and the reasons below."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from glimber.core.cards import marks
from glimber.core.cards.drawing import Drawing, Group, Icons, Item, Path, Rect
from glimber.core.cards.keyface import key_faces, layer_words, main_program, together_lines
from glimber.core.cards.metrics import Faces
from glimber.core.cards.text import one_line
from glimber.core.cards.tiles import HOME_TICK, Tiles, band, line_of
from glimber.core.folio.board import Board
from glimber.core.folio.folio import Card, Folio, Layer
from glimber.core.folio.folio import Group as CommandGroup
from glimber.core.folio.words import key_words

PAPERS_MM: Final = {
    "A3": (297.0, 420.0), "A4": (210.0, 297.0), "A5": (148.0, 210.0), "A6": (105.0, 148.0),
    "Letter": (215.9, 279.4), "Legal": (215.9, 355.6),
}  # fmt: skip
NOTE_COLUMNS: Final = 3
MOST_REASON_LINES: Final = 4


class CannotDraw(ValueError):
    """A card that cannot be drawn; the message says why."""


@dataclass(frozen=True)
class _Note:
    """A line under the board: the keys or number it belongs to, and its text."""

    head: str
    text: str


@dataclass
class _Tiles:
    """The keys drawn at one scale, with the full names that did not fit on them."""

    groups: list[Group] = field(default_factory=list)
    footnotes: list[str] = field(default_factory=list)


def board_card(folio: Folio, card: Card, faces: Faces, stamp: str = "", icons: Icons = lambda name: None) -> Drawing:
    """Draw a board card on its paper. ``stamp`` stands at the upper right. Raises CannotDraw."""
    board, layer = _subject(folio, card)
    short, long = PAPERS_MM[card.paper]
    width, height = (long, short) if card.landscape else (short, long)
    return _Sheet(folio, card, board, layer, faces, width, height, stamp, icons).draw()


def _subject(folio: Folio, card: Card) -> tuple[Board, Layer]:
    if card.kind != "board":
        raise CannotDraw(f"{card.id} is a {card.kind} card; only board cards can be drawn so far")
    if card.board is None:
        raise CannotDraw(f"{card.id} names no board; add board = to cards/{card.id}.toml")
    layout = folio.layouts.get(card.board)
    if layout is None:
        raise CannotDraw(f"{card.board} has no layout in this folio; add layouts/{card.board}.toml")
    layer = layout.layer(card.layers[0]) if card.layers else layout.base
    if layer is None:
        raise CannotDraw(f"{card.layers[0]} is not a layer of {card.board}")
    return folio.boards[card.board], layer


class _Sheet:
    def __init__(self, folio: Folio, card: Card, board: Board, layer: Layer, faces: Faces, width: float, height: float,
                 stamp: str, icons: Icons) -> None:  # fmt: skip
        self.folio, self.card, self.board, self.layer, self.faces = folio, card, board, layer, faces
        self.width, self.height, self.stamp, self.icons = width, height, stamp, icons
        self.unit = min(width, height * 1.42) / 210.0
        self.margin = 7.0 * self.unit
        self.inner = width - 2 * self.margin
        self.key_faces = key_faces(folio, board, layer)
        self.tile = Tiles(faces, icons, card.shows)

    def draw(self) -> Drawing:
        title = f"{self.card.title} · {self.board.id}"
        said = ". ".join(face.said() for face in self.key_faces.values() if face.lines)
        if not self.key_faces:
            raise CannotDraw(f"{self.board.id} has no keys")
        header, top = self._header()
        reasons = self._reasons() if "reasons" in self.card.shows else []
        together = self._together()
        legend, legend_height = self._legend()
        reserved = 0
        for _ in range(4):
            # How much the notes need depends on what does not fit the keys, and the keys' size on the notes: a few
            # rounds settle it, each with more room for notes than the one before.
            room = (
                self.height - top - self.margin - legend_height - self._notes_height(reserved + len(together), reasons)
            )
            tiles = self._tiles(top, room)
            if len(tiles.footnotes) <= reserved:
                break
            reserved = len(tiles.footnotes)
        footnotes = [_Note(str(number), text) for number, text in enumerate(tiles.footnotes, start=1)]
        bottom = self.height - self.margin - self._notes_height(reserved + len(together), reasons)
        notes = self._notes(bottom, [*footnotes, *together], reasons)
        placed_legend = [_lowered(item, bottom - legend_height) for item in legend]
        ground = Group((Rect(0, 0, self.width, self.height, 1.0, fill="paper"),))
        rest = Group((*header, *placed_legend, *notes))
        return Drawing(self.width, self.height, title, said, (ground, *tiles.groups, rest))

    # Header, legend, notes

    def _header(self) -> tuple[list[Item], float]:
        size, y = 6.6 * self.unit, self.margin + 5.6 * self.unit
        layout = self.folio.layouts[self.board.id]
        small, stamp_size = 3.4 * self.unit, 2.9 * self.unit
        stamp = one_line(self.stamp, self.faces[400], stamp_size, self.inner * 0.4)
        stamp_width = self.faces[400].width(stamp, stamp_size)
        title = one_line(self.card.title, self.faces[700], size, self.inner * 0.55)
        items: list[Item] = [self.tile.text(self.margin, y, title, size, 700, "ink")]
        at = self.margin + self.faces[700].width(title, size) + 3.2 * self.unit
        parts = [self.board.id, layer_words(self.folio, layout, self.layer), main_program(self.folio, self.layer)]
        subtitle = " · ".join(part for part in parts if part)
        room = self.width - self.margin - stamp_width - 4 * self.unit - at
        if room > 10 * self.unit:
            items.append(self.tile.text(at, y, one_line(subtitle, self.faces[400], small, room), small, 400, "prints"))
        if stamp:
            items.append(self.tile.text(self.width - self.margin, y, stamp, stamp_size, 400, "prints", anchor="end"))
        return items, y + 5.4 * self.unit

    def _legend(self) -> tuple[list[Item], float]:
        """Marks, inks and names of the groups on the card, then the gestures' signs; placed from y = 0 down."""
        if "legend" not in self.card.shows:
            return [], 0.0
        size, row = 3.3 * self.unit, 5.4 * self.unit
        items: list[Item] = [line_of(self.margin, 0.0, self.margin + self.inner, 0.0, "paper-line", 0.25 * self.unit)]
        x, y = self.margin, 6.2 * self.unit
        for group in self._groups():
            name_width = self.faces[500].width(group.name, size)
            needed = 8.2 * self.unit + name_width
            if x > self.margin and x + needed > self.margin + self.inner:
                x, y = self.margin, y + row
            middle = y - self.faces[500].cap * size / 2
            items += marks.mark(group.mark, x + 1.5 * self.unit, middle, 2.3 * self.unit, group.ink)
            items.append(band(x + 3.3 * self.unit, middle, 4.0 * self.unit, 0.8 * self.unit, group.ink))
            name = one_line(group.name, self.faces[500], size, self.inner - 8.2 * self.unit)
            items.append(self.tile.text(x + 8.2 * self.unit, y, name, size, 500, "ink"))
            x += needed + 5.0 * self.unit
        signs = self._signs()
        if signs:
            width = self.faces[400].width(signs, size)
            if x > self.margin and x + width > self.margin + self.inner:
                y += row
            text = one_line(signs, self.faces[400], size, self.inner)
            items.append(self.tile.text(self.margin + self.inner, y, text, size, 400, "prints", anchor="end"))
        return items, y + 3.4 * self.unit

    def _groups(self) -> list[CommandGroup]:
        lines = [line for face in self.key_faces.values() for line in face.lines]
        lines += [line for _, line in together_lines(self.folio, self.layer)]
        return list({(g.name, g.ink, g.mark): g for line in lines if (g := line.group) is not None}.values())

    def _signs(self) -> str:
        names = {"hold": "hold", "double": "double tap", "tap-hold": "tap, then hold"}
        used = {line.gesture for face in self.key_faces.values() for line in face.lines}
        return "   ".join(f"{marks.SIGNS[gesture]} {name}" for gesture, name in names.items() if gesture in used)

    def _reasons(self) -> list[_Note]:
        """Reasons in reading order; keys that share a reason share a line."""
        keys: dict[str, list[str]] = {}
        for face in self.key_faces.values():
            for line in face.lines:
                if line.reason:
                    keys.setdefault(line.reason, []).append(key_words(self.folio, self.board.id, (face.key,)))
        return [_Note(" ".join(dict.fromkeys(heads)), reason) for reason, heads in keys.items()]

    def _together(self) -> list[_Note]:
        return [_Note(key_words(self.folio, self.board.id, keys), line.full)
                for keys, line in together_lines(self.folio, self.layer)]  # fmt: skip

    def _note_lines(self, fixed: int, reasons: Sequence[_Note]) -> int:
        """Lines of three notes each: all that must be there, and as many lines of reasons as there is room for."""
        return -(-fixed // NOTE_COLUMNS) + min(-(-len(reasons) // NOTE_COLUMNS), MOST_REASON_LINES)

    def _notes_height(self, fixed: int, reasons: Sequence[_Note]) -> float:
        lines = self._note_lines(fixed, reasons)
        return (lines * 3.9 + 1.0) * self.unit if lines else 0.0

    def _notes(self, top: float, fixed: list[_Note], reasons: list[_Note]) -> list[Item]:
        size, column = 2.75 * self.unit, self.inner / NOTE_COLUMNS
        shown = reasons[: MOST_REASON_LINES * NOTE_COLUMNS]
        if len(shown) < len(reasons):
            left = len(reasons) - len(shown) + 1
            shown = [*shown[:-1], _Note("", f"and {left} more reasons")]
        items: list[Item] = []
        first_lines = -(-len(fixed) // NOTE_COLUMNS)
        for start, notes in ((0, fixed), (first_lines, shown)):
            for place, note in enumerate(notes):
                x = self.margin + (place % NOTE_COLUMNS) * column
                y = top + (start + place // NOTE_COLUMNS + 0.85) * 3.9 * self.unit
                head = one_line(note.head, self.faces[700], size, column * 0.4)
                at = x
                if head:
                    items.append(self.tile.text(x, y, head, size, 700, "ink"))
                    at += self.faces[700].width(head, size) + 1.3 * self.unit
                text = one_line(note.text, self.faces[400], size, x + column - 3 * self.unit - at)
                items.append(self.tile.text(at, y, text, size, 400, "ink"))
        return items

    # Keys

    def _tiles(self, top: float, room: float) -> _Tiles:
        left, upper, right, lower = self.board.extent
        u = min(self.inner / (right - left), max(room, 1.0) / (lower - upper + HOME_TICK), 19.05)
        x0 = self.margin + (self.inner - u * (right - left)) / 2 - u * left
        y0 = top - u * upper + max(0.0, (room - u * (lower - upper)) * 0.35)
        tiles = _Tiles()
        for key in self.board.keys:
            tiles.groups.append(self.tile.key(key, self.key_faces[key.id], u, x0, y0, tiles.footnotes))
        for knob in self.board.knobs:
            tiles.groups.append(self.tile.knob(knob, self.key_faces[knob.id], u, x0, y0, tiles.footnotes))
        return tiles


def _lowered(item: Item, by: float) -> Item:
    if isinstance(item, Path):
        return replace(item, steps=tuple(_lowered_step(step, by) for step in item.steps))
    return replace(item, y=item.y + by)


def _lowered_step(step: tuple[str | float, ...], by: float) -> tuple[str | float, ...]:
    """Every second number after the letter is a y."""
    return tuple(
        part + by if isinstance(part, float | int) and place % 2 == 0 else part for place, part in enumerate(step)
    )
