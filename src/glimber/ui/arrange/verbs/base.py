"""The base of the Arrange room's actions: the desk, and a way to ask."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtWidgets import QWidget

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
        return self.desk.folio

    @property
    def place(self) -> Place | None:
        return self.desk.place

    def is_somewhere(self) -> bool:
        """Return True if any board is laid out."""
        return self.desk.place is not None

    def program(self, place: Place) -> str | None:
        """The program that most of the layer's commands are of."""
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
    """An action of the Arrange room; ``keys`` with blanks between several."""

    def do() -> None:
        run()

    return Action(f"arrange-{id}", name, tuple(keys.split()), do, "arrange", brief, shown, when, scope)
