"""Rows of a list that are painted by hand."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractItemView, QStyledItemDelegate, QStyleOptionViewItem

from glimber.ui.widgets.chips import put_front

Index = QModelIndex | QPersistentModelIndex


class PaintedRow(QStyledItemDelegate):
    """Paints each row of a view by ``put``, over the ground of the one in front. ``size``: px of a row, its width the least."""

    def __init__(self, view: QAbstractItemView, size: tuple[int, int]) -> None:
        super().__init__(view)
        self._view, self._size = view, QSize(*size)

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return self._size

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        # Not by the state of the option: that would load every enumeration of the toolkit's styles.
        if index.row() == self._view.currentIndex().row():
            self.ground(painter, box)
        self.put(painter, box, index)
        painter.restore()

    def ground(self, painter: QPainter, box: QRectF) -> None:
        """Paint what lies under the row in front."""
        put_front(painter, box)

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        """Paint what stands in a row."""
        raise NotImplementedError
