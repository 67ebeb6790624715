"""The table of incoming rows: triggers as chips, what changed as from → to; Space ticks the row in front."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QTableView,
)

from glimber.ui.gather.views.model import CHANGES, IncomingRows
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.chips import chips_width, put_chips
from glimber.ui.widgets.rows import Index, PaintedRow

KEYS, HIGH = 3, 30


class RowsTable(QTableView):
    """Shows IncomingRows."""

    def __init__(self, rows: IncomingRows) -> None:
        super().__init__()
        self.setModel(rows)
        self.setAccessibleName("Incoming rows")
        self.verticalHeader().hide()
        self.setShowGrid(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.verticalHeader().setDefaultSectionSize(HIGH)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.setItemDelegateForColumn(KEYS, _Chips(self, (60, HIGH)))

    def fit(self) -> None:
        """Share the width out once there are rows."""
        header = self.horizontalHeader()
        for column in range(self.model().columnCount()):
            fits = QHeaderView.ResizeMode.Stretch if column == KEYS else QHeaderView.ResizeMode.ResizeToContents
            header.setSectionResizeMode(column, fits)
        header.setMaximumSectionSize(220)  # a long name is cut, and whole in its tip; the keys are not
        self.setColumnHidden(6, self.width() < 760)
        self.setColumnHidden(4, self.width() < 560)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        model = self.model()
        if event.key() == Qt.Key.Key_Space and isinstance(model, IncomingRows) and self.currentIndex().isValid():
            model.toggle(self.currentIndex().row())
            return
        super().keyPressEvent(event)


class _Chips(PaintedRow):
    """Triggers as chips; where the folio has others, those first and an arrow between."""

    def ground(self, painter: QPainter, box: QRectF) -> None:
        fill(painter, box, QColor(theme().raised))

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        model = index.model()
        assert isinstance(model, IncomingRows)
        one, t = model.differences[index.row()], theme()
        box = box.adjusted(4, 0, -4, 0)
        ink = t.text if one.to_take else t.quiet
        if one.kind in CHANGES:
            box.setLeft(box.left() + _put(painter, box, one.was, t.quiet))
            box.setLeft(box.left() + put_text(painter, box.adjusted(5, 0, 0, 0), "→", BODY, 400, QColor(t.quiet)) + 10)
        box.setLeft(box.left() + _put(painter, box, one.row.triggers, ink))
        if one.taken_by and box.width() > 40:
            put_text(painter, box.adjusted(8, 0, 0, 0), f"now {one.taken_by}", SMALL, 400, QColor(t.slip))


def _put(painter: QPainter, box: QRectF, triggers: tuple[str, ...], ink: str) -> float:
    if not triggers:
        return put_text(painter, box, "no key", SMALL, 400, QColor(theme().faint))
    wide = QRectF(box.left(), box.top(), min(box.width(), chips_width(triggers) + 1), box.height())
    return put_chips(painter, wide, triggers, SMALL, ink)
