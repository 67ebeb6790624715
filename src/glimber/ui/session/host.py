"""The services a room needs from the window it is in, as a protocol: ask for something, go elsewhere, take the whole window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct

from glimber.core.edit.ownkeys import OwnAction
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Trigger

if TYPE_CHECKING:
    from glimber.core.drawing.drawing import Drawing
    from glimber.ui.session.pages import Page


class Asked(Struct, frozen=True):
    """A request for a trigger: a command's name, its program, and the callback that gets the trigger.

    ``boards``: those on which it may be a spot; ``layer``: the one it is to be on, else one is chosen among the board's.
    ``only_spots``: nothing but a spot will do. ``title``: what the keys are pressed for, where they are not to be given.
    """

    folio: Folio
    program: str
    name: str
    taken: Callable[[Trigger], object]
    context: str | None = None
    computer: str | None = None
    boards: tuple[str, ...] = ()
    layer: str | None = None
    only_spots: bool = False
    title: str = ""


class Choice(Struct, frozen=True):
    """One thing to choose: what is read, what stands beside it, what else it answers to, and what is given to the taker."""

    text: str
    detail: str = ""
    words: str = ""
    value: object = None


def carry_out(value: object) -> None:
    """Run the action a choice stands for, where it is one."""
    if callable(value):
        value()


class Host(Protocol):
    """The window, as its rooms see it."""

    def ask_keys(self, asked: Asked, spelt: bool = False) -> None:
        """Have the keys of a command pressed, or spelt."""

    def choose(
        self,
        title: str,
        taken: Callable[[object], object],
        choices: Sequence[Choice] = (),
        *,
        text: str = "",
        free: bool | None = None,
        hint: str = "",
    ) -> None:
        """Have one of the choices taken, or with ``free`` any text written (always where there are no choices)."""

    def show_page(self, page: Page) -> None:
        """Lay a page over the room."""

    def show_drawing(self, drawing: Drawing) -> None:
        """Lay a sheet over the room."""

    def go(self, id: str) -> None:
        """Go to another room."""

    def drill(self, bindings: list[str]) -> None:
        """Go to the Drill room with a round of these bindings."""

    def weigh(self, binding: str) -> None:
        """Go to the Weigh room with a binding in front."""

    def take_whole_window(self, whole: bool, rests: bool = False) -> None:
        """Have nothing else seen and every key for oneself, or no longer; while it ``rests``, the keys that lead away work."""

    def show_numbers(self) -> None:
        """The number that matters of a room, or what can be done in it, may be another."""

    def come_forward(self, folder: str | None) -> str:
        """Come to the front, with another folio where one is named; what was done."""

    def own_actions(self) -> list[OwnAction]:
        """Return every action of the application with the keys it comes with."""
