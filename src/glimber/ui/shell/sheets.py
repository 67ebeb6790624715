"""Sheets that lie over any room: the day's page, the tally, the settings, the copies, the first question; each made when it
is first needed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtWidgets import QWidget

from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host
from glimber.ui.session.lazy import Lazy
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.day.page import Line
    from glimber.ui.shell.at_work import AtWork
    from glimber.ui.shell.begin import Begin, Reads
    from glimber.ui.shell.copies import Copies
    from glimber.ui.shell.day import DayPage
    from glimber.ui.shell.history import HistoryPages
    from glimber.ui.shell.settings_sheet import SettingsSheet


class Hooks(Struct, frozen=True):
    """The window's services to the sheets: set a theme, redraw everything, show the counting lamp, show the rooms' card,
    look back over time, resize, and read a source in the Gather room."""

    themed: Callable[[str], None]
    restart: Callable[[], None]
    counting: Callable[[bool], None]
    look_round: Callable[[], None]
    look_back: Callable[[], None]
    resized: Callable[[], None]
    reads: Callable[[], Reads]
    bytes_read: Callable[[str, bytes], None]


class Sheets:
    """All of them, and the actions that bring them."""

    def __init__(self, session: Session, host: Host, desk: QWidget, hooks: Hooks) -> None:
        self._session, self._host, self._desk, self._hooks = session, host, desk, hooks
        self.at_work, self.day_page = Lazy(self._make_at_work), Lazy(self._make_day_page)
        self.settings, self.begin = Lazy(self._make_settings), Lazy(self._make_begin)
        self.copies, self.history = Lazy(self._make_copies), Lazy(self._make_history)

    def actions(self) -> list[Action]:
        """Return what brings each of them."""
        return [
            Action(
                "day",
                "The day's page: due, settling, changed, missed, earned",
                ("Ctrl+D",),
                lambda: self.day_page().show(),
            ),
            Action("counted", "What was counted at work", ("Ctrl+U",), lambda: self.at_work().show()),
            Action("counting", "Count at work, or stop", (), lambda: self.at_work().other()),
            Action("settings", "Settings", ("Ctrl+,",), lambda: self.settings().open()),
            Action(
                "history",
                "History: every step, back to a moment, or one step taken back",
                ("Ctrl+Shift+H",),
                lambda: self.history().show(),
            ),
            Action(
                "copies",
                "Copies of the files: compare and restore",
                ("Ctrl+B",),
                lambda: self.copies().show(),
            ),
            Action("begin", "Start a folio of your own keys", ("Ctrl+N",), lambda: self.begin().ask()),
        ]

    def start(self) -> None:
        """Start what runs once the window is there."""
        self.at_work().begin()
        self.day_page().begin()

    def _make_settings(self) -> SettingsSheet:
        from glimber.ui.shell.settings import Settings
        from glimber.ui.shell.settings_sheet import SettingsSheet

        settings = Settings(self._session, self._hooks.themed, self._hooks.restart, self._hooks.resized)
        sheet = SettingsSheet(self._desk, settings, self._host, self._session.notified.emit)
        self._session.folio_changed.connect(sheet.refresh)
        return sheet

    def _make_begin(self) -> Begin:
        from glimber.ui.shell.begin import Begin

        hooks = self._hooks
        return Begin(self._session, self._host, hooks.look_round, hooks.reads, hooks.bytes_read)

    def _make_copies(self) -> Copies:
        from glimber.ui.shell.copies import Copies

        return Copies(self._session, self._host)

    def _make_history(self) -> HistoryPages:
        from glimber.ui.shell.history import HistoryPages

        return HistoryPages(self._session, self._host)

    def _make_at_work(self) -> AtWork:
        from glimber.ui.shell.at_work import AtWork

        return AtWork(self._session, self._host, self._hooks.counting)

    def _make_day_page(self) -> DayPage:
        from glimber.ui.shell.day import DayPage

        host = self._host
        places: dict[str, Callable[[Line], object]] = {
            "due": lambda line: host.drill(list(line.bindings)),
            "missed": lambda line: host.drill(list(line.bindings)),
            "settling": lambda line: host.weigh(line.bindings[0]),
            "outside": lambda line: host.go("gather"),
            "earned": lambda line: self._hooks.look_back(),
        }
        return DayPage(self._session, self._desk, places)
