"""Rearranging a layer with few changes: the frontier as a chart, the board with arrows, and the steps of the point in front."""

from __future__ import annotations

from collections.abc import Callable
from math import atan2, cos, hypot, pi, sin
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from glimber.core.model.board import FINGERS
from glimber.core.model.describe import place_words
from glimber.ui.paint.board import BoardMarks, BoardOutline
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.plain_text import Label
from glimber.ui.paint.style import theme
from glimber.ui.widgets.sheet_over import Cover

if TYPE_CHECKING:
    from glimber.core.decide.rearrange import Plan, Wish
    from glimber.core.model.folio import Folio


class Frontier(QWidget):
    """Seconds saved a week against moves; one point in front."""

    def __init__(self, go_to: Callable[[int], None]) -> None:
        super().__init__()
        self._go_to = go_to
        self.plans: list[Plan] = []
        self.at = 0
        self.setMinimumHeight(150)
        self.setAccessibleName("Seconds saved a week against moves")

    def show_plans(self, plans: list[Plan], at: int) -> None:
        self.plans, self.at = plans, at
        self.setAccessibleDescription(", ".join(f"{plan.moves} moves: {plan.saves_s_week:.0f} s" for plan in plans))
        self.update()

    def point(self, plan: Plan) -> QPointF:
        """Return where a plan is."""
        box = QRectF(16, 24, self.width() - 110, self.height() - 52)
        moves, saves = max(1, self.plans[-1].moves), max(1e-9, self.plans[-1].saves_s_week)
        return QPointF(
            box.left() + plan.moves / moves * box.width(), box.bottom() - plan.saves_s_week / saves * box.height()
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = event.position()
        if self.plans:
            near = min(range(len(self.plans)), key=lambda place: abs(self.point(self.plans[place]).x() - spot.x()))
            self._go_to(near)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.plans:
            return
        put_text(painter, QRectF(16, 0, 240, 18), "↑ seconds saved a week", 11, 400, QColor(t.quiet))
        put_text(
            painter,
            QRectF(self.width() - 194, self.height() - 18, 100, 18),
            "moves →",
            11,
            400,
            QColor(t.quiet),
            end=True,
        )
        path = QPainterPath(self.point(self.plans[0]))
        for plan in self.plans[1:]:
            path.lineTo(self.point(plan))
        painter.setPen(QPen(QColor(t.quiet), 1.5))
        painter.drawPath(path)
        for place, plan in enumerate(self.plans):
            front = place == self.at
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.light if front else t.quiet))
            painter.drawEllipse(self.point(plan), 6 if front else 3, 6 if front else 3)
        plan = self.plans[self.at]
        at = self.point(plan)
        put_text(
            painter, QRectF(at.x() + 10, at.y() - 9, 110, 18), f"{plan.saves_s_week:.0f} s", 13, 600, QColor(t.text)
        )


EDGE_U = 0.5
"""An arrow begins and ends where the keys do."""


class MovesBoard(BoardOutline):
    """A board with an arrow for everything that goes elsewhere."""

    def __init__(self) -> None:
        super().__init__("Board before and after", lambda: theme().panel)
        self.arrows: list[tuple[str, str]] = []
        self.front = -1
        """The arrow of the move in front, if any."""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.board is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        u, x0, y0 = self._scale()
        for place, (start, end) in enumerate(self.arrows):
            a, b = self.board.centre((start,)), self.board.centre((end,))
            if a is not None and b is not None:
                front = place == self.front
                pen = QPen(QColor(theme().text if front else theme().light), 3 if front else 2)
                _arrow(painter, QPointF(x0 + a[0] * u, y0 + a[1] * u), QPointF(x0 + b[0] * u, y0 + b[1] * u), u, pen)
        for key in self.board.keys:  # what is printed is read over the arrows that cross it
            self._paint_key(painter, key, u, x0, y0, True, key.id in self.marks.lit)


def _arrow(painter: QPainter, start: QPointF, end: QPointF, u: float, pen: QPen) -> None:
    """A curve from one key to another, so that two that change places are told apart."""
    by = end - start
    side = QPointF(-by.y(), by.x()) * 0.18
    middle = (start + end) / 2 + side
    start, end = _towards(start, middle, EDGE_U * u), _towards(end, middle, EDGE_U * u)
    path = QPainterPath(start)
    path.quadTo(middle, end)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(pen)
    painter.drawPath(path)
    heading = atan2((end - middle).y(), (end - middle).x())
    for turn in (pi * 0.85, -pi * 0.85):
        painter.drawLine(end, end + QPointF(cos(heading + turn), sin(heading + turn)) * 0.3 * u)


def _towards(point: QPointF, other: QPointF, by: float) -> QPointF:
    way = other - point
    return point + way * (by / max(by, hypot(way.x(), way.y())))


