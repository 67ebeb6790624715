"""One key or knob as it is drawn on paper: a tile with the label in the middle, mark and band at its foot, a line a gesture."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from math import sqrt
from types import MappingProxyType
from typing import Final, TypeVar

from msgspec.structs import replace

from glimber.core.cards.key_face import FaceLine, KeyFace
from glimber.core.drawing import marks
from glimber.core.drawing.drawing import Circle, Group, Icons, Image, Item, Path, Picture, Rect, Steps, Stroke, Text
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.short_labels import NO_SHORT_FORMS, ShortForms
from glimber.core.drawing.text import LINE, Setting, fit, one_line, sizes
from glimber.core.model.board import Key, Knob

T = TypeVar("T")
_NOTHING: Final = Group(())
ONE_SIZE: Final = 0.85
"""A size that is no smaller than this share of the largest does for all labels of a card."""
HOME_TICK: Final = 0.1
"""Room below the lowest key for the tick of a home key, in key units."""


class Tiles:
    """Draws keys at a scale of ``u`` a unit, (0, 0) of the board at (x0, y0). ``shows``: as a card's.

    ``least``: the smallest type, in the unit of ``u`` (mm on cards, px on screen). What has no room at it is numbered, its full
    name among the footnotes, where ``least_note`` (the smallest type of notes and prints) is given; on screen it is left out.
    """

    def __init__(
        self,
        faces: Faces,
        icons: Icons,
        shows: Collection[str],
        least: float = 0.0,
        least_note: float | None = None,
        grips: Mapping[str, float] = MappingProxyType({}),
        short: ShortForms = NO_SHORT_FORMS,
    ) -> None:
        self.faces, self.icons, self.shows = faces, icons, shows
        self.least, self.grips, self.short = least, grips, short
        self.numbered = least_note is not None
        self._settings: dict[tuple[str, float, float, float, float], Setting] = {}
        self._found: list[float] | None = None
        self._two: tuple[float, float] | None = None
        self.least_note = least if least_note is None else least_note

    def key(self, key: Key, face: KeyFace, u: float, x0: float, y0: float, footnotes: list[str]) -> Group:
        gap = 0.035 * u
        x, y = x0 + key.x * u + gap, y0 + key.y * u + gap
        w, h = key.w * u - 2 * gap, key.h * u - 2 * gap
        if self._found is not None:  # only the sizes of labels are asked for
            if face.lines:
                self._bound(face, x, y, w, h, u, footnotes)
            return _NOTHING
        line = Stroke("paper-line", 0.018 * u)
        items: list[Item] = [Rect(x, y, w, h, 0.11 * u, "tile" if face.lines else None, line)]
        if key.home:
            items.append(Rect(x + w / 2 - 0.11 * u, y + h + 0.012 * u, 0.22 * u, 0.035 * u, 0.0175 * u, "prints"))
        if face.lines:
            items += self._bound(face, x, y, w, h, u, footnotes)
        elif face.way:
            items += self._centred(face.way, x + w / 2, y + h / 2, w * 0.9, h * 0.7, 0.17 * u, "prints")
        elif face.print:
            # A dead key's print says something the key does not do: struck through, like any other such print.
            dead = face.state == "dead"
            items += self._centred(face.print, x + w / 2, y + h / 2, w * 0.86, h * 0.5, 0.19 * u, "faint", dead)
        px, py = key.pivot or (key.x + key.w / 2, key.y + key.h / 2)
        return Group(tuple(items), key.id, face.spoken(), key.angle, (x0 + px * u, y0 + py * u))

    def knob(self, knob: Knob, face: KeyFace, u: float, x0: float, y0: float, footnotes: list[str]) -> Group:
        if self._found is not None:
            return _NOTHING
        r = knob.w * u / 2 - 0.035 * u
        cx, cy = x0 + knob.centre[0] * u, y0 + knob.centre[1] * u
        items: list[Item] = [Circle(cx, cy, r, "tile" if face.lines else None, Stroke("paper-line", 0.018 * u))]
        lines = face.lines[:3]
        height = 2 * r * 0.62 / max(1, len(lines))
        if self.numbered and lines and not self._in_round(lines, r, height):
            text = "; ".join(f"{line.gesture}: {line.full}" for line in face.lines)
            number = self._number(replace(face.lines[0], full=text), footnotes)
            size = max(self.least_note, min(self.least, r * 0.8))
            items.append(
                self.text(cx, cy + self.faces[600].cap * size / 2, number, size, 600, "prints", anchor="middle")
            )
            return Group(tuple(items), knob.id, face.spoken())
        for line in face.lines[3:] if self.numbered else ():
            self._number(line, footnotes)
        for place, line in enumerate(lines):
            y = cy + (place - (len(lines) - 1) / 2) * height
            # As wide as the round is at the far side of the line's letters.
            narrow = sqrt(r * r - (abs(y - cy) + 0.35 * height) ** 2) - 0.04 * r
            items += self._signed(line, cx - narrow, y, 2 * narrow, height, u, footnotes)
        return Group(tuple(items), knob.id, face.spoken())

    def _in_round(self, lines: tuple[FaceLine, ...], r: float, height: float) -> bool:
        """Return True if the lines of a knob have room, each at least for its sign and a number."""
        far = (len(lines) - 1) / 2 * height + 0.35 * height
        narrow = 2 * (sqrt(max(0.0, r * r - far * far)) - 0.04 * r)
        return height >= self.least * 1.02 and narrow >= self.faces[700].width("·– 12", self.least)

    def _bound(
        self, face: KeyFace, x: float, y: float, w: float, h: float, u: float, footnotes: list[str]
    ) -> list[Item]:
        """Foot row: mark, band, print. Above it the label in the middle and a line for every further gesture."""
        pad, foot = 0.07 * u, max(0.2 * u, self.least_note * self.faces[400].cap + 0.05 * u if self.numbered else 0.0)
        items = self._foot(face, x + pad, y + h - foot / 2 - 0.01 * u, w - 2 * pad, u) if self._found is None else []
        grip = self.grips.get(face.lines[0].binding) if "grip" in self.shows else None
        if grip is not None:
            items += marks.lamp(grip, x + 0.09 * u, y + 0.09 * u, 0.1 * u)
        top, bottom = y + 0.06 * u, y + h - foot - 0.02 * u
        first, rest = face.lines[0], face.lines[1:] if "holds" in self.shows else ()
        lowest = self.least * LINE
        over = rest[int((bottom - top) * 0.6 // lowest) :] if lowest else ()
        if over and self.numbered:  # the numbers take the place of all lines: neither would have room beside the other
            over, rest = rest, ()
            text = self._numbers_of(over, w - 2 * pad, footnotes) if self._found is None else ""
            items.append(
                self.text(
                    x + w - pad, y + 0.03 * u + self.least_note, text, self.least_note, 600, "prints", anchor="end"
                )
            )
            top += self.least_note * 1.05
        rest = rest[: len(rest) - len(over)] if not self.numbered else rest
        row = max(lowest, min(0.16 * u, (bottom - top) * 0.6 / len(rest))) if rest else 0.0
        main_bottom = bottom - row * len(rest)
        sign = "" if first.gesture == "tap" else f"{marks.SIGNS.get(first.gesture, '')} "
        drawn = self._icon(first, x + w / 2, top, main_bottom, u)
        items += drawn
        if drawn and "labels" not in self.shows:
            return items
        top += 0.3 * u if drawn else 0.0
        setting = self._main_label(first, sign, w * 0.94, main_bottom - top, u, footnotes)
        if self._found is not None:
            return []
        items += self.set_at(setting, x + w / 2, (top + main_bottom) / 2, 500, "ink")
        for place, line in enumerate(rest):
            items += self._signed(line, x + pad, main_bottom + (place + 0.5) * row, w - 2 * pad, row, u, footnotes)
        return items

    def _main_label(
        self, line: FaceLine, sign: str, width: float, height: float, u: float, footnotes: list[str]
    ) -> Setting:
        """Return the label in the middle of a key; where it has no room, the number of its footnote."""
        setting = self.setting(sign + line.label, width, height, self._at_least(0.2 * u), self._at_least(0.125 * u))
        if self._found is not None or not (setting.short and self.numbered):
            return setting
        number = self._number(line, footnotes)
        size = self._two[1] if self._two else self._at_least(0.16 * u)
        ways = (f"{sign}see {number}", f"see {number}")
        words = next((text for text in ways if self.faces[500].width(text, size) <= width), number)
        return Setting((words,), size)

    def _icon(self, line: FaceLine, x: float, top: float, bottom: float, u: float) -> list[Item]:
        """Return the icon of a gesture in its group's ink, above the label or, on a card without labels, alone."""
        drawn = self.icons(line.icon) if line.icon and "icons" in self.shows else None
        if drawn is None:
            return []
        alone = "labels" not in self.shows
        side = min(bottom - top, 0.5 * u) if alone else 0.29 * u
        left, upper = x - side / 2, (top + bottom - side) / 2 if alone else top
        if isinstance(drawn, Picture):
            wide = min(side * drawn.proportion, 0.86 * u)
            high = wide / drawn.proportion
            return [Image(x - wide / 2, upper + (side - high) / 2, wide, high, drawn)]
        return [Path(_laid(drawn, left, upper, side), fill=line.group.ink if line.group else "ink")]

    def _foot(self, face: KeyFace, x: float, y: float, w: float, u: float) -> list[Item]:
        items: list[Item] = []
        group, left, right = face.group, x, x + w
        if face.print:
            largest, smallest = max(self.least_note, 0.125 * u), max(self.least_note, 0.085 * u)
            fitting = (s for s in sizes(largest, smallest) if self.faces[400].width(face.print, s) <= 0.42 * w)
            size = next(fitting, smallest)
            text = face.print if self.numbered else one_line(face.print, self.faces[400], size, 0.42 * w)
            width = self.faces[400].width(text, size)
            if width <= 0.62 * w:
                baseline = y + self.faces[400].cap * size / 2
                printed = self.text(right, baseline, text, size, 400, "prints", anchor="end")
                items += [printed, self._strike(printed)] if face.print_differs else [printed]
                right -= width + 0.05 * u
        if group is not None:
            items += marks.mark(group.mark, left + 0.065 * u, y, 0.13 * u, group.ink)
            items.append(band(left + 0.17 * u, y, max(0.05 * u, right - left - 0.17 * u), 0.05 * u, group.ink))
        else:
            items.append(band(left, y, right - left, 0.025 * u, "paper-line"))
        return items

    def _signed(
        self, line: FaceLine, x: float, y: float, w: float, h: float, u: float, footnotes: list[str]
    ) -> list[Item]:
        """Return one small line: the gesture's sign, then its label; with a number where the label had to be cut."""
        items: list[Item] = []
        size, face = self._at_least(min(0.125 * u, h / LINE)), self.faces[400]
        if line.gesture in ("left", "right"):
            items += marks.arc(line.gesture, x + 0.07 * u, y, 0.14 * u, "ink")
            used = 0.19 * u
        else:
            sign = marks.SIGNS[line.gesture]
            used = self.faces[700].width(sign, size) + 0.04 * u
            items.append(self.text(x, y + face.cap * size / 2, sign, size, 700, "ink"))
        room = w - used
        smaller = next((s for s in (size, self._at_least(size * 0.8)) if face.width(line.label, s) <= room), None)
        text = line.label
        if smaller is None:
            smaller = self._at_least(size * 0.8)
            text = self._number(line, footnotes) if self.numbered else one_line(line.label, face, smaller, room)
        items.append(self.text(x + used, y + face.cap * smaller / 2, text, smaller, 400, "ink"))
        return items

    def _at_least(self, size: float) -> float:
        return max(size, self.least)

    def _numbers_of(self, lines: Sequence[FaceLine], room: float, footnotes: list[str]) -> str:
        """Return the numbers of gestures that have no line of their own, with their signs where there is room."""
        numbers = [self._number(line, footnotes) for line in lines]
        signed = " ".join(
            f"{marks.SIGNS.get(line.gesture, '')}{number}" for line, number in zip(lines, numbers, strict=True)
        )
        return signed if self.faces[600].width(signed, self.least_note) <= room else " ".join(numbers)

    def _number(self, line: FaceLine, footnotes: list[str]) -> str:
        """Return the number by which a full name is found under the board; the same name keeps its own."""
        if line.full not in footnotes:
            footnotes.append(line.full)
        return str(footnotes.index(line.full) + 1)

    def setting(self, text: str, w: float, h: float, largest: float, smallest: float) -> Setting:
        """Return a label set into a box, in the unit of ``u``; on a card of two sizes in the larger that fits."""
        found = self._fitted(text, w, h, largest, smallest)
        if self._found is not None and not found.short:
            self._found.append(found.size)
        if self._two is None or found.short:
            return found
        size = self._two[0] if found.size >= self._two[0] * 0.9999 else self._two[1]
        return self._fitted(text, w, h, size, size)

    def _fitted(self, text: str, w: float, h: float, largest: float, smallest: float) -> Setting:
        key = (text, round(w, 4), round(h, 4), largest, smallest)
        found = self._settings.get(key)
        if found is None:
            found = self._settings[key] = fit(text, self.faces[500], w, h, largest, smallest, short=self.short)
        return found

    def in_two_sizes(self, draw: Callable[[list[str]], T]) -> tuple[T, list[str]]:
        """Return what ``draw`` gives, with its footnotes: all labels in one size where the smallest that is needed is hardly
        smaller than the largest, else in two, so that the type is as large as it can be over the whole card."""
        self._found, self._two = [], None
        draw([])
        found, self._found = self._found, None
        self._two = two_sizes(found) if found else None
        footnotes: list[str] = []
        return draw(footnotes), footnotes

    def _centred(
        self, text: str, x: float, y: float, w: float, h: float, size: float, colour: str, struck: bool = False
    ) -> list[Item]:
        setting = fit(text, self.faces[400], w, h, max(size, self.least_note), max(self.least_note, size * 0.55))
        return [] if setting.short and self.numbered else self.set_at(setting, x, y, 400, colour, struck)

    def set_at(
        self, setting: Setting, x: float, y: float, weight: int, colour: str, struck: bool = False
    ) -> list[Item]:
        """Return the lines of a setting about a middle, struck through where they say what is not so."""
        face, size = self.faces[weight], setting.size
        first = y + face.cap * size / 2 - (len(setting.lines) - 1) * size * LINE / 2
        lines = [self.text(x, first + place * size * LINE, text, size, weight, colour, anchor="middle")
                 for place, text in enumerate(setting.lines)]  # fmt: skip
        return [*lines, *(self._strike(line) for line in lines if struck)]

    def text(
        self, x: float, y: float, text: str, size: float, weight: int, colour: str, *, anchor: str = "start"
    ) -> Text:
        return Text(x, y, text, size, weight, colour, self.faces[weight].width(text, size), anchor)  # type: ignore[arg-type]

    def _strike(self, text: Text) -> Path:
        """Return a line through a print that says what the key does not do."""
        left, _, right, _ = text.box(0, 0)
        y = text.y - self.faces[text.weight].cap * text.size / 2
        over = 0.12 * text.size
        return line_of(left - over, y, right + over, y, text.colour, 0.07 * text.size)


