"""The row of a round: short strokes for the hits that are planned, which fill as they are made."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from glimber.core.practice.round import Lane
from glimber.ui.drill.play import RoundPlay
from glimber.ui.paint.fonts import font
from glimber.ui.paint.style import theme

_NAMED_LANES = 8
_MANY_WIDE = 62.0
_MANY_HIGH = 18.0


class LaneRow:
    """Paints the row at the foot of a prompt; names cut to their columns are kept for a round."""

    def __init__(self) -> None:
        self._names: dict[tuple[str, bool, int], str] = {}

    def clear(self) -> None:
        """Another round begins."""
        self._names.clear()

    def paint(self, painter: QPainter, play: RoundPlay, width: int, height: int) -> None:
        """The round: as many short strokes a binding as are planned, lit with the grip at the moment of each hit. Few
        bindings have their names below; many have rows of strokes alone, so that all of the round is seen."""
        lanes = play.drill.state.lanes
        if len(lanes) > _NAMED_LANES:
            self._paint_many(painter, play, lanes, width, height)
            return
        column = min(154.0, (width - 60) / max(1, len(lanes)))
        left = (width - column * len(lanes)) / 2
        top = height - 92.0
        for place, lane in enumerate(lanes):
            self._paint_lane(painter, play, lane, left + place * column, top, column)

    def _paint_many(self, painter: QPainter, play: RoundPlay, lanes: Sequence[Lane], width: int, height: int) -> None:
        across = min(len(lanes), max(1, int((width - 60) // _MANY_WIDE)))
        down = -(-len(lanes) // across)
        left = (width - across * _MANY_WIDE) / 2
        top = height - 40.0 - down * _MANY_HIGH
        t = theme()
        for place, lane in enumerate(lanes):
            x, y = left + place % across * _MANY_WIDE, top + place // across * _MANY_HIGH
            here = lane.binding == play.drill.state.asked and not play.paused
            grips = play.grips.get(lane.binding, [])
            wide = (_MANY_WIDE - 14) / max(1, lane.wanted)
            painter.setPen(Qt.PenStyle.NoPen)
            for stroke in range(lane.wanted):
                lit = t.lamp_at(max(0.35, grips[stroke])) if stroke < len(grips) else t.light
                painter.setBrush(QColor(lit if stroke < lane.hits else t.raised))
                painter.drawRoundedRect(QRectF(x + stroke * wide, y, wide - 2, 5), 2, 2)
            if here:
                painter.setBrush(QColor(t.text))
                painter.drawRect(QRectF(x, y + 8, _MANY_WIDE - 16, 1))

    def _paint_lane(self, painter: QPainter, play: RoundPlay, lane: Lane, x: float, y: float, column: float) -> None:
        t = theme()
        grips = play.grips.get(lane.binding, [])
        painter.setPen(Qt.PenStyle.NoPen)
        step = min(19.0, (column - 10) / max(1, lane.wanted))
        for stroke in range(lane.wanted):
            lit = t.lamp_at(max(0.35, grips[stroke])) if stroke < len(grips) else t.light
            painter.setBrush(QColor(lit if stroke < lane.hits else t.raised))
            painter.drawRoundedRect(QRectF(x + stroke * step, y, step - 4, 5), 2.5, 2.5)
        command = play.drill.folio.command_of(play.drill.folio.bindings[lane.binding])
        here = lane.binding == play.drill.state.asked and not play.paused
        painter.setFont(font(12, 600 if here else 400))
        painter.setPen(QColor(t.text if here else t.faint))
        # The names would give the choice away: one is there when its binding is done.
        named = command is not None and lane.done
        name = self._fitted(command.name if command is not None and named else "", here, round(column) - 14)
        painter.drawText(QRectF(x, y + 12, column - 8, 22), Qt.AlignmentFlag.AlignVCenter, name)

    def _fitted(self, name: str, bold: bool, width: int) -> str:
        """Return a lane's name cut to its column; worked out once for a round."""
        key = (name, bold, width)
        if key not in self._names:
            metrics = QFontMetricsF(font(12, 600 if bold else 400))
            self._names[key] = metrics.elidedText(name, Qt.TextElideMode.ElideRight, width)
        return self._names[key]
