"""A round in play: key events to the judge, the judge's answers to the log and to the view."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.drill.answer import Answer, Question
from glimber.core.drill.cues import CueWish
from glimber.core.drill.judge import Judge, judge_pointed
from glimber.core.drill.machine import Drill
from glimber.core.drill.tries import KeyEvents, Try
from glimber.core.engine.events import Event
from glimber.core.engine.listen import BoardListener, KeyboardListener, Listener
from glimber.core.engine.standin_keys import board_keys
from glimber.core.folio.folio import Binding
from glimber.core.notation.keys import Spot
from glimber.store.faults import StoreError
from glimber.ui.keystrokes import STALL_MS, monotonic_ms
from glimber.ui.session import Session

HOLD_ESC_MS = 800
_IDLE_MS = 120
_NO_DEADLINE_MS = 1e12


class RoundPlay(QObject):
    """One round. The view paints ``binding`` and ``answer``; it calls ``shown`` when a prompt's first paint has ended."""

    changed = Signal()
    lit = Signal()
    ended = Signal()
    failed = Signal(str)

    def __init__(self, session: Session, drill: Drill, number: int, cue: CueWish = "name") -> None:
        super().__init__()
        self.session, self.drill, self.number, self.cue = session, drill, number, cue
        self.answer: Answer | None = None
        self.paused = False
        self.began_ms = monotonic_ms()
        self.prompt_ms: float | None = None
        self.tries: list[Try] = []
        self.grips: dict[str, list[float]] = {}
        self._judge: Judge | None = None
        self._question: Question | None = None
        self._listeners: dict[str | None, Listener] = {None: KeyboardListener()}
        self._events: list[Event] = []
        self._esc: Event | None = None
        self._void_why: str | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._tick)
        self._unlit: list[tuple[Try, int]] = []
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.setInterval(_IDLE_MS)
        self._idle.timeout.connect(self._light)
        self._esc_timer = QTimer(self)
        self._esc_timer.setSingleShot(True)
        self._esc_timer.setInterval(HOLD_ESC_MS)
        self._esc_timer.timeout.connect(self._esc_held)

    # What the view shows

    @property
    def binding(self) -> Binding | None:
        return self.drill.binding

    @property
    def waits_for_strike(self) -> bool:
        """A slip was made: the wanted one must be struck to go on."""
        return self.drill.forced

    def time_left(self, now_ms: float) -> float:
        """Share of the prompt's time that is left."""
        if self.prompt_ms is None or self.drill.forced:
            return 1.0
        return max(0.0, 1 - (now_ms - self.prompt_ms) / self.drill.deadline_ms)

    def may_give_up(self) -> bool:
        """Whether F1 says "I do not know": not where F1 may be an answer."""
        wanted = [self.drill.folio.bindings[lane.binding] for lane in self.drill.state.lanes]
        return not any("F1" in (str(b.trigger).split("+")[-1], *(b.spot.keys if isinstance(b.trigger, Spot) else ()))
                       for b in wanted)  # fmt: skip

    # The run of a round

    def next_prompt(self) -> None:
        """Ask the next, or end the round."""
        self.answer = None
        if self.drill.done:
            self.ended.emit()
            return
        self.drill.next_prompt()
        self._prepare()
        self.changed.emit()

    def _prepare(self) -> None:
        """A fresh judge; its clock starts when the prompt has been painted."""
        question = self.drill.question(self.session.now())
        if self.drill.forced:
            question = replace(question, deadline_ms=_NO_DEADLINE_MS, habits=())
        self._question, self._judge, self.prompt_ms = question, None, None
        self._events, self._void_why = [], None

    def shown(self, at_ms: float) -> None:
        """The paint event that first shows the prompt has ended."""
        if self.prompt_ms is not None or self._question is None or self.paused:
            return
        self.prompt_ms = at_ms
        question = self._question
        listener = self._listener(question.on_board, question.program, at_ms)
        self._judge = Judge(question, listener, at_ms)
        self._plan_tick()
        self._be_idle()

    def _listener(self, board: str | None, program: str | None, t: float) -> Listener:
        if board not in self._listeners:
            assert board is not None
            self._listeners[board] = BoardListener(self.drill.folio, board, program)
        elif board is not None:
            self._listeners[board].feed(Event(t, "front", program or ""))
        return self._listeners[board]

    def take(self, event: Event, late_ms: float) -> None:
        """A key event on our clock. Esc waits to see whether it is held."""
        self._be_idle()
        if self.paused:
            return
        if late_ms > STALL_MS:
            self._void_why = "the application stalled"
        if event.key == "Escape":
            if event.kind == "down":
                self._esc = event
                self._esc_timer.start()
            else:
                self._pass_esc()
                self._pass(event)
            return
        if event.key == "F1" and event.kind == "down" and self.may_give_up() and not self.drill.forced:
            self.give_up()
            return
        self._pass_esc()
        self._pass(event)

    def _pass_esc(self) -> None:
        self._esc_timer.stop()
        if self._esc is not None:
            event, self._esc = self._esc, None
            self._pass(event)

    def _esc_held(self) -> None:
        self._esc = None
        self.pause("paused")

    def _pass(self, event: Event) -> None:
        """To every listener, so that what is held stays known; to the judge on the one that answers."""
        answering = self._question.on_board if self._question is not None else None
        answer: Answer | None = None
        for board, listener in list(self._listeners.items()):
            mapped = self._mapped(board, event)
            if mapped is None:
                continue
            if board == answering and self._judge is not None:
                self._events.append(mapped)
                answer = self._judge.feed(mapped) or answer
            else:
                listener.feed(mapped)
        if answer is not None:
            self._answered(answer)
        else:
            self._plan_tick()

    def _mapped(self, board: str | None, event: Event) -> Event | None:
        """The event in a board's own keys; None for a place that acts for none of them."""
        if board is None:
            return event
        key = board_keys(self.drill.folio.boards[board]).get(event.key)
        return None if key is None else replace(event, key=key)

    def point(self, key: str) -> None:
        """A key of the blank board was clicked."""
        if self._question is None or self.prompt_ms is None or self.paused:
            return
        self._answered(judge_pointed(self._question, key, monotonic_ms() - self.prompt_ms))

    def give_up(self) -> None:
        """The person does not know."""
        if self._judge is not None and not self.drill.forced:
            self._answered(self._judge.give_up())

    def _plan_tick(self) -> None:
        """Wake when a gesture is due to be decided, or at the deadline."""
        self._timer.stop()
        if self._judge is None or self._question is None or self.prompt_ms is None:
            return
        due = self.prompt_ms + self._question.deadline_ms
        machine = getattr(self._judge.listener, "machine", None)
        pending = machine.pending_until() if machine is not None else None
        if pending is not None:
            due = min(due, pending)
        wait = due - monotonic_ms()
        if wait < 1e9:
            self._timer.start(max(1, round(wait) + 1))

    def _tick(self) -> None:
        if self._judge is None or self.paused:
            return
        answer = self._judge.advance(monotonic_ms())
        if answer is not None:
            self._answered(answer)
        else:
            self._plan_tick()

    def _answered(self, answer: Answer) -> None:
        """Commit the try before anything is shown of it."""
        self._timer.stop()
        question, was_forced = self._question, self.drill.forced
        assert question is not None
        at = self.session.now()
        one = self.drill.record(answer, at, self._void_why)
        events = tuple((event.t, event.kind, event.key) for event in self._events)
        kept = KeyEvents(self.drill.new_id(at), self.drill.round_id, at, question.on_board, events)
        try:
            self.session.record(one, kept)
        except StoreError as error:
            self.pause(None)
            self.failed.emit(str(error))
            return
        self.tries.append(one)
        self._judge = self._question = None
        if one.outcome == "void" or answer.outcome == "hit":
            if one.first and one.outcome == "hit":
                self._unlit.append((one, len(self.tries)))
            self.next_prompt()
            return
        self.answer = answer if not was_forced else self.answer
        self._prepare()
        self.changed.emit()

    def _light(self) -> None:
        """The grip at the moment of the oldest hit that is not lit yet, for its stroke."""
        from glimber.core.weigh.measures import reweigh

        one, count = self._unlit.pop(0)
        ledger = self.session.ledger
        if ledger is not None and one.binding in ledger.rows:
            grip = reweigh(ledger, one.binding, self.tries[:count], one.at).grip
            self.grips.setdefault(one.binding, []).append(grip)
            self.lit.emit()
        self._be_idle()

    def _be_idle(self) -> None:
        """Strokes are lit while the person thinks: any key puts it off, so that none waits for it."""
        if self._unlit:
            self._idle.start()

    # Interruptions

    def pause(self, why: str | None) -> None:
        """Stop the clock. A prompt under way is void, with its reason."""
        if self.paused:
            return
        self.paused = True
        self._timer.stop()
        self._esc_timer.stop()
        if why is not None and self.prompt_ms is not None and not self.drill.forced and self.drill.binding is not None:
            one = self.drill.record(Answer("blank"), self.session.now(), why)
            try:
                self.session.record(one)
                self.tries.append(one)
            except StoreError as error:
                self.failed.emit(str(error))
        self._judge, self.prompt_ms = None, None
        self._listeners = {None: KeyboardListener()}
        self.changed.emit()

    def go_on(self) -> None:
        """Resume after a pause."""
        if not self.paused:
            return
        self.paused = False
        if self.drill.forced:
            self._prepare()
            self.changed.emit()
        else:
            self.next_prompt()
