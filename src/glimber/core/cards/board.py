"""The board card: a layer of a board, or two to four of them, with words on the keys, a legend of the groups and the reasons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.cards.frame import CannotDraw, Frame, Kit, Note, lowered, note_sheets, numbered
from glimber.core.cards.key_face import KeyFace, key_faces, layer_words, main_program, together_lines
from glimber.core.cards.tiles import HOME_TICK, Tiles
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.model.board import Board
from glimber.core.model.describe import key_words
from glimber.core.model.folio import Card, Folio, Layer
from glimber.core.model.folio import Group as CommandGroup

MOST_LAYERS: Final = 4
MOST_PARTS: Final = 6
MOST_BETWEEN: Final = 22.0
"""mm between two layers at most, on A5: what faces each other is seen together."""
LEAST_UNIT: Final = 2.95
"""A key unit at least, in sizes of the smallest label: a number and a line of other gestures have room on it."""
LARGEST_UNIT: Final = 34.0
"""mm a key unit at most: larger keys are not read better."""


def board_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a board card on as many sheets as it takes: the board on the first. Raises CannotDraw."""
    board, layers = subject(folio, card)
    parts = _parts(card, board, layers, partial(Sheet, folio, card, kit))
    sheets = [drawing for sheet in parts for drawing in sheet.draw()]
    return numbered(sheets)


def _parts(
    card: Card, board: Board, layers: Sequence[Layer], make: Callable[[Board, Sequence[Layer]], Sheet]
) -> list[Sheet]:
    """Return what stands on each sheet: everything, or a layer each, or the board cut from left to right, so that keys can
    be read."""
    whole = make(board, layers)
    if whole.can_be_read():
        return [whole]
    for count in range(1, MOST_PARTS + 1):
        cut = _cut(board, count)
        if all(make(part, layers[:1]).can_be_read() for part in cut):
            return [make(part, [layer]) for layer in layers for part in cut]
    raise CannotDraw(
        f"{card.title}: the keys of {board.id} cannot be read on {card.paper}; choose a larger paper or turn it"
    )


def _cut(board: Board, count: int) -> list[Board]:
    """Return the board from left to right in so many parts of like width, each key whole."""
    left, _, right, _ = board.extent
    wide = (right - left) / count

    def part_of(x: float) -> int:
        return min(count - 1, max(0, int((x - left) / wide)))

    parts = [
        replace(board, keys=tuple(key for key in board.keys if part_of(key.centre[0]) == at),
                knobs=tuple(knob for knob in board.knobs if part_of(knob.centre[0]) == at))
        for at in range(count)
    ]  # fmt: skip
    return [part for part in parts if part.keys or part.knobs]


def subject(folio: Folio, card: Card) -> tuple[Board, list[Layer]]:
    """Return the board and the layers of a card. Raises CannotDraw."""
    if card.kind not in ("board", "facing"):
        raise CannotDraw(f"{card.id} is a {card.kind} card; expected a board card")
    if card.board is None:
        raise CannotDraw(f"{card.id} names no board; add board = to cards/{card.id}.toml")
    layout = folio.layouts.get(card.board)
    if layout is None:
        raise CannotDraw(f"{card.board} has no layout in this folio; add layouts/{card.board}.toml")
    if len(card.layers) > MOST_LAYERS and not card.keys:
        raise CannotDraw(f"{card.id} names {len(card.layers)} layers; expected at most {MOST_LAYERS} on one card")
    layers = [layout.layer(id) for id in card.layers] if card.layers else [layout.base]
    for id, layer in zip(card.layers, layers, strict=False):
        if layer is None:
            raise CannotDraw(f"{id} is not a layer of {card.board}")
    board = folio.boards[card.board]
    if not board.keys and not board.knobs:
        raise CannotDraw(f"{board.id} has no keys")
    return board, [layer for layer in layers if layer is not None]


class Place(Struct, frozen=True):
    """The position of one drawn layer: its board's (0, 0) in mm, mm a key unit, and the space left free above it."""

    u: float
    x0: float
    y0: float
    top: float


class _Stack(Struct, frozen=True):
    """Layers in rows: mm a key unit, widths of columns, heights of rows with their head, the head, the height that is left."""

    u: float
    wides: tuple[float, ...]
    highs: tuple[float, ...]
    head: float
    spare: float


