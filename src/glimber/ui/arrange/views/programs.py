"""The through-view of the ordinary keyboard: one key across all programs and sets of modifiers, and the command in front."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.core.model.chord_boards import program_of_board
from glimber.core.model.describe import finger_words, key_words, seconds_words
from glimber.core.model.folio import Folio
from glimber.core.model.key_across import KeyAcross, ProgramRow, key_across
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.stats.reach import slow_way_s
from glimber.ui.arrange.place import Place
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.style import fill, theme

_HEAD, _CELL, _ROW, _NAME = 26.0, 24.0, 26.0, 96.0
_LEAST_COLUMN = 74.0


def _cells(across: KeyAcross, row: ProgramRow) -> list[str]:
    return [f"{layer.name} {row.cells[layer.id]}" for layer in across.layers if row.cells[layer.id]]


def _sentence(folio: Folio, across: KeyAcross, layer: str) -> tuple[str, str]:
    """Return the command in front and, apart, how often it is used, why it is there and its slow way."""
    found = across.commands.get(layer)
    if found is None:
        return "", across.rows[0].cells.get(layer, "") or "free"
    command, reason = found
    steps = slow_way_steps(folio, command)
    seconds = slow_way_s(steps) if steps else None
    parts = [
        f"{command.uses_per_day:g} a day" if command.uses_per_day is not None else "",
        reason,
        f"{seconds_words(seconds * 1000)} by {', '.join(steps)}" if seconds is not None else "",
    ]
    return command.name, " · ".join(part for part in parts if part)


class ProgramsView(QWidget):
    """Rows are programs, columns sets of modifiers. ``chosen`` names the program and the layer that was clicked."""

    chosen = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The key in all programs")
        self._across: KeyAcross | None = None
        self._place: Place | None = None
        self._title = self._line = self._quiet = self._about = ""
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumHeight(int(_HEAD + _CELL + 2 * _ROW + 46))
        self.hide()

    def sizeHint(self) -> QSize:
        return QSize(600, self.minimumHeight())

    def show_place(self, folio: Folio, place: Place) -> None:
        """Show the key in front."""
        program = program_of_board(place.board) or ""
        across = key_across(folio, program, place.key)
        title = f"{key_words(folio, folio.settings.keyboard, (place.key,))} in every program"
        key = folio.keyboard.by_id.get(place.key)
        about = [finger_words(key.finger) if key else "", "home key" if key and key.home else ""]
        line, self._quiet = _sentence(folio, across, place.layer)
        shown = (across, place, title, line)
        if shown == (self._across, self._place, self._title, self._line):
            return
        self._across, self._place, self._title, self._line = shown
        self._about = " · ".join(part for part in about if part)
        rows = [f"{row.name}: {', '.join(_cells(across, row))}" for row in across.rows]
        self.setAccessibleDescription(". ".join([title, line, *rows]))
        self.update()

    # Painting

    def _columns(self) -> list[str]:
        """Return the layers there is room for: that in front always."""
        assert self._across is not None and self._place is not None
        ids = [layer.id for layer in self._across.layers]
        room = max(1, int((self.width() - _NAME) / _LEAST_COLUMN))
        if len(ids) <= room:
            return ids
        at = ids.index(self._place.layer) if self._place.layer in ids else 0
        first = min(max(0, at - room // 2), len(ids) - room)
        return ids[first : first + room]

    def _rows(self) -> int:
        """Return the number of programs there is room for."""
        assert self._across is not None
        return max(1, min(len(self._across.rows), int((self.height() - _HEAD - _CELL - 46) / _ROW)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, t = QPainter(self), theme()
        fill(painter, event.rect(), QColor(t.desk))
        if self._across is None or self._place is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = put_text(painter, QRectF(2, 0, self.width(), _HEAD), self._title, BODY, 600, QColor(t.text))
        put_text(
            painter, QRectF(wide + 18, 0, self.width() - wide - 18, _HEAD), self._about, SMALL, 400, QColor(t.quiet)
        )
        columns, rows = self._columns(), self._rows()
        step = (self.width() - _NAME) / len(columns)
        names = {layer.id: layer.name for layer in self._across.layers}
        bottom = _HEAD + _CELL + rows * _ROW
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(0.5, _HEAD + 0.5, self.width() - 1, bottom - _HEAD), 6, 6)
        front = QRectF()
        for at, id in enumerate(columns):
            box = QRectF(_NAME + at * step, _HEAD, step, _CELL)
            fill(painter, QRectF(round(box.left()), _HEAD + 1, 1, bottom - _HEAD - 1), QColor(t.line))
            ink = t.light if id == self._place.layer else t.quiet
            put_text(painter, box.adjusted(8, 0, -4, 0), names[id], SMALL, 500, QColor(ink))
        for nth, row in enumerate(self._across.rows[:rows]):
            y = _HEAD + _CELL + nth * _ROW
            fill(painter, QRectF(1, round(y), self.width() - 2, 1), QColor(t.line))
            put_text(painter, QRectF(8, y, _NAME - 12, _ROW), row.name, SMALL, 500, QColor(t.quiet))
            for at, id in enumerate(columns):
                box = QRectF(_NAME + at * step, y, step, _ROW)
                words, bound = row.cells[id], id in row.bound
                if bound:
                    fill(painter, box.adjusted(1, 1, -1, -1), QColor(t.raised))
                put_text(
                    painter,
                    box.adjusted(8, 0, -4, 0),
                    words,
                    SMALL,
                    500 if bound else 400,
                    QColor(t.text if bound else t.faint),
                )
                if nth == 0 and id == self._place.layer:
                    front = box.adjusted(1, 1, -1, -1)
        painter.setPen(QPen(QColor(t.light), 2))
        painter.drawRect(front)
        foot = QRectF(2, bottom + 8, self.width() - 4, 26)
        wide = put_text(painter, foot, self._line, BODY, 600, QColor(t.text))
        put_text(painter, foot.adjusted(wide + 12, 0, 0, 0), self._quiet, BODY, 400, QColor(t.quiet))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._across is None:
            return
        columns = self._columns()
        at = int((event.position().x() - _NAME) / ((self.width() - _NAME) / len(columns)))
        row = int((event.position().y() - _HEAD - _CELL) / _ROW)
        if 0 <= at < len(columns) and 0 <= row < self._rows():
            self.chosen.emit(self._across.rows[row].program, columns[at])
