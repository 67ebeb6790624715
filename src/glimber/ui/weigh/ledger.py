"""The ledger: one paper strip for each binding, longest first; what costs most, and why, at a glance."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.core.weigh.summary import Row
from glimber.ui.look import PAPER
from glimber.ui.marks import paint_mark
from glimber.ui.style import theme
from glimber.ui.type import put_text

ROW = 45
HEAD = 30
_BAR = 186.0
_CHOICE = 150.0


class LedgerStrips(QWidget):
    """Rows of the summary. The arrow keys walk; ``chosen`` tells where one is."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[Row, ...] = ()
        self.current = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ledger")

    def show_rows(self, rows: tuple[Row, ...]) -> None:
        """Show rows; the one in front stays in front."""
        here = self.current_id()
        self.rows = rows
        places = {row.id: place for place, row in enumerate(rows)}
        self.current = places.get(here or "", 0)
        self.setMinimumHeight(HEAD + ROW * len(rows) + 8)
        self._tell()
        self.update()

    def current_id(self) -> str | None:
        return self.rows[self.current].id if self.rows else None

    def choose(self, id: str) -> None:
        for place, row in enumerate(self.rows):
            if row.id == id:
                self.go_to(place)

    def go_to(self, place: int) -> None:
        if not self.rows:
            return
        self.current = max(0, min(len(self.rows) - 1, place))
        self._tell()
        self.update()
        self.chosen.emit(self.rows[self.current].id)

    def _tell(self) -> None:
        if self.rows:
            row = self.rows[self.current]
            cost = "not known yet" if row.weekly_s is None else f"{row.weekly_s:.0f} s a week"
            self.setAccessibleDescription(f"{row.name}, {row.place}, {cost}, {row.choice}, {row.reason}")

    def row_box(self, place: int) -> QRectF:
        return QRectF(0, HEAD + place * ROW, self.width(), ROW)

    def sizeHint(self) -> QSize:
        return QSize(740, HEAD + ROW * max(1, len(self.rows)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 12, Qt.Key.Key_PageUp: -12}.get(
            Qt.Key(event.key())
        )
        if step is not None:
            self.go_to(self.current + step)
        elif event.key() == Qt.Key.Key_Home:
            self.go_to(0)
        elif event.key() == Qt.Key.Key_End:
            self.go_to(len(self.rows) - 1)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.go_to(int((event.position().y() - HEAD) // ROW))

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_key(painter)
        # The longest strip has the scale; a slow way that ends far beyond it is pointed to at the edge.
        longest = max([sum(row.parts_s) for row in self.rows if row.weekly_s is not None], default=1.0)
        room = max(60.0, self.width() - _BAR - _CHOICE - 84)
        first = max(0, int((event.rect().top() - HEAD) // ROW))
        last = min(len(self.rows), int((event.rect().bottom() - HEAD) // ROW) + 1)
        for place in range(first, last):
            self._paint_row(painter, place, self.rows[place], room / max(longest, 1e-9), room)

    def _paint_key(self, painter: QPainter) -> None:
        """What the parts of a strip are."""
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

    def _paint_row(self, painter: QPainter, place: int, row: Row, scale: float, room: float) -> None:
        t = theme()
        box = self.row_box(place)
        if place == self.current:
            painter.setPen(QPen(QColor(t.light), 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.raised))
            painter.drawRoundedRect(box.adjusted(1, 1, -2, -2), 8, 8)
        top = box.top()
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.lamp_at(row.grip)) if row.tries else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(18, top + 20), 6, 6)
        paint_mark(painter, row.mark, QPointF(36, top + 15), 10, QColor(t.inks[row.ink]))
        put_text(painter, QRectF(48, top + 5, _BAR - 54, 20), row.name, 13, 600, QColor(t.text))
        put_text(painter, QRectF(48, top + 23, _BAR - 54, 18), row.place, 11, 400, QColor(t.faint))
        self._paint_strip(painter, row, top, scale, room)
        choice, reason, ink = _said(row)
        right = QRectF(self.width() - _CHOICE - 10, top + 5, _CHOICE, 20)
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
            last = fill.style() == Qt.BrushStyle.BDiagPattern
            painter.setPen(QPen(QColor(t.faint), 1) if last else Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawRect(QRectF(x, top + 10, width, 20))
            x += width
        put_text(painter, QRectF(x + 8, top + 10, 90, 20), f"{row.weekly_s:.0f} s", 13, 400, QColor(t.quiet))
        if row.slow_s is not None:
            self._paint_slow(painter, row, top, x, scale, room)

    def _paint_slow(self, painter: QPainter, row: Row, top: float, after: float, scale: float, room: float) -> None:
        """Where the slow way would end; outside the scale a line on to its seconds at the edge."""
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


def _said(row: Row) -> tuple[str, str, QColor]:
    """Verdict, reason and the ink of the verdict; words always tell it, the ink only helps."""
    t = theme()
    if row.settling is not None:
        return "settling", row.settling, QColor(t.text)
    ink = {"keep": t.settled, "move": t.light, "rebind": t.slip, "practise": t.quiet, "retire": t.quiet}[row.choice]
    return row.choice, row.reason, QColor(ink)


def _fills() -> tuple[QBrush, QBrush, QBrush, QBrush]:
    t = theme()
    knowing = PAPER["paper"] if t.name == "dark" else PAPER["prints"]
    hand = PAPER["paper-line"]
    return (
        QBrush(QColor(knowing)),
        QBrush(QColor(hand)),
        QBrush(QColor(t.slip)),
        QBrush(QColor(t.faint), Qt.BrushStyle.BDiagPattern),
    )


def _hairline(painter: QPainter, x: float, top: float, bottom: float) -> None:
    """Where the slow way ends."""
    painter.setPen(QPen(QColor(theme().quiet), 1))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
