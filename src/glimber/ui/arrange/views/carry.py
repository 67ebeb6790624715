"""A layout carried over, seen before it is done: the board it is on above, the other one below, with where each key goes."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from glimber.core.decide.carry import CarryPlan
from glimber.core.model.board import Board, Key, Knob
from glimber.core.model.describe import count_words, key_words
from glimber.core.model.folio import Folio
from glimber.ui.paint.fonts import font, put_text
from glimber.ui.paint.look import BODY, HEADING, PANEL_RADIUS, PAPER, SMALL
from glimber.ui.paint.style import theme
from glimber.ui.widgets.sheet_over import Cover

_EDGE, _HEAD, _FOOT, _BETWEEN = 28.0, 74.0, 78.0, 56.0


class CarrySheet(Cover):
    """``taken`` says that it is to be done: in place of the old layout (False), or beside it (True)."""

    taken = Signal(bool)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Carry over")
        self._folio: Folio | None = None
        self._plan: CarryPlan | None = None

    def show_plan(self, folio: Folio, plan: CarryPlan) -> None:
        """Show what fits and what does not. ``folio`` has both boards."""
        self._folio, self._plan = folio, plan
        self.setAccessibleDescription(" ".join([self.spoken(), *self.rows()]))
        self.show_over()
        self.setFocus()

    def spoken(self) -> str:
        """Return what it comes to, in a sentence."""
        plan = self._plan
        if plan is None:
            return ""
        same, near, none = (len(plan.of(how)) for how in ("same", "near", "none"))
        left = f"{count_words(len(plan.left), 'binding')} would go to the bench"
        return f"{count_words(same, 'key')} are the same, {near} near, {none} have none there: {left}."

    def rows(self) -> list[str]:
        """Return every key that is not the same there, with why."""
        folio, plan = self._folio, self._plan
        if folio is None or plan is None:
            return []
        return [
            f"{key_words(folio, plan.start, (one.key,))} to "
            f"{key_words(folio, plan.board, (one.to,)) if one.to else 'the bench'}: {one.why}."
            for one in plan.keys if one.how != "same"
        ]  # fmt: skip

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while it is shown its keys are nothing else's
            return True
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.dismiss()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_B):
            self.dismiss()
            self.taken.emit(event.key() == Qt.Key.Key_B)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        folio, plan = self._folio, self._plan
        if folio is None or plan is None:
            return
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(60, 32, -60, -32)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(box, PANEL_RADIUS, PANEL_RADIUS)
        inside = box.adjusted(_EDGE, 18, -_EDGE, -16)
        old, new = folio.boards[plan.start], folio.boards[plan.board]
        put_text(painter, QRectF(inside.left(), inside.top(), inside.width(), 28), f"{old.name}  →  {new.name}", HEADING, 500,
                 QColor(t.text))  # fmt: skip
        put_text(
            painter,
            QRectF(inside.left(), inside.top() + 30, inside.width(), 22),
            self.spoken(),
            BODY,
            400,
            QColor(t.quiet),
        )
        high = (inside.height() - _HEAD - _FOOT - _BETWEEN) / 2
        upper = QRectF(inside.left(), inside.top() + _HEAD, inside.width(), high)
        lower = upper.translated(0, high + _BETWEEN)
        u = min(_fitting(old, upper), _fitting(new, lower), 58.0)
        above, below = _origin(old, upper, u), _origin(new, lower, u)
        bound = {key for layer in folio.layouts[plan.start].layers for name in layer.by_key for key in name.split("&")}
        goes = {one.key: one for one in plan.keys if one.key in bound}
        lost = {key for key, one in goes.items() if one.to is None}
        self._put_board(painter, folio, old, above, u, bound, lost)
        self._put_board(painter, folio, new, below, u, {one.to for one in goes.values() if one.to}, set())
        painter.setPen(QPen(QColor(t.light), 2))
        for one in goes.values():
            if one.how == "near" and one.to is not None:
                start, end = old.centre((one.key,)), new.centre((one.to,))
                if start is not None and end is not None:
                    painter.drawLine(_at(start, above, u), _at(end, below, u))
        self._put_foot(painter, QRectF(inside.left(), inside.bottom() - 50, inside.width(), 50))

    def _put_board(
        self, painter: QPainter, folio: Folio, board: Board, origin: QPointF, u: float, bound: set[str], lost: set[str]
    ) -> None:
        t = theme()
        parts: list[Key | Knob] = [*board.keys, *board.knobs]
        for part in parts:
            if isinstance(part, Key):
                cx, cy = part.centre
                corners = [((x - cx) * 0.93 + cx, (y - cy) * 0.93 + cy) for x, y in part.outline]
                outline = QPolygonF([_at(corner, origin, u) for corner in corners])
            else:
                outline = QPolygonF(
                    QRectF(_at((part.x, part.y), origin, u), _at((part.x + part.w, part.y + part.w), origin, u))
                )
            here = part.id in bound
            painter.setPen(QPen(QColor(t.slip if part.id in lost else t.line), 2 if part.id in lost else 1))
            painter.setBrush(QColor(PAPER["paper"]) if here else Qt.BrushStyle.NoBrush)
            painter.drawPolygon(outline)
            words, middle = key_words(folio, board.id, (part.id,)), outline.boundingRect()
            painter.setFont(font(SMALL, 500 if here else 400))
            if painter.fontMetrics().horizontalAdvance(words) < middle.width() - 4:
                painter.setPen(QColor(PAPER["ink"] if here else t.faint))
                painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, words)

    def _put_foot(self, painter: QPainter, box: QRectF) -> None:
        t, rows = theme(), self.rows()
        shown = "  ".join(rows[:3]) + (f"  and {len(rows) - 3} more" if len(rows) > 3 else "")
        put_text(
            painter,
            QRectF(box.left(), box.top(), box.width(), 22),
            shown,
            BODY,
            400,
            QColor(t.slip if rows else t.quiet),
        )
        hint = "Enter: in place of it, bindings keep their history · B: beside it, as copies · Esc closes"
        put_text(painter, QRectF(box.left(), box.top() + 26, box.width(), 22), hint, BODY, 400, QColor(t.quiet))


def _fitting(board: Board, box: QRectF) -> float:
    left, top, right, bottom = board.extent
    return min(box.width() / (right - left), box.height() / (bottom - top))


def _origin(board: Board, box: QRectF, u: float) -> QPointF:
    """Position of the board's (0, 0), so that it stands in the middle of a box."""
    left, top, right, bottom = board.extent
    return QPointF(box.center().x() - u * (left + right) / 2, box.center().y() - u * (top + bottom) / 2)


def _at(point: tuple[float, float], origin: QPointF, u: float) -> QPointF:
    return QPointF(origin.x() + point[0] * u, origin.y() + point[1] * u)
