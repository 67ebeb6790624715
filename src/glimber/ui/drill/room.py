"""The Drill room: before, during and after a round."""

from __future__ import annotations

import gc
import os
from collections.abc import Callable, Mapping
from functools import cached_property
from random import SystemRandom
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtWidgets import QStackedLayout, QWidget

from glimber.core.decide.plan import planned_hits
from glimber.core.practice.options import Options
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.tries import AnswerMode, Goal, Round
from glimber.core.session.pending import as_set
from glimber.store.faults import StoreError
from glimber.ui.drill.questions import RoundQuestions
from glimber.ui.drill.resuming import resume_round, unfinished_round
from glimber.ui.drill.runs import RunMaking
from glimber.ui.drill.setup import DrillSetup
from glimber.ui.drill.timing import TimingStudy
from glimber.ui.session.actions import Action
from glimber.ui.session.host import Host
from glimber.ui.session.room import Room
from glimber.ui.session.session import Session

_chance = SystemRandom()

if TYPE_CHECKING:
    from PySide6.QtWidgets import QPushButton

    from glimber.core.model.folio import Folio
    from glimber.core.practice.machine import Drill
    from glimber.ui.drill.after import AfterRound
    from glimber.ui.drill.play import RoundPlay
    from glimber.ui.drill.prompt import PromptView
    from glimber.ui.drill.sheet import RoundSheet
    from glimber.ui.drill.sorting import SortingPage


