"""The base of the Arrange room's actions: the desk, and a way to ask."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from glimber.core.model.chord_boards import program_of_board
from glimber.core.model.folio import Folio
from glimber.ui.arrange.desk import ArrangeDesk
from glimber.ui.arrange.place import Place, layer_of
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host


class Panes(Struct, frozen=True):
    """The panes that keys may be bound to: they work there only while the pane has the focus."""

    board: QWidget
    bench: QWidget
    findings: QWidget


class Verbs:
    """Operations on what is in front on the desk: each one edit, undone by its name."""

    def __init__(self, desk: ArrangeDesk, host: Host) -> None:
        self.desk, self.host = desk, host

    @property
    def folio(self) -> Folio:
        """The folio as it is shown, with the ordinary keyboard as a board of each program."""
        return self.desk.folio

    @property
    def stored(self) -> Folio:
        """The folio as it is stored: what edits change."""
        return self.desk.session.folio

    @property
    def place(self) -> Place | None:
        return self.desk.place

    def is_somewhere(self) -> bool:
        """Return True if any board is laid out."""
        return self.desk.place is not None

    def is_on_layout(self) -> bool:
        """Return True for a board with a layout of its own, where gestures, layers and everything a key can do are edited."""
        return self.place is not None and program_of_board(self.place.board) is None

    def why_not_here(self) -> str:
        """Return why something works on a layout only, while a program's chords are in front."""
        program = program_of_board(self.place.board) if self.place is not None else None
        if program is None:
            return ""
        name = self.folio.programs[program].name
        return f"{name}'s chords are struck on an ordinary keyboard: this works on a board with a layout (B, Shift+B)."

    def for_layouts(self, action: Action) -> Action:
        """Return an action that works on boards with a layout only, and reports why where it does not."""
        return replace(action, when=lambda: self.is_on_layout() and action.when(), refusal=self.why_not_here)

    def program(self, place: Place) -> str | None:
        """Return the program that most of the layer's commands are of."""
        shown = program_of_board(place.board)
        if shown is not None:
            return shown
        programs = [b.command.partition("/")[0] for b in layer_of(self.folio, place).bindings if b.command]
        return max(set(programs), key=programs.count) if programs else next(iter(self.folio.programs), None)


def act(
    id: str,
    name: str,
    keys: str,
    run: Callable[[], object],
    brief: str = "",
    shown: str = "",
    *,
    scope: QWidget | None = None,
    when: Callable[[], bool] = lambda: True,
) -> Action:
    """Return an action of the Arrange room; ``keys`` with blanks between several."""

    def do() -> None:
        run()

    return Action(f"arrange-{id}", name, tuple(keys.split()), do, "arrange", brief, shown, when, scope)
