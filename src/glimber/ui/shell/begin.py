"""The one question of the first start: what to begin with. Four of its answers make a folio of the person's own."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Final, Protocol

from glimber.core.model.folio import Source
from glimber.store.faults import FolioError, StoreError
from glimber.ui.session.host import Choice, Host, carry_out
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

TITLE: Final = "My keys"
_JOB: Final = "reading the system"


class Reads(Protocol):
    """Callback that reads a source that a person brings."""

    def ask_file(self) -> None:
        """Ask for a file and read it."""

    def read_clipboard(self) -> None:
        """Read what was copied."""


class Begin:
    """Asks it. ``look_round`` shows the chart office; ``reads`` gives what reads in the Gather room, ``bytes_read`` takes what a
    system has printed."""

    def __init__(
        self,
        session: Session,
        host: Host,
        look_round: Callable[[], None],
        reads: Callable[[], Reads],
        bytes_read: Callable[[str, bytes], None],
    ) -> None:
        self._session, self._host, self._look_round = session, host, look_round
        self._reads, self._bytes_read = reads, bytes_read

    def ask(self) -> None:
        """The question and its five answers."""
        choices = [
            Choice(
                "A file of shortcuts…",
                "a page, a table, a PDF, a configuration",
                value=self._of(lambda: self._reads().ask_file()),
            ),
            Choice(
                "What was copied",
                "a list or a page, from anywhere",
                value=self._of(lambda: self._reads().read_clipboard()),
            ),
            Choice("This desktop", "its own shortcuts", value=self._of(partial(self._system, "gsettings"))),
            Choice("The line editor", "the keys of your shell", value=self._of(partial(self._system, "line-editor"))),
            Choice(
                "A look round the chart office",
                "a made-up office with sixteen days of practice",
                value=self._look_round,
            ),
        ]

        place = str(own_folder()).replace(str(Path.home()), "~", 1)
        hint = f"Your own keys are kept in {place}; Esc shows the chart office"
        self._host.choose("How do you want to start?", carry_out, choices, hint=hint)

    def _of(self, read: Callable[[], None]) -> Callable[[], None]:
        """Return what reads into the person's own folio, made first where there is none yet."""

        def go() -> None:
            try:
                folder = make_own()
                if folder.resolve() != self._session.folder.resolve():
                    self._session.open_folder(folder)
            except (FolioError, StoreError) as error:
                self._session.notified.emit(str(error))
                return
            from glimber.store.settings import remember

            remember(last_folio=str(folder.resolve()))
            self._host.go("gather")
            read()

        return go

    def _system(self, system: str) -> None:
        session = self._session
        folder = session.folder

        def work(work: Work) -> tuple[str, bytes]:
            from glimber.store.system.sources import read_source

            return read_source(Source("begin", system=system), folder)

        session.jobs.run(_JOB, work, lambda found: self._bytes_read(*found))


def own_folder() -> Path:
    """Return where a person's own folio is made: among their documents, for it is made to be read and kept by them."""
    from platformdirs import user_documents_path

    return user_documents_path() / "Glimber"


def make_own() -> Path:
    """Return the person's own folio, made where there is none yet. Raises StoreError."""
    from glimber.store.toml.writing import new_folio

    folder = own_folder()
    if not (folder / "folio.toml").exists():
        new_folio(folder, TITLE, None)
    return folder
