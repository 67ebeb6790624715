"""The Gather room: sources, their rows against the folio, the commands, and all that is said of the one in front.

Here it is only put together: the desk has what is in front, verbs change the folio, views show.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from glimber.ui.gather.desk import GatherDesk
from glimber.ui.gather.verbs.base import act
from glimber.ui.gather.verbs.commands import CommandVerbs
from glimber.ui.gather.verbs.reading import ReadVerbs
from glimber.ui.gather.views.bench import BenchPane
from glimber.ui.gather.views.incoming import IncomingPane
from glimber.ui.gather.views.sources import SourcesPane
from glimber.ui.paint.plain_text import Label
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Asked, Host
from glimber.ui.session.lazy import Late
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.ui.gather.views.command import CommandPane

_FIRST = "O reads a file, Ctrl+V what was copied: a page, a table, a list, settings. Enter on a source shows its rows."
_NARROW = 1180
COMMAND_WIDTH = 336


class GatherRoom(Room):
    """Rows of one source at a time; until there is one, the commands."""

    id = "gather"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.desk = GatherDesk(session)
        self.title, self.note = Label("Take stock"), Label(_FIRST)
        self.file, self.paste = QPushButton("Read a file…"), QPushButton("Read what was copied")
        self.middle, self.right = QFrame(self), QFrame(self)
        self.sources, self.incoming = SourcesPane(self), IncomingPane(self.middle)
        self.bench = BenchPane(session, self.middle)
        self.command = Late(self._make_command)
        self.reading = ReadVerbs(self.desk, host, self.sources.current, self.incoming.program_id,
                                 lambda: self.incoming.column.currentText() or None)  # fmt: skip
        self.commands = CommandVerbs(self.desk, host, self.bench.chosen_program, self._on_row, self.mend)
        self._shown: object = None
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        self.title.setProperty("role", "title")
        self.note.setProperty("role", "quiet")
        self.note.setWordWrap(True)
        self.right.setFixedWidth(COMMAND_WIDTH)
        top, middle = QHBoxLayout(), QHBoxLayout()
        top.addWidget(self.title)
        top.addStretch(1)
        for widget in (self.file, self.paste):
            top.addWidget(widget)
        self.middle.setObjectName("panel")
        inside = QVBoxLayout(self.middle)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addWidget(self.incoming, 6)
        inside.addWidget(self.bench, 4)
        inner = QVBoxLayout(self.right)
        inner.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(14)
        middle.addWidget(self.sources)
        middle.addWidget(self.middle, 1)
        middle.addWidget(self.right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 20, 28, 16)
        layout.setSpacing(8)
        layout.addLayout(top)
        layout.addWidget(self.note)
        layout.addLayout(middle, 1)

    def _connect(self) -> None:
        desk, incoming = self.desk, self.incoming
        self.file.clicked.connect(self.reading.ask_file)
        self.paste.clicked.connect(self.reading.read_clipboard)
        desk.read.connect(self._show_reading)
        desk.progressed.connect(self.note.setText)
        desk.sources_changed.connect(self._show_sources)
        desk.front_changed.connect(self._show_command)
        self.sources.chosen.connect(desk.read_source)
        self.bench.chosen.connect(lambda ref: desk.bring(ref or None))
        incoming.front.connect(desk.bring)
        incoming.column_chosen.connect(desk.read_again)
        incoming.counted.connect(self._counted)
        incoming.take_wanted.connect(self.take_in)

    def _make_command(self) -> CommandPane:
        """All that is said of the command in front; its many fields are made after the first frame."""
        from glimber.ui.gather.views.command import CommandPane

        made = CommandPane(self.session)
        made.press, made.spell = self.commands.press_it, self.commands.spell_it
        inner = self.right.layout()
        assert inner is not None
        inner.addWidget(made)
        return made

    def complete(self) -> None:
        self.command().show_command(self.desk.front)
        self.desk.begin()

    # As a room

    def number(self) -> int | None:
        """New rows of the source that is read."""
        differences = self.incoming.rows.differences
        return sum(one.kind == "new" for one in differences) if self.desk.reading is not None else None

    def panes(self) -> list[QWidget]:
        incoming, bench = self.incoming, self.bench
        return [
            self.sources.list,
            self.file,
            incoming.table,
            incoming.list,
            bench.field,
            bench.list,
            self.command().name,
        ]

    def close_down(self) -> None:
        self.desk.end()

    def enter(self) -> None:
        if self.desk.reading is not None:
            self.incoming.table.setFocus()
        else:
            (self.bench.list if self.bench.stakes else self.file).setFocus()

    def actions_here(self) -> list[Action]:
        reading, resting = lambda: self.desk.reading is not None, lambda: self.desk.reading is None
        table = self.incoming.table
        return [
            *self.reading.actions(self.sources.list),
            act("take", "Take in what is ticked", "Enter", self.take_in, "take in", "Enter", reading, table),
            act("bring", "Show the rows of the source", "Enter", self.sources.bring_current, scope=self.sources.list),
            act("all", "Tick all or none", "a", self.incoming.tick_all, "tick all or none", "A", reading),
            act("sure", "Tick what leaves no doubt", "s", self.incoming.tick_sure, "tick what is sure", "S", reading),
            act("version", "It is the program's new version, or not", "n", self.incoming.merging.toggle, "a new version", "N",
                reading),
            act("away", "Put the source away", "Escape", self.put_away, "back to the commands", "Esc"),
            *self.commands.actions(),
            act("find", "Find a command by any of its names", "f", self.find_command, "find", "F", resting),
            act("every", "All commands, or only the bench", "b", self.bench.show_everything, "bench or all", "B", resting),
            act("edit", "Edit the command in front", "e", self.edit_front, "edit", "E", lambda: self.desk.front is not None),
        ]  # fmt: skip

    def choose(self, ref: str) -> None:
        """Bring a command to the front."""
        if self.desk.reading is not None:
            self.put_away()
        self.bench.bring(ref)
        self.bench.list.setFocus()

    def find_command(self) -> None:
        """Put the cursor where a command is looked for."""
        self.bench.field.setFocus()
        self.bench.field.selectAll()

    def edit_front(self) -> None:
        """Put the cursor into what is said of the command in front."""
        if self.command().isVisible():
            self.command().name.setFocus()

    def take_in(self) -> None:
        """Take what is ticked into the folio."""
        incoming = self.incoming
        name = incoming.program.currentText().strip()
        if not name and incoming.rows.chosen():
            self.host.choose("Which program are these of?", self._named, hint="Enter takes them in · Esc leaves")
            return
        same = [one for one in incoming.rows.differences if one.kind == "same"]
        own = incoming.incoming() if incoming.is_merging() else None
        self.reading.take_in(incoming.rows.chosen(), same, name, own)

    def _named(self, name: object) -> None:
        """The program they are of was asked; how they compare with one that is there already is shown first."""
        if str(name).strip():
            self.incoming.name_program(str(name).strip())
            if self.incoming.program_id() not in self.session.folio.programs:
                self.take_in()

    def _on_row(self) -> bool:
        return self.desk.reading is not None and self.incoming.current_name() is not None

    def mend(self, spelt: bool = False) -> None:
        """The keys of the row in front are asked: what stood there was not, or not rightly, understood."""
        name, folio = self.incoming.current_name(), self.session.folio
        if name is not None:
            self.host.ask_keys(Asked(folio, self.incoming.program_id(), name, lambda trigger: self.incoming.mend(name, trigger),
                                     computer=self.session.computer, boards=tuple(folio.layouts)), spelt)  # fmt: skip

    def put_away(self) -> None:
        """Leave the source, or stop reading it."""
        self.desk.put_away()
        self.enter()

    # What is shown

    def refresh(self) -> None:
        self.desk.refresh()
        self.incoming.show_folio(self.session.folio)
        self.bench.refresh()
        self._show_sources()
        self._fit()
        if self.command.made is not None:
            self.command.made.show_command(self.desk.front)

    def _show_reading(self) -> None:
        reading, first = self.desk.reading, self.incoming.reading is None
        if reading is None:
            self.incoming.put_away()
            self.note.setText(_FIRST)
            self.bench.refresh()
        else:
            source = (reading.name, reading.path, reading.source)
            program = self._program_of(reading.source)
            self.incoming.show_reading(reading, program, fresh=first or source != self._shown)
            self._shown = source
        self._fit()
        self._show_sources()
        if reading is not None and not self.sources.list.hasFocus() and (first or reading.source is None):
            self.incoming.table.setFocus()  # what had the focus made room for it
        self.host.show_numbers()

    def _program_of(self, source: str | None) -> str | None:
        state = self.desk.states.get(source or "")
        program = state.source.program if state is not None else None
        known = self.session.folio.programs.get(program or "")
        return known.name if known is not None else program

    def _show_sources(self) -> None:
        reading = self.desk.reading
        self.sources.show_states(self.desk.states, reading.source if reading is not None else None)
        self._fit()

    def _show_command(self) -> None:
        if self.command.made is not None:
            self.command.made.show_command(self.desk.front)

    def _counted(self, words: str) -> None:
        self.note.setText(words)
        self.host.show_numbers()

    def _fit(self) -> None:
        """In a small window what is said of a command makes room for the rows of a source."""
        reading = self.desk.reading is not None
        self.incoming.setVisible(reading)
        self.bench.setVisible(not reading)
        self.right.setVisible(not reading or self.width() >= _NARROW)
        self.sources.setVisible(bool(self.desk.states) and self.width() >= 900)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()
