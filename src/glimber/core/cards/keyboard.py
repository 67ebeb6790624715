"""The keyboard card: the ordinary keyboard with a program's chords on its keys, a sheet for one or several sets of modifiers.

Sets share a sheet while every label has room in its place; each key is divided into a line for each of them. The function row is
drawn where it is used, keys beside the main block stand in a row below it.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.cards.board import LEAST_UNIT
from glimber.core.cards.frame import CannotDraw, Footnotes, Frame, Kit, Note, note_sheets, numbered
from glimber.core.cards.tiles import hatching, two_sizes
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Stroke, Text
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.drawing.text import LINE, fit
from glimber.core.model.board import Board, Key
from glimber.core.model.card_bindings import chosen, label_of
from glimber.core.model.chord_layers import ChordLayer, block_of, chord_layers, taken_by_desktop
from glimber.core.model.folio import EVERYWHERE, Binding, Card, Command, Folio
from glimber.core.model.folio import Group as CommandGroup

TALLEST: Final = 1.32
"""Height of a key at most, in its width: keys with several lines are drawn a little taller than they are."""
_INITIALS: Final = {"Ctrl": "C", "Alt": "A", "AltGr": "G", "Shift": "S", "Super": "W", "Hyper": "H"}
_MOST_SETS: Final = 5
_MOST_NUMBERED: Final = 0.02
"""Share of labels that may be numbered for one more set on a sheet."""
_MOST_IN_ROW: Final = 15
_GAP_U, _PAD_U = 0.035, 0.07
_LEAST_ROW: Final = 1.0
_LARGEST_SHARE: Final = 0.2


class Line(Struct, frozen=True):
    """The work of one set of modifiers on a key. ``tag``: the set's sign, empty where the sheet has a single set."""

    tag: str
    label: str
    full: str
    binding: str | None
    group: CommandGroup | None = None
    careful: bool = False
    grip: float | None = None


class _Box(Struct, frozen=True):
    """The place where a key is drawn, in mm, and its lines; ``taken``: what the desktop does with it."""

    key: str
    print: str
    x: float
    y: float
    w: float
    h: float
    lines: tuple[Line, ...]
    taken: str = ""


