"""The round sheet: how a round went, binding by binding, on paper; and who comes next time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from glimber.core.model.describe import place_words, seconds_words
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.core.practice.round import CLEAN_HITS
from glimber.core.practice.round_review import Before
from glimber.core.practice.tries import Try
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import LIT_ON_PAPER, PAPER
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.style import fill

_ROW = 78
_HEAD = 96
_ALSO = 6


class RoundSheet(QWidget):
    """Paper with a row for each binding of a round."""

    def __init__(self) -> None:
        super().__init__()
        self._folio: Folio | None = None
        self._tries: list[Try] = []
        self._bindings: list[str] = []
        self._wanted: Mapping[str, int] = {}
        self._before: Mapping[str, Before] = {}
        self._notes: list[str] = []
        self._title = ""
        self._next: dict[str, str] | None = None
        self.setAccessibleName("Round sheet")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_round(
        self,
        folio: Folio,
        title: str,
        bindings: Sequence[str],
        tries: Sequence[Try],
        coming: Mapping[str, str] | None,
        wanted: Mapping[str, int] = MappingProxyType({}),
        before: Mapping[str, Before] = MappingProxyType({}),
        notes: Sequence[str] = (),
    ) -> None:
        """``coming``: binding -> why it comes next time; None while that is being worked out. ``wanted``: hits that were
        planned; ``before``: how each went the last time; ``notes``: what else there is to say, a line each at the foot."""
        self._wanted, self._before, self._notes = wanted, before, list(notes)
        self._folio, self._title, self._bindings = folio, title, list(bindings)
        self._tries, self._next = list(tries), None if coming is None else dict(coming)
        self.setAccessibleDescription(". ".join([*(self._spoken_row(id) for id in self._bindings), *self._notes]))
        self.setMinimumHeight(self._height() + 16)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, self._height() + 16)

    def _height(self) -> int:
        return _HEAD + _ROW * len(self._bindings) + 54 + 22 * len(self._notes)

    def _mine(self, id: str) -> list[Try]:
        return [one for one in self._tries if one.binding == id and one.first and one.outcome != "void"]

    def _spoken_row(self, id: str) -> str:
        mine = self._mine(id)
        hits = sum(one.outcome == "hit" for one in mine)
        return f"{self._name(id)}: {hits} clean of {len(mine)}; {self._slip_words(mine) or 'no slips'}"

    def _name(self, id: str) -> str:
        assert self._folio is not None
        binding = self._folio.bindings.get(id)
        command = self._folio.command_of(binding) if binding else None
        return command.name if command else id

    def _slip_words(self, mine: Sequence[Try]) -> str:
        """Return what was struck instead, and how often; blanks at the end."""
        counts: dict[str, int] = {}
        for one in mine:
            if one.outcome == "slip" and one.pressed:
                what = f"{self._struck(one.pressed)} ({one.slip})"
                counts[what] = counts.get(what, 0) + 1
        blanks = sum(one.outcome == "blank" for one in mine)
        parts = [what if count == 1 else f"{count} × {what}" for what, count in counts.items()]
        parts += ["no answer" if blanks == 1 else f"{blanks} × no answer"] if blanks else []
        return ", ".join(parts)

    def _struck(self, pressed: str) -> str:
        assert self._folio is not None
        try:
            return place_words(self._folio, parse_trigger(pressed, self._folio.bundles))
        except NotationError:
            return pressed

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._folio is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink, quiet = QColor(PAPER["ink"]), QColor(PAPER["prints"])
        height = self._height()
        sheet = QRectF(6, 6, self.width() - 12, height)
        painter.setPen(Qt.PenStyle.NoPen)
        for spread in range(8, 0, -2):
            painter.setBrush(QColor(0, 0, 0, 14))
            painter.drawRoundedRect(sheet.adjusted(-spread + 2, -spread + 6, spread - 2, spread), 8, 8)
        painter.setBrush(QColor(PAPER["paper"]))
        painter.drawRoundedRect(sheet, 4, 4)
        firsts = [one for id in self._bindings for one in self._mine(id)]
        clean = sum(one.outcome == "hit" for one in firsts)
        put_text(painter, QRectF(36, 26, self.width() - 80, 36), self._title, 28, 700, ink)
        times = sorted((one.recall_ms or 0) + (one.motor_ms or 0) for one in firsts if one.outcome == "hit")
        usual = f" · median {seconds_words(times[len(times) // 2])}" if times else ""
        put_text(painter, QRectF(36, 62, 700, 22), f"{clean} clean of {len(firsts)}{usual}", 13, 400, quiet)
        for place, id in enumerate(self._bindings):
            top = _HEAD + place * _ROW
            fill(painter, QRectF(36, top, self.width() - 72, 1), QColor(PAPER["paper-line"]))
            self._paint_row(painter, id, top)
        foot = _HEAD + _ROW * len(self._bindings)
        fill(painter, QRectF(36, foot, self.width() - 72, 1), QColor(PAPER["paper-line"]))
        for place, note in enumerate(self._notes):
            put_text(painter, QRectF(36, foot + 12 + 22 * place, self.width() - 80, 22), note, 13, 400, quiet)
        foot += 22 * len(self._notes)
        others = list(dict.fromkeys(self._name(id) for id in self._next or () if id not in self._bindings))
        if others:
            more = f" and {len(others) - _ALSO} more" if len(others) > _ALSO else ""
            text = "Next time also: " + ", ".join(others[:_ALSO]) + more
            put_text(painter, QRectF(36, foot + 14, self.width() - 80, 24), text, 13, 400, quiet)

    def _paint_row(self, painter: QPainter, id: str, top: float) -> None:
        assert self._folio is not None
        ink, quiet = QColor(PAPER["ink"]), QColor(PAPER["prints"])
        binding = self._folio.bindings[id]
        command = self._folio.command_of(binding)
        group = self._folio.group_of(command)
        mine = self._mine(id)
        if group is not None:
            paint_mark(painter, group.mark, QPointF(44, top + 25), 12, QColor(PAPER[group.ink]))
        put_text(painter, QRectF(62, top + 13, 220, 24), self._name(id), 15, 600, ink)
        put_text(painter, QRectF(62, top + 38, 220, 20), place_words(self._folio, binding.trigger), 12, 400, quiet)
        wanted = self._wanted.get(id, CLEAN_HITS)
        hits = min(wanted, sum(one.outcome == "hit" for one in mine))
        painter.setPen(Qt.PenStyle.NoPen)
        for stroke in range(wanted):
            painter.setBrush(QColor(LIT_ON_PAPER) if stroke < hits else QColor(PAPER["paper-line"]))
            painter.drawRoundedRect(QRectF(296 + stroke * 19, top + 22, 15, 5), 2.5, 2.5)
        for place, one in enumerate(mine[:14]):
            square = QRectF(296 + place * 12, top + 40, 9, 9)
            good = one.outcome == "hit"
            painter.setPen(QPen(ink if good else QColor(PAPER["clay"]), 1.2))
            painter.setBrush(ink if good else Qt.BrushStyle.NoBrush)
            painter.drawRect(square)
            if one.outcome == "blank":
                painter.drawLine(square.bottomLeft(), square.topRight())
        self._paint_times(painter, mine, QRectF(480, top + 14, 110, 30))
        last = self._before.get(id)
        if last is not None:
            middle = f", {seconds_words(1000 * last.middle_s)}" if last.middle_s is not None else ""
            put_text(
                painter, QRectF(480, top + 50, 200, 18), f"last time {last.clean} of {last.of}{middle}", 12, 400, quiet
            )
        slips = self._slip_words(mine)
        put_text(
            painter,
            QRectF(690, top + 13, self.width() - 740, 24),
            slips or "No slips",
            13,
            400,
            ink if slips else quiet,
        )
        if self._next is None:
            return
        why = self._next.get(id)
        text = f"Next time: {why}" if why else "Rests next time"
        put_text(painter, QRectF(690, top + 38, self.width() - 740, 20), text, 12, 400, quiet)

    def _paint_times(self, painter: QPainter, mine: Sequence[Try], box: QRectF) -> None:
        """Times of the clean hits as a line, the last one in figures."""
        times = [(one.recall_ms or 0) + (one.motor_ms or 0) for one in mine if one.outcome == "hit"]
        if not times:
            return
        low, high = min(times), max(times)
        span = max(high - low, 60.0)
        step = box.width() / max(1, len(times) - 1)
        points = [
            QPointF(box.left() + i * step, box.bottom() - (t - low) / span * box.height()) for i, t in enumerate(times)
        ]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(PAPER["slate"]), 1.6))
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(QColor(PAPER["slate"]))
        painter.drawEllipse(points[-1], 2.2, 2.2)
        put_text(
            painter,
            QRectF(box.right() + 10, box.top() + 8, 80, 24),
            seconds_words(times[-1]),
            13,
            500,
            QColor(PAPER["ink"]),
        )
