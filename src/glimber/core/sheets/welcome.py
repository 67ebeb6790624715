"""The card that greets at the first start: what the five rooms are for, in five lines."""

from __future__ import annotations

from typing import Final

from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Rect, Stroke, Text
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.text import one_line

ROOMS: Final = (
    ("Gather", "Take stock of commands, and how they are reached today."),
    ("Arrange", "Lay out layers; see what collides and what is free."),
    ("Cards", "Draw each layer as a sheet to look at, print and pin up."),
    ("Drill", "Strike the wanted key from memory, a few at a time."),
    ("Weigh", "See what each key costs; keep it, move it or rebind it."),
)
_LEAVE: Final = "Any key continues. Ctrl+N begins with your own keys, Ctrl+O opens another folio, Ctrl+Q leaves."
_WIDTH: Final = 148.0
_MARGIN: Final = 12.0
_ROW: Final = 11.0


def welcome_card(title: str, faces: Faces) -> Drawing:
    """Five numbered lines, joined as the loop is, under the folio's title; in mm."""
    top = _MARGIN + 18.0
    height = top + _ROW * len(ROOMS) + _MARGIN + 1.0
    room = _WIDTH - 2 * _MARGIN
    items: list[Item] = [
        _text(_MARGIN, _MARGIN + 5.0, one_line(f"Welcome to {title}", faces[700], 6.2, room), 6.2, 700, "ink", faces),
        _text(_MARGIN, _MARGIN + 11.0, "The work goes round: from Weigh back to Arrange, and drilled again.", 3.3, 400,
              "prints", faces),
        Path((("M", _MARGIN + 1.6, top + 1.0), ("L", _MARGIN + 1.6, top + _ROW * (len(ROOMS) - 1) + 1.0)),
             stroke=Stroke("paper-line", 0.4)),
    ]  # fmt: skip
    for place, (name, text) in enumerate(ROOMS):
        y = top + place * _ROW
        items.append(Rect(_MARGIN, y - 0.6, 3.2, 3.2, 1.6, "paper", Stroke("prints", 0.45)))
        items.append(_text(_MARGIN + 8.0, y + 2.4, name, 4.2, 700, "ink", faces))
        items.append(
            _text(_MARGIN + 29.0, y + 2.4, one_line(text, faces[400], 3.4, room - 29.0), 3.4, 400, "ink", faces)
        )
        items.append(_text(_MARGIN + 8.0, y + 6.6, f"Ctrl+{place + 1}", 2.8, 400, "prints", faces))
    items.append(_text(_MARGIN, height - 5.0, _LEAVE, 2.8, 400, "prints", faces))
    description = ". ".join([*(f"{name}: {text}" for name, text in ROOMS), _LEAVE])
    ground = Group((Rect(0, 0, _WIDTH, height, 1.2, fill="paper"),))
    return Drawing(_WIDTH, height, "What the rooms are for", description, (ground, Group(tuple(items))))


def _text(x: float, y: float, text: str, size: float, weight: int, colour: str, faces: Faces) -> Text:
    return Text(x, y, text, size, weight, colour, faces[weight].width(text, size))
