"""The day's page over the room: what is due, settling, changed, missed and earned; every line one key from being done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QWidget

from glimber.store.settings import remember
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session
from glimber.ui.widgets.overlay import PaperOverlay

if TYPE_CHECKING:
    from glimber.core.day.page import Day, Line

_JOB: Final = "the day's page"
NEVER: Final = "never"
_AT_WORK: Final = (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress)
"""A key with an action of its own is never a key press: the window asks for it, and then runs the action."""


class DaySheet(PaperOverlay):
    """A sheet whose lines open by their numbers: ``go`` is called with the line, ``never`` when the sheet is no longer wanted at
    start."""

    def __init__(self, parent: QWidget, go: Callable[[Line], object], never: Callable[[], object]) -> None:
        super().__init__(parent)
        self._go, self._never = go, never
        self.day: Day | None = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        lines = [one for one in self.day.lines if one.open] if self.day is not None else []
        chosen = None
        if self.day is not None and event.text().isdigit() and 1 <= int(event.text()) <= len(self.day.lines):
            chosen = self.day.lines[int(event.text()) - 1]
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and lines:
            chosen = lines[0]
        if chosen is not None and not chosen.open:
            return  # there is nothing to be done about it
        never = event.text().lower() == "n"
        super().keyPressEvent(event)
        if chosen is not None:
            self._go(chosen)
        elif never:
            self._never()


class DayPage(QObject):
    """Works the page out off the event loop and lays it over the room; ``places`` takes a person where a line points."""

    def __init__(self, session: Session, parent: QWidget, places: Mapping[str, Callable[[Line], object]]) -> None:
        super().__init__(parent)
        self._session, self._places = session, places
        self.sheet = DaySheet(parent, self._go, self._not_again)
        self._offered = self._at_work = False

    def begin(self) -> None:
        """On starting: it is offered once, from the second week on, unless it is not wanted or the person is at work already."""
        settings = self._session.settings
        if settings.day_page == NEVER or not settings.introduced:
            self._offered = True
            return
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)
        self._session.weighed.connect(self._offer)
        self._offer()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in _AT_WORK:
            self._at_work = True
            self._no_more_waiting()
            self._session.jobs.stop(_JOB)  # it would not be laid any more, and takes seconds
        return False

    def _no_more_waiting(self) -> None:
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)

    def _offer(self) -> None:
        ledger = self._session.ledger
        if self._offered or ledger is None:
            return
        self._offered = True
        from glimber.core.day.page import after_first_week

        if after_first_week(ledger) and not self._at_work:
            self._work_out(asked=False)
        else:
            self._no_more_waiting()

    def show(self) -> None:
        """The page of today."""
        self._work_out(asked=True)

    def _work_out(self, asked: bool) -> None:
        session, ledger = self._session, self._session.ledger
        if ledger is None:
            session.notified.emit("The practice is still being weighed.")
            return
        folio, folder, computer, now = session.folio, session.folder, session.computer, session.now()

        def work(work: Work) -> Day:
            from glimber.core.day.page import day_of
            from glimber.core.decide.next_round import next_round
            from glimber.core.decide.over_time import over_time
            from glimber.core.decide.settling import settlings
            from glimber.store.changed_sources import changed_outside

            outside = changed_outside(folio, folder, work.give_way)
            curve = [(one.day, one.earned_s) for one in over_time(ledger, computer, work.give_way).moments]
            return day_of(ledger, now.astimezone(), next_round(ledger), settlings(ledger), outside, curve)

        def done(day: Day) -> None:
            self._no_more_waiting()
            if asked or not self._at_work:  # nobody's keys are taken from under the hand
                self._lay(day)

        session.jobs.run(_JOB, work, done)

    def _lay(self, day: Day) -> None:
        from glimber.core.sheets.day import day_sheet
        from glimber.store.cache.fonts import faces

        self.sheet.day = day
        self.sheet.show_drawing(day_sheet(self._session.folio.settings.title, day, faces()))

    def _go(self, line: Line) -> None:
        self._places[line.what](line)

    def _not_again(self) -> None:
        remember(day_page=NEVER)
        self._session.notified.emit(
            "The day's page is not shown on starting any more; find “the day's page” still shows it."
        )
