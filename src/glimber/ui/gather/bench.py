"""The bench: commands without a binding, heaviest seconds a week first, so that what deserves a key comes first."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import (
    QLabel,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit import EditError, add_shortcut
from glimber.core.folio import Folio
from glimber.core.keys import Sequence
from glimber.core.stake import Stake, bench_by_stake
from glimber.store.faults import StoreError
from glimber.ui.look import BODY
from glimber.ui.session import Session
from glimber.ui.style import theme
from glimber.ui.type import put_text

_ROW = 34
_SECONDS, _STRIP, _HOW = 118, 150, 176

AskKeys = Callable[[str, str, Callable[[Sequence], None]], None]


def seconds_of(stake: Stake) -> str:
    """What the slow way takes in a week."""
    return "no slow way on record" if stake.week_s is None else f"{stake.week_s:.0f} s a week"


def how_of(stake: Stake) -> str:
    """How those seconds come about."""
    often = f"{stake.uses_week:g} uses a week" + (", guessed" if stake.guessed else "")
    return often if stake.slow_s is None else f"{stake.slow_s:.1f} s × {often}"


class BenchPane(QWidget):
    """The list, and the key that is pressed for the command in front of it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.ask_keys: AskKeys = lambda program, name, taken: None
        self.stakes: list[Stake] = []
        self.head, self.list = QLabel(), QListWidget()
        self.head.setProperty("role", "quiet")
        self.head.setWordWrap(True)
        self.list.setAccessibleName("On the bench")
        self.list.setItemDelegate(_Row(self))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.head)
        layout.addWidget(self.list, 1)

    def refresh(self) -> None:
        """The folio may be another; the command in front stays there as long as it waits."""
        folio, before = self.session.folio, self.list.currentRow()
        front = self.stakes[before].command.ref if 0 <= before < len(self.stakes) else None
        self.stakes = bench_by_stake(folio)
        self.list.clear()
        for stake in self.stakes:
            words = (stake.command.name, folio.programs[stake.command.program].name, seconds_of(stake), how_of(stake))
            item = QListWidgetItem(" · ".join(words))
            item.setToolTip(" → ".join(stake.command.slow_way))
            self.list.addItem(item)
        refs = [stake.command.ref for stake in self.stakes]
        # Where the one in front has got its key, the next one comes forward.
        self.list.setCurrentRow(refs.index(front) if front in refs else min(max(before, 0), len(refs) - 1))
        self.list.setVisible(bool(refs))
        self.head.setText(_head(folio, self.stakes))

    def press_it(self) -> None:
        """The command in front gets the keys that are pressed."""
        row = self.list.currentRow()
        if not 0 <= row < len(self.stakes):
            self.session.told.emit("The bench is empty: no command waits for a key.")
            return
        command = self.stakes[row].command

        def taken(trigger: Sequence) -> None:
            try:
                self.session.edit(
                    f"give {command.name} {trigger}", lambda folio: add_shortcut(folio, command.ref, trigger)
                )
            except (EditError, StoreError) as error:
                self.session.told.emit(str(error))
                return
            self.session.told.emit(f"{command.name} is {trigger} now. Ctrl+Z takes it back.")

        self.ask_keys(command.program, command.name, taken)


def _head(folio: Folio, stakes: list[Stake]) -> str:
    if not folio.commands:
        return "No commands yet: read a list of them, or write a file in programs/."
    if not stakes:
        return "The bench is empty: every command has a binding."
    waits = "1 command waits" if len(stakes) == 1 else f"{len(stakes)} commands wait"
    whole = sum(stake.week_s or 0.0 for stake in stakes)
    takes = f"; going the slow way takes {whole / 60:.0f} min a week" if whole >= 60 else ""
    return f"On the bench: {waits} for a binding{takes}"


class _Row(QStyledItemDelegate):
    """Name and program; a strip as long as the seconds, against the heaviest; the seconds and how they come about."""

    def __init__(self, pane: BenchPane) -> None:
        super().__init__(pane)
        self._pane = pane

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(200, _ROW)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        t, stake, box = theme(), self._pane.stakes[index.row()], QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if index.row() == self._pane.list.currentRow():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.raised))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)
        right = box.right() - 12
        # The parts that explain go first where the window is small.
        how = _HOW if box.width() > 620 else 0
        if how:
            put_text(
                painter, QRectF(right - how, box.top(), how, _ROW), how_of(stake), 11, 400, QColor(t.faint), end=True
            )
        seconds = _SECONDS if stake.week_s is not None or how else _HOW
        left = right - how - 12 - seconds
        put_text(
            painter, QRectF(left, box.top(), seconds, _ROW), seconds_of(stake), BODY, 400, QColor(t.quiet), end=True
        )
        heaviest = self._pane.stakes[0].week_s
        if stake.week_s and heaviest and box.width() > 460:
            x, y = left - 12 - _STRIP, box.center().y()
            painter.setPen(QPen(QColor(t.quiet), 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(x, y), QPointF(x + max(2.0, _STRIP * stake.week_s / heaviest), y))
        end = left - 24 - (_STRIP if box.width() > 460 else 0)
        name = QRectF(box.left() + 12, box.top(), max(40.0, end - box.left() - 12), _ROW)
        used = put_text(painter, name, stake.command.name, BODY, 500, QColor(t.text))
        program = self._pane.session.folio.programs[stake.command.program].name
        if name.width() - used > 60:
            put_text(painter, name.adjusted(used + 12, 0, 0, 0), program, 12, 400, QColor(t.faint))
        painter.restore()
