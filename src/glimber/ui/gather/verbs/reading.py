"""Actions on sources: read a file or the clipboard, import, link, watch, unlink."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QWidget

from glimber.core.model.describe import count_words
from glimber.core.model.folio import Folio
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.ui.gather.desk import GatherDesk, WaysToRead
from glimber.ui.gather.verbs.base import act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Choice, Host
from glimber.ui.session.pages import Page, PageAction

if TYPE_CHECKING:
    from glimber.core.edit.compare import Difference, Incoming
    from glimber.core.practice.tally import Entry
    from glimber.store.system.accessibility import RunningProgram
    from glimber.ui.session.pages import PageRow

_STAY = "stay"


class ReadVerbs:
    """``source``: the linked one under the cursor; ``program`` and ``column``: those chosen for what is shown."""

    def __init__(
        self,
        desk: GatherDesk,
        host: Host,
        source: Callable[[], str | None],
        program: Callable[[], str],
        column: Callable[[], str | None],
    ) -> None:
        self.desk, self.host = desk, host
        self._source, self._program, self._column = source, program, column

    def actions(self, sources: QWidget) -> list[Action]:
        def on_one() -> bool:
            return self._source() is not None

        return [
            act("file", "Read a file", "o", self.ask_file, "read a file", "O"),
            act("paste", "Read what was copied", "Ctrl+V", self.read_clipboard, "read what was copied"),
            act("running", "Read the menus of a running program", "r", self.ask_running, "a running program", "R"),
            act("chosen", "Menu entries you chose that are not in the folio", "p", self.show_others, "chosen in menus", "P",
                lambda: self.desk.reading is None and bool(self.others())),
            act("open-menus", "Open each menu once that is empty until then", "g", self.open_menus, "open empty menus", "G",
                self._has_empty_menus),
            act("ways", "Read the source another way: kind, commas, capitals", "y", self.ask_ways,
                "read differently", "Y", lambda: self.desk.reading is not None and self.desk.reading.source is None),
            act("link", "Link what is shown, or a system, as a source", "l", self.link, "link a source", "L"),
            act("watch", "Watch the source, or stop", "w", self.watch, scope=sources, when=on_one),
            act("unlink", "Unlink the source", "Delete", self.unlink, scope=sources, when=on_one),
        ]  # fmt: skip

    def ask_ways(self) -> None:
        """In which other way what is shown is to be read."""
        from glimber.readers.registry import kinds

        reading = self.desk.reading
        if reading is None:
            return
        from glimber.ui.widgets.page_rows import Head, Option

        now, ways = reading.other, reading.found.ways

        def option(text: str, detail: str, chosen: bool, **changes: object) -> Option:
            return Option(text, detail, chosen, replace(now, **changes))

        rows: list[PageRow] = [Head("A comma between keys", "Ctrl+K, Ctrl+S")]
        rows.append(option("separates steps", "one after the other", ways.comma == "steps", comma="steps"))
        rows.append(option("separates alternates", "either of them", ways.comma == "alternates", comma="alternates"))
        rows.append(Head("A bare capital", "S"))
        rows.append(option("is the plain key", "S is S", not ways.capitals, capitals=False))
        rows.append(option("is struck with Shift", "S is Shift+S", bool(ways.capitals), capitals=True))
        rows.append(Head("The source is", "by its name and what is in it"))
        second = [reading.second] if reading.second else []
        for kind in dict.fromkeys([reading.kind, *second, *kinds()]):
            detail = "the second choice" if kind == reading.second else ""
            rows.append(option(kind, detail, kind == reading.kind, kind=kind))

        def taken(value: object) -> None:
            if isinstance(value, WaysToRead):
                self.desk.read_in_ways(value)

        reads = PageAction("Enter", "reads it so", taken, of_row=True)
        about = f"{len(reading.found.rows)} rows were found in the way marked here."
        self.host.show_page(Page(f"How {reading.name} is read", lambda: rows, (reads,), about))

    def ask_file(self) -> None:
        """Ask for a file and read it."""
        from PySide6.QtWidgets import QFileDialog

        name, _ = QFileDialog.getOpenFileName(None, "Read shortcuts")
        if name:
            self.read_file(Path(name))

    def read_file(self, path: Path) -> None:
        """Read a file; show the error where it cannot be read."""
        try:
            data = read_given(path)
        except StoreError as error:
            self.desk.tell(str(error))
            return
        self.desk.read_bytes(path.name, data, path.resolve())

    def ask_running(self) -> None:
        """Ask which running program, and read its menus over the accessibility bus; a program that hangs holds up nothing."""
        from glimber.store.work.in_front import programs_by_front

        def asked(found: list[RunningProgram]) -> None:
            choices = [Choice(one.name, ", ".join(one.windows), " ".join(one.windows), one.name) for one in found]
            if not choices:
                self.desk.tell("No program is on the accessibility bus. Start the program again while the bus is on.")
                return
            self.host.choose("Which program's menus?", lambda name: self._read_menus(str(name)), choices)

        self.desk.session.jobs.run("running programs", lambda work: programs_by_front(), asked, self._failed)

    def _read_menus(self, name: str, opening: bool = False) -> None:
        from glimber.store.system.running_menus import menus_apart

        def read(found: tuple[str, bytes]) -> None:
            self.desk.read_bytes(f"the menus of {found[0]}", found[1], running=found[0])

        self.desk.session.jobs.run("running programs", lambda work: menus_apart(name, opening), read, self._failed)

    def others(self) -> dict[str, list[Entry]]:
        """Return the menu entries that were chosen and are not in the folio, by program."""
        from glimber.core.practice.tally import unknown_entries

        ledger = self.desk.session.ledger
        return unknown_entries(self.desk.folio, ledger.practice.tally) if ledger is not None else {}

    def show_others(self) -> None:
        """Show the menu entries that were chosen and are not in the folio as a source, to be imported."""
        from glimber.store.system.menu_stock import MenuEntry, Stock
        from glimber.store.system.running_menus import as_source

        others, programs = self.others(), self.desk.folio.programs

        def show(program: object) -> None:
            entries = tuple(MenuEntry(one[1:-1], one[-1]) for one in others[str(program)])
            name = programs[str(program)].name
            self.desk.read_bytes(f"chosen in the menus of {name}", as_source(Stock(name, entries)))

        if len(others) == 1:
            show(next(iter(others)))
        else:
            choices = [Choice(programs[id].name, count_words(len(its), "entry", "entries"), value=id)
                       for id, its in others.items()]  # fmt: skip
            self.host.choose("Entries of which program?", show, choices)

    def _has_empty_menus(self) -> bool:
        from glimber.readers.menus import UNOPENED

        reading = self.desk.reading
        if reading is None or reading.running is None:
            return False
        return any(problem.text.endswith(UNOPENED) for problem in reading.found.problems)

    def open_menus(self) -> None:
        """Read the running program again and open each menu once that is empty until then, with Escape after it."""
        reading = self.desk.reading
        if reading is not None and reading.running is not None:
            self._read_menus(reading.running, opening=True)

    def _failed(self, error: Exception) -> bool:
        from glimber.store.system.accessibility import BusOffError

        if isinstance(error, BusOffError):
            self._offer_bus()
        else:
            self.desk.tell(str(error))
        return True

    def _offer_bus(self) -> None:
        """The accessibility bus is off: offer to turn it on."""
        from glimber.store.system.accessibility import turn_on

        def taken(value: object) -> None:
            if value != _STAY:
                self.desk.session.jobs.run("running programs", lambda work: turn_on(), on, failed)

        def on(_: None) -> None:
            self.desk.tell("The accessibility bus is on. Start the program again, then press R.")

        def failed(error: Exception) -> bool:
            self.desk.tell(str(error))
            return True

        choices = [Choice("Turn it on", "programs show their menus over it", value="on"),
                   Choice("Leave it off", "no menus are read", value=_STAY)]  # fmt: skip
        self.host.choose("The accessibility bus is off", taken, choices)

    def read_clipboard(self) -> None:
        """Read what was copied: as a page where it is one, otherwise as text."""
        copied = QGuiApplication.clipboard().mimeData()
        text = copied.html() if copied is not None and copied.hasHtml() else QGuiApplication.clipboard().text()
        if not text.strip():
            self.desk.tell("Nothing was copied that could be read.")
            return
        self.desk.read_bytes("what was copied", text.encode())

    def import_rows(self, chosen: list[Difference], same: list[Difference], name: str, own: list[Incoming] | None) -> None:
        """Take what is ticked into the folio, in one edit that can be undone."""
        reading, id = self.desk.reading, self._program()
        if reading is None or not chosen:
            return
        from glimber.core.edit.compare import take

        words = f"import {len(chosen)} from {reading.name}"
        first = not self.desk.folio.drillable()
        from glimber.store.system.installed_programs import with_icon

        folder = self.desk.session.folder

        def imported(folio: Folio) -> Folio:
            return with_icon(take(folio, id, [*chosen, *same], name, own), folder, id)

        if self.desk.edit(words, imported):
            with_keys = sum(bool(one.row.triggers) for one in chosen)
            self.desk.tell(f"{len(chosen)} imported, {with_keys} with keys. Ctrl+Z takes it back.")
            if first and with_keys:
                self._ask_what_next(with_keys)

    def _ask_what_next(self, count: int) -> None:
        """The first bindings of a folio are here: whoever brought them wants them drilled or seen, not a list of them."""
        bindings = "1 binding" if count == 1 else f"{count} bindings"
        choices = [
            Choice("Drill them", "a first round of what is worth most", value="drill"),
            Choice("See their cards", "one for every group", value="cards"),
            Choice("Put them on a board", "where a place is wanted", value="arrange"),
            Choice("Import more", "stay here", value=_STAY),
        ]

        def taken(value: object) -> None:
            if value != _STAY:
                self.host.go(str(value))

        self.host.choose(f"{bindings} imported. What next?", taken, choices)

    def link(self) -> None:
        """Link a source: the file or the running program that is shown, or a system."""
        from glimber.core.edit.links import SYSTEMS, link

        reading = self.desk.reading
        path = reading.path if reading is not None else None
        program, column = self._program(), self._column()
        running = reading.running if reading is not None else None
        choices = [Choice(f"{path}", "the file that is shown, watched", value=path)] if path is not None else []
        if running is not None:
            choices.append(Choice(f"The menus of {running}", "read again whenever it starts", value=("running", running)))
        choices += [Choice(words, "of this computer", value=system) for system, words in SYSTEMS.items()]

        def taken(value: object) -> None:
            def change(folio: Folio) -> Folio:
                if isinstance(value, Path):
                    known = program if program in folio.programs else None
                    return link(folio, value.stem, path=str(value), program=known, column=column)[0]
                if isinstance(value, tuple):
                    return link(folio, value[1], running=value[1], program=program if program in folio.programs else None)[0]
                system = str(value)
                return link(folio, system, system=system, program="everywhere" if system == "gsettings" else None)[0]

            self.desk.edit(f"link {value[1] if isinstance(value, tuple) else value}", change)

        self.host.choose("Link a source", taken, choices)

    def watch(self) -> None:
        """Watch the source under the cursor, or no longer."""
        from glimber.core.edit.links import watch

        id = self._source()
        if id is not None:
            self.desk.edit(f"watch {id}", lambda folio: watch(folio, id))

    def unlink(self) -> None:
        """Let the source under the cursor go."""
        from glimber.core.edit.links import unlink

        id = self._source()
        if id is not None:
            self.desk.edit(f"let {id} go", lambda folio: unlink(folio, id))