def line_of(x1: float, y1: float, x2: float, y2: float, colour: str, width: float) -> Path:
    """Return a straight line, in mm."""
    return Path((("M", x1, y1), ("L", x2, y2)), stroke=Stroke(colour, width))


def hatching(x: float, y: float, w: float, h: float) -> Path:
    """Return slanted lines over a place, clipped to it."""
    steps: list[tuple[str | float, ...]] = []
    at = 1.2
    while at < w + h:
        x1, y1 = x + max(0.0, at - h), y + min(h, at)
        x2, y2 = x + min(w, at), y + max(0.0, at - w)
        steps += [("M", x1, y1), ("L", x2, y2)]
        at += 1.6
    return Path(tuple(steps), stroke=Stroke("paper-line", 0.2))


def two_sizes(fitting: Sequence[float]) -> tuple[float, float]:
    """Return the two sizes for labels of which each fits up to a size of its own; the same twice where one will do."""
    small = min(fitting)
    if small >= ONE_SIZE * max(fitting):
        return small, small
    ordered = sorted(fitting)
    best = max(range(len(ordered)), key=lambda place: (ordered[place] - small) * (len(ordered) - place))
    return ordered[best], small


def band(x: float, y: float, length: float, thick: float, colour: str) -> Rect:
    """A band with round ends from (x, y) to the right, y its middle, in mm."""
    return Rect(x, y - thick / 2, length, thick, thick / 2, fill=colour)


def _laid(steps: Steps, x: float, y: float, side: float) -> Steps:
    """Return an outline of a square of side 1, laid at (x, y)."""
    return tuple(
        (step[0], *(float(value) * side + (y if place % 2 else x) for place, value in enumerate(step[1:])))
        for step in steps
    )
