"""The board of the layer that is edited: paper tiles on the desk, the cursor, what is selected, lifted or lit, and flags."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from math import ceil
from typing import NamedTuple

from msgspec import Struct, field
from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QEnterEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from glimber.core.cards.key_face import KeyFace, beside, faces_after, key_faces, ways_in
from glimber.core.cards.tiles import Tiles
from glimber.core.drawing.drawing import Drawing, Group, Icons
from glimber.core.drawing.short_labels import NO_SHORT_FORMS
from glimber.core.model.board import Board, Key, Knob
from glimber.core.model.folio import Folio, Layer
from glimber.store.cache.fonts import faces
from glimber.store.cache.icons import icon
from glimber.ui.paint.draw import paint
from glimber.ui.paint.fonts import font
from glimber.ui.paint.look import SMALL
from glimber.ui.paint.style import fill, theme
from glimber.ui.widgets.tips import Tips

LARGEST_U = 150.0
_MODIFIERS = {
    Qt.Key.Key_Control: "Ctrl", Qt.Key.Key_Shift: "Shift", Qt.Key.Key_Alt: "Alt", Qt.Key.Key_AltGr: "AltGr",
    Qt.Key.Key_Meta: "Super", Qt.Key.Key_Super_L: "Super", Qt.Key.Key_Super_R: "Super",
}  # fmt: skip
_FLAGS = {
    Qt.KeyboardModifier.ControlModifier: "Ctrl", Qt.KeyboardModifier.ShiftModifier: "Shift",
    Qt.KeyboardModifier.AltModifier: "Alt", Qt.KeyboardModifier.MetaModifier: "Super",
}  # fmt: skip
LEAST_PX = 11
"""No text on screen is smaller."""
_EDGE = 3


class Shown(Struct, frozen=True):
    """Marks on the board beside its tiles. ``flags``: numbers of findings by key; ``lit``: keys struck in free play."""

    cursor: str | None = None
    selected: frozenset[str] = frozenset()
    lifted: str | None = None
    marked: str | None = None
    lit: frozenset[str] = frozenset()
    dim: frozenset[str] = frozenset()
    flags: Mapping[str, int] = field(default_factory=dict)

    def differing(self, other: Shown) -> set[str]:
        """Return the keys that are marked differently here and there."""
        found = self.selected ^ other.selected | self.lit ^ other.lit | self.dim ^ other.dim
        found |= {key for key in self.flags.keys() | other.flags.keys() if self.flags.get(key) != other.flags.get(key)}
        singles = zip((self.cursor, self.lifted, self.marked), (other.cursor, other.lifted, other.marked), strict=True)
        return {*found, *(key for pair in singles if pair[0] != pair[1] for key in pair if key is not None)}


class _Laid(NamedTuple):
    """The geometry of a drawn key: its outline, the box around that, the whole pixels it takes with its marks, and the whole
    pixel at which its tile begins."""

    outline: QPolygonF
    box: QRectF
    around: QRect
    corner: QPointF


class BoardCanvas(QWidget):
    """Draws one layer to fit. ``pointed`` tells which key was clicked and whether it is to be added to the selection;
    ``dragged`` from which key to which one was dragged; ``dropped`` where on the screen a key was let go outside the board;
    ``held`` which modifiers are down, a frozenset of their names."""

    pointed = Signal(str, bool)
    dragged = Signal(str, str)
    dropped = Signal(str, QPoint)
    held = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("desk")
        self.setAccessibleName("Board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 150)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # nothing that lies below is painted for it
        self.largest_u = LARGEST_U
        self.icons: Icons = icon
        self.short = NO_SHORT_FORMS
        self.board: Board | None = None
        self.faces: dict[str, KeyFace] = {}
        self.shown = Shown()
        self._tiles: dict[object, QPixmap] = {}
        self._newest: dict[str, tuple[KeyFace, object, QPixmap]] = {}
        self._laid: dict[tuple[str, float, float, float], _Laid] = {}
        self._pressed: str | None = None
        self._tips: Tips | None = None
        self._all = ""
        self._drawn: Layer | None = None
        self._around: object = None

    def show_layer(self, folio: Folio, board: Board, layer: Layer) -> None:
        """Show another layer, or the same after an edit: only tiles that changed are drawn again."""
        before, drawn = self.faces, self._drawn
        layout = folio.layouts.get(board.id)
        around = (board, layer.id, beside(folio, board.id), ways_in(layout, layer) if layout else None)
        if drawn is not None and around == self._around:
            faces_ = faces_after(before, drawn, folio, board, layer)
        else:
            faces_ = key_faces(folio, board, layer)
        self._drawn = layer
        self.show_faces(board, faces_, around)

    def show_faces(self, board: Board, faces_: dict[str, KeyFace], around: object) -> None:
        """Show the faces of a board's keys; ``around`` is what they rest on besides the bindings. Only tiles that changed are
        drawn again."""
        before, self.faces = self.faces, faces_
        self._around = around
        changed = {id for id, face in self.faces.items() if (old := before.get(id)) is not face and old != face}
        if changed:
            self._all = "; ".join(face.spoken() for face in self.faces.values() if face.lines or face.way)
        if board is not self.board:
            self.board = board
            self._laid.clear()
            self._newest.clear()
            self.update()
            return
        self._repaint(changed)

    def mark(self, shown: Shown) -> None:
        """Mark other keys."""
        before, self.shown = self.shown, shown
        face = self.faces.get(shown.cursor or "")
        here = face.spoken() if face else ""
        self.setAccessibleDescription(f"{here}. On this layer: {self._all or 'nothing'}")
        self._repaint(shown.differing(before))

    def _repaint(self, ids: Collection[str]) -> None:
        """Only the keys that are drawn differently than before: the rest of the board stays as it is on the screen."""
        if not ids or self.board is None:
            return
        scale = self._scale()
        for part in self.parts():
            if part.id in ids:
                self.update(self._lies(part, *scale).around)

    # Where things are

    def parts(self) -> list[Key | Knob]:
        """Return the keys and knobs of the board."""
        return [] if self.board is None else [*self.board.keys, *self.board.knobs]

    def _scale(self) -> tuple[float, float, float]:
        """Return pixels a unit, and where (0, 0) is."""
        assert self.board is not None
        left, top, right, bottom = self.board.extent
        u = min((self.width() - 8) / (right - left), (self.height() - 12) / (bottom - top), LARGEST_U)
        x0 = (self.width() - u * (right - left)) / 2 - left * u
        y0 = max(4.0, (self.height() - u * (bottom - top)) / 2) - top * u
        return u, x0, y0

    def key_at(self, point: QPointF) -> str | None:
        """Return the key or knob under a point of the widget."""
        if self.board is None:
            return None
        u, x0, y0 = self._scale()
        for part in self.parts():
            if self._lies(part, u, x0, y0).outline.containsPoint(point, Qt.FillRule.OddEvenFill):
                return part.id
        return None

    def hand(self) -> QRect | None:
        """Return where the cursor is."""
        part = next((part for part in self.parts() if part.id == self.shown.cursor), None)
        return None if part is None else self._lies(part, *self._scale()).box.toAlignedRect()

    def _lies(self, part: Key | Knob, u: float, x0: float, y0: float) -> _Laid:
        key = (part.id, u, x0, y0)
        found = self._laid.get(key)
        if found is None:
            if len(self._laid) > 1000:
                self._laid.clear()
            if isinstance(part, Key):
                outline = QPolygonF([QPointF(x0 + x * u, y0 + y * u) for x, y in part.outline])
            else:
                outline = QPolygonF(QRectF(x0 + part.x * u, y0 + part.y * u, part.w * u, part.w * u))
            box, more = outline.boundingRect(), _EDGE + 2
            around = box.adjusted(-more, -more, more, more).toAlignedRect()
            corner = QPointF(int(box.left()) - _EDGE, int(box.top()) - _EDGE)
            found = self._laid[key] = _Laid(outline, box, around, corner)
        return found

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, event.rect(), QColor(theme().desk))
        if self.board is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        u, x0, y0 = self._scale()
        region, shown = event.region(), self.shown
        lying = [(part, self._lies(part, u, x0, y0)) for part in self.parts()]
        lying = [(part, laid) for part, laid in lying if region.intersects(laid.around)]
        for part, laid in lying:
            pixmap = self._tile(part, self.faces[part.id], u, x0, y0, laid)
            dim = part.id in shown.dim or part.id == shown.lifted
            painter.setOpacity(0.35 if dim else 1.0)
            painter.drawPixmap(laid.corner, pixmap)
        painter.setOpacity(1.0)
        marked = {*shown.selected, *shown.lit, *shown.flags, shown.cursor, shown.marked}
        marked |= {part.id for part, _ in lying if self.faces[part.id].others}
        for part, laid in lying:
            if part.id in marked:
                self._put_marks(painter, part, laid)

    def _tile(self, part: Key | Knob, face: KeyFace, u: float, x0: float, y0: float, laid: _Laid) -> QPixmap:
        """Return one key as it is drawn, kept until it or its size changes."""
        # By what it is first: by what it says takes longer, and finds a face that was there before.
        lain = (u, x0, y0, self.devicePixelRatioF(), theme().name)
        newest = self._newest.get(part.id)
        if newest is not None and newest[0] is face and newest[1] == lain:
            return newest[2]
        ratio = self.devicePixelRatioF()
        key = (
            part,
            face,
            round(u, 3),
            round(x0 - laid.corner.x(), 2),
            round(y0 - laid.corner.y(), 2),
            ratio,
            theme().name,
        )
        found = self._tiles.get(key)
        if found is None:
            found = self._tiles[key] = self._drawn_tile(part, face, u, x0, y0, laid)
        self._newest[part.id] = (face, lain, found)
        return found

    def _drawn_tile(self, part: Key | Knob, face: KeyFace, u: float, x0: float, y0: float, laid: _Laid) -> QPixmap:
        ratio = self.devicePixelRatioF()
        box = laid.box
        if len(self._tiles) > 1500:
            self._tiles.clear()
        wide, high = ceil(box.width()) + 2 * _EDGE + 2, ceil(box.height()) + 2 * _EDGE + 2
        pixmap = QPixmap(ceil(wide * ratio), ceil(high * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(-laid.corner)
        if face.lines:
            tiles = Tiles(faces(), self.icons, ("labels", "icons", "holds"), LEAST_PX, short=self.short)
            group: Group = (
                tiles.key(part, face, u, x0, y0, []) if isinstance(part, Key) else tiles.knob(part, face, u, x0, y0, [])
            )
            paint(painter, Drawing(1, 1, "", "", (group,)), 1.0)
        else:
            self._put_unbound(painter, part, face, u, x0, y0)
        painter.end()
        return pixmap

    def _put_unbound(self, painter: QPainter, part: Key | Knob, face: KeyFace, u: float, x0: float, y0: float) -> None:
        """A hairline and the print in faint; struck through where the key is dead."""
        t, gap = theme(), 0.035 * u
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if isinstance(part, Knob):
            painter.drawEllipse(
                QPointF(x0 + part.centre[0] * u, y0 + part.centre[1] * u), part.w * u / 2 - gap, part.w * u / 2 - gap
            )
            return
        px, py = part.pivot or (part.x + part.w / 2, part.y + part.h / 2)
        painter.translate(x0 + px * u, y0 + py * u)
        painter.rotate(part.angle)
        box = QRectF((part.x - px) * u + gap, (part.y - py) * u + gap, part.w * u - 2 * gap, part.h * u - 2 * gap)
        painter.drawRoundedRect(box, 0.11 * u, 0.11 * u)
        if face.stem:
            self._put_stem(painter, box, face, u)
            return
        if face.taken:
            self._put_hatching(painter, box, u)
        if part.home:
            fill(painter, QRectF(box.center().x() - 0.11 * u, box.bottom() + 1, 0.22 * u, 1.5), QColor(t.faint))
        text = face.way or face.taken or face.print
        if not text:
            return
        size = max(LEAST_PX, round(u * (0.2 if len(text) < 4 else 0.16)))
        painter.setFont(font(size, 400))
        painter.setPen(QColor(t.faint))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)
        if face.state == "dead" and not face.way:
            half = painter.fontMetrics().horizontalAdvance(text) / 2 + 3
            painter.drawLine(
                QPointF(box.center().x() - half, box.center().y()), QPointF(box.center().x() + half, box.center().y())
            )

    def _put_hatching(self, painter: QPainter, box: QRectF, u: float) -> None:
        """Slanted lines: the desktop takes the key before the program sees it."""
        painter.save()
        painter.setClipRect(box.adjusted(2, 2, -2, -2))
        painter.setPen(QPen(QColor(theme().line), 1))
        at, step, high = box.left() - box.height(), max(5.0, 0.1 * u), box.height()
        while at < box.right():
            painter.drawLine(QPointF(at, box.bottom()), QPointF(at + high, box.top()))
            at += step
        painter.restore()

    def _put_stem(self, painter: QPainter, box: QRectF, face: KeyFace, u: float) -> None:
        """A key at which sequences begin: what follows, and a fork below it."""
        t = theme()
        painter.setPen(QPen(QColor(t.lamp[1]), 1.5))
        painter.setBrush(QColor(t.raised))
        painter.drawRoundedRect(box, 0.11 * u, 0.11 * u)
        painter.setFont(font(max(LEAST_PX, round(u * 0.16)), 600))
        painter.setPen(QColor(t.light))
        upper = QRectF(box.left() + 3, box.top() + 2, box.width() - 6, box.height() * 0.62)
        painter.drawText(upper, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, face.stem)
        painter.setPen(QPen(QColor(t.light), 1.2))
        foot, middle, arm = box.bottom() - 0.1 * u, box.center().x(), 0.16 * u
        for x in (-arm, 0.0, arm):
            painter.drawLine(QPointF(middle, foot - 0.16 * u), QPointF(middle + x, foot))
        painter.setFont(font(LEAST_PX, 400))
        painter.setPen(QColor(t.faint))
        painter.drawText(
            box.adjusted(0, 0, -5, -3), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, face.print
        )

    def _put_marks(self, painter: QPainter, part: Key | Knob, laid: _Laid) -> None:
        t, shown, outline = theme(), self.shown, laid.outline
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if part.id in shown.lit:
            glow = QColor(t.light)
            glow.setAlpha(110)
            painter.setPen(QPen(QColor(t.light), 3))
            painter.setBrush(glow)
            painter.drawPolygon(outline)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        if part.id in shown.selected or part.id == shown.marked:
            style = Qt.PenStyle.DashLine if part.id == shown.marked else Qt.PenStyle.SolidLine
            painter.setPen(QPen(QColor(t.light), 1.4, style))
            painter.drawPolygon(outline)
        if part.id == shown.cursor:
            painter.setPen(QPen(QColor(t.light), 2.4 if self.hasFocus() else 1.6))
            painter.drawPolygon(outline)
        number = shown.flags.get(part.id)
        if self.faces[part.id].others and number is None:
            painter.setPen(QPen(QColor(t.slip), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(laid.box.topRight() + QPointF(-9, 9), 3.0, 3.0)
        if number is not None:
            box = QRectF(0, 0, 15, 15)
            box.moveTopRight(laid.box.topRight() + QPointF(-1, 1))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.slip))
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(QColor(t.desk))
            painter.setFont(font(SMALL, 700))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))

    # Modifiers that are really held

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._tell_held(event, True)
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        self._tell_held(event, False)
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.held.emit(frozenset())
        super().focusOutEvent(event)

    def _tell_held(self, event: QKeyEvent, down: bool) -> None:
        struck = _MODIFIERS.get(Qt.Key(event.key()))
        if struck is None or event.isAutoRepeat():
            return
        held = {name for flag, name in _FLAGS.items() if event.modifiers() & flag}
        self.held.emit(frozenset(held | {struck} if down else held - {struck}))

    # Pointing and dragging

    def enterEvent(self, event: QEnterEvent) -> None:
        """A label may be short: the whole of it is in the tip."""
        self._tips = self._tips or Tips(self, self._told_at)

    def _told_at(self, x: float, y: float) -> str:
        face = self.faces.get(self.key_at(QPointF(x, y)) or "")
        return (
            "\n".join([face.spoken(), *(line.reason for line in face.lines if line.reason)]) if face is not None else ""
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        key, left = self.key_at(event.position()), event.button() == Qt.MouseButton.LeftButton
        self._pressed = key if left else None
        # A menu asked for on one of several selected keys is for all of them.
        if key is not None and (left or key not in self.shown.selected):
            self.pointed.emit(key, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self.key_at(event.position())
        self.setCursor(
            Qt.CursorShape.ClosedHandCursor if self._pressed and over != self._pressed else Qt.CursorShape.ArrowCursor
        )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.setCursor(Qt.CursorShape.ArrowCursor)
        start, self._pressed = self._pressed, None
        over = self.key_at(event.position())
        if start is not None and over is not None and over != start:
            self.dragged.emit(start, over)
        elif start is not None and not self.rect().contains(event.position().toPoint()):
            self.dropped.emit(start, event.globalPosition().toPoint())
