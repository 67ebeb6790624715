"""The panes beside the board: the bench, heaviest first, and the findings, each with its number and its cure."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPoint, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QBoxLayout,
    QFrame,
    QListWidget,
    QListWidgetItem,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.audit.finding import Finding
from glimber.core.model.chord_boards import chord_layer
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, Spot, parse_trigger
from glimber.ui.arrange.place import Place
from glimber.ui.paint.fonts import font, put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import theme
from glimber.ui.widgets.rows import Index, PaintedRow

if TYPE_CHECKING:
    from glimber.core.stats.usage import Stake

WIDTH = 246
KeysOf = Callable[[Finding], tuple[str, ...] | None]


class _Bench(QListWidget):
    """``dropped`` tells which row was dragged and where on the screen it was let go."""

    dropped = Signal(int, QPoint)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if not self.rect().contains(event.position().toPoint()):
            self.dropped.emit(self._pressed, event.globalPosition().toPoint())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        self._pressed = self.indexAt(event.position().toPoint()).row()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.rect().contains(event.position().toPoint()):
            super().mouseMoveEvent(event)  # a row that is carried out of the list is not another row chosen


class SidePane(QWidget):
    """Two lists, beside or above each other. ``finding_chosen`` carries the finding that comes to the front."""

    finding_chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.stakes: list[Stake] = []
        self.findings: list[Finding] = []
        self.here: set[int] = set()
        self._flags: dict[str, int] = {}
        self._folio: Folio | None = None
        self.bench, self.list = _Bench(), QListWidget()
        self.bench_head, self.list_head = Label("Bench"), Label("Findings")
        self.bench.setAccessibleName("Bench")
        self.list.setAccessibleName("Findings")
        self.bench.setItemDelegate(_BenchRow(self))
        self.list.setItemDelegate(_FindingRow(self.list, (120, 42)))
        layout = self._box = QBoxLayout(QBoxLayout.Direction.TopToBottom, self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(10)
        for head, list_, stretch in ((self.list_head, self.list, 6), (self.bench_head, self.bench, 5)):
            head.setProperty("role", "quiet")
            list_.setResizeMode(QListWidget.ResizeMode.Adjust)
            list_.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            panel = QFrame(self)
            panel.setObjectName("panel")
            inside = QVBoxLayout(panel)
            inside.setContentsMargins(12, 10, 8, 8)
            inside.addWidget(head)
            inside.addWidget(list_, 1)
            layout.addWidget(panel, stretch)
        self.list.currentRowChanged.connect(self._row_chosen)

    def lie(self, across: bool) -> None:
        """The lists beside each other, or one above the other."""
        self._box.setDirection(QBoxLayout.Direction.LeftToRight if across else QBoxLayout.Direction.TopToBottom)

    def _row_chosen(self, row: int) -> None:
        if 0 <= row < len(self.findings):
            self.finding_chosen.emit(self.findings[row])

    def finding_in_front(self) -> Finding | None:
        """Return the finding under the cursor."""
        row = self.list.currentRow()
        return self.findings[row] if 0 <= row < len(self.findings) else None

    def command_at(self, row: int) -> str | None:
        """Return the command in a row of the bench."""
        return self.stakes[row].command.ref if 0 <= row < len(self.stakes) else None

    def command_in_front(self) -> str | None:
        """Return the command under the cursor of the bench; the heaviest where there is no cursor."""
        return self.command_at(max(0, self.bench.currentRow()))

    def show_bench(self, folio: Folio) -> None:
        """Commands that wait for a binding."""
        from glimber.core.stats.usage import bench_by_stake

        self._folio = folio
        row, stakes = self.bench.currentRow(), bench_by_stake(folio)
        self.bench_head.setText(f"Bench: {len(stakes)}" if stakes else "The bench is empty")
        if stakes == self.stakes and self.bench.count() == len(stakes):
            return
        self.stakes = stakes
        self.bench.clear()
        for stake in self.stakes:
            self.bench.addItem(QListWidgetItem(f"{stake.command.name} · {folio.programs[stake.command.program].name}"))
        self.bench.setCurrentRow(max(0, min(row, len(self.stakes) - 1)) if self.stakes else -1)

    def program_of(self, row: int) -> str:
        assert self._folio is not None
        return self._folio.programs[self.stakes[row].command.program].name

    def show_findings(self, findings: list[Finding], keys_of: KeysOf) -> None:
        """Those of the layer in front first, numbered as the flags on its keys are. ``keys_of``: the keys of that layer that a
        finding is about; None for one about something else."""
        found = [(one, keys_of(one)) for one in findings]
        mine, rest = [one for one, keys in found if keys is not None], [one for one, keys in found if keys is None]
        self._flags = {}
        for number, one in enumerate(mine, start=1):
            for key in keys_of(one) or ():
                self._flags.setdefault(key, number)
        row = self.list.currentRow()
        front = self.findings[row] if 0 <= row < len(self.findings) else None
        ordered, here = [*mine, *rest], set(range(len(mine)))
        counted = f"Findings: {len(ordered)}, {len(mine)} on this layer" if ordered else "The audit found nothing"
        self.list_head.setText(counted)
        if (ordered, here) == (self.findings, self.here) and self.list.count() == len(ordered):
            return
        self.findings, self.here = ordered, here
        self.list.blockSignals(True)
        self.list.clear()
        for number, one in enumerate(self.findings, start=1):
            cure = f"\nEnter: {one.cure.words}" if one.cure else ""
            item = QListWidgetItem(f"{number}  {one.text}{cure}")
            item.setData(Qt.ItemDataRole.UserRole, (number, one.severity, number <= len(mine)))
            item.setToolTip(tip(f"{one.severity}: {one.code}, {one.where}"))
            self.list.addItem(item)
        kept = self.list.hasFocus() and front in self.findings
        row = self.findings.index(front) if kept and front is not None else 0
        self.list.setCurrentRow(row if self.findings else -1)
        self.list.blockSignals(False)

    def flags(self) -> dict[str, int]:
        """Return the number of the first finding on each key of the layer in front."""
        return self._flags


def spot_of(finding: Finding) -> Spot | None:
    """The spot a finding is about; None for one about something else."""
    try:
        found = parse_trigger(finding.where)
    except NotationError:
        return None
    return found if isinstance(found, Spot) else None


def flagged_keys(folio: Folio, place: Place | None, finding: Finding) -> tuple[str, ...] | None:
    """Return the keys of the layer in front that a finding is about; empty for the layer itself, None for something else."""
    if place is None:
        return None
    chords = chord_layer(folio, place.board, place.layer)
    if chords is not None:
        codes = tuple(code for code, many in chords.bindings.items() if any(b.id in finding.bindings for b in many))
        return codes or None
    layer = f"{place.board}:{place.layer}"
    if finding.where != layer and not finding.where.startswith(f"{layer}:"):
        return None
    spot = spot_of(finding)
    return spot.keys if spot is not None else ()


class _FindingRow(PaintedRow):
    """Its number as on the board, its sentence, and its cure; those of other layers are quieter."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        # With room for the bar even where there is none yet: it comes when the rows have been laid, and they stay where they are.
        bar = self._view.verticalScrollBar().sizeHint().width()
        width = self._view.maximumViewportSize().width() - bar - 38
        metrics = QFontMetrics(font(BODY))
        box = metrics.boundingRect(QRect(0, 0, width, 2000), Qt.TextFlag.TextWordWrap, _sentence(index))
        return QSize(width, box.height() + 14)

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        t = theme()
        number, severity, here = index.data(Qt.ItemDataRole.UserRole)
        ink = t.slip if severity == "error" or here else t.faint
        put_text(painter, QRectF(box.left() + 8, box.top() + 5, 20, 20), str(number), BODY, 700, QColor(ink))
        painter.setFont(font(BODY))
        painter.setPen(QColor(t.text if here else t.quiet))
        painter.drawText(box.adjusted(28, 6, -8, 0), Qt.TextFlag.TextWordWrap, _sentence(index))


def _sentence(index: QModelIndex | QPersistentModelIndex) -> str:
    return str(index.data(Qt.ItemDataRole.DisplayRole)).partition("  ")[2]


class _BenchRow(PaintedRow):
    """The command's name, its program, and the seconds a week that its slow way takes."""

    def __init__(self, pane: SidePane) -> None:
        super().__init__(pane.bench, (120, 42))
        self._pane = pane

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        t, row = theme(), index.row()
        stake = self._pane.stakes[row]
        upper = QRectF(box.left() + 8, box.top() + 3, box.width() - 18, 20)
        seconds = "" if stake.week_s is None else f"{stake.week_s:.0f} s"
        wide = put_text(painter, upper, seconds, BODY, 400, QColor(t.quiet), end=True)
        put_text(painter, upper.adjusted(0, 0, -wide - 8, 0), stake.command.name, BODY, 500, QColor(t.text))
        lower = upper.translated(0, 17)
        put_text(painter, lower, self._pane.program_of(row), SMALL, 400, QColor(t.faint))