class DrillRoom(Room):
    """Setup, prompt and round sheet, one at a time. ``full`` while a round is on: it takes the whole window."""

    id = "drill"

    def __init__(self, session: Session, host: Host, parent: QWidget) -> None:
        super().__init__(session, host, parent)
        self.play: RoundPlay | None = None
        self._last: RoundPlay | None = None
        self._round: Round | None = None
        self.timing = TimingStudy(session, host, self.exercise)
        self.setup = DrillSetup(session, self.begin, self.resume, self._act, host.weigh, self)
        self.runs = RunMaking(session, host, self, self.setup)
        self.questions = RoundQuestions(session, host, self.setup)
        self.stack = QStackedLayout(self)
        self.stack.addWidget(self.setup)
        self.setup.refresh()

    @cached_property
    def prompt(self) -> PromptView:
        """The page a round is on."""
        from glimber.ui.drill.prompt import PromptView
        from glimber.ui.widgets.speak import Speech

        made = PromptView(self.put_aside, lambda rests: self.host.take_whole_window(True, rests))
        made.speak = Speech(lambda: self.session.settings.spoken, self.session.notified.emit).say
        self.stack.addWidget(made)
        return made

    @cached_property
    def after(self) -> AfterRound:
        """The page that follows it."""
        from glimber.ui.drill.after import AfterRound

        made = AfterRound(self.session, self.begin, self.show_setup)
        self.stack.addWidget(made)
        return made

    @property
    def sheet(self) -> RoundSheet:
        return self.after.sheet

    @property
    def again(self) -> QPushButton:
        return self.after.again

    def complete(self) -> None:
        for page in (self.prompt, self.after):  # the first round must not wait for them
            page.ensurePolished()

    def number(self) -> int | None:
        return self.session.summary.due if self.session.summary is not None else None

    def panes(self) -> list[QWidget]:
        return [self.setup.begin_button if self.stack.currentWidget() is self.setup else self.again]

    def actions_here(self) -> list[Action]:
        setup = self.setup

        def some() -> bool:
            return not setup.begin_button.isHidden()  # a folio without bindings has nothing to drill

        def before() -> bool:
            return self.stack.currentWidget() is setup and some()

        def action(
            id: str, name: str, key: str, run: Callable[[], None], brief: str = "", brief_keys: str = ""
        ) -> Action:
            return Action(id, name, (key,), run, self.id, brief, brief_keys, when=before)

        actions = [
            Action("drill-begin", "Begin the round", ("Enter",), self._enter_pressed, self.id, "begin", when=some),
            action("drill-of", "What the round is made of", "w", self.questions.selection, "of what", "W"),
            action("drill-sort", "Sort what to learn: known, learn, never", "l", self.sort, "sort", "L"),
            action("drill-drop", "Remove the binding from the list", "Delete", setup.drop, "remove", "Del"),
            action("drill-add", "Add a binding to the round", "a", self.questions.binding, "add", "A"),
            action("drill-mode", "Answer another way: press, point, name, spell", "m", setup.other_mode, "answer", "M"),
            action("drill-cue", "Another cue: name, situation, picture, mixed", "c", setup.other_cue, "cue", "C"),
            action("drill-fewer", "A shorter round", "-", lambda: setup.resize_round(-1)),
            action("drill-more", "A longer round", "=", lambda: setup.resize_round(1), "length", "− ="),
            action("drill-run", "A task run of what is in the list", "n", self.runs.make, "task run", "N"),
            action("drill-record", "A task run recorded from real strokes", "Shift+N", self.runs.record),
            action("drill-sprint", "A sprint: as many hits as there are in the time", "s", setup.turn_sprint),
            action("drill-deadline", "Another deadline: 4 s, by your own times, none", "d", setup.other_deadline),
            action("drill-strict", "Count this trigger alone, or any of the command", "t", setup.turn_strict),
            action(
                "drill-hands", "Boards: this keyboard stands in, the board itself, or a device", "b", self.questions.hands
            ),
            Action("drill-calendar", "Practice by date", ("k",), self.show_calendar, self.id, "calendar", "K", when=some),
            Action("drill-timing", "How long keys are held: limits that fit", ("g",), self.timing.begin, self.id, when=some),
            action("drill-resume", "Resume the round put aside", "r", self.resume, "resume", "R"),
        ]
        # While commands are sorted the keys are the page's own, and the foot says none of the room's.
        return [replace(one, when=lambda one=one: one.when() and not self._is_sorting()) for one in actions]

    @cached_property
    def sorting(self) -> SortingPage:
        """The page on which commands are sorted."""
        from glimber.ui.drill.sorting import SortingPage

        return SortingPage(self, self.session, self._sorted)

    def sort(self) -> None:
        """Sort what to learn, one command after another."""
        if not self.sorting.begin():
            self.session.notified.emit("Every command with a key is sorted; Gather shows and changes what each is.")
        self.host.show_numbers()

    def _sorted(self) -> None:
        self.show_setup()
        self.host.show_numbers()

    def _is_sorting(self) -> bool:
        return "sorting" in self.__dict__ and self.sorting.isVisible()

    def _act(self, id: str) -> None:
        next(action for action in self.actions_here() if action.id == id).run()

    def show_calendar(self) -> None:
        """Show practice by day, and when something will be due."""
        ledger = self.session.ledger
        if ledger is None:
            self.session.notified.emit("Weighing what is due…")
            return
        from glimber.core.decide.calendar import calendar
        from glimber.core.sheets.week import weeks
        from glimber.store.cache.fonts import faces

        title = self.session.folio.settings.title
        self.host.show_drawing(weeks(title, calendar(ledger), self.session.now().astimezone().date(), faces()))

    def enter(self) -> None:
        self.refresh()
        self.panes()[0].setFocus()

    def leave(self) -> None:
        if self.play is not None:
            self.put_aside()

    def refresh(self) -> None:
        if self.play is None:
            self.setup.refresh()
            self.setup.resume_button.setVisible(unfinished_round(self.session) is not None)
        if self._last is not None and self.stack.currentWidget() is self.after:
            self.after.show_round(self._last, self._round, self.setup.minutes)

    def _enter_pressed(self) -> None:
        if self.play is not None:
            return
        if self.setup.list.hasFocus() and self.stack.currentWidget() is self.setup:
            self.setup.list.open()  # on a card it opens the case
        else:
            self.begin()

    def show_setup(self) -> None:
        self.stack.setCurrentWidget(self.setup)
        self.refresh()
        self.setup.begin_button.setFocus()

    # Rounds

    def begin(self) -> None:
        """Begin the round that is due."""
        from glimber.core.decide.next_round import pacing_of
        from glimber.core.decide.round_choice import replan_of

        chosen, ledger, options = self.setup.chosen(), self.session.ledger, self.setup.options
        selection = self.setup.selection
        if selection is not None and selection.run is not None:
            self.begin_run(selection.run)
            return
        if chosen is None or ledger is None or not chosen.due:
            return
        hits = {one.binding: 1 if options.sprint else one.hits for one in chosen.due}
        stated = self._has_its_id

        def usable(id: str) -> bool:
            return id in hits or stated(id)

        if options.sprint or options.minutes is None:
            self._begin(RoundPlan(list(hits), options, hits, replan=replan_of(chosen, ledger, options, usable)), "sprint")
        else:
            may_be_asked = [id for id in chosen.budget.ids if usable(id) and ledger.rows[id].command.learn != "never"]
            pacing = pacing_of(ledger, [*dict.fromkeys([*hits, *may_be_asked])], self.setup.added)
            self._begin(RoundPlan(list(hits), options, hits, pacing=pacing), "planned")

    def begin_run(self, id: str) -> None:
        """Begin a task run: its commands in order, as one."""
        from glimber.core.decide.round_choice import why_not
        from glimber.core.stats.runs import steps_of

        session, options = self.session, replace(self.setup.options, minutes=None, sprint=False)
        folio = self.setup.folio()
        run = folio.runs.get(id)
        if run is None:
            return
        rows = session.ledger.rows if session.ledger is not None else {}
        order, missing = steps_of(folio, run, session.computer, lambda one: why_not(folio, one, options) is None,
                                  lambda id: rows[id].count if id in rows else 0)  # fmt: skip
        if missing:
            session.notified.emit(
                f"{run.name} cannot be run so: {', '.join(missing)} has no binding that can be answered in this way."
            )
            return
        self._begin(RoundPlan(order, options, {id: order.count(id) for id in order}), "run", run=run.id)

    def exercise(self, ids: list[str]) -> None:
        """Two minutes of what the timing study needs: nothing waits, and as much as there is in the time."""
        from glimber.core.practice.round import sprinting
        from glimber.core.stats.plain_taps import with_plain_taps
        from glimber.core.stats.timing import EXERCISE_MINUTES

        own = self.setup.options
        options = replace(own, mode="press", deadline="none", minutes=EXERCISE_MINUTES, sprint=True,
                          hands="stand-in" if own.hands == "board" else own.hands)  # fmt: skip
        plan = RoundPlan(ids, options, dict.fromkeys(ids, 1), replan=sprinting(ids, EXERCISE_MINUTES))
        self._begin(plan, "sprint", seen=with_plain_taps)

    def _has_its_id(self, id: str) -> bool:
        """Return True if a binding may come into a round under way: its id need not be written into a file first."""
        binding = self.session.folio.bindings.get(id)
        return binding is not None and binding.given_id

    def begin_with(self, bindings: list[str], mode: AnswerMode = "press", seed: int | None = None,
                   hits: Mapping[str, int] | None = None) -> None:  # fmt: skip
        """Begin a round of these bindings, with the ``hits`` planned for each (else what they need)."""
        options = replace(self.setup.options, mode=mode, minutes=None, sprint=False)
        planned = planned_hits(self.session.ledger, bindings) if hits is None else hits
        self._begin(RoundPlan(bindings, options, planned), "picked", seed)

    def _begin(self, plan: RoundPlan, goal: Goal, seed: int | None = None, run: str | None = None,
               seen: Callable[[Folio], Folio] = lambda folio: folio) -> None:  # fmt: skip
        """Begin a round; the ids of its bindings are written into the files before their first try. ``seen``: the folio as the
        round is to see it."""
        from glimber.core.decide.round_choice import deadlines_of
        from glimber.core.practice import machine as drills
        from glimber.core.practice.round import running
        from glimber.store.practice.uuid7 import uuid7

        session, options, bindings = self.session, plan.options, plan.bindings
        try:
            device = self._device_of(options)  # before anything of the round is written
            if device is not None:
                os.close(device[0])
            session.keep_ids(set(bindings))
            changes, number = session.before_round()
            at = session.now()
            drill = drills.begin(
                seen(as_set(session.folio, changes)), replace(plan, deadlines=deadlines_of(session.ledger, options)),
                session.computer, changes, at, _chance.getrandbits(32) if seed is None else seed, uuid7,
            )  # fmt: skip
            whole = Round(
                drill.round_id, at, session.computer, drill.mode, tuple(bindings),
                hits=tuple(plan.hits[id] for id in bindings),
                minutes=options.minutes, goal=goal, cue=options.cue, deadline=options.deadline, strict=options.strict,
                hands=options.hands, run=run,
            )  # fmt: skip
            if run is not None:
                drill.state = running(bindings)
            session.record(whole)
        except StoreError as error:
            session.notified.emit(str(error))
            return
        self._start(drill, whole, number)

    def _start(self, drill: Drill, whole: Round, number: int) -> None:
        from glimber.ui.drill.play import RoundPlay

        try:
            device = self._device_of(drill.options)
        except StoreError as error:
            self.session.notified.emit(str(error))
            return
        self._round = whole
        self.after.begin()
        run = drill.folio.runs.get(whole.run or "")
        self.play = RoundPlay(self.session, drill, number, run.name if run is not None else "")
        if device is not None:
            self.play.listen_to(*device, lambda: self._device_gone(device[1]))
        self.play.ended.connect(self._ended)
        self.prompt.mixed = self._mixed
        self.stack.setCurrentWidget(self.prompt)
        self.host.take_whole_window(True)
        # Everything there is now outlives the round: the collector need not look through it between two keys.
        gc.collect()
        gc.freeze()
        self.session.hold_work(True)
        self.prompt.begin(self.play)

    def _device_of(self, options: Options) -> tuple[int, str] | None:
        """Return the device that is read in a round, opened, and which board it is. Raises StoreError."""
        from glimber.store.system.device import open_device

        if options.hands != "device" or options.mode != "press":
            return None
        if self.setup.device is None or options.device_board is None:
            raise StoreError("This round was begun on a board read as a device: choose it with B first")
        return open_device(self.setup.device.path), options.device_board

    def _device_gone(self, board: str) -> None:
        """Pause the round when the device that answers is gone."""
        self.put_aside()
        self.session.notified.emit(f"{board} is gone. The round is put aside: R resumes it when the board is back.")

    def _mixed(self) -> Mapping[tuple[str, str], int]:
        """Return what is truly struck for what."""
        from glimber.core.practice.lookalikes import mix_ups

        ledger = self.session.ledger
        rows = ledger.rows if ledger is not None else {}
        return mix_ups(self.session.folio, {id: row.slips.would_do for id, row in rows.items()})

    def resume(self) -> None:
        """Go on with the round that was put aside, from where it stood."""
        whole = unfinished_round(self.session)
        if whole is None or self.play is not None:
            return
        try:
            again = resume_round(self.session, self.setup, whole)
        except StoreError as error:
            self.session.notified.emit(str(error))
            return
        if again.ended:
            self.session.end_round(whole)
            self.refresh()
            return
        self._start(again.drill, whole, again.number)

    def put_aside(self) -> None:
        """Leave the round as it is; it can be resumed."""
        self._stop()
        self.session.rest_log()
        self.session.weigh_later()
        self.show_setup()

    def _stop(self) -> None:
        self.prompt.end()
        if self.play is not None:
            self.play.let_go()
        self.play = None
        self.host.take_whole_window(False)
        self.session.hold_work(False)

    def _ended(self) -> None:
        """Every binding has its clean hits: the round sheet."""
        play, whole = self.play, self._round
        assert play is not None and whole is not None
        self._stop()
        try:
            self.session.end_round(whole)
        except StoreError as error:
            self.session.notified.emit(str(error))
        self._last = play
        self.after.show_round(play, self._round, self.setup.minutes)
        self.stack.setCurrentWidget(self.after)
        self.after.say()
        self.again.setFocus()
