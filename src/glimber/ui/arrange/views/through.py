"""The through-view: one key across all layers and gestures, and below it what the spot in front does, in a line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from glimber.core.cards.key_face import beside
from glimber.core.model.describe import finger_words, what_it_does
from glimber.core.model.folio import Binding, Folio, Layer
from glimber.core.notation.keys import Gesture
from glimber.ui.arrange.place import Place, gestures_of, layer_of, layout_of
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.chips import SIGNS, put_chips

if TYPE_CHECKING:
    from PySide6.QtGui import QRegion

_HEAD, _CELL, _ROW, _SIGN = 28.0, 26.0, 30.0, 36.0


class ThroughView(QWidget):
    """Rows are gestures, columns layers. ``chosen`` names the layer and the gesture that was clicked."""

    chosen = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The key through all layers")
        self._folio: Folio | None = None
        self._place: Place | None = None
        self._layers: tuple[Layer, ...] = ()
        self._gestures: tuple[Gesture, ...] = ()
        self._around: object = None
        self._columns: list[object] = []
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # nothing that lies below is painted for it
        self.setMinimumHeight(int(_HEAD + _CELL + 4 * _ROW + 38))

    def sizeHint(self) -> QSize:
        return QSize(600, self.minimumHeight())

    def show_place(self, folio: Folio, place: Place) -> None:
        """Show the key in front. After an edit only the columns of the layers it changed are painted again."""
        layers = layout_of(folio, place).layers
        # What is seen of the folio: the key on every layer, and all that any cell may name.
        columns: list[object] = [(one.by_key.get(place.key), one.unset.get(place.key, one.unbound)) for one in layers]
        around = (place, folio.boards[place.board], beside(folio, place.board))
        before, self._columns = self._columns, columns
        same = around == self._around
        self._folio, self._place, self._layers = folio, place, layers
        self._gestures = gestures_of(folio.boards[place.board], place.key)
        if same and columns == before:
            return
        self._around = around
        self.setAccessibleDescription(". ".join([self.spoken(), *self.rows_said()]))
        if not same:
            self.update()
            return
        for column, (one, other) in enumerate(zip(before, columns, strict=True)):
            if one != other:
                self.update(self._column(column).toAlignedRect())
        self.update(self._line().toAlignedRect())

    def spoken(self) -> str:
        """Return what the spot in front does, in a sentence."""
        binding = self._binding()
        if binding is None or self._folio is None:
            return self._unbound()
        sent = self._folio.sent_by(binding)
        parts = [what_it_does(self._folio, binding)]
        if binding.command is not None and sent is not None:
            parts.append(f"sends {sent}")
        return ", ".join(parts) + (f". {binding.reason}" if binding.reason else "")

    def rows_said(self) -> list[str]:
        """Return the table row by row: the gesture, then each layer with what the key does there; empty cells are left out."""
        rows = []
        for gesture in self._gestures:
            cells = [(layer.name, self._cell_words(layer, gesture)) for layer in self._layers]
            spoken_cells = [f"{name} {words}" for name, words in cells if words]
            rows += [f"{gesture}: {', '.join(spoken_cells)}"] if spoken_cells else []
        return rows

    def _cell_words(self, layer: Layer, gesture: str) -> str:
        """Return what the key does with a gesture on a layer; empty where that gesture has nothing of its own."""
        folio, place = self._folio, self._place
        if folio is None or place is None:
            return ""
        binding = layer.by_key.get(place.key, {}).get(gesture)
        if binding is not None:
            return what_it_does(folio, binding)
        if gesture not in ("tap", "press") or layer.by_key.get(place.key):
            return ""
        if layer.unset.get(place.key, layer.unbound) == "dead":
            return "dead"
        based = layer is layout_of(folio, place).base
        return (folio.legend.key_at(place.key) or "") if based else "as below"

    def _binding(self) -> Binding | None:
        if self._folio is None or self._place is None:
            return None
        return layer_of(self._folio, self._place).by_key.get(self._place.key, {}).get(self._place.gesture)

    def _unbound(self) -> str:
        if self._folio is None or self._place is None:
            return ""
        layer = layer_of(self._folio, self._place)
        there = layer.by_key.get(self._place.key)
        if there:
            return f"nothing on {self._place.gesture}"
        dead = layer.unset.get(self._place.key, layer.unbound) == "dead"
        if dead:
            return "dead: it does nothing on this layer"
        if layer is layout_of(self._folio, self._place).base:
            return f"not bound: types {self._folio.legend.print_of(self._place.key) or 'nothing'}"
        return "not bound: acts as on the layer below"

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        folio, place = self._folio, self._place
        t, painter = theme(), QPainter(self)
        fill(painter, event.rect(), QColor(t.desk))
        if folio is None or place is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        region, layers, gestures = event.region(), self._layers, self._gestures
        head = QRectF(0, 0, self.width(), _HEAD)
        if region.intersects(head.toAlignedRect()):
            self._put_head(painter, folio, place, head)
        if region.intersects(QRect(0, int(_HEAD + _CELL), int(_SIGN), len(gestures) * int(_ROW))):
            for row, gesture in enumerate(gestures):
                self._put_sign(painter, row, gesture)
        for column, layer in enumerate(layers):
            box = self._column(column)
            if not region.intersects(box.toAlignedRect()):
                continue
            for row, gesture in enumerate(gestures):
                self._put_cell(painter, folio, place, row, column, layer, gesture)
            box.setRect(box.left(), _HEAD, box.width(), _CELL)
            ink = t.light if layer.id == place.layer else t.quiet
            put_text(painter, box.adjusted(10, 0, -4, 0), layer.name, SMALL, 500, QColor(ink))
        self._put_lines(painter, region)
        front = self._cell(gestures.index(place.gesture), [layer.id for layer in layers].index(place.layer))
        painter.setPen(QPen(QColor(t.light), 2))
        painter.drawRect(front.adjusted(1, 1, -1, -1))
        self._put_line(painter, folio)

    def _put_head(self, painter: QPainter, folio: Folio, place: Place, head: QRectF) -> None:
        """The key's print, and beside it where it is and which finger strikes it."""
        key = folio.boards[place.board].by_id.get(place.key)
        printed = folio.legend.print_of(place.key) if key is None or key.print is None else key.print
        used = put_text(painter, head, f"{printed or place.key} on every layer", BODY, 600, QColor(theme().text))
        where = [place.key if printed else ""]
        if key is not None:
            where += [f"{key.hand or ''} {finger_words(key.finger)}".strip(), "home key" if key.home else "", key.reach or ""]
        beside = head.adjusted(used + 14, 0, 0, 0)
        put_text(painter, beside, " · ".join(filter(None, where)), BODY, 400, QColor(theme().faint))

    def _put_lines(self, painter: QPainter, region: QRegion) -> None:
        """The frame where it is touched, its corners take longest; the hairlines, which lie on whole pixels."""
        wide, foot = self.width(), _HEAD + _CELL + len(self._gestures) * _ROW
        painter.setPen(QPen(QColor(theme().line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRect(0, int(_HEAD), wide, int(foot - _HEAD) + 1)
        if not box.adjusted(8, 1, -8, -1).contains(region.intersected(box).boundingRect()):
            painter.drawRoundedRect(QRectF(0.5, _HEAD + 0.5, wide - 1, foot - _HEAD), 8, 8)
        rows = [int(_HEAD + _CELL + row * _ROW) for row in range(len(self._gestures))]
        columns = [int(self._left(column)) for column in range(len(self._layers))]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for y in rows:
            painter.drawLine(1, y, wide - 2, y)
        for x in columns:
            painter.drawLine(x, box.top() + 1, x, box.bottom() - 1)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _left(self, column: int) -> float:
        """Return where a column begins: on a whole pixel, so that no column paints into its neighbour."""
        return float(round(_SIGN + column * (self.width() - _SIGN) / max(1, len(self._layers))))

    def _cell(self, row: int, column: int) -> QRectF:
        left = self._left(column)
        return QRectF(left, _HEAD + _CELL + row * _ROW, self._left(column + 1) - left, _ROW)

    def _column(self, column: int) -> QRectF:
        """Return a layer's name and all its cells, with the hairline before them and within the frame."""
        left = self._left(column)
        return QRectF(left, _HEAD + 1, self._left(column + 1) - left, _CELL + len(self._gestures) * _ROW - 1)

    def _line(self) -> QRectF:
        """Return where it stands what the spot in front does."""
        return QRectF(2, _HEAD + _CELL + len(self._gestures) * _ROW + 8, self.width() - 4, 28)

    def _put_sign(self, painter: QPainter, row: int, gesture: str) -> None:
        box = QRectF(0, _HEAD + _CELL + row * _ROW, _SIGN, _ROW)
        put_text(painter, box.adjusted(12, 0, 0, 0), SIGNS[gesture], BODY, 700, QColor(theme().quiet))

    def _put_cell(
        self, painter: QPainter, folio: Folio, place: Place, row: int, column: int, layer: Layer, gesture: str
    ) -> None:
        t, box = theme(), self._cell(row, column)
        binding = layer.by_key.get(place.key, {}).get(gesture)
        if binding is not None:
            fill(painter, box, QColor(t.raised))
            group = folio.group_of(folio.command_of(binding))
            if group is not None:
                fill(painter, QRectF(box.left() + 1, box.top() + 6, 3, box.height() - 12), QColor(t.inks[group.ink]))
            put_text(painter, box.adjusted(10, 0, -4, 0), what_it_does(folio, binding), BODY, 400, QColor(t.text))
            return
        words = self._cell_words(layer, gesture)
        put_text(
            painter, box.adjusted(10, 0, -4, 0), "↓" if words == "as below" else words, SMALL, 400, QColor(t.faint)
        )

    def _put_line(self, painter: QPainter, folio: Folio) -> None:
        """Show the selected spot: its command, what it sends as chips, and its reason."""
        t, binding = theme(), self._binding()
        box = self._line()
        if binding is None:
            put_text(painter, box, self._unbound(), BODY, 400, QColor(t.faint))
            return
        box.setLeft(box.left() + put_text(painter, box, what_it_does(folio, binding), BODY, 600, QColor(t.text)) + 12)
        sent = folio.sent_by(binding)
        if binding.command is not None and sent is not None:
            box.setLeft(box.left() + put_text(painter, box, "sends", BODY, 400, QColor(t.quiet)) + 8)
            box.setLeft(box.left() + put_chips(painter, box, [sent], SMALL) + 12)
        if binding.reason:
            put_text(painter, box, f"·  {binding.reason}", BODY, 400, QColor(t.quiet))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row, gesture in enumerate(self._gestures):
            for column, layer in enumerate(self._layers):
                if self._cell(row, column).contains(event.position()):
                    self.chosen.emit(layer.id, gesture)
