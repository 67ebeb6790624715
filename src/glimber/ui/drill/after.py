"""After a round: its sheet, with what it was worth, and how to go on."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from datetime import timedelta
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from glimber.core.decide.next_round import next_round
from glimber.core.practice.round_review import Before, before_round, newly_held, worst_first
from glimber.core.practice.tries import Round
from glimber.ui.drill.play import RoundPlay
from glimber.ui.drill.sheet import RoundSheet
from glimber.ui.session.session import Session
from glimber.ui.widgets.announce import announce

if TYPE_CHECKING:
    from glimber.core.stats.ledger import Ledger, Weighed

_FADED = 4
_AHEAD = timedelta(days=14)


def _brought(ledger: Ledger, rows: Mapping[str, Weighed], without: Mapping[str, float], round_id: str) -> list[str]:
    """Return what a round brought: seconds a week two weeks ahead, and what was new and is held now."""
    ahead, notes = ledger.errors_at_s(ledger.at + _AHEAD), list[str]()
    saved = sum(without[id] - ahead[id] for id in rows if id in without)
    if saved >= 1:
        notes.append(f"In two weeks these bindings will cost {saved:.0f} s a week less than without this round.")
    held = newly_held({id: row.tries for id, row in rows.items()}, round_id)
    if held:
        notes.append(f"New, and struck clean twice: {', '.join(ledger.rows[id].command.name for id in held)}.")
    return notes


class AfterRound(QWidget):
    """The round sheet with its buttons."""

    def __init__(self, session: Session, again: Callable[[], None], back: Callable[[], None]) -> None:
        super().__init__()
        self._session, self._summary = session, ""
        self._without: dict[str, float] = {}
        self.setAccessibleName("Round sheet")
        self.sheet = RoundSheet()
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.sheet)
        self.again, self.back = QPushButton("Next round"), QPushButton("Back")
        self.again.setProperty("role", "chosen")
        self.again.clicked.connect(again)
        self.back.clicked.connect(back)
        buttons = QHBoxLayout()
        buttons.addWidget(self.again)
        buttons.addWidget(self.back)
        buttons.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.addWidget(scroll, 1)
        layout.addLayout(buttons)

    def begin(self) -> None:
        """Keep what errors would cost in two weeks without the round that begins."""
        ledger = self._session.ledger
        self._without = ledger.errors_at_s(ledger.at + _AHEAD) if ledger is not None else {}

    def show_round(self, play: RoundPlay, whole: Round | None, minutes: float) -> None:
        """Fill in what comes next time, once the round has been weighed."""
        ledger, drill = self._session.ledger, play.drill
        bindings = [lane.binding for lane in drill.state.lanes]
        coming: dict[str, str] | None = None
        notes: list[str] = []
        before: dict[str, Before] = {}
        if ledger is not None:
            rows = {id: ledger.rows[id] for id in bindings if id in ledger.rows}
            before = before_round({id: row.tries for id, row in rows.items()}, drill.round_id)
            if any(one.id == drill.round_id and one.ended for one in ledger.practice.rounds):
                due = next_round(ledger, minutes)
                coming = {one.binding: one.why for one in due}
                worth = sum(one.worth_s_week for one in due)
                notes += _brought(ledger, rows, self._without, drill.round_id)
                notes.append(f"One more round of {minutes:g} min is worth {worth:.0f} s a week.")
                notes += _faded(ledger, bindings)
        clean = sum(one.counts and one.outcome == "hit" for one in drill.tries)
        title, order = f"Round {play.number}", worst_first(bindings, drill.tries)
        if whole is not None and whole.run is not None:
            title, order = self._run_title(whole, play), bindings
        elif drill.options.sprint:
            title = f"Sprint {play.number}: {clean} clean hits"
        firsts = sum(one.counts for one in drill.tries)
        self._summary = f"{title} is over: {clean} of {firsts} clean. {' '.join(notes)}"
        self.sheet.show_round(drill.folio, title, order, drill.tries, coming,
                              {lane.binding: lane.wanted for lane in drill.state.lanes}, before, notes)  # fmt: skip

    def say(self) -> None:
        """Say how the round went."""
        self.setAccessibleDescription(self._summary)
        announce(self, self._summary)

    def _run_title(self, whole: Round, play: RoundPlay) -> str:
        """Return how long a task run took, beside the best so far and the slow way, and where the time went."""
        from glimber.core.stats.runs import best_before, run_slow_s, run_times

        run = play.drill.folio.runs.get(whole.run or "")
        now = run_times(play.drill.tries)
        words = f"{run.name if run is not None else whole.run}: {now.total_s:.1f} s"
        ledger = self._session.ledger
        if ledger is not None:
            practice = ledger.practice
            best = best_before(practice.rounds, practice.tries, whole.run or "", len(play.drill.state.order), whole.id)
            words += f", best {best.total_s:.1f} s" if best is not None else ", the first"
        slow = run_slow_s(play.drill.folio, run) if run is not None else None
        words += f", slow way {slow:.1f} s" if slow is not None else ""
        return words


def _faded(ledger: Ledger, bindings: Collection[str]) -> list[str]:
    """Name what faded since it was last asked and was not in this round."""
    from glimber.core.decide.over_time import faded_now

    names = [ledger.rows[id].command.name for id, _ in faded_now(ledger) if id not in bindings]
    return [f"Faded since they were last asked: {', '.join(names[:_FADED])}."] if names else []