class Rearrange(Cover):
    """Covers the room. ← → choose a point, ↑ ↓ a move of it, P leaves what moves where it is, H keeps hands, G the shape of
    groups, Enter accepts, Esc closes. ``again`` is called with what is kept, for a frontier of its own.
    """

    def __init__(self, parent: QWidget, again: Callable[[Wish], None], take: Callable[[Plan], None]) -> None:
        super().__init__(parent)
        self._again, self._take = again, take
        self._folio: Folio | None = None
        self._wish: Wish | None = None
        self.plans: list[Plan] = []
        self.at = 0
        self.box = QFrame(self)
        self.box.setObjectName("panel")
        self.head, self.words, self.load, self.keys = Label(), Label(), Label(), Label()
        self.steps = QListWidget()
        self.steps.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.steps.setAccessibleName("Moves of the point in front, and what stays where it is")
        self.steps.setWordWrap(True)
        self.steps.currentRowChanged.connect(self._mark)
        self.steps.itemDoubleClicked.connect(lambda item: self.pin())
        self.head.setProperty("role", "heading")
        for label in (self.load, self.keys):
            label.setProperty("role", "quiet")
        for label in (self.words, self.load, self.keys):
            label.setWordWrap(True)
        self.chart, self.board = Frontier(self.go_to), MovesBoard()
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.chart, 2)
        left.addWidget(self.board, 3)
        right.addWidget(self.words)
        right.addWidget(self.steps, 1)
        right.addWidget(self.load)
        both = QHBoxLayout()
        both.setSpacing(24)
        both.addLayout(left, 3)
        both.addLayout(right, 2)
        layout = QVBoxLayout(self.box)
        layout.setContentsMargins(24, 18, 24, 14)
        layout.addWidget(self.head)
        layout.addLayout(both, 1)
        layout.addWidget(self.keys)
        self.keys.setText(
            "← → more or fewer moves · Home End none, all · ↑ ↓ a move · P it stays where it is · H each on its hand · "
            "G groups keep their shape · Enter accepts · Esc closes"
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def arrange(self) -> None:
        self.box.setGeometry(self.rect().adjusted(40, 30, -40, -30))

    def show_plans(self, folio: Folio, board: str, layer: str, plans: list[Plan], wish: Wish) -> None:
        """Show the frontier of a layer, with what is kept in it; the first move is in front first."""
        self._folio, self.plans, self._wish = folio, plans, wish
        here = folio.layouts[board].layer(layer)
        self.head.setText(f"{here.name if here is not None else layer}, with few changes")
        self.board.show_board(folio.boards[board], folio.legend, BoardMarks())
        self.at = min(len(plans) - 1, self.at or 1)
        self._show()
        self.show_over()
        self.setFocus()

    def go_to(self, at: int) -> None:
        self.at = max(0, min(len(self.plans) - 1, at))
        self._show()

    def _show(self) -> None:
        plan, folio = self.plans[self.at], self._folio
        assert folio is not None
        self.chart.show_plans(self.plans, self.at)
        self.board.arrows = [(step.start.key, step.to.key) for step in plan.steps]
        marks = BoardMarks(tuple(step.to.key for step in plan.steps), theme().lamp_at(0.35))
        self.board.show_board(self.board.board, folio.legend, marks, ", ".join(self._words(plan)))
        wish = self._wish
        assert wish is not None
        kept = [text for on, text in ((wish.hands, "each on its hand"), (wish.shape, "groups in their shape")) if on]
        kept_words = f" ({', '.join(kept)})" if kept else ""
        moves = "1 move saves" if plan.moves == 1 else f"{plan.moves} moves save"
        self.words.setText(f"{moves} {plan.saves_s_week:.0f} s a week{kept_words}, with the {plan.learn_s:.0f} s "
                           f"of learning them taken off. The best of all, {self.plans[-1].moves} moves, would save "
                           f"{self.plans[-1].saves_s_week:.0f} s.")  # fmt: skip
        words = self._words(plan)
        self.steps.clear()
        self.steps.addItems([*words, *(f"{self._name(id)}: stays (P lets it go)" for id in sorted(wish.stay))])
        self._mark(-1)
        before = self.plans[0].load
        parts = [
            f"{finger.replace('-', ' ')} {before.get(finger, 0.0):.0f} → {plan.load.get(finger, 0.0):.0f}"
            for finger in FINGERS
            if finger in before or finger in plan.load
        ]
        self.load.setText("Uses a day by finger: " + ", ".join(parts))
        self.setAccessibleName(self.head.text())
        self.setAccessibleDescription(f"{self.words.text()} {', '.join(words)}")

    def _mark(self, row: int) -> None:
        """Bring out the arrow of a row."""
        self.board.front = row
        self.board.update()

    def pin(self) -> None:
        """Pin the selected binding, or unpin it, and compute the frontier again."""
        row, wish = self.steps.currentRow(), self._wish
        if wish is None or row < 0:
            return
        steps = self.plans[self.at].steps
        if row < len(steps):
            self._again(replace(wish, stay=wish.stay | {steps[row].binding}))
        else:
            self._again(replace(wish, stay=wish.stay - {sorted(wish.stay)[row - len(steps)]}))

    def _name(self, binding: str) -> str:
        folio = self._folio
        assert folio is not None
        command = folio.command_of(folio.bindings[binding])
        return command.name if command is not None else binding

    def _words(self, plan: Plan) -> list[str]:
        folio = self._folio
        assert folio is not None
        return [
            f"{self._name(step.binding)}: {place_words(folio, step.start)} → {place_words(folio, step.to)}"
            for step in plan.steps
        ]

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while it lies over the room, no key means anything else
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        wish = self._wish
        if key in (Qt.Key.Key_Right, Qt.Key.Key_Left):
            self.go_to(self.at + (1 if key == Qt.Key.Key_Right else -1))
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.go_to(0 if key == Qt.Key.Key_Home else len(self.plans) - 1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            row = self.steps.currentRow() + (1 if key == Qt.Key.Key_Down else -1)
            self.steps.setCurrentRow(max(0, min(self.steps.count() - 1, row)))
        elif key == Qt.Key.Key_P:
            self.pin()
        elif key in (Qt.Key.Key_H, Qt.Key.Key_G) and wish is not None:
            by_hand = key == Qt.Key.Key_H
            self._again(replace(wish, hands=wish.hands ^ by_hand, shape=wish.shape ^ (not by_hand)))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            plan = self.plans[self.at]
            self.dismiss()
            if plan.moves:
                self._take(plan)
        elif key == Qt.Key.Key_Escape:
            self.dismiss()
        else:
            super().keyPressEvent(event)
