"""The source itself as a sheet of paper: what was read is marked where it stands, and what is to check has a number."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Final, Literal

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from glimber.ui.gather.importing import Importing
from glimber.ui.gather.views.page_layout import MARGIN, BlockGeometry, PageLayout, Piece, font_of
from glimber.ui.paint.fonts import advance, font, put_text
from glimber.ui.paint.look import KEY_RADIUS, LIT_ON_PAPER, PAPER, SMALL
from glimber.ui.paint.style import fill

if TYPE_CHECKING:
    from glimber.readers.marking import Marked, Span
    from glimber.readers.source_page import Block
    from glimber.ui.gather.checks import Check

_Index = QModelIndex | QPersistentModelIndex
State = Literal["read", "left", "check", "dropped", "other"]
"""A row that is imported or there already, one left out, one to check, one that is no shortcut, one for another system."""
_TINTS: Final = {"read": (PAPER["moss"], 40), "check": (PAPER["clay"], 48)}
_WORDS: Final = {"read": "read", "left": "left out", "check": "to check", "dropped": "no shortcut", "other": "another system's"}
_BADGE: Final = 18.0


class PageModel(QAbstractListModel):
    """The blocks of a page with what was read from each."""

    def __init__(self, importing: Importing, parent: QObject) -> None:
        super().__init__(parent)
        self.importing = importing
        self.blocks: Sequence[Block] = ()
        self.marks: Sequence[Marked] = ()
        self._of_this_system: frozenset[int] = frozenset()
        self._checks: dict[str, tuple[int, Check]] = {}
        self._places: dict[str, int] = {}

    def show_page(self) -> None:
        """Show the page of the source in front."""
        self.beginResetModel()
        found = self.importing.found
        self.blocks, self.marks = (), ()
        if found is not None and found.page:
            from glimber.readers.found import places_for_this_system
            from glimber.readers.marking import marks_of

            self._of_this_system = frozenset(places_for_this_system(found))
            self.blocks, self.marks = found.page, marks_of(found)
        self._places = {}
        for place in filter(self.is_stop, range(len(self.blocks))):
            for name in self.names_in(place):
                self._places.setdefault(name.casefold(), place)
        self.endResetModel()

    def update_checks(self) -> None:
        """Refresh after other places are to be checked or other rows are ticked."""
        self._checks = {check.read_as.casefold(): (number, check)
                        for number, check in enumerate(self.importing.checks(), start=1)}  # fmt: skip

    def read_as(self, row: int) -> str:
        """Return the command of a row as it was read."""
        assert self.importing.found is not None
        return self.importing.found.rows[row].command

    def state(self, row: int) -> State:
        """Return what becomes of a row."""
        name = self.read_as(row).casefold()
        if row not in self._of_this_system:
            return "other"
        if name in self.importing.corrections.dropped:
            return "dropped"
        if name in self._checks and not self._checks[name][1].decided:
            return "check"
        place = self.importing.place_of(name)
        rows = self.importing.rows
        left = place is not None and rows.can_be_ticked(place) and place not in rows.ticked
        return "left" if left else "read"

    def checks_in(self, place: int) -> list[tuple[int, Check]]:
        """Return what is still to check in a block, with its numbers."""
        found, mark = self.importing.found, self.marks[place]
        names = [self.read_as(row) for row in mark.rows if row in self._of_this_system]
        if mark.problem is not None and found is not None:
            names.append(found.problems[mark.problem].command)
        both = [self._checks[name.casefold()] for name in dict.fromkeys(names) if name.casefold() in self._checks]
        return [(number, check) for number, check in both if not check.decided]

    def names_in(self, place: int) -> list[str]:
        """Return the commands of a block as they were read, those to check first, other systems' last."""
        found, mark = self.importing.found, self.marks[place]
        if found is None:
            return []
        names = [check.read_as for _, check in self.checks_in(place)]
        names += [self.read_as(row) for row in sorted(mark.rows, key=lambda row: row not in self._of_this_system)]
        if mark.problem is not None:
            names.append(found.problems[mark.problem].command)
        if not names and mark.why:
            line = self.blocks[place].line
            names += [one.command for one in found.not_bindings if one.line == line]
        return [name for name in dict.fromkeys(names) if name]

    def is_stop(self, place: int) -> bool:
        """Return True if something was read from a block, or could have been."""
        mark = self.marks[place]
        return bool(mark.rows) or mark.problem is not None or bool(mark.why and self.names_in(place))

    def block_of(self, name: str) -> int | None:
        """Return the block that a command was read from."""
        return self._places.get(name.casefold())

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.blocks)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return None
        place = index.row()
        text = ", ".join(" ".join(cell.split()) for cell in self.blocks[place].cells if cell.strip())
        mark = self.marks[place]
        checks = self.checks_in(place)
        states = list(dict.fromkeys(_WORDS[self.state(row)] for row in mark.rows))
        remarks = [f"to check, {check.message}" for _, check in checks] or states or ([mark.why] if mark.why else [])
        return ". ".join([text, *remarks])


