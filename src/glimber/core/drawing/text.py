"""Setting short texts into small boxes: wrapped, then smaller within limits, then abbreviated; never over the edge."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from msgspec import Struct

from glimber.core.drawing.breaking import pieces
from glimber.core.drawing.metrics import Face
from glimber.core.drawing.short_labels import NO_SHORT_FORMS, ShortForms

LINE: Final = 1.14
"""Line height in em."""


class Setting(Struct, frozen=True):
    """Lines at a size. ``short``: the text was abbreviated, so its full form must be shown elsewhere."""

    lines: tuple[str, ...]
    size: float
    short: bool = False

    @property
    def height(self) -> float:
        return len(self.lines) * self.size * LINE


def wrap(text: str, face: Face, size: float, width: float) -> list[str] | None:
    """Return words in as few lines as fit the width; None when a word alone is wider. Words break after a hyphen or slash."""
    lines: list[str] = []
    current = ""
    for word in _words(text):
        joined = current + word if not current or current.endswith(("-", "/")) else f"{current} {word}"
        if face.width(joined, size) <= width:
            current = joined
            continue
        if face.width(word, size) > width:
            return None
        lines.append(current)
        current = word
    return _balanced([*lines, current], face, size, width)


def broken(text: str, face: Face, size: float, width: float) -> list[str] | None:
    """Return words in lines that fit the width, long ones broken at their joints or between syllables; None where a piece alone
    is wider."""
    lines = [""]
    for word in text.split():
        if face.width(f"{lines[-1]} {word}".strip(), size) <= width:
            lines[-1] = f"{lines[-1]} {word}".strip()
            continue
        if face.width(word, size) <= width:
            lines.append(word)
            continue
        at, hyphen = f"{lines[-1]} ".lstrip(), False
        for piece in pieces(word):
            ending = "-" if piece.hyphen else ""
            if face.width(at + piece.text + ending, size) > width:
                lines[-1] = at.rstrip() + ("-" if hyphen else "")
                lines.append("")
                at = ""
                if face.width(piece.text + ending, size) > width:
                    return None
            at, hyphen = at + piece.text, piece.hyphen
        lines[-1] = at
    return [line for line in lines if line] or [""]


def _words(text: str) -> list[str]:
    return [part for word in text.split() for part in re.findall(r"[^/-]+[/-]?|[/-]", word)] or [""]


def _balanced(lines: list[str], face: Face, size: float, width: float) -> list[str]:
    """Two lines of like length read better than a long one with a stray word; more lines are left as they are."""
    if len(lines) != 2 or lines[0].endswith(("-", "/")):
        return lines
    words = " ".join(lines).split()
    ways = [(" ".join(words[:i]), " ".join(words[i:])) for i in range(1, len(words))]
    fitting = [way for way in ways if max(face.width(line, size) for line in way) <= width]
    return list(min(fitting, key=lambda way: max(face.width(line, size) for line in way))) if fitting else lines


def sizes(largest: float, smallest: float) -> Iterator[float]:
    """Sizes to try, from the largest down to the smallest in steps of 4 %."""
    size = largest
    while size > smallest * 1.001:
        yield size
        size *= 0.96
    yield smallest


def fit(
    text: str,
    face: Face,
    width: float,
    height: float,
    largest: float,
    smallest: float,
    most_lines: int = 3,
    short: ShortForms = NO_SHORT_FORMS,
) -> Setting:
    """Return the largest setting of a text that fits the box; else a shorter form of it, or one with its words broken at the
    smallest size; cut where nothing else fits."""
    ways = short.ways(text)
    for wanted in ways:
        for size in sizes(largest, smallest):
            room = min(most_lines, int(height / (size * LINE) + 1e-9))
            lines = wrap(wanted, face, size, width) if room else None
            if lines is not None and len(lines) <= room:
                return Setting(tuple(lines), size)
    room = min(most_lines, int(height / (smallest * LINE) + 1e-9))
    for wanted in (*ways, *short.cut(text)) if room else ():
        lines = broken(wanted, face, smallest, width)
        if lines is not None and len(lines) <= room:
            return Setting(tuple(lines), smallest)
    return abbreviated(text, face, width, height, smallest, most_lines)


def abbreviated(text: str, face: Face, width: float, height: float, size: float, most_lines: int) -> Setting:
    """Return words cut to what fits a line, marked with a full stop; words that find no line are left out with an ellipsis."""
    room = max(1, min(most_lines, int(height / (size * LINE) + 1e-9)))
    words = [_cut(word, face, size, width, ".") for word in text.split()]
    lines = wrap(" ".join(words), face, size, width)
    if lines is None:
        lines = [_cut(text, face, size, width, "…")]
    if len(lines) > room:
        lines = [*lines[: room - 1], _cut(" ".join(lines[room - 1 :]), face, size, width, "…")]
    return Setting(tuple(lines), size, short=True)


def one_line(text: str, face: Face, size: float, width: float) -> str:
    """Return the text, or as much of it as fits one line with an ellipsis."""
    return _cut(text, face, size, width, "…")


def _cut(word: str, face: Face, size: float, width: float, ending: str) -> str:
    if face.width(word, size) <= width:
        return word
    kept = word
    while kept and face.width(kept.rstrip() + ending, size) > width:
        kept = kept[:-1]
    return kept.rstrip() + ending if kept else ""