def keyboard_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a keyboard card, as many sheets as its sets of modifiers take. Raises CannotDraw where it has no chords."""
    if card.program is None or card.program not in folio.programs:
        raise CannotDraw(f"{card.title} names no program of this folio; add program = to cards/{card.id}.toml")
    if not folio.keyboard.keys:
        raise CannotDraw(f"{folio.keyboard.id} has no keys")
    found = {binding.id: command for binding, command in chosen(folio, card, kit.known)}
    layers = [layer for layer in chord_layers(folio, card.program)
              if layer.stem is None and any(b.id in found for many in layer.bindings.values() for b in many)]  # fmt: skip
    if card.layers:
        layers = [layer for layer in layers if layer.id in card.layers or layer.name in card.layers]
    if not layers:
        raise CannotDraw(f"{card.title} has no chords to show")
    return _Keyboard(folio, card, kit, found).draw(layers)


def _used_others(board: Board, used: Collection[str], drawn: Collection[str]) -> list[str]:
    """Return the used keys that are not drawn, those of the board in its order first."""
    on_board = [key.id for key in board.keys if key.id in used and key.id not in drawn]
    return [*on_board, *(code for code in used if code not in board.by_id)]


class _Keyboard:
    def __init__(self, folio: Folio, card: Card, kit: Kit, found: dict[str, Command]) -> None:
        self.folio, self.card, self.kit, self.found = folio, card, kit, found
        self.faces, self.paper = kit.faces, paper_of(card.paper, card.landscape)
        self.frame, self.least = Frame(self.paper, kit.faces, bool(kit.hidden), kit.sign), self.paper.least_label
        self.short = short_forms_of(folio)

    def draw(self, layers: Sequence[ChordLayer]) -> list[Drawing]:
        sheets: list[Drawing] = []
        waiting: list[Note] = []
        for part in self._parts(layers):
            if min(min(box.w, box.h) for box in self._boxes(part, *self._room(part))) < LEAST_UNIT * self.least:
                raise CannotDraw(
                    f"{self.card.title}: the keys of {self.folio.keyboard.id} cannot be read on {self.card.paper}; "
                    "choose a larger paper or turn it"
                )
            drawing, notes = self._sheet(part)
            sheets.append(drawing)
            waiting += notes
        return numbered([*sheets, *note_sheets(self.frame, self.card.title, "continued", self.kit.stamp, waiting)])

    def _parts(self, layers: Sequence[ChordLayer]) -> list[list[ChordLayer]]:
        """Sets of modifiers for each sheet: as many as leave every label room in its place."""
        parts: list[list[ChordLayer]] = []
        for layer in layers:
            alone = self._numbered([layer])
            for part in parts:
                joined = [*part, layer]
                most = max(alone, int(_MOST_NUMBERED * sum(one.count for one in joined)))
                if len(joined) <= _MOST_SETS and self._numbered(joined) <= most:
                    part.append(layer)
                    break
            else:
                parts.append([layer])
        return parts

    def _numbered(self, layers: Sequence[ChordLayer]) -> int:
        """Return the number of labels that have no room in their place."""
        notes = Footnotes()
        for box in self._boxes(layers, *self._room(layers)):
            self._set_lines(box, notes, None)
        return len(notes.names)

    # Layout

    def _room(self, layers: Sequence[ChordLayer]) -> tuple[float, float]:
        """Return the place where the keys begin, and the height for them where no notes stand below."""
        _, top = self._header(layers)
        return top, self.paper.height - self.paper.margin - self._legend(layers)[1] - top

    def _header(self, layers: Sequence[ChordLayer]) -> tuple[list[Item], float]:
        names = ", ".join(layer.name for layer in layers)
        return self.frame.header(self.card.title, names, self.kit.stamp)

    def _legend(self, layers: Sequence[ChordLayer]) -> tuple[list[Item], float]:
        if "legend" not in self.card.shows:
            return [], 0.0
        commands = [self.found.get(b.id) for layer in layers for many in layer.bindings.values() for b in many]
        groups = [group for command in commands if (group := self.folio.group_of(command)) is not None]
        signs = [f"{self._tag(layer)} {layer.name}" for layer in layers if len(layers) > 1]
        signs += ["hatched: the desktop takes it"] if any(self._taken(layer) for layer in layers) else []
        signs += ["! with care"] if any(command.careful for command in commands if command) else []
        return self.frame.legend(groups, "; ".join(signs))

    def _tag(self, layer: ChordLayer) -> str:
        return "".join(_INITIALS[name] for name in layer.modifiers) or "·"

    def _taken(self, layer: ChordLayer) -> dict[str, str]:
        return dict(taken_by_desktop(self.folio, layer)) if self.card.program != EVERYWHERE else {}

    def _lines(self, layers: Sequence[ChordLayer]) -> tuple[dict[str, list[Line]], dict[str, str]]:
        lines: dict[str, list[Line]] = {}
        taken: dict[str, str] = {}
        for layer in layers:
            tag = self._tag(layer) if len(layers) > 1 else ""
            for code, many in layer.bindings.items():
                lines.setdefault(code, []).extend(self._line(b, tag, len(many) > 1) for b in many if b.id in self.found)
            for code, (stem, count) in layer.stems.items():
                name = next(
                    (one.name for one in self.folio.programs[self.card.program or ""].stems if one.trigger == stem), ""
                )
                words = f"{name or f'{count} more'} …"
                lines.setdefault(code, []).append(Line(tag, words, f"{stem}: {count} more follow", None))
            taken |= self._taken(layer)
        return {code: many for code, many in lines.items() if many}, taken

    def _line(self, binding: Binding, tag: str, several: bool) -> Line:
        command = self.found[binding.id]
        where = f" ({command.context})" if several and command.context else ""
        grip = self.kit.known.grips.get(binding.id) if "grip" in self.card.shows else None
        return Line(tag, label_of(binding, command) + where, command.name + where, binding.id,
                    self.folio.group_of(command), command.careful, grip)  # fmt: skip

    def _boxes(self, layers: Sequence[ChordLayer], top: float, room: float) -> list[_Box]:
        """Return the keys of the main block, the function row where one of its keys is used, and other used keys in rows
        below."""
        lines, taken = self._lines(layers)
        board, legend = self.folio.keyboard, self.folio.legend
        blocks = {block_of(code) for code in lines}
        main = [key for key in board.keys if block_of(key.id) == "main"]
        function = [key for key in board.keys if block_of(key.id) == "function"] if "function" in blocks else []
        drawn = [*function, *main]
        others = _used_others(board, lines, {key.id for key in drawn})
        left, upper = min(key.x for key in drawn), min(key.y for key in drawn)
        right, lower = max(key.x + key.w for key in drawn), max(key.y + key.h for key in drawn)
        rows = -(-len(others) // _MOST_IN_ROW)
        tall = lower - upper + (rows + 0.3 if rows else 0.0)
        u = min(self.frame.inner / (right - left), room / tall)
        v = min(u * TALLEST, room / tall)
        x0 = self.frame.left + (self.frame.inner - u * (right - left)) / 2 - left * u
        y0 = top + max(0.0, room - v * tall) * 0.4 - upper * v

        def box(key: Key) -> _Box:
            printed = key.print if key.print is not None else legend.print_of(key.id)
            return _Box(key.id, printed, x0 + key.x * u, y0 + key.y * v, key.w * u, key.h * v,
                        tuple(lines.get(key.id, ())), taken.get(key.id, ""))  # fmt: skip

        found = [box(key) for key in drawn]
        across = min(_MOST_IN_ROW, len(others)) or 1
        wide = min((right - left) / across, 1.6)
        for at, code in enumerate(others):
            row, column = divmod(at, across)
            corner = x0 + (left + column * wide) * u, y0 + (lower + 0.3 + row) * v
            found.append(_Box(code, legend.print_of(code) or code, *corner, wide * u, v, tuple(lines[code]), taken.get(code, "")))
        return found

    # Drawing

    def _sheet(self, layers: Sequence[ChordLayer]) -> tuple[Drawing, list[Note]]:
        header, top = self._header(layers)
        legend = self._legend(layers)

        def lay(room: float, notes: Footnotes) -> list[Group]:
            boxes = self._boxes(layers, top, room)
            sizes: list[float] = []
            for box in boxes:
                self._set_lines(box, Footnotes(), sizes)
            two = two_sizes(sizes) if sizes else (self.least, self.least)
            return [self._tile(box, notes, two) for box in boxes]

        tiles, below, more = self.frame.filled(top, legend, lay)
        description = ". ".join(group.name for group in tiles if group.name)
        return self.frame.sheet(self.card.title, description, [*tiles, Group((*header, *below))]), more

    def _inner(self, box: _Box) -> tuple[float, float, float, float]:
        """Left, top, width and height of the room for the lines of a key: above its foot."""
        u = min(box.w, box.h)
        pad, foot = _PAD_U * u, max(0.19 * u, self.least * 1.1)
        return box.x + pad, box.y + pad * 0.8, box.w - 2 * pad, box.h - pad - foot

    def _rows(self, box: _Box) -> list[tuple[Line, float, float]]:
        """Return each line of a key with its top and its height: in proportion to what they have to hold, and room for a number
        each."""
        _, y, w, h = self._inner(box)
        need = [max(1.0, self.faces[500].width(line.label, self.least) / max(w, 0.1) + 0.5) for line in box.lines]
        total, found, at = sum(need) or 1.0, [], y
        least = min(self.least * _LEAST_ROW, h / max(1, len(need)))
        if h * min(need, default=1.0) / total >= least:
            least = 0.0  # in proportion, all of them have room for a number
        for line, share in zip(box.lines, need, strict=True):
            high = least + (h - least * len(need)) * share / total
            found.append((line, at, high))
            at += high
        return found

    def _set_lines(
        self, box: _Box, notes: Footnotes, sizes: list[float] | None, two: tuple[float, float] | None = None
    ) -> list[tuple[Line, float, float, float, tuple[str, ...], float]]:
        """Return the lines of a key as they are set: line, left, width, middle, texts, size."""
        x, _, w, h = self._inner(box)
        most = max(1, int(h / (self.least * _LEAST_ROW)))
        if len(box.lines) > most:  # the last row has the numbers of all that find none
            rest = box.lines[most - 1 :]
            numbers = ", ".join(notes.number(line.full) for line in rest)
            box = replace(
                box, lines=(*box.lines[: most - 1], Line("", numbers, "; ".join(line.full for line in rest), None))
            )
        found = []
        for line, top, high in self._rows(box):
            before = self._before(line)
            room = w - before
            largest = max(self.least, _LARGEST_SHARE * min(box.w, box.h))
            setting = fit(line.label, self.faces[500], room, high, largest, self.least, 6, self.short)
            if sizes is not None and not setting.short:
                sizes.append(setting.size)
            if two is not None and not setting.short:
                size = two[0] if setting.size >= two[0] * 0.9999 else two[1]
                setting = fit(line.label, self.faces[500], room, high, size, size, 6, self.short)
            if setting.short and line.tag and room < self.faces[500].width("00", self.least):
                # Beside its modifiers there is no room for a number either: they go to the note.
                line = replace(line, tag="", full=f"{line.tag} {line.full}")
                before, room = self._before(line), w - self._before(line)
            lines = (notes.number(line.full),) if setting.short else setting.lines
            found.append((line, x + before, room, top + high / 2, lines, self.least if setting.short else setting.size))
        return found

    def _before(self, line: Line) -> float:
        tag = self.faces[700].width(line.tag, self.least) + 0.8 if line.tag else 0.0
        careful = self.faces[700].width("!", self.least) + 0.4 if line.careful else 0.0
        return tag + careful + (self.least * 0.9 if line.grip is not None else 0.0)

    def _tile(self, box: _Box, notes: Footnotes, two: tuple[float, float]) -> Group:
        u = min(box.w, box.h)
        gap = _GAP_U * u
        x, y, w, h = box.x + gap, box.y + gap, box.w - 2 * gap, box.h - 2 * gap
        outline = Rect(x, y, w, h, 0.1 * u, "tile" if box.lines else None, Stroke("paper-line", 0.018 * u))
        items: list[Item] = [outline]
        if box.taken and not box.lines:
            items.append(hatching(x + 0.05 * u, y + 0.05 * u, w - 0.1 * u, h - 0.1 * u))
        foot = max(0.19 * u, self.least * 1.1)
        items += self._foot(box, x, y + h - foot / 2, w, u)
        set_ = self._set_lines(box, notes, None, two)
        for line, left, room, middle, lines, size in set_:
            items += self._line_items(box, line, left, room, middle, lines, size)
        name = "; ".join(f"{line.tag} {line.full}".strip() for line in box.lines)
        ids = " ".join(line.binding for line in box.lines if line.binding)
        return Group(tuple(items), ids or box.key, f"{box.print or box.key}: {name}" if name else "")

    def _line_items(
        self, box: _Box, line: Line, left: float, room: float, middle: float, lines: Sequence[str], size: float
    ) -> list[Item]:
        frame, face = self.frame, self.faces[500]
        items: list[Item] = []
        first = middle + face.cap * size / 2 - (len(lines) - 1) * size * LINE / 2
        at = self._inner(box)[0]
        if line.tag:
            items.append(frame.text(at, middle + face.cap * self.least / 2, line.tag, self.least, 700, "prints"))
            at += self.faces[700].width(line.tag, self.least) + 0.8
        if line.careful:
            items.append(frame.text(at, middle + face.cap * self.least / 2, "!", self.least, 700))
            at += self.faces[700].width("!", self.least) + 0.4
        if line.grip is not None:
            items += marks.lamp(line.grip, at + self.least * 0.4, middle, self.least * 0.75)
        if line.binding in self.kit.hidden:
            return items
        if line.tag:
            items += frame.lines(left, first, lines, size, 500)
        else:
            items += frame.lines(left + room / 2, first, lines, size, 500, "ink", "middle")
        return items

    def _foot(self, box: _Box, x: float, y: float, w: float, u: float) -> list[Item]:
        """Return the marks and bands of the groups on the key at its foot, its print at the right end."""
        items: list[Item] = []
        pad, right = _PAD_U * u, x + w - _PAD_U * u
        size = self.least
        if box.print:
            text = box.print
            wide = self.faces[400].width(text, size)
            if wide <= w - 2 * pad:
                colour = "prints" if box.lines else "faint"
                items.append(Text(right, y + self.faces[400].cap * size / 2, text, size, 400, colour, wide, "end"))
                right -= wide + 0.06 * u
        groups = list({line.group.id: line.group for line in box.lines if line.group is not None}.values())
        left = x + pad
        step = (right - left) / len(groups) if groups else 0.0
        for at, group in enumerate(groups):
            if step < 0.12 * u:
                break
            start = left + at * step
            items += marks.mark(group.mark, start + 0.065 * u, y, 0.13 * u, group.ink)
            long = step - 0.2 * u
            if long > 0.06 * u:
                items.append(Rect(start + 0.17 * u, y - 0.025 * u, long, 0.05 * u, 0.025 * u, group.ink))
        return items
