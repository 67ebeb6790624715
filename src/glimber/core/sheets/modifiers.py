"""The modifier tally as a sheet: a row for each set of modifiers, a strip as long as the seconds it takes from a week."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from glimber.core.drawing.drawing import Drawing, Group, Item, Rect, Text
from glimber.core.drawing.metrics import Faces
from glimber.core.sheets.keys import chips, put
from glimber.core.stats.modifiers import Held

_WIDTH: Final = 181.0
_MARGIN: Final = 9.0
_ROW: Final = 7.2
_CHIPS: Final = 44.0
_STRIP: Final = 34.0


def tally_card(title: str, rows: Sequence[Held], faces: Faces) -> Drawing:
    """A row a set: chips, strip, seconds a week, how often, how many shortcuts, what holding adds; in mm."""
    height = _MARGIN * 2 + 18.0 + max(1, len(rows)) * _ROW
    items: list[Item] = [
        put(_MARGIN, _MARGIN + 5.2, title, 6.2, 700, "ink", faces),
        put(
            _MARGIN + faces[700].width(title, 6.2) + 3,
            _MARGIN + 5.2,
            "what holding modifiers costs",
            3.3,
            400,
            "prints",
            faces,
        ),
    ]
    top = _MARGIN + 13.0
    if not rows:
        items.append(put(_MARGIN, top + 3.6, "No shortcuts yet.", 3.2, 400, "prints", faces))
    longest = max((row.week_s or 0.0 for row in rows), default=0.0)
    for place, row in enumerate(rows):
        y = top + place * _ROW
        name = "+".join(row.modifiers)
        if name:
            items += chips(_MARGIN + min(_CHIPS, _wide(name, faces)), y, name, faces)[0]
        else:
            items.append(put(_MARGIN, y + 3.4, "no modifier", 3.0, 400, "ink", faces))
        x = _MARGIN + _CHIPS + 2
        if row.week_s and longest:
            items.append(Rect(x, y + 1.2, max(0.4, _STRIP * row.week_s / longest), 2.2, 0, fill="slate"))
        for at, text in zip((28.0, 46.0, 63.0, 83.0), _numbers(row), strict=True):
            items.append(_ending(x + _STRIP + at, y + 3.4, text, faces))
    foot = "Uses a day that nobody stated are estimated. Holding costs the reach of the chord less that of its key alone."
    items.append(put(_MARGIN, height - _MARGIN + 1.5, foot, 2.5, 400, "prints", faces))
    spoken = [f"{'+'.join(row.modifiers) or 'no modifier'}: {', '.join(filter(None, _numbers(row)))}" for row in rows]
    ground = Group((Rect(0, 0, _WIDTH, height, 1.2, fill="paper"),))
    return Drawing(_WIDTH, height, title, ". ".join(spoken), (ground, Group(tuple(items))))


def _numbers(row: Held) -> tuple[str, str, str, str]:
    """Return seconds a week, uses, what each hold adds, how many shortcuts."""
    seconds = "not known" if row.week_s is None else f"{row.week_s:.0f} s a week"
    adds = "" if row.hold_ms is None or not row.modifiers else f"{row.hold_ms:.0f} ms"
    shortcuts = "1 shortcut" if row.strikes == 1 else f"{row.strikes} shortcuts"
    return seconds, f"{row.uses_week:,.0f} uses", adds, shortcuts


def _ending(x: float, y: float, text: str, faces: Faces) -> Text:
    return Text(x, y, text, 3.0, 400, "ink", faces[400].width(text, 3.0), "end")


def _wide(name: str, faces: Faces) -> float:
    """Return the width of a chord as the key card draws it."""
    return sum(faces[500].width(key, 2.7) + 2.6 for key in name.split("+")) + 2.6 * name.count("+")
