"""A round in play: what comes from the keyboard and the clock goes into the drill's machine, what it wants done is done here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PySide6.QtCore import QObject, QTimer, Signal

from glimber.core.edit.commands import edit_binding
from glimber.core.edit.edit import EditError
from glimber.core.engine.events import Event
from glimber.core.model.folio import Binding
from glimber.core.notation.keys import Spot
from glimber.core.practice.answer import Answer
from glimber.core.practice.inputs import (
    Aid,
    Commit,
    Committed,
    Counted,
    Effect,
    Ended,
    GaveUp,
    GoOn,
    Input,
    Named,
    Pause,
    Pointed,
    Refused,
    Show,
    Shown,
    Struck,
    Tell,
)
from glimber.core.practice.machine import Drill, step
from glimber.core.practice.mnemonics import proposed_reason
from glimber.core.practice.tries import Try
from glimber.store.faults import StoreError
from glimber.store.practice.location import LogBusyError
from glimber.ui.capture.devices import DeviceEar
from glimber.ui.capture.keystrokes import monotonic_ms
from glimber.ui.session.session import Session

HOLD_ESC_MS: Final = 800
_IDLE_MS: Final = 120
_FAR_MS: Final = 1e9
_AGAIN_MS: Final = 250


class RoundPlay(QObject):
    """One round. The view paints ``binding`` and ``answer``; it calls ``shown`` when a prompt's first paint has ended."""

    changed = Signal()
    lit = Signal()
    ended = Signal()

    def __init__(self, session: Session, drill: Drill, number: int, named: str = "") -> None:
        """``named``: what a task run is called."""
        super().__init__()
        self.session, self.drill, self.number, self.named = session, drill, number, named
        self.began_ms = monotonic_ms()
        self.grips: dict[str, list[float]] = {}
        self.reasons: dict[str, str] = {}
        """Suggested reasons that were taken in this round, by binding."""
        self._esc: Event | None = None
        self._ear: DeviceEar | None = None
        self._unlit: list[tuple[Try, int]] = []
        self._timer, self._idle, self._esc_timer, self._again = (QTimer(self) for _ in range(4))
        for timer in (self._timer, self._idle, self._esc_timer, self._again):
            timer.setSingleShot(True)
        self._again.setInterval(_AGAIN_MS)
        self._again.timeout.connect(self._try_again)
        self._timer.timeout.connect(lambda: self._do(None))
        self._idle.setInterval(_IDLE_MS)
        self._idle.timeout.connect(self._light)
        self._esc_timer.setInterval(HOLD_ESC_MS)
        self._esc_timer.timeout.connect(self._esc_held)

    # What the view shows

    @property
    def binding(self) -> Binding | None:
        return self.drill.binding

    @property
    def answer(self) -> Answer | None:
        """The slip that is shown."""
        return self.drill.answer

    @property
    def rests(self) -> bool:
        """Nothing that is struck is an answer: it is paused, or a try waits to be written."""
        return self.paused or bool(self.stuck)

    @property
    def paused(self) -> bool:
        return self.drill.paused

    @property
    def prompt_ms(self) -> float | None:
        return self.drill.prompt_ms

    @property
    def tries(self) -> tuple[Try, ...]:
        return self.drill.tries

    @property
    def stuck(self) -> str:
        """Why the present try could not be written; empty where nothing is in its way."""
        return self.drill.failure if self.drill.pending is not None else ""

    @property
    def waits_for_strike(self) -> bool:
        """A slip was made: the wanted one must be struck to go on."""
        return self.drill.forced

    def time_left(self, now_ms: float) -> float:
        """Share of the prompt's time that is left."""
        if self.prompt_ms is None or self.drill.forced or self.drill.options.deadline == "none":
            return 1.0
        return max(0.0, 1 - (now_ms - self.prompt_ms) / self.drill.deadline_ms)

    def may_use(self, key: str) -> bool:
        """Return True if F1 says "I do not know", or F2 asks for help: not where the key may be an answer."""
        if self.drill.mode in ("point", "name"):
            return True
        wanted = [self.drill.folio.bindings[lane.binding] for lane in self.drill.state.lanes]
        return not any(key in (str(b.trigger).split("+")[-1], *(b.spot.keys if isinstance(b.trigger, Spot) else ()))
                       for b in wanted)  # fmt: skip

    def seconds_left(self) -> float | None:
        """Return what is left of the round's minutes; None where it ends with its hits."""
        minutes = self.drill.options.minutes
        return None if minutes is None else max(0.0, minutes * 60 - self.drill.used_ms / 1000)

    def give_up(self) -> None:
        """The person does not know."""
        if not self.drill.forced:
            self._do(GaveUp())

    def help(self) -> None:
        """One step more of help, counted with the try."""
        self._do(Aid())

    @property
    def suggested_reason(self) -> str | None:
        """A reason that its key suggests for the binding that is shown and has none; None where there is nothing to take."""
        binding = self.binding
        if binding is None or not self.drill.showing or binding.reason or binding.id in self.reasons:
            return None
        return proposed_reason(self.drill.folio, binding)

    def take_reason(self) -> None:
        """Write the suggested reason to the binding."""
        binding, reason = self.binding, self.suggested_reason
        if binding is None or reason is None:
            return
        try:
            self.session.edit("take a reason", lambda folio: edit_binding(folio, binding.id, reason=reason))
        except (EditError, StoreError) as error:
            self.session.notified.emit(str(error))
            return
        self.reasons[binding.id] = reason
        self.changed.emit()

    def name(self, command: str, first_ms: float) -> None:
        """Take the command named for the lit key."""
        self._be_idle()
        self._do(Named(command, first_ms))

    # The run of a round

    def _do(self, what: Input, t: float | None = None) -> None:
        """Step the machine, and do what it wants done."""
        t = monotonic_ms() if t is None else t
        self.drill, effects = step(self.drill, what, t, self.session.now())
        for effect in effects:
            self._carry_out(effect)
        self._plan_tick()

    def _carry_out(self, effect: Effect) -> None:
        if isinstance(effect, Commit):
            self._commit(effect)
        elif isinstance(effect, Counted):
            self._unlit.append((effect.one, effect.count))
        elif isinstance(effect, Ended):
            self.ended.emit()
        elif isinstance(effect, Show | Tell):
            self.changed.emit()

    def _commit(self, commit: Commit) -> None:
        """Write a try to disk before anything of it is shown; show an error in the prompt's place."""
        try:
            self.session.record(*commit.records)
        except StoreError as error:
            self._do(Refused(str(error)))
            if isinstance(error, LogBusyError):
                self._again.start()
            return
        self._do(Committed())

    def _try_again(self) -> None:
        """Another program held the log: nobody waited for it, and it may have let go."""
        if self.stuck:
            self._do(GoOn())

    def begin(self) -> None:
        """Ask the first."""
        self._do(GoOn())

    def shown(self, at_ms: float) -> None:
        """The paint event that first shows the prompt has ended."""
        self._do(Shown(), at_ms)
        self._be_idle()

    def take(self, event: Event, late_ms: float) -> None:
        """A key event on our clock. Esc waits to see whether it is held."""
        self._be_idle()
        if self.rests:
            return
        if self._esc is not None and event.t - self._esc.t >= HOLD_ESC_MS:
            self._esc_held()  # by the clock of the keys: the timer may come late where the machine is busy
            return
        if event.key == "Escape" and event.kind == "down":
            self._esc = event
            self._esc_timer.start()
            return
        if event.key == "F1" and event.kind == "down" and self.may_use("F1") and not self.drill.forced:
            self.give_up()
            return
        if event.key == "F2" and event.kind == "down" and self.may_use("F2") and not self.drill.forced:
            if self.drill.showing:
                self.take_reason()
            else:
                self.help()
            return
        if self.drill.mode in ("point", "name"):
            return
        self._pass_esc()
        self._do(Struck(event, late_ms), event.t)

    def listen_to(self, descriptor: int, board: str, gone: Callable[[], object]) -> None:
        """Take the key events of a board read as a device until the round is left; ``gone`` is called where it ends before."""
        self._ear = DeviceEar(
            self.session.jobs, descriptor, lambda event, late_ms: self._take_of(board, event, late_ms), gone, self
        )

    def _take_of(self, board: str, event: Event, late_ms: float) -> None:
        self._be_idle()
        if not (self.rests or self.drill.mode in ("point", "name")):
            self._do(Struck(event, late_ms, board), event.t)

    def let_go(self) -> None:
        """The round is left: nothing is listened to, timed or lit any more. The next one begins while this one is still shown."""
        self._unlit.clear()
        for timer in (self._timer, self._idle, self._esc_timer, self._again):
            timer.stop()
        if self._ear is not None:
            self._ear.let_go()
            self._ear = None

    def _pass_esc(self) -> None:
        self._esc_timer.stop()
        if self._esc is not None:
            event, self._esc = self._esc, None
            self._do(Struck(event), event.t)

    def _esc_held(self) -> None:
        self.pause("paused")

    def point(self, key: str) -> None:
        """A key of the blank board was clicked."""
        self._do(Pointed(key))

    def _plan_tick(self) -> None:
        """Wake when a gesture is due to be decided, or at the deadline."""
        self._timer.stop()
        due = self.drill.wake_ms()
        wait = due - monotonic_ms() if due is not None else _FAR_MS
        if wait < _FAR_MS:
            self._timer.start(max(1, round(wait) + 1))

    def _light(self) -> None:
        """The grip at the moment of the oldest hit that is not lit yet, for its stroke."""
        from glimber.core.stats.measures import grip_now

        one, count = self._unlit.pop(0)
        ledger = self.session.ledger
        if ledger is not None and one.binding in ledger.rows:
            grip = grip_now(ledger, one.binding, self.tries[:count], one.at)
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
        self._forget_esc()
        self._do(Pause(why))

    def _forget_esc(self) -> None:
        """An Esc that waits is none any more: its up may come while nothing is heard."""
        self._esc_timer.stop()
        self._esc = None

    def go_on(self) -> None:
        """Go on after a pause, or try again what could not be written."""
        self._forget_esc()
        self._do(GoOn())
