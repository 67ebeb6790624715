"""A card of keys and what they do: paper with a row for each, chords as chips. The ``?`` card of a room is one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Stroke, Text
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.text import one_line

ROW: Final = 6.4
_WIDTH: Final = 148.0
_MARGIN: Final = 9.0


def key_card(title: str, subtitle: str, rows: Sequence[tuple[str, Sequence[str]]], faces: Faces) -> Drawing:
    """Return rows of (what it does, its triggers in our notation) in two columns under a title, in mm."""
    per_column = -(-len(rows) // 2)
    height = _MARGIN * 2 + 10.0 + max(1, per_column) * ROW
    items: list[Item] = [
        put(_MARGIN, _MARGIN + 5.2, title, 6.2, 700, "ink", faces),
        put(_MARGIN + faces[700].width(title, 6.2) + 3, _MARGIN + 5.2, subtitle, 3.3, 400, "prints", faces),
    ]
    column = (_WIDTH - 2 * _MARGIN + 6.0) / 2
    for place, (name, triggers) in enumerate(rows):
        x = _MARGIN + (place // per_column) * column
        y = _MARGIN + 13.0 + (place % per_column) * ROW
        items += _row(x, y, column - 6.0, name, triggers, faces)
    description = ". ".join(f"{name}: {' or '.join(triggers)}" for name, triggers in rows)
    ground = Group((Rect(0, 0, _WIDTH, height, 1.2, fill="paper"),))
    return Drawing(_WIDTH, height, title, description, (ground, Group(tuple(items))))


def _row(x: float, y: float, width: float, name: str, triggers: Sequence[str], faces: Faces) -> list[Item]:
    """Return the name at the left, the chips at the right end."""
    items: list[Item] = []
    at = x + width
    for place, trigger in enumerate(reversed(triggers)):
        if place:
            at -= 1.0
        drawn, at = chips(at, y, trigger, faces)
        items += drawn
        if at < x + width * 0.45:
            break
    text = one_line(name, faces[400], 3.2, at - x - 2.0)
    items.append(put(x, y + 3.6, text, 3.2, 400, "ink", faces))
    return items


def chips(right: float, y: float, trigger: str, faces: Faces) -> tuple[list[Item], float]:
    """Return one chord as chips with a thin plus between, ending at ``right``; where it begins."""
    items: list[Item] = []
    keys = trigger.split("+") if len(trigger) > 1 and not trigger.endswith("++") else [trigger]
    size, at = 2.7, right
    for place, key in enumerate(reversed(keys)):
        if place:
            at -= 2.6
            items.append(put(at + 0.7, y + 3.5, "+", 2.4, 400, "prints", faces))
        width = faces[500].width(key, size) + 2.6
        at -= width
        items.append(Rect(at, y, width, 4.6, 0.9, "tile", Stroke("paper-line", 0.25)))
        items.append(put(at + 1.3, y + 3.3, key, size, 500, "ink", faces))
    return items, at


def put(x: float, y: float, text: str, size: float, weight: int, colour: str, faces: Faces) -> Text:
    """Return one line of text from (x, y) on, in mm."""
    return Text(x, y, text, size, weight, colour, faces[weight].width(text, size))
