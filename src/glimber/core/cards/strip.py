"""The strip card: the few keys of one task in order, to go along an edge of the screen or across a sheet."""

from __future__ import annotations

from functools import partial

from glimber.core.cards.frame import CannotDraw, Footnotes, Frame, Kit, Note, note_sheets, numbered
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Stroke
from glimber.core.drawing.paper import paper_of
from glimber.core.drawing.short_labels import short_forms_of
from glimber.core.drawing.text import LINE, fit
from glimber.core.model.card_bindings import chosen, label_of
from glimber.core.model.describe import key_words
from glimber.core.model.folio import Binding, Card, Command, Folio
from glimber.core.notation.keys import Spot

SIGNS = {"hold": " held", "double": " twice", "tap-hold": " tapped, held", "left": " left", "right": " right"}


def strip_card(folio: Folio, card: Card, kit: Kit) -> list[Drawing]:
    """Draw a strip card on as many sheets as it takes. Raises CannotDraw where it has no keys."""
    found = chosen(folio, card, kit.known)
    if not found:
        raise CannotDraw(f"{card.title} has no keys to show")
    return _Strip(folio, card, kit).draw(found)


class _Strip:
    def __init__(self, folio: Folio, card: Card, kit: Kit) -> None:
        self.folio, self.card, self.faces, self.stamp = folio, card, kit.faces, kit.stamp
        self.paper = paper_of(card.paper, card.landscape)
        self.frame, self.least = Frame(self.paper, kit.faces), self.paper.least_label

    def draw(self, found: list[tuple[Binding, Command]]) -> list[Drawing]:
        frame, sheets, waiting = self.frame, list[Drawing](), list[Note]()
        thin = self.paper.height < 45
        header, top = ([], self.paper.margin * 0.6) if thin else frame.header(self.card.title, "in order", self.stamp)
        left, nth = list(found), 1
        while left:
            groups = [group for _, command in left if (group := self.folio.group_of(command)) is not None]
            legend = frame.legend(groups) if "legend" in self.card.shows and not thin else ([], 0.0)
            (tiles, used), below, more = frame.filled(top, legend, partial(self._tiles, left, nth, top))
            description = ". ".join(
                f"{nth + at}: {command.name}, {binding.trigger}" for at, (binding, command) in enumerate(left[:used])
            )
            sheets.append(frame.sheet(self.card.title, description, [*tiles, Group((*header, *below))]))
            waiting += more
            left, nth = left[used:], nth + used
        if "reasons" in self.card.shows:
            waiting += [Note(command.short, binding.reason) for binding, command in found if binding.reason]
        sheets += note_sheets(frame, self.card.title, "continued", self.stamp, waiting)
        return numbered(sheets)

    def _tiles(
        self, found: list[tuple[Binding, Command]], nth: int, top: float, room: float, notes: Footnotes
    ) -> tuple[list[Group], int]:
        """Return the steps in rows from left to right, as large as they fit; how many there was room for."""
        inner, least_w, least_h = self.frame.inner, self.least * 7.5, self.least * 4.4
        ways = []
        for rows in range(1, max(1, int(room / least_h)) + 1):
            across = -(-len(found) // rows)
            wide = inner / across
            if wide >= least_w:
                ways.append((min(wide / 8.0, room / rows / 4.6), rows, across))
        if ways:
            _, rows, across = max(ways)
            used = len(found)
        else:
            rows, across = max(1, int(room / least_h)), max(1, int(inner / least_w))
            used = min(len(found), rows * across)
        wide, high = inner / across, min(room / rows, 60.0)
        tiles = []
        for at, (binding, command) in enumerate(found[:used]):
            x, y = self.frame.left + (at % across) * wide, top + (at // across) * high
            tiles.append(self._tile(binding, command, nth + at, x, y, wide, high, notes))
        return tiles, used

    def _tile(
        self, binding: Binding, command: Command, nth: int, x: float, y: float, w: float, h: float, notes: Footnotes
    ) -> Group:
        unit, face, gap = self.paper.unit, self.faces[500], 0.8 * self.paper.unit
        group = self.folio.group_of(command)
        items: list[Item] = [
            Rect(x + gap, y + gap, w - 2 * gap, h - 2 * gap, 1.2 * unit, "tile", Stroke("paper-line", 0.2))
        ]
        if group is not None:
            items.append(
                Rect(
                    x + gap + 1.2 * unit, y + h - gap - 0.9 * unit, w - 2 * gap - 2.4 * unit, 0.9 * unit, 0.4, group.ink
                )
            )
        size = max(self.paper.least_note, min(h * 0.14, 3.2))
        line = y + gap + size * 1.1
        items.append(self.frame.text(x + gap + 1.2 * unit, line, str(nth), size, 600, "prints"))
        if group is not None:
            items += marks.mark(
                group.mark, x + w - gap - 1.2 * unit - size / 2, line - size * 0.35, size * 0.9, group.ink
            )
        keys = self._keys(binding)
        inner, half = w - 2 * gap - 1.6 * unit, (h - 2 * gap - size * 1.4 - 1.2 * unit) / 2
        label = label_of(binding, command)
        for text, full, top, weight in ((keys, f"{command.name}: {keys}", 0.0, 600), (label, command.name, half, 400)):
            setting = fit(text, self.faces[weight], inner, half, min(6.0, half * 0.62), self.least, 3,
                          short_forms_of(self.folio))  # fmt: skip
            middle = y + gap + size * 1.4 + top + half / 2
            lines, at = (
                (setting.lines, setting.size) if not setting.short else ([f"see {notes.number(full)}"], self.least)
            )
            first = middle + face.cap * at / 2 - (len(lines) - 1) * at * LINE / 2
            items += self.frame.lines(x + w / 2, first, lines, at, weight, "ink", "middle")
        return Group(tuple(items), binding.id, f"{nth}. {command.name}: {keys}")

    def _keys(self, binding: Binding) -> str:
        trigger = binding.trigger
        if not isinstance(trigger, Spot):
            return str(trigger)
        return key_words(self.folio, trigger.board, trigger.keys) + SIGNS.get(trigger.gesture, "")
