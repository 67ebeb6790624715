"""The strip of changes that settle: before beside after, and what the figures say so far."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.core.model.describe import count_words, place_words, seconds_words
from glimber.core.notation.keys import NotationError, parse_trigger
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.style import theme

if TYPE_CHECKING:
    from glimber.core.decide.settling import Settling, Side
    from glimber.core.model.folio import Folio

_HIGH = 58
_BAR = 56.0


class SettlingStrip(QWidget):
    """One change in front, with how many there are. ``chosen`` tells its binding when it is clicked."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(_HIGH)
        self.setAccessibleName("Changes that settle")
        self._folio: Folio | None = None
        self.settlings: list[Settling] = []
        self.at = 0

    @property
    def current(self) -> Settling | None:
        return self.settlings[self.at] if self.at < len(self.settlings) else None

    def sizeHint(self) -> QSize:
        return QSize(740, _HIGH)

    def show_settlings(self, folio: Folio, found: list[Settling], front: str | None = None) -> None:
        """Show changes; that of the binding in front of the ledger comes first."""
        ids = [one.change.binding for one in found]
        self._folio, self.settlings = folio, found
        self.at = ids.index(front) if front in ids else min(self.at, max(0, len(found) - 1))
        self.setVisible(bool(found))
        self.setAccessibleDescription(". ".join(self.spoken(one) for one in found))
        self.update()

    def step(self) -> None:
        """The next change."""
        if self.settlings:
            self.at = (self.at + 1) % len(self.settlings)
            self.update()

    def spoken(self, one: Settling) -> str:
        """Return all of it in words."""
        sides = f"before {self._side(one.before)}; after {self._side(one.after)}"
        better = "" if one.p_better is None else f"; {100 * one.p_better:.0f} % that the new place costs less"
        return f"{self._name(one)}: {sides}{better}; {self._state(one)}"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.current is not None:
            self.chosen.emit(self.current.change.binding)

    def _name(self, one: Settling) -> str:
        command = self._folio.commands.get(one.change.command or "") if self._folio is not None else None
        return command.name if command is not None else one.change.binding

    def _place(self, text: str) -> str:
        assert self._folio is not None
        try:
            return place_words(self._folio, parse_trigger(text, self._folio.bundles))
        except NotationError:
            return text

    def _side(self, side: Side) -> str:
        if side.accuracy is None or side.time_ms is None:
            return f"{self._place(side.trigger)}, not tried yet"
        week = "" if side.weekly_s is None else f", {side.weekly_s:.0f} s a week"
        clean = f"{100 * side.accuracy.mean:.0f} % clean, {seconds_words(side.time_ms)}"
        return f"{self._place(side.trigger)}, {clean}{week}, {count_words(side.tries, 'try', 'tries')}"

    def _state(self, one: Settling) -> str:
        if one.waits:
            return "waits to be set (S)"
        habits = f", {one.old_habits} to the old place" if one.old_habits else ""
        day = f"day {one.day} of {one.day + one.days_left}" if one.days_left else "two weeks are over"
        advice = {"confirm": "confirm it", "go back": "going back is better", "settling": "settling"}[one.advice]
        return f"{day}{habits}: {advice}"

    def paintEvent(self, event: QPaintEvent) -> None:
        one, t = self.current, theme()
        if one is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, _HIGH - 9), 8, 8)
        several = f" · {self.at + 1} of {len(self.settlings)}, Tab for the next" if len(self.settlings) > 1 else ""
        put_text(painter, QRectF(14, 4, 220, 20), self._name(one), 13, 600, QColor(t.text))
        put_text(painter, QRectF(14, 24, 250, 18), f"{self._state(one)}{several}", 11, 400, QColor(t.quiet))
        left, room = 250.0, (self.width() - 250.0 - 96.0) / 2
        longest = max(one.before.weekly_s or 0.0, one.after.weekly_s or 0.0, 1e-9)
        for side, word in ((one.before, "before"), (one.after, "after")):
            put_text(
                painter, QRectF(left, 4, room - 8, 18), f"{word}  {self._place(side.trigger)}", 12, 500, QColor(t.text)
            )
            if side.weekly_s is None:
                put_text(painter, QRectF(left, 24, room - 8, 18), "not tried yet", 11, 400, QColor(t.faint))
            else:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(t.light if word == "after" else t.faint))
                painter.drawRect(QRectF(left, 29, max(2.0, _BAR * side.weekly_s / longest), 7))
                mean = 0.0 if side.accuracy is None else 100 * side.accuracy.mean
                text = f"{side.weekly_s:.0f} s · {mean:.0f} % · {seconds_words(side.time_ms or 0)}"
                put_text(painter, QRectF(left + _BAR + 8, 24, room - _BAR - 14, 18), text, 11, 400, QColor(t.quiet))
            left += room
        if one.p_better is not None:
            box = QRectF(self.width() - 104, 4, 90, 20)
            put_text(painter, box, f"{100 * one.p_better:.0f} %", 15, 600, QColor(t.text), end=True)
            put_text(painter, box.translated(0, 20), "costs less", 11, 400, QColor(t.quiet), end=True)
