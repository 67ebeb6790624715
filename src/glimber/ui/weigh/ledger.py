"""The ledger: one paper strip for each binding, longest first; what costs most, and why, at a glance."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QListView, QWidget

from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import PAPER
from glimber.ui.paint.marks import paint_mark
from glimber.ui.paint.style import theme
from glimber.ui.widgets.rows import Index, PaintedRow

if TYPE_CHECKING:
    from glimber.core.decide.summary import Row

ROW = 45
_BAR = 186.0
_CHOICE = 150.0


class LedgerRows(QAbstractListModel):
    """The rows of the summary; the text of one says all that its strip shows."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[Row, ...] = ()
        self.longest = 1.0

    def show(self, rows: tuple[Row, ...]) -> None:
        """Other rows. The longest strip has the scale."""
        self.beginResetModel()
        self.rows = rows
        self.longest = max([sum(row.parts_s) for row in rows if row.weekly_s is not None], default=1.0)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid() or role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return None
        row = self.rows[index.row()]
        cost = "not known yet" if row.weekly_s is None else f"{row.weekly_s:.0f} s a week"
        choice, reason, _ = _verdict_cell(row)
        return f"{row.name}, {row.place}, {cost}, {choice}, {reason}"


class Ledger(QListView):
    """Strips, one in front. ``chosen`` tells which, when another one is."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.model_ = LedgerRows()
        self._showing = False
        self.setModel(self.model_)
        self.setItemDelegate(_Strip(self))
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setAccessibleName("Ledger")

    @property
    def rows(self) -> tuple[Row, ...]:
        return self.model_.rows

    @property
    def current(self) -> int:
        """The place of the row in front; 0 where there is none."""
        row: int = self.currentIndex().row()
        return max(0, row)

    def show_rows(self, rows: tuple[Row, ...]) -> None:
        """Show rows; the one in front stays in front."""
        here = self.current_id()
        places = {row.id: place for place, row in enumerate(rows)}
        self._showing = True
        self.model_.show(rows)
        self.setCurrentIndex(self.model_.index(places.get(here or "", 0)))
        self._showing = False

    def current_id(self) -> str | None:
        return self.rows[self.current].id if self.rows else None

    def choose(self, id: str) -> None:
        for place, row in enumerate(self.rows):
            if row.id == id:
                self.go_to(place)

    def go_to(self, place: int) -> None:
        """Bring a row to the front, the first or last one where there is none at the place."""
        if self.rows:
            self.setCurrentIndex(self.model_.index(max(0, min(len(self.rows) - 1, place))))

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        if current.isValid() and not self._showing:
            self.chosen.emit(self.rows[current.row()].id)

    def keyboardSearch(self, search: str) -> None:
        """A letter is an action of the room, never a row's beginning."""


