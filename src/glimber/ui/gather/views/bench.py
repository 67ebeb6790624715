"""The commands of the folio by program and group, or those that wait on the bench, heaviest seconds a week first; found by any
name, and worked through in place."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from glimber.core.edit.command_cells import CELL
from glimber.core.edit.commands import add_command
from glimber.core.edit.edit import EditError
from glimber.core.model.describe import place_words
from glimber.core.model.folio import EVERYWHERE, Command, Folio
from glimber.core.model.open_sets import slow_way_steps
from glimber.core.notation.ranking import best_first
from glimber.core.practice.tally import Measured, Tally
from glimber.core.stats.usage import Stake, stakes_of
from glimber.store.faults import StoreError
from glimber.ui.gather.views.command_list import CommandList, ListHead, how_of, seconds_of
from glimber.ui.gather.views.free_strip import FreeStrip
from glimber.ui.paint.plain_text import Label, tip
from glimber.ui.session.session import Session
from glimber.ui.widgets.chips import words_of
from glimber.ui.widgets.field import Field
from glimber.ui.widgets.text_list import TextRow

EVERY_PROGRAM = "All programs"


def other_words(command: Command) -> str:
    """Return what else a command is found by: its label, other words and former names."""
    return " ".join((command.label or "", *command.words, *command.was))


class _Field(Field):
    """Down goes to the list; Escape clears, then leaves."""

    def __init__(self, list_: CommandList) -> None:
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
        self.everything = True
        self._front: str | None = None
        self.head, self.list = Label(), CommandList()
        self.cells, self.free = ListHead(self.list), FreeStrip(session)
        self.head.setProperty("role", "quiet")
        self.head.setWordWrap(True)
        self.list.setAccessibleName("Commands")
        self.list.written.connect(self._write)
        self.list.moved.connect(self._row_changed)
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
        layout.addWidget(self.cells)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.free)
        layout.addStretch(0)  # where there is no list, the message stays at the top

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
        if not text and self.everything:
            shown = _by_group(folio, shown)
        self.stakes = stakes_of(folio, shown, not (self.everything or text), *self._counted(folio))
        self.list.folio, self.list.stakes = folio, self.stakes
        self.list.heads = _heads(folio, self.stakes) if self.everything and not text else {}
        self.list.blockSignals(True)
        self.list.show_rows([self._row(folio, stake) for stake in self.stakes])
        refs = [stake.command.ref for stake in self.stakes]
        # Where the one in front has got its key, the next one comes forward; while something is typed, the best fit is in front.
        row = refs.index(self._front) if self._front in refs else min(max(before, 0), len(refs) - 1)
        row = 0 if text and refs and typed else row
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self.list.setVisible(bool(refs))
        self.cells.setVisible(bool(refs))
        self.head.setText(self._head(folio, len(waiting), text))
        self._row_changed(row)

    def _counted(self, folio: Folio) -> tuple[Tally | None, dict[str, Measured]]:
        """Return what was counted at work, and the uses of commands without a key that were chosen in menus."""
        ledger = self.session.ledger
        if ledger is None or not ledger.practice.tally.menus:
            return None, {}
        from glimber.core.practice.tally import measured

        return ledger.practice.tally, measured(folio, ledger.practice.tally, ())

    def _show_programs(self, folio: Folio) -> None:
        names = [EVERY_PROGRAM, *(program.name for program in folio.programs.values())]
        if [self.program.itemText(row) for row in range(self.program.count())] != names:
            here = self.program.currentText()
            self.program.clear()
            self.program.addItems(names)
            self.program.setCurrentText(here if here in names else EVERY_PROGRAM)

    def chosen_program(self) -> str | None:
        """Return the id of the program whose commands are shown; None for all."""
        name = self.program.currentText()
        return next((id for id, program in self.session.folio.programs.items() if program.name == name), None)

    def _row(self, folio: Folio, stake: Stake) -> TextRow:
        keys = [place_words(folio, binding.trigger) for binding in folio.bindings_of.get(stake.command.ref, ())]
        details = [words_of(one) for one in keys] or [seconds_of(stake), how_of(stake)]
        text = " · ".join((stake.command.name, folio.programs[stake.command.program].name, *details))
        return TextRow(text, tuple(keys), tip(" → ".join(slow_way_steps(folio, stake.command))))

    def _row_changed(self, row: int) -> None:
        ref = self.stakes[row].command.ref if 0 <= row < len(self.stakes) else None
        self._front = ref or self._front
        self.free.show_for(ref)
        self.chosen.emit(ref or "")

    def front(self) -> Command | None:
        """Return the command in front."""
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
        """Return the program that a new command goes to: the one shown, or the largest that is not the desktop."""
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
            self.session.notified.emit(
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
            self.session.notified.emit(str(error))
            return
        self.session.notified.emit(f"{name} waits on the bench of {self.session.folio.programs[program].name}.")
        self.bring(made[-1])

    def _head(self, folio: Folio, waiting: int, text: str) -> str:
        if not folio.commands:
            return "Nothing here yet. Copy a list of shortcuts anywhere, then Ctrl+V reads it."
        if text and not self.stakes:
            return f"No command is called {text}. Enter adds it to {folio.programs[self._adds_to() or ''].name}."
        if text:
            return "1 command" if len(self.stakes) == 1 else f"{len(self.stakes)} commands"
        lacking = self._lacking(folio)
        if self.everything:
            return f"{len(self.stakes)} commands, {waiting} of them without a key. B shows only those.{lacking}"
        if not self.stakes:
            return f"The bench is empty: every command has a key. B shows all.{lacking}"
        waits = "1 command waits" if len(self.stakes) == 1 else f"{len(self.stakes)} commands wait"
        whole = sum(stake.week_s or 0.0 for stake in self.stakes)
        takes = f"; going the slow way takes {whole / 60:.0f} min a week" if whole >= 60 else ""
        return f"On the bench: {waits} for a binding{takes}.{lacking}"

    def _lacking(self, folio: Folio) -> str:
        """Return the names of menu entries that were chosen and that the folio does not have."""
        ledger = self.session.ledger
        if ledger is None or not ledger.practice.tally.others:
            return ""
        from glimber.core.practice.tally import unknown_entries

        count = sum(map(len, unknown_entries(folio, ledger.practice.tally).values()))
        chosen = "1 entry you chose in menus is" if count == 1 else f"{count} entries you chose in menus are"
        return f" {chosen} not in the folio: P shows what." if count else ""

    def _write(self, refs: list[str], cell: str, text: str) -> None:
        """Write a text into a cell of commands, in one edit."""
        folio = self.session.folio
        what = folio.commands[refs[0]].name if len(refs) == 1 else f"{len(refs)} commands"
        try:
            self.session.edit(f"change {CELL[cell].head.lower()} of {what}", lambda now: CELL[cell].write(now, refs, text))
        except (EditError, StoreError) as error:
            self.session.notified.emit(str(error))


def _by_group(folio: Folio, commands: list[Command]) -> list[Command]:
    """Return the commands by program and group, in the order the folio has them; those of no group and the desktop's last."""
    programs = {id: (id == EVERYWHERE, place) for place, id in enumerate(folio.programs)}
    groups = {(id, group): place for id, program in folio.programs.items() for place, group in enumerate(program.groups)}
    return sorted(commands, key=lambda one: (programs[one.program], groups.get((one.program, one.group or ""), len(groups))))


def _heads(folio: Folio, stakes: list[Stake]) -> dict[int, tuple[str, str, str]]:
    """Name, ink and mark of the groups, at the first row of each."""
    found: dict[int, tuple[str, str, str]] = {}
    before: tuple[str, str | None] | None = None
    several = len({stake.command.program for stake in stakes}) > 1
    for row, stake in enumerate(stakes):
        here = (stake.command.program, stake.command.group)
        if here != before:
            group, program = folio.group_of(stake.command), folio.programs[stake.command.program].name
            name = group.name if group is not None else "No group"
            found[row] = (f"{program} · {name}" if several else name, group.ink if group else "", group.mark if group else "")
            before = here
    return found
