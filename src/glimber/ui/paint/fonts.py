"""The shipped type in Qt: loaded from the package, so that a machine without fonts shows the same."""

from __future__ import annotations

from functools import cache, lru_cache

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QPainter

from glimber.store.cache.fonts import WEIGHTS, font_file
from glimber.ui.paint.look import BODY, FAMILY


@cache
def load_fonts() -> tuple[int, ...]:
    """Give Manrope to Qt once; the ids it got."""
    return tuple(QFontDatabase.addApplicationFont(str(font_file(weight))) for weight in WEIGHTS)


@cache
def font(size: int = BODY, weight: int = 400, tabular: bool = True) -> QFont:
    """Manrope of a size in px; one object for each, so it must not be changed.

    ``tabular``: figures of one width. Drawings do without, and without ligatures: they are measured by their characters, and a
    PDF only knows the characters of the plain signs.
    """
    chosen = QFont(FAMILY)
    chosen.setPixelSize(size)
    chosen.setWeight(QFont.Weight(weight))
    chosen.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    chosen.setFeature(QFont.Tag("tnum" if tabular else "liga"), 1 if tabular else 0)
    return chosen


def put_text(
    painter: QPainter, box: QRectF, text: str, size: int, weight: int, ink: QColor, *, end: bool = False
) -> float:
    """Return one line of text, cut with an ellipsis where it must be; its width."""
    painter.setFont(font(size, weight))
    painter.setPen(ink)
    text, width = _fitted(text, size, weight, box.width())
    side = Qt.AlignmentFlag.AlignRight if end else Qt.AlignmentFlag.AlignLeft
    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | side, text)
    return width


@lru_cache(maxsize=4096)
def advance(text: str, size: int, weight: int) -> float:
    """Return how wide a text is in one line, in px."""
    return QFontMetricsF(font(size, weight)).horizontalAdvance(text)


@lru_cache(maxsize=4096)
def _fitted(text: str, size: int, weight: int, room: float) -> tuple[str, float]:
    """Return a text as it is put where there is so much room, with its width: measuring takes longer than painting."""
    width = advance(text, size, weight)
    if width <= room:
        return text, width
    text = QFontMetricsF(font(size, weight)).elidedText(text, Qt.TextElideMode.ElideRight, room)
    return text, advance(text, size, weight)


@cache
def fixed_font(size: int) -> QFont:
    """Return the desktop's font of one width, in px, for text whose columns must stand below each other."""
    chosen = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
    chosen.setPixelSize(size)
    return chosen
