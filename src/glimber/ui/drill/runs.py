"""Task runs made: of what is in the list of the next round, or recorded from real strokes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from glimber.ui.drill.setup import DrillSetup
from glimber.ui.session.host import Host
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.ui.drill.record import RunRecorder


class RunMaking:
    """Makes task runs; their name is asked."""

    def __init__(self, session: Session, host: Host, room: QWidget, setup: DrillSetup) -> None:
        self._session, self._host, self._room, self._setup = session, host, room, setup
        self.recorder = Lazy(self._make_recorder)

    def make(self) -> None:
        """A task run of what is in the list, in its order."""
        bindings, due = self._session.folio.bindings, self._setup.due()
        known = [binding for one in due if (binding := bindings.get(one.binding)) is not None]
        self._name(tuple(dict.fromkeys(binding.command for binding in known if binding.command is not None)))

    def record(self) -> None:
        """A task run of what is struck from now on, as at work."""
        from glimber.core.practice.recording import Recording

        self.recorder().begin(Recording(self._session.folio, self._session.computer))

    def _make_recorder(self) -> RunRecorder:
        from glimber.ui.drill.record import RunRecorder

        return RunRecorder(self._room, self._name)

    def _name(self, refs: tuple[str, ...]) -> None:
        session = self._session

        def named(name: object) -> None:
            from glimber.core.edit.runs import add_run

            text = " ".join(str(name).split())
            if text and refs:
                session.edit(f"task run {text}", lambda folio: add_run(folio, text, refs)[0])
                session.notified.emit(f"{text}: a task run of {len(refs)} commands. W chooses it.")

        if refs:
            self._host.choose(f"What is this run of {len(refs)} commands called?", named, free=True)