class PageView(QListView):
    """Shows a PageModel. ``moved`` tells that another block is in front; ``next_wanted`` carries 1 or -1 for the next thing to
    check, or the one before."""

    moved = Signal()
    next_wanted = Signal(int)

    def __init__(self, importing: Importing, parent: QWidget) -> None:
        super().__init__(parent)
        self.content = PageModel(importing, self)
        self.setModel(self.content)
        self.front: str | None = None
        self._layout: PageLayout | None = None
        self._scrolling = QTimer(self)
        self._scrolling.setSingleShot(True)
        self._scrolling.setInterval(0)
        self._scrolling.timeout.connect(self._show_current)
        self.setItemDelegate(_Block(self))
        self.setObjectName("sheet")
        self.setAccessibleName("Page of the source")
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        paper = PAPER["paper"]
        sheet = f"background: {paper}; border: 1px solid {paper}; border-radius: 4px; padding: 14px 0;"
        self.setStyleSheet(f"QListView#sheet {{ {sheet} }} QListView#sheet:focus {{ border: 1px solid {LIT_ON_PAPER}; }}"
                           f"QScrollBar::handle {{ background: {PAPER['paper-line']}; }}")  # fmt: skip
        self.selectionModel().currentRowChanged.connect(lambda *_: self.moved.emit())
        importing.changed.connect(self._changed)

    def show_page(self) -> None:
        """Show the page of the source in front."""
        self._layout = None
        self.content.show_page()
        self.content.update_checks()
        self._scrolling.start()

    def _changed(self) -> None:
        if self.content.blocks and self.content.importing.found is not None:
            self.content.update_checks()
            self.viewport().update()

    def names(self) -> list[str]:
        """Return the commands of the block in front, as they were read."""
        place = self.currentIndex().row()
        return self.content.names_in(place) if 0 <= place < len(self.content.blocks) else []

    def bring(self, name: str | None) -> None:
        """Bring the block of a command to the front; a command that is not on the page is in front all the same."""
        self.front = name
        place = self.content.block_of(name) if name is not None else None
        if place is not None and place != self.currentIndex().row():
            self.setCurrentIndex(self.content.index(place, 0))
            self.scrollTo(self.currentIndex(), QAbstractItemView.ScrollHint.EnsureVisible)
        bar = self.verticalScrollBar()
        if bar.value() > 0:
            bar.setValue(bar.value() + self.viewport().height() // 3)
        self.viewport().update()

    def geometries(self) -> PageLayout:
        """Return where everything stands at the present width."""
        width = float(self.viewport().width())
        if self._layout is None or abs(self._layout.width - width) > 0.5 or self._layout.blocks is not self.content.blocks:
            self._layout = PageLayout(self.content.blocks, width)
        return self._layout

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._layout = None
            self.scheduleDelayedItemsLayout()
            self._scrolling.start()

    def _show_current(self) -> None:
        """Scroll no further down than the block in front needs: a page is read from its top."""
        self.scrollToTop()
        self.scrollTo(self.currentIndex(), QAbstractItemView.ScrollHint.EnsureVisible)

    # Keys

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab is the next thing to check; F6 leaves the page."""
        self.next_wanted.emit(1 if next else -1)
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 12, Qt.Key.Key_PageUp: -12}
        if event.key() in steps and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            self.step(steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.step(-len(self.content.blocks) if event.key() == Qt.Key.Key_Home else len(self.content.blocks))
        else:
            event.ignore()  # letters are the room's keys, not the beginning of a line that is looked for

    def step(self, by: int) -> None:
        """Go ``by`` blocks on from which something was read."""
        place, left, last = self.currentIndex().row(), abs(by), -1
        while left and 0 <= (place := place + (1 if by > 0 else -1)) < len(self.content.blocks):
            if self.content.is_stop(place):
                left, last = left - 1, place
        if last >= 0:
            self.setCurrentIndex(self.content.index(last, 0))


class _Block(QStyledItemDelegate):
    """Paints a block: its words, the marks under them, and in the margin a line's number or that of what is to check."""

    def __init__(self, view: PageView) -> None:
        super().__init__(view)
        self._view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:
        layout = self._view.geometries()
        return QSize(round(layout.width) - 2, layout.height(index.row()))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        place, box = index.row(), QRectF(option.rect)
        page = self._view.content
        block, mark = page.blocks[place], page.marks[place]
        geometry = self._view.geometries().geometry(place)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(box)
        states = {row: page.state(row) for row in mark.rows}
        checks = page.checks_in(place)
        self._put_rules(painter, box, block)
        if mark.rows and not mark.spans:
            self._put_tint(painter, box.adjusted(MARGIN - 4, 1, -MARGIN + 4, -1), next(iter(states.values())))
        for piece in geometry.pieces:
            self._put_piece(painter, box, block, piece, geometry.line, mark, states)
        if place == self._view.currentIndex().row():
            painter.setPen(QPen(QColor(PAPER["clay"] if checks else LIT_ON_PAPER), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(MARGIN - 10, 1, -MARGIN + 12, -1), KEY_RADIUS, KEY_RADIUS)
        self._put_margin(painter, box, block, mark, checks, geometry)
        painter.restore()

    @staticmethod
    def _put_rules(painter: QPainter, box: QRectF, block: Block) -> None:
        if block.kind in ("row", "head") and not block.at:
            painter.setPen(QPen(QColor(PAPER["paper-line"]), 2 if block.kind == "head" else 1))
            line = box.adjusted(MARGIN, 0, -MARGIN, -0.5)
            painter.drawLine(line.bottomLeft(), line.bottomRight())

    def _put_piece(
        self, painter: QPainter, box: QRectF, block: Block, piece: Piece, line: float, mark: Marked, states: dict[int, State]
    ) -> None:
        text = block.cells[piece.cell]
        chosen = font_of(block)
        painter.setFont(chosen)
        metrics = painter.fontMetrics()
        x, y = box.left() + piece.x, box.top() + piece.y
        own = _spans_in(piece, mark, states)
        for span in own:
            first, last = max(span.start, piece.start), min(span.end, piece.end)
            left = x + metrics.horizontalAdvance(text[piece.start : first])
            wide = metrics.horizontalAdvance(text[first:last])
            self._put_tint(painter, QRectF(left - 4, y, wide + 8, line), states[span.row])
        painter.setPen(QColor(self._ink(block, mark, own, states)))
        shown = text[piece.start : piece.end]
        if block.kind == "line" and MARGIN + piece.width > box.width() - 8:
            shown = metrics.elidedText(shown, Qt.TextElideMode.ElideRight, round(box.width() - MARGIN - 12))
        painter.drawText(QRectF(x, y, max(piece.width, 1.0) + 4, line), Qt.AlignmentFlag.AlignVCenter, shown)
        struck = [(span.start, span.end) for span in own if states[span.row] in ("other", "dropped")]
        struck += [(start, end) for cell, start, end in block.struck if cell == piece.cell]
        struck += [(0, len(text))] if piece.cell in mark.elsewhere else []
        for start, end in struck:
            first, last = max(start, piece.start), min(end, piece.end)
            if first < last:
                left = x + metrics.horizontalAdvance(text[piece.start : first])
                painter.setPen(QPen(QColor(PAPER["ink"]), 1.2))
                wide = metrics.horizontalAdvance(text[first:last])
                painter.drawLine(QPointF(left, y + line / 2), QPointF(left + wide, y + line / 2))

    @staticmethod
    def _ink(block: Block, mark: Marked, own: Sequence[Span], states: dict[int, State]) -> str:
        if block.kind == "heading" or (own and states[own[0].row] in ("read", "check")):
            return PAPER["ink"]
        if mark.why or block.kind in ("text", "head") or mark.rows:
            return PAPER["prints"]
        return PAPER["ink"] if block.kind in ("row", "item") and not block.at else PAPER["prints"]

    @staticmethod
    def _put_tint(painter: QPainter, box: QRectF, state: State) -> None:
        if state in _TINTS:
            ink, alpha = _TINTS[state]
            tint = QColor(ink)
            tint.setAlpha(alpha)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(tint)
            painter.drawRoundedRect(box, 4, 4)

    @staticmethod
    def _put_margin(
        painter: QPainter, box: QRectF, block: Block, mark: Marked, checks: Sequence[tuple[int, Check]], geometry: BlockGeometry
    ) -> None:
        if checks:
            badge = QRectF(box.left() + 8, box.center().y() - _BADGE / 2, _BADGE + 6, _BADGE)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(PAPER["clay"]))
            painter.drawRoundedRect(badge, 4, 4)
            painter.setFont(font(SMALL, 700))
            painter.setPen(QColor(PAPER["tile"]))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(checks[0][0]))
        elif block.kind == "line" and block.line:
            put_text(painter, QRectF(box.left() + 2, box.top(), MARGIN - 12, box.height()), str(block.line), SMALL, 400,
                     QColor(PAPER["prints"]), end=True)  # fmt: skip
        room = box.width() - max((piece.x + piece.width for piece in geometry.pieces), default=0.0)
        if mark.why and not mark.rows and block.kind != "line" and not mark.is_prose and room > 230:
            right = QRectF(box.right() - 210, box.top() + 2, 210 - MARGIN, box.height() - 5)
            wide = advance(mark.why, SMALL, 400)
            fill(painter, right.adjusted(right.width() - wide - 8, 0, 0, 0), QColor(PAPER["paper"]))
            put_text(painter, right, mark.why, SMALL, 400, QColor(PAPER["prints"]), end=True)


def _spans_in(piece: Piece, mark: Marked, states: dict[int, State]) -> list[Span]:
    """Return the spans of a piece; a command that another system shares with this one is not the other's alone."""
    here = [span for span in mark.spans if span.cell == piece.cell and span.start < piece.end and piece.start < span.end]
    kept = [span for span in here if states[span.row] != "other"]
    return kept + [span for span in here if states[span.row] == "other"
                   and not any(span.start < one.end and one.start < span.end for one in kept)]  # fmt: skip