class LedgerHead(QWidget):
    """The legend of the parts of a strip."""

    def sizeHint(self) -> QSize:
        return QSize(740, 30)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        put_text(painter, QRectF(12, 0, 160, 24), "Seconds a week", 12, 600, QColor(theme().text))
        x = _BAR
        for name, fill in zip(("knowing", "hand", "slips", "blanks"), _fills(), strict=True):
            painter.setPen(QPen(QColor(theme().faint), 1) if name == "blanks" else Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawRect(QRectF(x, 7.5, 14, 9))
            width = put_text(painter, QRectF(x + 18, 0, 90, 24), name, 12, 400, QColor(theme().quiet))
            x += 18 + width + 14
        _hairline(painter, x + 4, 5, 19)
        put_text(painter, QRectF(x + 14, 0, 120, 24), "the slow way", 12, 400, QColor(theme().quiet))


class _Strip(PaintedRow):
    def __init__(self, ledger: Ledger) -> None:
        super().__init__(ledger, (300, ROW))
        self._ledger = ledger

    def ground(self, painter: QPainter, box: QRectF) -> None:
        painter.setPen(QPen(QColor(theme().light), 1.5) if self._ledger.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme().raised))
        painter.drawRoundedRect(box.adjusted(1, 1, -2, -2), 8, 8)

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        painter.translate(box.topLeft())
        self._paint_row(painter, self._ledger.rows[index.row()], box.width())

    def _paint_row(self, painter: QPainter, row: Row, width: float) -> None:
        t = theme()
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.lamp_at(row.grip)) if row.tries else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(18, 20), 6, 6)
        paint_mark(painter, row.mark, QPointF(36, 15), 10, QColor(t.inks[row.ink]))
        put_text(painter, QRectF(48, 5, _BAR - 54, 20), row.name, 13, 600, QColor(t.text))
        put_text(painter, QRectF(48, 23, _BAR - 54, 18), row.place, 11, 400, QColor(t.faint))
        # A slow way that ends far beyond the longest strip is pointed to at the edge.
        room = max(60.0, width - _BAR - _CHOICE - 84)
        self._paint_strip(painter, row, 0.0, room / max(self._ledger.model_.longest, 1e-9), room)
        choice, reason, ink = _verdict_cell(row)
        right = QRectF(width - _CHOICE - 10, 5, _CHOICE, 20)
        put_text(painter, right, choice, 13, 600, ink, end=True)
        put_text(painter, right.translated(0, 18), reason, 11, 400, QColor(t.faint), end=True)

    def _paint_strip(self, painter: QPainter, row: Row, top: float, scale: float, room: float) -> None:
        t = theme()
        if row.weekly_s is None:
            put_text(painter, QRectF(_BAR, top + 11, 200, 20), "not known yet", 12, 400, QColor(t.faint))
            return
        x = _BAR
        for part, fill in zip(row.parts_s, _fills(), strict=True):
            width = part * scale
            if width < 0.3:
                continue
            painter.setPen(QPen(QColor(t.faint), 1) if isinstance(fill, QBrush) else Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawRect(QRectF(x, top + 10, width, 20))
            x += width
        put_text(painter, QRectF(x + 8, top + 10, 90, 20), f"{row.weekly_s:.0f} s", 13, 400, QColor(t.quiet))
        if row.slow_s is not None:
            self._paint_slow(painter, row, top, x, scale, room)

    def _paint_slow(self, painter: QPainter, row: Row, top: float, after: float, scale: float, room: float) -> None:
        """Mark where the slow way would end; beyond the scale, a line to its seconds at the edge."""
        t, end = theme(), _BAR + (row.slow_s or 0.0) * scale
        edge = _BAR + room + 82
        if end <= _BAR + room:
            _hairline(painter, end, top + 6, top + 34)
            return
        seconds = f"{row.slow_s:.0f} s"
        wide = put_text(painter, QRectF(edge - 80, top + 24, 80, 16), seconds, 11, 400, QColor(t.faint), end=True)
        y = top + 33.5
        painter.setPen(QPen(QColor(t.line), 1))
        painter.drawLine(QPointF(min(after, edge - wide - 12), y), QPointF(edge - wide - 6, y))
        _hairline(painter, edge - wide - 6, top + 30, top + 38)


def _verdict_cell(row: Row) -> tuple[str, str, QColor]:
    """Verdict, reason and the ink of the verdict; words always tell it, the ink only helps."""
    t = theme()
    if row.settling is not None:
        return "settling", row.settling, QColor(t.text)
    ink = {"keep": t.settled, "move": t.light, "rebind": t.slip, "practise": t.quiet, "retire": t.quiet}[row.choice]
    return row.choice, row.reason, QColor(ink)


def _fills() -> tuple[QColor, QColor, QColor, QBrush]:
    t = theme()
    hatched = QBrush()  # of nothing, for the reason ``fill`` gives
    hatched.setStyle(Qt.BrushStyle.BDiagPattern)
    hatched.setColor(QColor(t.faint))
    return (
        QColor(PAPER["paper"] if t.name == "dark" else PAPER["prints"]),
        QColor(PAPER["paper-line"]),
        QColor(t.slip),
        hatched,
    )


def _hairline(painter: QPainter, x: float, top: float, bottom: float) -> None:
    """Draw the line where the slow way ends."""
    painter.setPen(QPen(QColor(theme().quiet), 1))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
