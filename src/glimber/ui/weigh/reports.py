"""Sheets about the whole: progress over time, and several bindings side by side."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from glimber.core.model.describe import place_words, seconds_words
from glimber.store.faults import StoreError
from glimber.ui.session.host import Host
from glimber.ui.session.jobs import Work
from glimber.ui.session.session import Session

if TYPE_CHECKING:
    from glimber.core.decide.over_time import OverTime
    from glimber.core.decide.verdict import Verdict
    from glimber.core.drawing.drawing import Drawing
    from glimber.core.model.folio import Folio

_JOB = "looking back"
_MOST = 4


class Reports:
    """Lays sheets over the room and writes them. ``verdict`` gives the case in front."""

    def __init__(self, session: Session, host: Host, verdict: Callable[[], Verdict | None]) -> None:
        self._session, self._host, self._verdict = session, host, verdict
        self._compared: list[str] = []

    def show(self) -> None:
        """Show the report as a page over the room."""
        self._look_back(lambda found: self._host.show_drawing(self.page(found)))

    def write(self, to: Path) -> None:
        """The page as PDF or SVG, or its figures as CSV."""

        def done(found: OverTime) -> None:
            from glimber.core.decide.over_time import to_csv
            from glimber.store.files import write_atomically
            from glimber.ui.paint.export import write_sheets

            try:
                if to.suffix == ".csv":
                    write_atomically(to, to_csv(found).encode())
                else:
                    write_sheets(
                        [self.page(found)], to if to.suffix in (".pdf", ".svg", ".png") else to.with_suffix(".pdf")
                    )
            except StoreError as error:
                self._session.notified.emit(str(error))
                return
            self._session.notified.emit(f"Written to {to}.")

        self._look_back(done)

    def _look_back(self, done: Callable[[OverTime], object]) -> None:
        """Weigh the moments gone by, off the event loop."""
        from glimber.core.decide.over_time import over_time

        ledger, computer = self._session.ledger, self._session.computer
        if ledger is None or not len(ledger.practice.tries):
            self._session.notified.emit("There is nothing to look back on yet: drill a round first.")
            return
        self._session.notified.emit("Looking back…")

        def work(work: Work) -> OverTime:
            return over_time(ledger, computer, work.give_way)

        self._session.jobs.run(_JOB, work, done)

    def page(self, found: OverTime) -> Drawing:
        """Return the page as a drawing."""
        from glimber.core.decide.settling import settlings
        from glimber.core.sheets.report import report
        from glimber.store.cache.fonts import faces

        ledger, summary = self._session.ledger, self._session.summary
        assert ledger is not None and summary is not None
        return report(ledger.folio.settings.title, f"{self._session.now():%-d %B %Y}", found, summary.rows, settlings(ledger),
                      lambda id: _name(ledger.folio, id), faces())  # fmt: skip

    def compare(self) -> None:
        """The case in front beside those that were chosen before it, at most four."""
        verdict, session = self._verdict(), self._session
        if verdict is None or session.ledger is None:
            return
        id = verdict.row.binding.id
        self._compared = [*(one for one in self._compared if one != id and one in session.verdicts), id][-_MOST:]
        if len(self._compared) < 2:
            session.notified.emit(f"{verdict.row.command.name} is kept to be compared: go to another and press X again.")
            return
        from glimber.core.sheets.compare import compare_card
        from glimber.store.cache.fonts import faces

        columns = [(session.verdicts[one].row.command.name, _figures(session.ledger.folio, session.verdicts[one]))
                   for one in self._compared]  # fmt: skip
        self._host.show_drawing(compare_card("Side by side", columns, faces()))


def _name(folio: Folio, id: str) -> str:
    binding = folio.bindings.get(id)
    command = folio.command_of(binding) if binding is not None else None
    return command.name if command is not None else id


def _figures(folio: Folio, verdict: Verdict) -> dict[str, str]:
    """Return what is compared of a binding, in words."""
    row = verdict.row
    unknown = "not known yet"
    cause, chance = max(row.causes.items(), key=lambda one: one[1])
    low, high = row.posterior.interval() if row.posterior is not None else (0.0, 0.0)
    return {
        "where": place_words(folio, row.binding.trigger),
        "tries": f"{row.count} on {row.days} days",
        "clean": unknown
        if row.posterior is None
        else f"{100 * row.posterior.mean:.0f} % ({100 * low:.0f} to {100 * high:.0f})",
        "recall": unknown if row.recall_ms is None else seconds_words(row.recall_ms),
        "hand": unknown if row.motor_ms is None else seconds_words(row.motor_ms),
        "reach": unknown if row.reach_ms is None else seconds_words(row.reach_ms),
        "a week": unknown if row.weekly_s is None else f"{row.weekly_s:.0f} s, {row.lost_s or 0:.0f} s lost",
        "the matter": f"{cause}, {100 * chance:.0f} %" if row.count else unknown,
        "verdict": f"{verdict.choice}, {verdict.reason.replace('-', ' ')}",
    }
