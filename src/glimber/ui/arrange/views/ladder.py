"""The ladder: every layer of the board as a small live drawing, in the order they are in, with how each comes in."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from glimber.core.cards.key_face import layer_words
from glimber.core.model.board import Board, Key
from glimber.core.model.chord_boards import program_of_board
from glimber.core.model.folio import Folio, Layer, Layout
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.plain_text import tip
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.chips import put_front
from glimber.ui.widgets.rows import Index, PaintedRow

WIDTH = 148
_ROW = 92


class Ladder(QListWidget):
    """One row a layer. The row in front is the layer that is edited; ``chosen`` names another one."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        # Nothing that lies below is painted for it. Made here: to be given the toolkit's own one has PySide look through every
        # class there is, a twentieth of the time to the first frame.
        self._ground = QWidget()
        self._ground.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setViewport(self._ground)
        self.setAccessibleName("Layers")
        self.setFixedWidth(WIDTH)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setItemDelegate(_Rung(self))
        self.board: Board | None = None
        self.layers: tuple[Layer, ...] = ()
        self.words: list[str] = []
        self.currentRowChanged.connect(self._row_chosen)
        self._small: dict[object, tuple[Board, QPixmap]] = {}
        self._outlined: Board | None = None
        self._outlines: dict[str, QPolygonF] = {}

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self._ground)
        fill(painter, event.rect(), QColor(theme().desk))
        painter.end()
        super().paintEvent(event)

    def _row_chosen(self, row: int) -> None:
        if 0 <= row < len(self.layers):
            self.chosen.emit(self.layers[row].id)

    def layer_at(self, at: QPoint) -> str | None:
        """Return the layer at a point of the screen."""
        inside = self.viewport().mapFromGlobal(at)
        item = self.itemAt(inside) if self.isVisible() and self.viewport().rect().contains(inside) else None
        return self.layers[self.row(item)].id if item is not None else None

    def show_layout(self, folio: Folio, layout: Layout, front: str) -> None:
        """Show a board's layers; those that an edit left alone are not drawn again."""
        chords = program_of_board(layout.board) is not None
        words = [
            f"{len(layer.bindings)} bound" if chords else layer_words(folio, layout, layer) for layer in layout.layers
        ]
        before = (self.layers, self.words, self.currentRow())
        ids = [layer.id for layer in layout.layers]
        changed = ids != [layer.id for layer in self.layers] or self.board is not folio.boards[layout.board]
        self.board, self.layers, self.words = folio.boards[layout.board], layout.layers, words
        self.blockSignals(True)
        if changed:
            self.clear()
            for _ in layout.layers:
                self.addItem(QListWidgetItem())
        at = ids.index(front) if front in ids else 0
        for row, layer in enumerate(layout.layers):
            same = not changed and before[0][row] is layer and before[1][row] == words[row]
            if same and at == before[2]:
                continue
            item = self.item(row)
            if not same:
                item.setText(f"{layer.name}, {words[row]}, {len(layer.bindings)} bindings")
                item.setToolTip(tip(words[row]))
            self.update(self.indexFromItem(item))
        if at != self.currentRow():
            self.setCurrentRow(at)
        self.blockSignals(False)

    def drawing(self, layer: Layer, width: int, height: int) -> QPixmap:
        """Return the layer in small: bound keys as paper, dead ones left out."""
        board = self.board
        assert board is not None
        ratio = self.devicePixelRatioF()
        bound = {one for name in layer.by_key for one in name.split("&")}
        ids = [*(part.id for part in board.keys), *(knob.id for knob in board.knobs)]
        shown = tuple("bound" if id in bound else layer.unset.get(id, layer.unbound) for id in ids)
        # By what is drawn: many edits of a layer leave its small drawing as it was. An id is only good while its board lives.
        key = (id(board), shown, width, height, ratio, theme().name)
        found = self._small.get(key)
        if found is not None:
            return found[1]
        if len(self._small) > 200:
            self._small.clear()
        pixmap = QPixmap(round(width * ratio), round(height * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme()
        left, top, right, bottom = board.extent
        u = min(width / (right - left), height / (bottom - top))
        painter.scale(u, u)
        painter.translate(-left, -top)
        if self._outlined is not board:
            self._outlined, self._outlines = board, {part.id: _smaller(part) for part in board.keys}
        inks = {"bound": t.text, "dead": t.raised, "falls": t.desk}
        alike: dict[str, list[Key]] = {t.raised: [], t.desk: [], t.text: []}
        for part, state in zip(board.keys, shown, strict=False):
            alike[inks[state]].append(part)
        for colour, parts in alike.items():
            painter.setPen(QPen(QColor(t.line), 1 / u) if colour == t.desk else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colour))
            for part in parts:
                painter.drawPolygon(self._outlines[part.id])
        for knob, state in zip(board.knobs, shown[len(board.keys) :], strict=True):
            painter.setPen(QPen(QColor(t.line), 1 / u))
            painter.setBrush(QColor(t.text if state == "bound" else t.desk))
            painter.drawEllipse(QPointF(*knob.centre), knob.w * 0.4, knob.w * 0.4)
        painter.end()
        self._small[key] = (board, pixmap)
        return pixmap


def _smaller(part: Key) -> QPolygonF:
    """Return a key's outline with some room around it, in u."""
    cx, cy = part.centre
    return QPolygonF([QPointF((x - cx) * 0.8 + cx, (y - cy) * 0.8 + cy) for x, y in part.outline])


class _Rung(PaintedRow):
    """A layer's name, how it comes in, and its keys in small; a line to the one above."""

    def __init__(self, ladder: Ladder) -> None:
        super().__init__(ladder, (WIDTH - 8, _ROW))
        self._ladder = ladder

    def ground(self, painter: QPainter, box: QRectF) -> None:
        put_front(painter, box.adjusted(1, 2, -1, -2))

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        ladder, t = self._ladder, theme()
        if index.row() >= len(ladder.layers):
            return
        layer, front = ladder.layers[index.row()], index.row() == ladder.currentRow()
        # Each rung paints its own end of the lines between them: a rung may be painted without the next.
        if index.row():
            fill(painter, QRectF(box.left() + 26, box.top(), 1, 4), QColor(t.line))
        if index.row() + 1 < len(ladder.layers):
            fill(painter, QRectF(box.left() + 26, box.bottom() - 6, 1, 6), QColor(t.line))
        name = box.adjusted(12, 6, -10, 0)
        name.setHeight(20)
        put_text(painter, name, layer.name, BODY, 600 if front else 500, QColor(t.text if front else t.quiet))
        put_text(painter, name.translated(0, 16), ladder.words[index.row()], SMALL, 400, QColor(t.faint))
        small = ladder.drawing(layer, WIDTH - 40, 42)
        painter.setOpacity(1.0 if front else 0.75)
        painter.drawPixmap(int(box.left()) + 12, int(box.top()) + 44, small)
