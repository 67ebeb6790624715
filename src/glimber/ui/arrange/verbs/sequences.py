"""Actions on sequences: press again, name groups and leave them open, remove."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from glimber.core.edit.edit import move_binding, retire_binding
from glimber.core.edit.sequences import Branch, close_with, name_stem, sequence_tree, take_place_of
from glimber.core.notation.keys import Trigger
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.verbs.base import Verbs, act
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Asked, Host

Opener = Callable[[Sequence[str], str | None], None]


class SequenceVerbs(Verbs):
    """``open_tree`` shows the sequences of some programs, that of the layer in front first."""

    def __init__(self, desk: ArrangeDesk, host: Host, open_tree: Opener) -> None:
        super().__init__(desk, host)
        self._open_tree = open_tree

    def actions(self) -> list[Action]:
        name = "The sequences of a program as a tree"
        return [act("tree", name, "q", self.show_tree, "sequences", "Q", when=lambda: bool(self._programs()))]

    def _programs(self) -> list[str]:
        return [id for id in self.folio.programs if sequence_tree(self.folio, id)]

    def show_tree(self) -> None:
        """Show the sequences of the program in front."""
        self._open_tree(self._programs(), self.program(self.place) if self.place is not None else None)

    def press(self, branch: Branch, then: Callable[[], None]) -> None:
        """Press a sequence again; ``then`` is called when it was taken."""
        if not branch.bindings:
            self.desk.tell("A group has no keys of its own; go on to one of its sequences.")
            return
        binding, folio = branch.bindings[0], self.folio
        command = folio.commands[binding.command or ""]

        def taken(trigger: Trigger) -> None:
            self.desk.edit(
                f"move {command.name} to {trigger}", lambda now: move_binding(now, binding.id, trigger).folio
            )
            then()

        asked = Asked(folio, command.program, command.name, taken, command.context, self.desk.session.computer)
        self.host.ask_keys(asked)

    def name(self, program: str, branch: Branch, then: Callable[[], None]) -> None:
        """Name a group."""
        if not branch.branches and not branch.name:
            return

        def taken(name: object) -> None:
            trigger = branch.trigger
            self.desk.edit(f"name {trigger}", lambda folio: name_stem(folio, program, trigger, str(name)))
            then()

        self.host.choose(f"Group of {branch.trigger}", taken, text=branch.name)

    def stay_open(self, program: str, branch: Branch) -> None:
        """Let a group stay open for several presses until Escape, or close after one."""
        if not branch.branches:
            return
        name = branch.name or str(branch.trigger)
        self.desk.edit(
            f"let {name} {'close after one' if branch.stays_open else 'stay open'}",
            lambda folio: name_stem(folio, program, branch.trigger, name, not branch.stays_open),
        )

    def ask_closing(self, program: str, branch: Branch, then: Callable[[], None]) -> None:
        """Ask which keys close a group that stays open, and what each does."""
        stem = next((one for one in self.folio.programs[program].stems if one.trigger == branch.trigger), None)
        if stem is None or not stem.stays_open:
            self.desk.tell("Only a group that stays open is closed: O keeps it open.")
            return

        def taken(text: object) -> None:
            self.desk.edit(f"close {branch.trigger}", lambda folio: close_with(folio, program, branch.trigger, str(text)))
            then()

        now = ", ".join(f"{key} {what}".strip() for key, what in stem.closes)
        self.host.choose(f"Keys that close {stem.name}, each with what it does", taken, text=now,
                         hint="such as Enter finish, Escape cancel · Enter writes it · Esc closes")  # fmt: skip

    def ask_dialog(self, program: str, branch: Branch, then: Callable[[], None]) -> None:
        """Ask which dialog a group that stays open takes the place of."""
        stem = next((one for one in self.folio.programs[program].stems if one.trigger == branch.trigger), None)
        if stem is None or not stem.stays_open:
            self.desk.tell("Only a group that stays open takes the place of a dialog: O keeps it open.")
            return

        def taken(text: object) -> None:
            self.desk.edit(f"the slow way of {stem.name}", lambda folio: take_place_of(folio, program, branch.trigger, str(text)))
            then()

        hint = "such as menu Sheet, click Move, field 2, click OK · none for none · Enter writes it · Esc closes"
        title = f"The dialog that {stem.name} takes the place of, step by step"
        self.host.choose(title, taken, text=", ".join(stem.slow_way), hint=hint)

    def take_off(self, branch: Branch) -> None:
        """Take a sequence off its command."""
        if branch.bindings:
            binding = branch.bindings[0]
            self.desk.edit(f"take {binding.trigger} off", lambda folio: retire_binding(folio, binding.id))
