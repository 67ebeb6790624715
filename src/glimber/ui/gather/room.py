"""The Gather room: sources, their rows against the folio, the commands, and the form of the selected one.

Here it is only put together: the desk has what is in front, verbs change the folio, views show.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from glimber.core.notation.keys import Trigger
from glimber.ui.gather.desk import GatherDesk
from glimber.ui.gather.importing import Importing
from glimber.ui.gather.verbs.base import act
from glimber.ui.gather.verbs.commands import CommandVerbs
from glimber.ui.gather.verbs.paging import page_actions
from glimber.ui.gather.verbs.reading import ReadVerbs
from glimber.ui.gather.views.bench import BenchPane
from glimber.ui.gather.views.choices import ChoicesBar
from glimber.ui.gather.views.incoming import IncomingPane
from glimber.ui.gather.views.sources import SourcesPane
from glimber.ui.paint.plain_text import Label
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Asked, Host
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.ui.gather.views.command import CommandPane
    from glimber.ui.gather.views.desk_page import DeskPage

_FIRST = "O reads a file, Ctrl+V what was copied: a page, a table, a list, settings. Enter on a source shows its rows."
_NARROW, _WIDE = 1180, 1560
COMMAND_WIDTH = 336


class GatherRoom(Room):
    """One source at a time, as its page or as a table; until there is one, the commands."""

    id = "gather"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.desk = GatherDesk(session)
        self.title, self.note = Label("Take stock"), Label(_FIRST)
        self.file, self.paste = QPushButton("Read a file…"), QPushButton("Read what was copied")
        self.area, self.right = QWidget(self), QFrame(self)
        self.middle, self.paper = QFrame(self.area), QWidget(self.area)
        self.importing = Importing(self)
        self.choices = ChoicesBar(self.importing)
        self.sources, self.incoming = SourcesPane(self), IncomingPane(self.importing, self.middle)
        self.import_button = QPushButton("Import")
        self.bench = BenchPane(session, self.middle)
        self.command, self.page = Lazy(self._make_command), Lazy(self._make_page)
        self.as_table, self.form_open = False, False
        self.reading = ReadVerbs(self.desk, host, self.sources.current, self.importing.program_id,
                                 lambda: self.choices.column.currentText() or None)  # fmt: skip
        self.commands = CommandVerbs(self.desk, host, self.bench.chosen_program, self.bench.list.refs, self._on_row,
                                     self.mend)  # fmt: skip
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
        top.setSpacing(14)
        top.addWidget(self.title)
        for widget in (self.file, self.paste):
            top.addWidget(widget)
        top.insertWidget(1, self.note, 1)
        self.middle.setObjectName("panel")
        self.import_button.setProperty("role", "chosen")
        self._bar = QHBoxLayout()
        self._bar.addWidget(self.choices, 1)
        self._bar.addWidget(self.import_button)
        inside = QVBoxLayout(self.middle)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addLayout(self._bar)
        inside.addWidget(self.incoming, 6)
        inside.addWidget(self.bench, 4)
        inner = QVBoxLayout(self.right)
        inner.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(14)
        paper = QVBoxLayout(self.paper)
        paper.setContentsMargins(0, 0, 0, 0)
        area = QHBoxLayout(self.area)
        area.setContentsMargins(0, 0, 0, 0)
        area.addWidget(self.middle, 1)
        area.addWidget(self.paper, 1)
        middle.addWidget(self.sources)
        middle.addWidget(self.area, 1)
        middle.addWidget(self.right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 20, 28, 16)
        layout.setSpacing(8)
        layout.addLayout(top)
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
        self.bench.free.chosen.connect(self.commands.give)
        self.bench.chosen.connect(lambda ref: desk.bring(ref or None))
        incoming.front.connect(self._bring_of_table)
        self.choices.column_chosen.connect(desk.read_again)
        self.importing.changed.connect(self._counted)
        self.import_button.clicked.connect(self.import_ticked)

    def _make_command(self) -> CommandPane:
        """Return the form of the selected command; its many fields are made after the first frame."""
        from glimber.ui.gather.views.command import CommandPane

        made = CommandPane(self.session)
        made.press, made.spell = self.commands.press_it, self.commands.spell_it
        made.left.connect(self.close_form)
        inner = self.right.layout()
        assert inner is not None
        inner.addWidget(made)
        return made

    def _bring_of_table(self, ref: str | None) -> None:
        if self.page_in_front() is None:
            self.desk.bring(ref)

    def _make_page(self) -> DeskPage:
        """Return the page on the desk; it is made for the first source that is read."""
        from glimber.ui.gather.views.desk_page import DeskPage

        made = DeskPage(self.importing, self.host, self.mend, self.paper)
        made.front.connect(self.desk.bring)
        made.check.import_button.clicked.connect(self.import_ticked)
        inner = self.paper.layout()
        assert inner is not None
        inner.addWidget(made)
        return made

    def page_in_front(self) -> DeskPage | None:
        """Return the page, where a source is shown as one."""
        shown = self.desk.reading is not None and not self.as_table and bool(self.desk.reading.found.page)
        return self.page() if shown else None

    def complete(self) -> None:
        self.command().show_command(self.desk.front)
        self.desk.begin()

    # As a room

    def number(self) -> int | None:
        """New rows of the source that is read."""
        differences = self.importing.rows.differences
        return sum(one.kind == "new" for one in differences) if self.desk.reading is not None else None

    def panes(self) -> list[QWidget]:
        incoming, bench = self.incoming, self.bench
        return [
            self.sources.list,
            self.file,
            *([page.page, self.choices.program] if (page := self.page.made) is not None else ()),
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
            self._focus_reading()
        else:
            (self.bench.list if self.bench.stakes else self.file).setFocus()

    def actions_here(self) -> list[Action]:
        reading, resting = lambda: self.desk.reading is not None, lambda: self.desk.reading is None

        def paged() -> bool:
            return self.page_in_front() is not None

        return [
            *page_actions(self.page, paged, self.paper),
            act("take", "Import the ticked rows", "Enter", self.import_ticked, "import", "Enter", reading, self.area),
            act("table", "Show the source as a table, or as its page", "t", self.show_otherwise, "table or page", "T",
                lambda: self.desk.reading is not None and bool(self.desk.reading.found.page)),
            *self.reading.actions(self.sources.list),
            act("bring", "Show the rows of the source", "Enter", self.sources.bring_current, scope=self.sources.list),
            act("all", "Tick all or none", "a", self.importing.rows.tick_all, "tick all or none", "A", reading),
            act("sure", "Tick the certain rows", "s", self.importing.rows.tick_sure, "tick the certain", "S", reading),
            act("version", "Treat the source as the program's new version, or not", "n", self.choices.merging.toggle,
                "a new version", "N", reading),
            act("away", "Close the source", "Escape", self.put_away, "back to the commands", "Esc",
                lambda: self.desk.reading is not None or self.form_open or self.session.jobs.running("reading")),
            *self.commands.actions(),
            act("off", "Remove a key of the command", "Delete", self.commands.remove_key, "remove a key", "Del",
                self.commands.has_keys, self.bench.list),
            *(act(f"free-{number + 1}", f"Bind the {which} free place", str(number + 1), partial(self.bench.free.take, number),
                  when=partial(self.bench.free.has, number), scope=self.bench.list)
              for number, which in enumerate(("first", "second", "third"))),
            act("find", "Find a command by any of its names", "f", self.find_command, "find", "F", resting),
            act("every", "All commands, or only the bench", "b", self.bench.show_everything, "bench or all", "B", resting),
            act("edit", "Edit the command in front", "e", self.edit_front, "edit", "E",
                lambda: self.desk.front is not None or paged()),
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
        """Show the form of the selected command, with the cursor in it; on a page ask what its row is called."""
        page = self.page_in_front()
        if page is not None:
            page.ask_name()
            return
        self.form_open = self.form_open or self.desk.reading is None
        self._fit()
        if self.right.isVisible():
            self.command().name.setFocus()

    def close_form(self) -> None:
        """Leave the form of one command for the list of all."""
        self.form_open = False
        self._fit()
        if self.desk.reading is None:
            self.bench.list.setFocus()

    def import_ticked(self) -> None:
        """Import the ticked rows into the folio."""
        importing = self.importing
        name = importing.program.strip()
        if not name and importing.rows.chosen():
            self.host.choose("Which program are these of?", self._named, hint="Enter imports them · Esc closes")
            return
        same = [one for one in importing.rows.differences if one.kind == "same"]
        own = importing.incoming() if importing.is_merging() else None
        chosen = importing.rows.chosen()
        self.reading.import_rows(chosen, same, name, own)
        program = self.session.folio.programs.get(importing.program_id())
        names = {one.row.name for one in chosen}
        first = next((one for one in program.commands.values() if one.name in names), None) if program is not None else None
        if first is not None:
            self.bench.bring(first.ref)  # what was imported is what is seen once the page is put away

    def _named(self, name: object) -> None:
        """The program they are of was asked; how they compare with one that is there already is shown first."""
        if str(name).strip():
            self.importing.set_program(str(name).strip())
            if self.importing.program_id() not in self.session.folio.programs:
                self.import_ticked()

    def _on_row(self) -> bool:
        return self.desk.reading is not None and self._name_in_front() is not None

    def _name_in_front(self) -> str | None:
        """Return the row in front of the page or the table, by its command as it was read."""
        page = self.page_in_front()
        return page.current_name() if page is not None else self.incoming.current_name()

    def mend(self, spelt: bool = False) -> None:
        """The keys of the row in front are asked: what stood there was not, or not rightly, understood."""
        name, folio = self._name_in_front(), self.session.folio
        if name is None:
            return

        def taken(trigger: Trigger) -> None:
            self.importing.mend(name, trigger)
            page = self.page_in_front()
            (page or self.incoming).bring(name)

        self.host.ask_keys(Asked(folio, self.importing.program_id(), name, taken, computer=self.session.computer,
                                 boards=tuple(folio.layouts)), spelt)  # fmt: skip

    def show_otherwise(self) -> None:
        """Show the source as a table, or again as its page; the row in front stays there."""
        name = self._name_in_front()
        self.as_table = not self.as_table
        self._fit()
        page = self.page_in_front()
        if name is not None:
            (page or self.incoming).bring(name)
        self._focus_reading()
        self._counted()

    def _focus_reading(self) -> None:
        page = self.page_in_front()
        (page.page if page is not None else self.incoming.table).setFocus()

    def put_away(self) -> None:
        """Leave the source, or stop reading it; where there is none, close the form."""
        if self.desk.reading is None and self.form_open:
            self.close_form()
            return
        self.desk.put_away()
        self.enter()

    # What is shown

    def refresh(self) -> None:
        self.desk.refresh()
        self.choices.show_folio(self.session.folio)
        self.importing.show_folio(self.session.folio)
        self.bench.refresh()
        self._show_sources()
        self._fit()
        if self.command.made is not None:
            self.command.made.show_command(self.desk.front)

    def _show_reading(self) -> None:
        reading, first = self.desk.reading, self.importing.reading is None
        if reading is None:
            self.importing.put_away()
            self.note.setText(_FIRST)
            self.bench.refresh()
        else:
            source = (reading.name, reading.path, reading.source)
            program = self._program_of(reading.source)
            fresh = first or source != self._shown
            self._shown = source
            self.importing.show_reading(reading, program, fresh)
            self.choices.show_columns(fresh)
            page = self.page_in_front()
            if page is not None:
                page.show_page()
        self._fit()
        self._show_sources()
        if reading is not None and not self.sources.list.hasFocus() and (first or reading.source is None):
            self._focus_reading()  # what had the focus made room for it
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

    def _counted(self) -> None:
        """Refresh after the import that is being prepared changed."""
        importing, reading = self.importing, self.desk.reading
        if reading is None:
            return
        if self.page_in_front() is not None:
            waiting = len(importing.open_checks())
            second = f" (or {reading.second}: Y)" if reading.second else ""
            certain = importing.rows.rowCount() - sum(check.kind != "unread" for check in importing.open_checks())
            self.note.setText(f"{reading.name}, read as {reading.kind}{second}: {certain} certain, {waiting} to check")
        else:
            self.note.setText(importing.summary())
        ticked = len(importing.rows.ticked)
        self.import_button.setText(f"Import {ticked}" if ticked else "Import")
        self.import_button.setEnabled(bool(ticked))
        self.host.show_numbers()

    def _fit(self) -> None:
        """In a small window the form of a command makes room for the rows of a source, and the sources for a page."""
        reading, page = self.desk.reading is not None, self.page_in_front()
        self.incoming.setVisible(reading and page is None)
        self.choices.setVisible(reading)
        self.import_button.setVisible(reading and page is None)
        self.middle.setVisible(page is None)
        self.paper.setVisible(page is not None)
        self.bench.setVisible(not reading)
        self.right.setVisible(page is None and (self.width() >= _NARROW if reading else self.form_open))
        self.sources.setVisible(bool(self.desk.states) and self.width() >= (900 if page is None else _WIDE))
        if page is not None:
            page.fit(self.width() - 56)
            if self.choices.parentWidget() is not page.check:
                page.check.add_choices(self.choices)
        elif self.choices.parentWidget() is not self.middle:
            self._bar.insertWidget(0, self.choices, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()
