"""The Drill room: before, during and after a round."""

from __future__ import annotations

import gc
import secrets
from collections.abc import Mapping

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QStackedLayout, QVBoxLayout, QWidget

from glimber.core.drill import machine as drills
from glimber.core.drill.machine import Drill
from glimber.core.drill.round import resumed, unfinished
from glimber.core.drill.tries import Change, Round
from glimber.core.session.pending import as_set
from glimber.core.weigh.plan import plan_round, planned_hits
from glimber.store.faults import StoreError
from glimber.store.practice.uuid7 import uuid7
from glimber.ui.actions import Action
from glimber.ui.drill.play import RoundPlay
from glimber.ui.drill.prompt import PromptView
from glimber.ui.drill.setup import DrillSetup
from glimber.ui.drill.sheet import RoundSheet
from glimber.ui.host import Host
from glimber.ui.room import Room
from glimber.ui.session import Session


class DrillRoom(Room):
    """Setup, prompt and round sheet, one at a time. ``full`` while a round is on: it takes the whole window."""

    id = "drill"

    def __init__(self, session: Session, host: Host) -> None:
        super().__init__(session, host)
        self.play: RoundPlay | None = None
        self._last: RoundPlay | None = None
        self._round: Round | None = None
        self.setup = DrillSetup(session, self.begin, self.resume)
        self.prompt = PromptView(self.put_aside)
        self.sheet = RoundSheet()
        after = QWidget()
        layout = QVBoxLayout(after)
        layout.setContentsMargins(24, 18, 24, 18)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.sheet)
        self.again = QPushButton("Next round")
        self.again.setProperty("role", "chosen")
        self.again.clicked.connect(self.begin)
        self.back = QPushButton("Back")
        self.back.clicked.connect(self.show_setup)
        buttons = QHBoxLayout()
        buttons.addWidget(self.again)
        buttons.addWidget(self.back)
        buttons.addStretch(1)
        layout.addWidget(scroll, 1)
        layout.addLayout(buttons)
        self.after = after
        self.stack = QStackedLayout(self)
        for page in (self.setup, self.prompt, after):
            self.stack.addWidget(page)
        self.setup.refresh()

    def number(self) -> int | None:
        return self.session.summary.due if self.session.summary is not None else None

    def panes(self) -> list[QWidget]:
        return [self.setup.begin_button if self.stack.currentWidget() is self.setup else self.again]

    def actions_here(self) -> list[Action]:
        return [
            Action("drill-begin", "Begin the round", ("Enter",), self._enter_pressed, self.id, "begin"),
            Action("drill-mode", "Press or point", ("m",), self._other_mode, self.id, "press or point", "M"),
            Action(
                "drill-cue", "Another cue: name, situation, picture", ("c",), self.setup.other_cue, self.id, "cue", "C"
            ),
            Action("drill-fewer", "A shorter round", ("-",), lambda: self.setup.resize_round(-1), self.id),
            Action(
                "drill-more", "A longer round", ("=",), lambda: self.setup.resize_round(1), self.id, "length", "− ="
            ),
            Action("drill-resume", "Resume the round put aside", ("r",), self.resume, self.id, "resume", "R"),
        ]

    def enter(self) -> None:
        self.refresh()
        self.panes()[0].setFocus()

    def leave(self) -> None:
        if self.play is not None:
            self.put_aside()

    def refresh(self) -> None:
        if self.play is None:
            self.setup.refresh()
            self.setup.resume_button.setVisible(self._unfinished() is not None)
        if self._last is not None and self.stack.currentWidget() is self.after:
            self._show_sheet(self._last)

    def _enter_pressed(self) -> None:
        if self.play is None:
            self.begin()

    def _other_mode(self) -> None:
        if self.stack.currentWidget() is self.setup:
            self.setup.set_mode("point" if self.setup.mode == "press" else "press")

    def show_setup(self) -> None:
        self.stack.setCurrentWidget(self.setup)
        self.refresh()
        self.setup.begin_button.setFocus()

    # Rounds

    def begin(self) -> None:
        """Begin the round that is due."""
        due = {one.binding: one.hits for one in self.setup.due()}
        if due:
            self.begin_with(list(due), self.setup.mode, hits=due)

    def begin_with(self, bindings: list[str], mode: str = "press", seed: int | None = None,
                   hits: Mapping[str, int] | None = None) -> None:  # fmt: skip
        """Begin a round of these bindings, with the ``hits`` planned for each (else what they need); their ids are written
        into the files before their first try."""
        session = self.session
        try:
            session.keep_ids(set(bindings))
            log = session.log()
            changes, number = log.records(Change), log.count(Round) + 1
            at = session.now()
            drill = drills.begin(as_set(session.folio, changes), bindings, mode, session.computer, changes, at,  # type: ignore[arg-type]
                                 secrets.randbits(32) if seed is None else seed, uuid7,
                                 planned_hits(session.ledger, bindings) if hits is None else hits)  # fmt: skip
            whole = Round(drill.round_id, at, session.computer, drill.mode, tuple(bindings))
            session.record(whole)
        except StoreError as error:
            session.told.emit(str(error))
            return
        self._start(drill, whole, number)

    def _start(self, drill: Drill, whole: Round, number: int) -> None:
        self._round = whole
        self.play = RoundPlay(self.session, drill, number, self.setup.cue)
        self.play.ended.connect(self._ended)
        self.stack.setCurrentWidget(self.prompt)
        self.host.take_whole_window(True)
        # Everything there is now outlives the round: the collector need not look through it between two keys.
        gc.collect()
        gc.freeze()
        self.session.hold_weighing(True)
        self.prompt.begin(self.play)

    def _unfinished(self) -> Round | None:
        """The newest round, where it was put aside and its bindings are still there."""
        ledger = self.session.ledger
        rounds = ledger.practice.rounds if ledger is not None else ()
        return unfinished(rounds, self.session.now(), self.session.folio.bindings)

    def resume(self) -> None:
        """Go on with the round that was put aside, from where it stood."""
        whole = self._unfinished()
        if whole is None or self.play is not None:
            return
        try:
            log = self.session.log()
            tries, changes, number = log.tries_of_round(whole.id), log.records(Change), log.count(Round)
        except StoreError as error:
            self.session.told.emit(str(error))
            return
        firsts = [(one.binding, one.outcome == "hit") for one in tries if one.first and one.outcome != "void"]
        state = resumed(whole.bindings, firsts, planned_hits(self.session.ledger, whole.bindings))
        if state.done:
            return
        drill = Drill(as_set(self.session.folio, changes), whole.id, whole.mode, self.session.computer, changes,
                      secrets.randbits(32), uuid7, state, tries=tuple(tries), paused=True)  # fmt: skip
        self._start(drill, whole, number)

    def put_aside(self) -> None:
        """Leave the round as it is; it can be resumed."""
        self._stop()
        self.session.rest_log()
        self.session.weigh_later()
        self.show_setup()

    def _stop(self) -> None:
        self.prompt.end()
        self.play = None
        self.host.take_whole_window(False)
        self.session.hold_weighing(False)

    def _ended(self) -> None:
        """Every binding has its clean hits: the round sheet."""
        play, whole = self.play, self._round
        assert play is not None and whole is not None
        self._stop()
        try:
            self.session.end_round(whole)
        except StoreError as error:
            self.session.told.emit(str(error))
        self._last = play
        self._show_sheet(play)
        self.stack.setCurrentWidget(self.after)
        self.again.setFocus()

    def _show_sheet(self, play: RoundPlay) -> None:
        """Who comes next time is filled in when the round has been weighed."""
        session = self.session
        ledger, id = session.ledger, play.drill.round_id
        coming = None
        if ledger is not None and any(one.id == id and one.ended for one in ledger.practice.rounds):
            coming = {due.binding: due.why for due in plan_round(ledger, self.setup.minutes)}
        bindings = [lane.binding for lane in play.drill.state.lanes]
        self.sheet.show_round(play.drill.folio, f"Round {play.number}", bindings, play.drill.tries, coming,
                              {lane.binding: lane.wanted for lane in play.drill.state.lanes})  # fmt: skip
