"""The sheet "What is this?": anything is pressed, and everything that it does is listed; what is chosen is gone to."""

from __future__ import annotations

from collections.abc import Callable

from glimber.core.model.describe import place_words
from glimber.core.model.what_is import what_is
from glimber.core.notation.keys import Trigger
from glimber.ui.session.host import Asked, Choice, Host
from glimber.ui.session.session import Session


def ask_what_is(session: Session, host: Host, choose: Callable[[str], object]) -> None:
    """Have a chord, several in a row or a board's key pressed; ``choose`` brings a binding to the front in Arrange."""
    folio, computer = session.folio, session.computer

    def go(binding: object) -> None:
        if binding:
            host.go("arrange")
            choose(str(binding))

    def pressed(trigger: Trigger) -> None:
        choices = [Choice(one.text, one.detail, value=one.binding or "") for one in what_is(folio, trigger, computer)]
        host.choose(place_words(folio, trigger), go, choices, hint="Enter goes there · Esc closes")

    title = "anything: a chord, several in a row, or a key of a board"
    host.ask_keys(Asked(folio, "", "", pressed, computer=computer, boards=tuple(folio.layouts), title=title))