class Sheet:
    """A sheet with one or several layers of a board."""

    def __init__(
        self,
        folio: Folio,
        card: Card,
        kit: Kit,
        board: Board,
        layers: Sequence[Layer],
        boards: Sequence[Board] = (),
    ) -> None:
        """``boards``: each layer's, where they are not all of ``board``."""
        self.folio, self.card, self.board, self.layers = folio, card, board, layers
        self.boards = list(boards) or [board] * len(layers)
        self.paper, self.stamp = paper_of(card.paper, card.landscape), kit.stamp
        self.names = [layer.name for layer in layers]
        self.frame = Frame(self.paper, kit.faces)
        self.key_faces: list[dict[str, KeyFace]] = [
            key_faces(folio, of, layer) for of, layer in zip(self.boards, layers, strict=True)
        ]
        least, least_note = self.paper.least_label, self.paper.least_note
        self.tile = Tiles(kit.faces, kit.icons, card.shows, least, least_note, kit.known.grips, short_forms_of(folio))

    def draw(self) -> list[Drawing]:
        frame = self.frame
        title = f"{self.card.title} · {self.board.id}"
        description = ". ".join(face.spoken() for faces in self.key_faces for face in faces.values() if face.lines)
        header, top = frame.header(self.card.title, self._subtitle(), self.stamp)
        together = self._together()
        legend, legend_height = (
            frame.legend(self._groups(), self._signs()) if "legend" in self.card.shows else ([], 0.0)
        )
        bottom = self.paper.height - self.paper.margin - legend_height
        reserved = 0.0
        for _ in range(6):
            # How much the notes need depends on what does not fit the keys, and the keys' size on the notes: a few rounds
            # settle it, each with more room for notes than the one before.
            tiles, footnotes = self._tiles(top, bottom - top - reserved)
            notes = [*(Note(str(number), text) for number, text in enumerate(footnotes, start=1)), *together]
            rows, height, fitting = frame.set_notes(notes, self._room_for_notes(bottom - top))
            if height <= reserved + 1e-6:
                break
            reserved = height
        left = notes[fitting:]
        if "reasons" in self.card.shows:
            # Reasons stand on the sheet where the board leaves room for all of them; else all of them are on the back.
            reasons = self._reasons()
            both, height, whole = frame.set_notes([*notes, *reasons], reserved + self._spare(bottom - top - reserved))
            if whole == len(notes) + len(reasons):
                rows, reserved = both, height
                tiles, _ = self._tiles(top, bottom - top - reserved)
            else:
                left = [*left, *reasons]
        shown = [lowered(item, bottom - reserved) for item in legend]
        under = frame.draw_notes(bottom - reserved + legend_height, rows)
        sheets = [frame.sheet(title, description, [*tiles, Group((*header, *shown, *under))])]
        return [*sheets, *note_sheets(frame, self.card.title, "the back: names and reasons", self.stamp, left)]

    def can_be_read(self) -> bool:
        """Return True if keys are large enough where nothing stands below them but the legend."""
        _, top = self.frame.header(self.card.title, self._subtitle(), self.stamp)
        legend = self.frame.legend(self._groups(), self._signs())[1] if "legend" in self.card.shows else 0.0
        room = self.paper.height - self.paper.margin - legend - top
        return self._stack(room).u >= LEAST_UNIT * self.paper.least_label

    def _room_for_notes(self, room: float) -> float:
        """Return how high notes may stand without the keys becoming too small to be read."""
        least = LEAST_UNIT * self.paper.least_label
        keys = least * (
            max(lower - upper for _, upper, _, lower in (board.extent for board in self.boards)) + HOME_TICK
        )
        return max(0.0, min(room * 0.4, room - keys if len(self.layers) == 1 else room * 0.2))

    def _subtitle(self) -> str:
        layout = self.folio.layouts[self.board.id]
        if self.boards != [self.board] * len(self.layers):
            return " and ".join(self.names)
        if len(self.layers) > 1:
            return f"{self.board.id} · {', '.join(self.names)}"
        layer = self.layers[0]
        parts = [self.board.id, layer_words(self.folio, layout, layer), main_program(self.folio, layer)]
        return " · ".join(part for part in parts if part)

    def _groups(self) -> list[CommandGroup]:
        lines = [line for faces in self.key_faces for face in faces.values() for line in face.lines]
        lines += [line for layer in self.layers for _, line in together_lines(self.folio, layer)]
        return [group for line in lines if (group := line.group) is not None]

    def _signs(self) -> str:
        names = {"hold": "hold", "double": "double tap", "tap-hold": "tap, then hold"}
        used = {line.gesture for faces in self.key_faces for face in faces.values() for line in face.lines}
        signs = [f"{marks.SIGNS[gesture]} {name}" for gesture, name in names.items() if gesture in used]
        return "; ".join([*signs, *(["lamp: how firmly it is held"] if "grip" in self.card.shows else [])])

    def _reasons(self) -> list[Note]:
        """Reasons in reading order; keys that share a reason share a line."""
        keys: dict[str, list[str]] = {}
        for board, faces in zip(self.boards, self.key_faces, strict=True):
            for face in faces.values():
                for line in face.lines:
                    if line.reason:
                        keys.setdefault(line.reason, []).append(key_words(self.folio, board.id, (face.key,)))
        return [Note(" ".join(dict.fromkeys(heads)), reason) for reason, heads in keys.items()]

    def _together(self) -> list[Note]:
        boards = zip(self.boards, self.layers, strict=True)
        return [Note(key_words(self.folio, board.id, keys), line.full)
                for board, layer in boards for keys, line in together_lines(self.folio, layer)]  # fmt: skip

    # Keys

    def _tiles(self, top: float, room: float) -> tuple[list[Group], list[str]]:
        """Return every layer's keys at one scale, with the full names that did not fit on them."""
        places = self._places(top, max(room, 1.0))
        return self.tile.in_two_sizes(lambda footnotes: self._drawn(places, footnotes))

    def _drawn(self, places: Sequence[Place], footnotes: list[str]) -> list[Group]:
        groups: list[Group] = []
        for board, name, faces, place in zip(self.boards, self.names, self.key_faces, places, strict=True):
            if len(self.layers) > 1:
                size = self.frame.small
                left = place.x0 + place.u * board.extent[0]
                groups.append(Group((self.frame.text(left, place.top + size, name, size, 700),)))
            groups += [self.tile.key(key, faces[key.id], place.u, place.x0, place.y0, footnotes) for key in board.keys]
            groups += [
                self.tile.knob(knob, faces[knob.id], place.u, place.x0, place.y0, footnotes) for knob in board.knobs
            ]
        return [*groups, *self.over(places)]

    def head(self) -> float:
        """Return the height of what stands over the keys, in mm."""
        return self.frame.small * 1.7 if len(self.layers) > 1 else 0.0

    def over(self, places: Sequence[Place]) -> list[Group]:
        """Return what lies over the keys; nothing on a plain board card."""
        return []

    def _spare(self, room: float) -> float:
        """Return height that the keys leave, in mm: they are as large as the width lets them be."""
        return self._stack(room).spare - 2.0 * self.paper.unit

    def _stack(self, room: float) -> _Stack:
        """Layers beside and below each other, all at one scale, in the way that makes the keys largest."""
        extents = [board.extent for board in self.boards]
        sizes = [(right - left, lower - upper + HOME_TICK) for left, upper, right, lower in extents]
        count, gap, head = len(sizes), 6.0 * self.paper.unit, self.head()
        ways = []
        for across in range(1, count + 1):
            down = -(-count // across)
            broad = sum(max(wide for wide, _ in sizes[at::across]) for at in range(across))
            tall = sum(max(high for _, high in sizes[at * across : (at + 1) * across]) for at in range(down))
            wide, high = self.frame.inner - gap * (across - 1), room - gap * 0.5 * (down - 1) - head * down
            u = min(wide / broad, max(high, 1.0) / tall, LARGEST_UNIT)
            ways.append(
                (u, across, (wide - u * broad) / across, room - u * tall - head * down - gap * 0.5 * (down - 1))
            )
        u, across, beside, spare = max(ways)
        wides = tuple(u * max(wide for wide, _ in sizes[at::across]) + beside for at in range(across))
        highs = tuple(u * max(high for _, high in sizes[at : at + across]) + head for at in range(0, count, across))
        return _Stack(u, wides, highs, head, max(0.0, spare))

    def _places(self, top: float, room: float) -> list[Place]:
        """Return where each layer is drawn: a little over the middle of its room, not far from the next."""
        stack, gap = self._stack(room), 6.0 * self.paper.unit
        across, down = len(stack.wides), len(stack.highs)
        between = gap * 0.5 + min(stack.spare / down, MOST_BETWEEN * self.paper.unit) * (down > 1)
        first = top + (stack.spare - (between - gap * 0.5) * (down - 1)) * 0.4
        found = []
        for at, board in enumerate(self.boards):
            left, upper, right, _ = board.extent
            column, row = at % across, at // across
            x = self.frame.left + sum(stack.wides[:column]) + gap * column
            y = first + sum(stack.highs[:row]) + between * row
            x0 = x + (stack.wides[column] - stack.u * (right - left)) / 2 - stack.u * left
            found.append(Place(stack.u, x0, y + stack.head - stack.u * upper, y))
        return found
