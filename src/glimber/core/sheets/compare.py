"""Several things side by side: a column for each, a row for each figure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from glimber.core.drawing.drawing import Drawing, Group, Item, Path, Rect, Stroke
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.text import one_line
from glimber.core.sheets.keys import put

_MARGIN: Final = 9.0
_HEAD: Final = 26.0
_COLUMN: Final = 46.0
_ROW: Final = 6.6


def compare_card(title: str, columns: Sequence[tuple[str, Mapping[str, str]]], faces: Faces) -> Drawing:
    """Return a sheet in mm; rows are the figures of the first column."""
    rows = list(columns[0][1]) if columns else []
    width, height = _MARGIN * 2 + _HEAD + _COLUMN * len(columns), _MARGIN * 2 + 18.0 + _ROW * len(rows)
    items: list[Item] = [put(_MARGIN, _MARGIN + 5.2, title, 6.2, 700, "ink", faces)]
    top = _MARGIN + 14.0
    for place, (name, figures) in enumerate(columns):
        x = _MARGIN + _HEAD + _COLUMN * place
        items.append(put(x, top, one_line(name, faces[700], 3.4, _COLUMN - 3), 3.4, 700, "ink", faces))
        for at, row in enumerate(rows):
            text = one_line(figures.get(row, ""), faces[400], 3.0, _COLUMN - 3)
            items.append(put(x, top + _ROW * (at + 1), text, 3.0, 400, "ink", faces))
    for at, row in enumerate(rows):
        y = top + _ROW * (at + 1)
        items.append(put(_MARGIN, y, row, 3.0, 400, "prints", faces))
        items.append(Path((("M", _MARGIN, y - 4.4), ("L", width - _MARGIN, y - 4.4)), stroke=Stroke("paper-line", 0.2)))
    description = ". ".join(
        f"{name}: {', '.join(f'{row} {text}' for row, text in figures.items())}" for name, figures in columns
    )
    ground = Group((Rect(0, 0, width, height, 1.2, fill="paper"),))
    return Drawing(width, height, title, description, (ground, Group(tuple(items))))
