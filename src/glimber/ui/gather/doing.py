"""What is done with the commands of the Gather room: keys pressed or spelt, counts read, the tally, back to the defaults."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from glimber.core.edits.defaults import back_to_defaults, departures
from glimber.core.edits.edit import EditError, add_trigger
from glimber.core.folio.folio import Command, Folio
from glimber.core.notation.keys import Trigger
from glimber.store.faults import StoreError

if TYPE_CHECKING:
    from glimber.ui.gather.room import GatherRoom
    from glimber.ui.window import Window


class Doing:
    """Actions on the command in front and on all of a program's."""

    def __init__(self, room: GatherRoom) -> None:
        self._room = room
        self.window: Window | None = None

    @property
    def _window(self) -> Window:
        """The window the room is in: it asks for keys and lays sheets over the room."""
        assert self.window is not None
        return self.window

    def _front(self) -> Command | None:
        return self._room.session.folio.commands.get(self._room.command.ref or "")

    def press_it(self, spelt: bool = False) -> None:
        """The command in front gets the keys that are pressed, or spelt."""
        from glimber.ui.pressit import Asked

        command, session = self._front(), self._room.session
        if command is None:
            session.told.emit("No command is in front to give a key to.")
            return
        boards = tuple(session.folio.layouts)
        asked = Asked(
            session.folio, command.program, command.name, lambda trigger: self._give(command, trigger),
            context=command.context, computer=session.computer, boards=boards,
        )  # fmt: skip
        self._window.ask_keys(asked, spelt)

    def spell_it(self) -> None:
        """The same by spelling it, for chords that the desktop or the platform keeps to itself."""
        self.press_it(spelt=True)

    def _give(self, command: Command, trigger: Trigger) -> None:
        if self._edit(f"give {command.name} {trigger}", lambda folio: add_trigger(folio, command.ref, trigger)):
            self._room.session.told.emit(f"{command.name} is {trigger} now. Ctrl+Z takes it back.")

    def show_tally(self) -> None:
        """The modifier tally of the program shown, or of all, as a sheet."""
        from glimber.core.cards.tallycard import tally_card
        from glimber.core.gather.tally import modifier_tally
        from glimber.store.cache.fonts import faces

        folio, program = self._room.session.folio, self._room.bench.chosen_program()
        title = folio.programs[program].name if program else folio.settings.title
        self._window.show_drawing(
            tally_card(title, modifier_tally(folio, program, self._room.session.computer), faces())
        )

    def ask_counts(self) -> None:
        """Ask for a table of counts and the days they cover, and read it."""
        from PySide6.QtWidgets import QFileDialog, QInputDialog

        name, _ = QFileDialog.getOpenFileName(self._room, "Read counts of use")
        if not name:
            return
        days, sure = QInputDialog.getDouble(
            self._room, "Counts of use", "Working days the counts cover, where the table does not say:", 5, 0.5, 1000, 1
        )
        if sure:
            self.read_counts(Path(name), days)

    def read_counts(self, path: Path, days: float) -> None:
        """Set uses a day from a table of counts; what no command is called is told."""
        from glimber.core.gather.counts import match_counts, with_uses
        from glimber.readers.counts import read_counts

        session = self._room.session
        try:
            counts, problems = read_counts(path.read_bytes())
        except OSError as error:
            session.told.emit(f"{path}: cannot be read ({error.strerror})")
            return
        counted = match_counts(session.folio, counts, days, self._room.bench.chosen_program())
        wrong = [*(f"line {one.line}: {one.text}" for one in problems), *(text for _, text in counted.unknown)]
        if not counted.uses:
            session.told.emit(f"{path.name}: {wrong[0] if wrong else 'no counts in it'}. Nothing was changed.")
            return
        if self._edit(f"uses a day from {path.name}", partial(_with, with_uses, counted.uses)):
            rest = f"; not known: {len(wrong)}, first {wrong[0]}" if wrong else ""
            session.told.emit(f"{len(counted.uses)} commands have their uses a day{rest}")

    def take_own(self) -> None:
        """Glimber's own keys as a program of the folio, to be drilled, weighed and bound otherwise."""
        from glimber.core.edits.ownkeys import OWN, with_own_keys

        session, actions = self._room.session, self._window.registry.own_actions()
        if self._edit("take in Glimber's own keys", lambda folio: with_own_keys(folio, actions)):
            count = len(session.folio.programs[OWN].commands)
            session.told.emit(
                f"Glimber is a program of the folio now, with {count} commands. Its keys can be changed like any."
            )

    def back_to_all(self) -> None:
        """All commands of the program shown get the keys it came with."""
        session = self._room.session
        chosen = self._room.bench.chosen_program()
        front = self._front()
        program = chosen or (front.program if front else None)
        if program is None:
            session.told.emit("Choose a program first.")
            return
        count = len(departures(session.folio, program))
        name = session.folio.programs[program].name
        if self._edit(f"back to the keys of {name}", lambda folio: back_to_defaults(folio, program)):
            session.told.emit(f"{count} commands of {name} have their default keys again. Ctrl+Z takes it back.")

    def link(self) -> None:
        """Link a source: the file that is shown, or a system."""
        from glimber.core.edits.links import SYSTEMS, link
        from glimber.ui.choose import Choice

        room = self._room
        path, program, column = room.path, room.program_id(), room.column.currentText() or None
        choices = [Choice(f"{path}", "the file that is shown, watched", value=path)] if path is not None else []
        choices += [Choice(words, "of this computer", value=system) for system, words in SYSTEMS.items()]

        def taken(value: object) -> None:
            def change(folio: Folio) -> Folio:
                if isinstance(value, Path):
                    known = program if program in folio.programs else None
                    return link(folio, value.stem, path=str(value), program=known, column=column)[0]
                system = str(value)
                return link(folio, system, system=system, program="everywhere" if system == "gsettings" else None)[0]

            self._edit(f"link {value}", change)

        self._window.chooser.ask("Link a source", taken, choices)

    def watch(self) -> None:
        """Watch the source under the cursor, or no longer."""
        from glimber.core.edits.links import watch

        id = self._room.sources.current()
        if id is not None:
            self._edit(f"watch {id}", lambda folio: watch(folio, id))

    def unlink(self) -> None:
        """Let the source under the cursor go."""
        from glimber.core.edits.links import unlink

        id = self._room.sources.current()
        if id is not None:
            self._edit(f"let {id} go", lambda folio: unlink(folio, id))

    def _edit(self, name: str, change: Callable[[Folio], Folio]) -> bool:
        try:
            self._room.session.edit(name, change)
        except (EditError, StoreError) as error:
            self._room.session.told.emit(str(error))
            return False
        return True


def _with(change: Callable[[Folio, dict[str, float]], Folio], value: dict[str, float], folio: Folio) -> Folio:
    return change(folio, value)
