"""Actions on commands: press or spell keys, read counts, the tally, Glimber's own keys, restore defaults."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from glimber.core.edit.commands import remove_command
from glimber.core.edit.edit import add_trigger, called, retire_binding
from glimber.core.model.describe import place_words
from glimber.core.model.folio import Binding, Command, Folio
from glimber.core.notation.keys import Sequence, Trigger
from glimber.store.faults import StoreError
from glimber.store.files import read_given
from glimber.ui.gather.desk import GatherDesk
from glimber.ui.gather.verbs.base import act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Asked, Choice, Host


class CommandVerbs:
    """Operations on the command in front and on all of a program's. ``program``: the one that is shown, None for all;
    ``selected``: the commands that are selected in the list; ``on_row``: whether a row of a source is in front instead, whose
    keys ``mend`` has pressed, or spelt."""

    def __init__(
        self,
        desk: GatherDesk,
        host: Host,
        program: Callable[[], str | None],
        selected: Callable[[], list[str]],
        on_row: Callable[[], bool],
        mend: Callable[[bool], None],
    ) -> None:
        self.desk, self.host, self._program, self._selected = desk, host, program, selected
        self._on_row, self._mend = on_row, mend

    def actions(self) -> list[Action]:
        def resting() -> bool:
            return self.desk.reading is None

        def front() -> bool:
            return self._on_row() or (resting() and self._front() is not None)

        def press(spelt: bool) -> None:
            (self._mend if self._on_row() else self.press_it)(spelt)

        return [
            act("key", "Press the keys of the selected command", "k", lambda: press(False), "press its keys", "K", front),
            act("spell", "Spell the keys of the selected command", "Shift+K", lambda: press(True), when=front),
            act("family", "Change the keys of several commands", "c", self.change_family, "change several", "C",
                lambda: resting() and front()),
            act("delete", "Delete the command and its keys", "Shift+Delete", self.delete, when=lambda: resting() and front()),
            act("tally", "What holding modifiers costs", "m", self.show_tally, "modifiers", "M", resting),
            act("counts", "Read uses a day from counts", "u", self.ask_counts, "uses from counts", "U", resting),
            act("own", "Import Glimber's own keys into the folio", "", self.take_own),
            act("defaults", "Restore all of the program's default keys", "", self.back_to_all),
        ]

    def change_family(self) -> None:
        """Change the keys of the selected commands, or of those that belong with the one in front."""
        from glimber.ui.widgets.families import Families

        folio = self.desk.folio
        chosen = [binding for ref in self._selected() for binding in folio.bindings_of.get(ref, ())]
        Families(self.desk.session, self.host, self.desk.edit).ask_which(chosen)

    def _front(self) -> Command | None:
        return self.desk.folio.commands.get(self.desk.front or "")

    def has_keys(self) -> bool:
        """Return True if the command in front has a key that can be removed."""
        return self.desk.reading is None and not self._on_row() and bool(self._bindings())

    def _bindings(self) -> tuple[Binding, ...]:
        command = self._front()
        return self.desk.folio.bindings_of.get(command.ref, ()) if command is not None else ()

    def remove_key(self) -> None:
        """Remove a key of the command in front; of several, the one that is chosen."""
        bindings = self._bindings()
        if len(bindings) > 1:
            folio = self.desk.folio
            choices = [Choice(place_words(folio, one.trigger), one.reason or "", value=one) for one in bindings]
            self.host.choose(f"Remove which key of {called(folio, bindings[0])}?", self._remove, choices)
        elif bindings:
            self._remove(bindings[0])

    def _remove(self, binding: object) -> None:
        folio = self.desk.folio
        if not isinstance(binding, Binding) or binding.id not in folio.bindings:
            return
        name, place = called(folio, binding), place_words(folio, binding.trigger)
        left = [place_words(folio, one.trigger) for one in self._bindings() if one.id != binding.id]
        if self.desk.edit(f"remove {place} from {name}", lambda folio: retire_binding(folio, binding.id)):
            now = f"keeps {' and '.join(left)}" if left else "has no key now and waits on the bench"
            self.desk.tell(f"{name} {now}. Ctrl+Z takes it back.")

    def delete(self) -> None:
        """Delete the command in front; what still needs it is reported."""
        command = self._front()
        if command is not None and self.desk.edit(f"delete {command.name}", lambda folio: remove_command(folio, command.ref)):
            self.desk.tell(f"{command.name} is deleted. Ctrl+Z takes it back.")

    def press_it(self, spelt: bool = False) -> None:
        """The command in front gets the keys that are pressed, or spelt."""
        command, session = self._front(), self.desk.session
        if command is None:
            return
        boards = tuple(session.folio.layouts)
        asked = Asked(
            session.folio, command.program, command.name, lambda trigger: self._give(command, trigger),
            context=command.context, computer=session.computer, boards=boards,
        )  # fmt: skip
        self.host.ask_keys(asked, spelt)

    def spell_it(self) -> None:
        """The same by spelling it, for chords that the desktop or the platform keeps to itself."""
        self.press_it(spelt=True)

    def give(self, ref: str, trigger: Trigger) -> None:
        """Give a command a trigger."""
        command = self.desk.folio.commands.get(ref)
        if command is not None:
            self._give(command, trigger)

    def _give(self, command: Command, trigger: Trigger) -> None:
        place = place_words(self.desk.folio, trigger)
        if isinstance(trigger, Sequence) and self._is_taken(command, trigger):
            return
        before = [place_words(self.desk.folio, one.trigger) for one in self.desk.folio.bindings_of.get(command.ref, ())]
        if self.desk.edit(f"give {command.name} {place}", lambda folio: add_trigger(folio, command.ref, trigger)):
            also = f" as well as {' and '.join(before)}" if before else ""
            self.desk.tell(f"{command.name} has {place}{also}. Ctrl+Z takes it back.")

    def _is_taken(self, command: Command, trigger: Sequence) -> bool:
        """Say what a chord does already, and which like it are free; whether it does anything."""
        from glimber.core.decide.free_places import free_near

        folio = self.desk.folio
        program = folio.programs[command.program]
        there = next((one for one in program.bindings if one.trigger == trigger), None)
        if there is None:
            return False
        free = [str(one.trigger) for one in free_near(folio, command.ref, trigger, self.desk.session.computer)]
        near = f" Free near it: {', '.join(free)}." if free else ""
        self.desk.tell(f"{trigger} is {called(folio, there)} in {program.name}.{near}")
        return True

    def show_tally(self) -> None:
        """The modifier tally of the program shown, or of all, as a sheet."""
        from glimber.core.sheets.modifiers import tally_card
        from glimber.core.stats.modifiers import modifier_tally
        from glimber.store.cache.fonts import faces

        folio, program = self.desk.session.folio, self._program()
        title = folio.programs[program].name if program else folio.settings.title
        self.host.show_drawing(tally_card(title, modifier_tally(folio, program, self.desk.session.computer), faces()))

    def ask_counts(self) -> None:
        """Ask for a table of counts and the days they cover, and read it."""
        from PySide6.QtWidgets import QFileDialog, QInputDialog

        name, _ = QFileDialog.getOpenFileName(None, "Read counts of use")
        if not name:
            return
        days, sure = QInputDialog.getDouble(
            None, "Counts of use", "Working days the counts cover, where the table does not say:", 5, 0.5, 1000, 1
        )
        if sure:
            self.read_counts(Path(name), days)

    def read_counts(self, path: Path, days: float) -> None:
        """Set uses a day from a table of counts; report the names that no command has."""
        from glimber.core.edit.counts import match_counts, with_uses
        from glimber.readers.counts import read_counts

        session = self.desk.session
        try:
            counts, problems = read_counts(read_given(path))
        except StoreError as error:
            self.desk.tell(str(error))
            return
        counted = match_counts(session.folio, counts, days, self._program())
        wrong = [*(f"line {one.line}: {one.text}" for one in problems), *(text for _, text in counted.unknown)]
        if not counted.uses:
            self.desk.tell(f"{path.name}: {wrong[0] if wrong else 'no counts in it'}. Nothing was changed.")
            return
        if self.desk.edit(f"uses a day from {path.name}", partial(_with, with_uses, counted.uses)):
            rest = f"; not known: {len(wrong)}, first {wrong[0]}" if wrong else ""
            many = len(counted.uses)
            self.desk.tell(f"{many} command{'s have their' if many != 1 else ' has its'} uses a day{rest}")

    def take_own(self) -> None:
        """Glimber's own keys as a program of the folio, to be drilled, weighed and rebound."""
        from glimber.core.edit.ownkeys import OWN, with_own_keys

        session, actions = self.desk.session, self.host.own_actions()
        if self.desk.edit("import Glimber's own keys", lambda folio: with_own_keys(folio, actions)):
            count = len(session.folio.programs[OWN].commands)
            self.desk.tell(
                f"Glimber is a program of the folio now, with {count} commands. Its keys can be changed like any."
            )

    def back_to_all(self) -> None:
        """All commands of the program shown get the keys it came with."""
        session = self.desk.session
        chosen = self._program()
        front = self._front()
        program = chosen or (front.program if front else None)
        if program is None:
            self.desk.tell("Choose a program first.")
            return
        from glimber.core.edit.defaults import back_to_defaults, departures

        count = len(departures(session.folio, program))
        name = session.folio.programs[program].name
        if self.desk.edit(f"back to the keys of {name}", lambda folio: back_to_defaults(folio, program)):
            self.desk.tell(f"{count} commands of {name} have their default keys again. Ctrl+Z takes it back.")


def _with(change: Callable[[Folio, dict[str, float]], Folio], value: dict[str, float], folio: Folio) -> Folio:
    return change(folio, value)
