"""The commands of the folio: those that wait on the bench, heaviest seconds a week first, or all of them; found by any name."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit.commands import add_command
from glimber.core.edit.edit import EditError
from glimber.core.model.describe import place_words
from glimber.core.model.folio import EVERYWHERE, Command, Folio
from glimber.core.notation.ranking import best_first
from glimber.core.stats.usage import Stake, stakes_of
from glimber.store.faults import StoreError
from glimber.ui.paint.fonts import put_text
from glimber.ui.paint.look import BODY, SMALL
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.paint.style import theme
from glimber.ui.session.session import Session
from glimber.ui.widgets.chips import chips_width, put_chips, words_of
from glimber.ui.widgets.field import Field
from glimber.ui.widgets.rows import Index, PaintedRow

_ROW = 34
_SECONDS, _STRIP, _HOW = 118, 150, 176
EVERY_PROGRAM = "All programs"


def seconds_of(stake: Stake) -> str:
    """Return what the slow way takes in a week."""
    return "no slow way on record" if stake.week_s is None else f"{stake.week_s:.0f} s a week"


def how_of(stake: Stake) -> str:
    """Return how those seconds come about."""
    often = f"{stake.uses_week:g} uses a week" + (", guessed" if stake.guessed else "")
    return often if stake.slow_s is None else f"{stake.slow_s:.1f} s × {often}"


def other_words(command: Command) -> str:
    """Return what else a command is found by: its label, other words and former names."""
    return " ".join((command.label or "", *command.words, *command.was))


class _Field(Field):
    """Down goes to the list; Escape clears, then leaves."""

    def __init__(self, list_: QListWidget) -> None:
        super().__init__()
        self._list = list_

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Down or (event.key() == Qt.Key.Key_Escape and not self.text()):
            self._list.setFocus()
        elif event.key() == Qt.Key.Key_Escape:
            self.clear()
        else:
            super().keyPressEvent(event)


class BenchPane(QWidget):
    """The list with its field. ``chosen`` names the command in front, or nothing."""

    chosen = Signal(str)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.stakes: list[Stake] = []
        self.everything = False
        self._front: str | None = None
        self.head, self.list = Label(), QListWidget()
        self.head.setProperty("role", "quiet")
        self.head.setWordWrap(True)
        self.list.setAccessibleName("On the bench")
        self.list.setItemDelegate(_Row(self))
        self.list.currentRowChanged.connect(self._row_changed)
        self.field, self.program = _Field(self.list), QComboBox()
        self.field.setPlaceholderText("Find by any name, former name or other word (F)")
        self.field.setAccessibleName("Find a command")
        self.field.textEdited.connect(lambda _: self.refresh(typed=True))
        self.field.returnPressed.connect(self._entered)
        self.program.setAccessibleName("Commands of which program")
        self.program.activated.connect(lambda _: self.refresh())
        layout, top = QVBoxLayout(self), QHBoxLayout()
        layout.setContentsMargins(0, 0, 0, 0)
        top.addWidget(self.field, 1)
        top.addWidget(self.program)
        layout.addLayout(top)
        layout.addWidget(self.head)
        layout.addWidget(self.list, 1)
        layout.addStretch(0)  # where there is no list, what is said stays at the top

    def refresh(self, typed: bool = False) -> None:
        """The folio may be another; the command in front stays there as long as it is shown, unless something was ``typed``."""
        folio, before = self.session.folio, self.list.currentRow()
        self._show_programs(folio)
        waiting = {command.ref for command in folio.bench()}
        here = self.chosen_program()
        text = self.field.text().strip()
        shown = [
            command
            for command in folio.commands.values()
            if (text or self.everything or command.ref in waiting)
            and here in (None, command.program)
        ]
        if text:
            shown = best_first(text, shown, lambda one: one.name, other_words, lambda one: one.uses_per_day or 0.0)
        self.stakes = stakes_of(folio, shown, sort=not (self.everything or text))
        self.list.blockSignals(True)
        self.list.clear()
        for stake in self.stakes:
            self.list.addItem(self._item(folio, stake))
        refs = [stake.command.ref for stake in self.stakes]
        # Where the one in front has got its key, the next one comes forward; while something is typed, the best fit is in front.
        row = refs.index(self._front) if self._front in refs else min(max(before, 0), len(refs) - 1)
        row = 0 if text and refs and typed else row
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self.list.setVisible(bool(refs))
        self.head.setText(self._head(folio, len(waiting), text))
        self._row_changed(row)

    def _show_programs(self, folio: Folio) -> None:
        names = [EVERY_PROGRAM, *(program.name for program in folio.programs.values())]
        if [self.program.itemText(row) for row in range(self.program.count())] != names:
            here = self.program.currentText()
            self.program.clear()
            self.program.addItems(names)
            self.program.setCurrentText(here if here in names else EVERY_PROGRAM)

    def chosen_program(self) -> str | None:
        """The id of the program whose commands are shown; None for all."""
        name = self.program.currentText()
        return next((id for id, program in self.session.folio.programs.items() if program.name == name), None)

    def _item(self, folio: Folio, stake: Stake) -> QListWidgetItem:
        keys = [place_words(folio, binding.trigger) for binding in folio.bindings_of.get(stake.command.ref, ())]
        told = [words_of(one) for one in keys] or [seconds_of(stake), how_of(stake)]
        item = QListWidgetItem(" · ".join((stake.command.name, folio.programs[stake.command.program].name, *told)))
        item.setData(Qt.ItemDataRole.UserRole, keys)
        item.setToolTip(tip(" → ".join(stake.command.slow_way)))
        return item

    def _row_changed(self, row: int) -> None:
        ref = self.stakes[row].command.ref if 0 <= row < len(self.stakes) else None
        self._front = ref or self._front
        self.chosen.emit(ref or "")

    def front(self) -> Command | None:
        """The command in front."""
        row = self.list.currentRow()
        return self.session.folio.commands.get(self.stakes[row].command.ref) if 0 <= row < len(self.stakes) else None

    def bring(self, ref: str) -> None:
        """Bring a command to the front, whether or not it waits."""
        self.field.clear()
        self._front = ref
        self.everything = self.everything or ref not in {command.ref for command in self.session.folio.bench()}
        if self.chosen_program() not in (None, ref.partition("/")[0]):
            self.program.setCurrentText(EVERY_PROGRAM)
        self.refresh()

    def show_everything(self) -> None:
        """All commands, or only those that wait."""
        self.everything = not self.everything
        self.refresh()

    def _adds_to(self) -> str | None:
        """The program that a new command goes to: the one shown, or the largest that is not the desktop."""
        known = self.session.folio.programs
        programs = sorted(known, key=lambda id: -len(known[id].commands))
        return self.chosen_program() or next(
            (id for id in programs if id != EVERYWHERE), programs[0] if programs else None
        )

    def _entered(self) -> None:
        """Enter in the field goes to what was found; a name that nothing has becomes a new command."""
        name, program = self.field.text().strip(), self._adds_to()
        if self.stakes or not name:
            self.list.setFocus()
            return
        if program is None:
            self.session.told.emit(
                "There is no program yet to add a command to: write a file in programs/, or read a list."
            )
            return
        made: list[str] = []

        def change(folio: Folio) -> Folio:
            after, ref = add_command(folio, program, name)
            made.append(ref)
            return after

        try:
            self.session.edit(f"add {name}", change)
        except (EditError, StoreError) as error:
            self.session.told.emit(str(error))
            return
        self.session.told.emit(f"{name} waits on the bench of {self.session.folio.programs[program].name}.")
        self.bring(made[-1])

    def _head(self, folio: Folio, waiting: int, text: str) -> str:
        if not folio.commands:
            return "Nothing here yet. Copy a list of shortcuts anywhere, then Ctrl+V reads it."
        if text and not self.stakes:
            return f"No command is called {text}. Enter adds it to {folio.programs[self._adds_to() or ''].name}."
        if text:
            return "1 command" if len(self.stakes) == 1 else f"{len(self.stakes)} commands"
        if self.everything:
            return f"All {len(self.stakes)} commands, {waiting} of them on the bench. B shows only those."
        if not self.stakes:
            return "The bench is empty: every command has a binding. B shows all."
        waits = "1 command waits" if len(self.stakes) == 1 else f"{len(self.stakes)} commands wait"
        whole = sum(stake.week_s or 0.0 for stake in self.stakes)
        takes = f"; going the slow way takes {whole / 60:.0f} min a week" if whole >= 60 else ""
        return f"On the bench: {waits} for a binding{takes}"


class _Row(PaintedRow):
    """Name and program; the keys as chips, or for one that waits a strip as long as its seconds, and how they come about."""

    def __init__(self, pane: BenchPane) -> None:
        super().__init__(pane.list, (200, _ROW))
        self._pane = pane

    def put(self, painter: QPainter, box: QRectF, index: Index) -> None:
        t, stake = theme(), self._pane.stakes[index.row()]
        keys = index.data(Qt.ItemDataRole.UserRole)
        end = self._put_keys(painter, box, keys) if keys else self._put_seconds(painter, box, stake)
        name = QRectF(box.left() + 12, box.top(), max(40.0, end - box.left() - 24), _ROW)
        used = put_text(painter, name, stake.command.name, BODY, 500, QColor(t.text))
        program = self._pane.session.folio.programs[stake.command.program].name
        if name.width() - used > 60:
            put_text(painter, name.adjusted(used + 12, 0, 0, 0), program, 12, 400, QColor(t.faint))

    def _put_keys(self, painter: QPainter, box: QRectF, keys: list[str]) -> float:
        """The chips at the right end; where they begin."""
        wide = min(chips_width(keys, SMALL), box.width() * 0.6)
        put_chips(painter, QRectF(box.right() - 12 - wide, box.top(), wide, box.height()), keys, SMALL)
        return box.right() - 12 - wide

    def _put_seconds(self, painter: QPainter, box: QRectF, stake: Stake) -> float:
        t = theme()
        right = box.right() - 12
        # The parts that explain go first where the window is small.
        how = _HOW if box.width() > 620 else 0
        if how:
            put_text(
                painter, QRectF(right - how, box.top(), how, _ROW), how_of(stake), 11, 400, QColor(t.faint), end=True
            )
        seconds = _SECONDS if stake.week_s is not None or how else _HOW
        left = right - how - (12 if how else 0) - seconds
        put_text(
            painter, QRectF(left, box.top(), seconds, _ROW), seconds_of(stake), BODY, 400, QColor(t.quiet), end=True
        )
        strip = _STRIP if box.width() > 520 else 70 if box.width() > 420 else 0
        heaviest = max((one.week_s or 0.0 for one in self._pane.stakes), default=0.0)
        if stake.week_s and heaviest and strip:
            x, y = left - 12 - strip, box.center().y()
            painter.setPen(QPen(QColor(t.quiet), 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(x, y), QPointF(x + max(2.0, strip * stake.week_s / heaviest), y))
        return left - 12 - strip
