"""The drill as a machine: ``step(state, what came, when) → state, effects``. One loop for the window, the stand-in and tests.

Nothing here reads a clock or writes anything: moments and ids come with the calls, and what is to be done comes back as
effects. A try is an effect: it is committed first, and only the answer that it was (``Committed``) lets the round go on. Where
it could not be written (``Refused``) the prompt stays the present one and the same record waits to be tried again.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from math import inf
from random import Random
from typing import Final

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.listen import BoardListener, KeyboardListener, Listener, SpellListener
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot
from glimber.core.practice import round as rounds
from glimber.core.practice.aids import aids_of
from glimber.core.practice.answer import Answer, Question, habits_of
from glimber.core.practice.cues import Cue, cue_of
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
from glimber.core.practice.judge import Judge, judge_named, judge_pointed
from glimber.core.practice.options import NO_ANSWER_MS, Options
from glimber.core.practice.pacing import Pacing, Prompt
from glimber.core.practice.round_plan import Replan, RoundPlan
from glimber.core.practice.tries import AnswerMode, Change, KeyEvents, Try

NewId = Callable[[datetime], str]
STALL_MS: Final = 50.0
"""A key event that waited longer than this for the application makes its try void (docs/judging.md, Times)."""
_NO_DEADLINE_MS: Final = inf
NO_ANSWER: Final = f"nothing came for {NO_ANSWER_MS / 1000:.0f} s"


class Drill(Struct):
    """A round under way: a value, which ``step`` leaves as it is. ``folio`` stays as it was at the beginning.

    ``forced``: a slip was made, and the wanted one must be struck to go on. ``answer``: the slip that is shown. ``deadlines``:
    in ms, of bindings whose own are not the usual one. ``used_ms``: the time its prompts took, pauses aside. ``pacing`` chooses
    the prompts of a round that ends with its minutes; ``asked`` is the present one, which is ``showing`` where its binding is
    shown and struck once before it is asked for.
    """

    folio: Folio
    round_id: str
    computer: str
    changes: Sequence[Change]
    seed: int
    new_id: NewId
    state: rounds.RoundState
    options: Options = Options()
    deadlines: Mapping[str, float] = field(default_factory=dict)
    replan: Replan | None = None
    pacing: Pacing | None = None
    asked: Prompt | None = None
    showing: bool = False
    over: bool = False
    used_ms: float = 0.0
    asked_ms: float = 0.0
    tries: tuple[Try, ...] = ()
    forced: bool = False
    aids: int = 0
    answer: Answer | None = None
    paused: bool = False
    failure: str = ""
    prompt_ms: float | None = None
    question: Question | None = None
    pending: tuple[Commit, Try, Answer] | None = None
    _judge: Judge | None = None
    _listeners: Mapping[str | None, Listener] = field(default_factory=lambda: {None: KeyboardListener()})
    _events: tuple[Event, ...] = ()
    _void_why: str | None = None
    _used_to: float = -inf

    @property
    def mode(self) -> AnswerMode:
        return self.options.mode

    @property
    def deadline_ms(self) -> float:
        """Return how long the present prompt waits for an answer."""
        return self.deadlines.get(self.state.asked or "", self.options.deadline_ms)

    @property
    def most_aids(self) -> int:
        """Return how many steps of help there are for the present prompt."""
        return len(aids_of(self.folio, self.binding)) if self.binding is not None else 0

    @property
    def binding(self) -> Binding | None:
        return self.folio.bindings.get(self.state.asked) if self.state.asked else None

    @property
    def done(self) -> bool:
        ended = self.state.done if self.pacing is None else self.over
        return ended and not self.forced and self.pending is None

    def cue(self, binding: Binding) -> Cue:
        """Return what the present prompt shows of its binding."""
        if self.mode == "name":
            return Cue("place", "")
        command = self.folio.command_of(binding)
        assert command is not None
        return cue_of(command, binding, self.options.cue, self.state.nth)

    def wake_ms(self) -> float | None:
        """Return the time at which something is due if no key comes: a gesture to be decided, or the deadline; None where nothing
        is."""
        if self.question is None or self.prompt_ms is None or self.paused or self.pending is not None:
            return None
        due = self.prompt_ms + self.question.deadline_ms
        if self._judge is None:
            return due if self.mode == "name" and due < inf else None
        pending = self._judge.listener.pending_until()
        waits = self._judge.waits_until()
        soonest = min([due, *(t for t in (pending, waits) if t is not None)])
        return soonest if soonest < inf else None

    def copy(self) -> Drill:
        """Return another one in the same state; what happens to the one does not happen to the other."""
        listeners = {board: listener.copy() for board, listener in self._listeners.items()}
        answering = self.question.on_board if self.question is not None else None
        judge = None if self._judge is None else self._judge.copy(listeners[answering])
        return replace(self, _listeners=listeners, _judge=judge)


def begin(
    folio: Folio, plan: RoundPlan, computer: str, changes: Sequence[Change], at: datetime, seed: int, new_id: NewId
) -> Drill:
    """Return a drill of a plan's bindings, before its first prompt: ``step`` it with ``GoOn``."""
    state, listeners = rounds.begin(plan.bindings, plan.hits), _listeners_of(plan.options.mode)
    return Drill(folio, new_id(at), computer, changes, seed, new_id, state, plan.options, plan.deadlines, plan.replan,
                 plan.pacing, paused=True, _listeners=listeners)  # fmt: skip


def resume(drill: Drill) -> Drill:
    """Return a drill made of a round that was put aside, ready for ``GoOn``; the time its tries took counts as used."""
    drill = replace(
        drill, paused=True, used_ms=rounds.seconds_of(drill.tries) * 1000, _listeners=_listeners_of(drill.mode)
    )
    return replace(drill, state=_replanned(drill))


def _listeners_of(mode: AnswerMode) -> dict[str | None, Listener]:
    return {None: SpellListener() if mode == "spell" else KeyboardListener()}


def step(drill: Drill, what: Input, t: float, at: datetime) -> tuple[Drill, tuple[Effect, ...]]:
    """Return the drill after something came at ``t`` ms (monotonic) and ``at``, and what is to be done; ``drill`` stays as it
    was."""
    drill = drill.copy()
    if isinstance(what, Committed):
        return drill, tuple(_committed(drill, at))
    if isinstance(what, Aid):
        return drill, tuple(_aid(drill))
    if isinstance(what, Refused):
        drill.failure = what.why
        return drill, (Tell(what.why),)
    if isinstance(what, Pause):
        _use(drill, t)
        return drill, tuple(_pause(drill, what.why, at))
    if isinstance(what, GoOn):
        return drill, tuple(_go_on(drill, at))
    if isinstance(what, Shown):
        _shown(drill, t)
        return drill, ()
    answer: Answer | None = None
    if isinstance(what, Struck):
        answer = _struck(drill, what)
    elif drill.paused or drill.pending is not None or drill.question is None or drill.prompt_ms is None:
        return drill, ()
    elif isinstance(what, Pointed):
        answer = judge_pointed(drill.question, what.key, t - drill.prompt_ms)
    elif isinstance(what, Named):
        first = what.first_ms if what.first_ms is not None else t
        answer = judge_named(drill.question, what.command, first - drill.prompt_ms, t - drill.prompt_ms)
    elif isinstance(what, GaveUp):
        answer = _given_up(drill) if not (drill.forced or drill.showing) else None
    else:
        answer = _waited(drill, t)
    if answer is None:
        return drill, ()
    _use(drill, t)
    return drill, tuple(_answered(drill, answer, at))


def _given_up(drill: Drill) -> Answer | None:
    if drill._judge is not None:
        return drill._judge.give_up()
    assert drill.question is not None
    return judge_named(drill.question, None, None, None) if drill.mode in ("name", "point") else None


def _waited(drill: Drill, t: float) -> Answer | None:
    """Return what time alone brings: a gesture that was open, or the deadline; without a deadline a minute of nothing is no
    answer."""
    assert drill.question is not None and drill.prompt_ms is not None
    if drill._judge is not None:
        answer = drill._judge.advance(t)
    elif drill.mode == "name" and t - drill.prompt_ms >= drill.question.deadline_ms:
        answer = judge_named(drill.question, None, None, None)
    else:
        answer = None
    if answer is not None and answer.outcome == "blank" and drill.options.deadline == "none":
        drill._void_why = NO_ANSWER
    return answer


def _aid(drill: Drill) -> list[Effect]:
    """Return one step more of help, counted with the try; not where the way is shown anyway after a slip."""
    ready = drill.prompt_ms is not None and not (drill.forced or drill.showing) and drill.pending is None and not drill.paused
    if not ready or drill.aids >= drill.most_aids:
        return []
    drill.aids += 1
    return [Show()]


def _use(drill: Drill, t: float) -> None:
    """The time of the present prompt is used up to now."""
    if drill.prompt_ms is not None:
        drill.used_ms += max(0.0, t - max(drill.prompt_ms, drill._used_to))
        drill._used_to = t


# Prompts


def _next(drill: Drill, at: datetime) -> list[Effect]:
    """Ask for the next binding, or end the round."""
    drill.answer = None
    if drill.pacing is not None:
        return _next_paced(drill, at)
    if drill.state.order and drill.state.nth >= len(drill.state.order):
        drill.state = replace(drill.state, asked=None)
    if drill.done:
        drill.question = drill._judge = None
        return [Ended()]
    # A draw of its own for each prompt: the same state always goes on in the same way.
    drill.state = rounds.ask(drill.state, Random(f"{drill.seed} {drill.state.nth}"))
    drill.forced, drill.aids = False, 0
    _prepare(drill, at)
    return [Show()]


def _next_paced(drill: Drill, at: datetime) -> list[Effect]:
    """Ask for what the pacing chooses, or show it first; end the round when its minutes are used."""
    assert drill.pacing is not None
    minutes = drill.options.minutes
    over = minutes is not None and drill.used_ms >= minutes * 60_000
    drill.asked = None if over else drill.pacing.next()
    if drill.asked is None:
        drill.over, drill.question, drill._judge = True, None, None
        drill.state = replace(drill.state, asked=None)
        return [Ended()]
    drill.state = rounds.ask_for(drill.state, drill.asked.binding)
    # A name cannot be asked for by showing it: there it is shown after a wrong answer.
    drill.showing = drill.asked.shown and drill.mode != "name"
    drill.forced, drill.aids, drill.asked_ms = False, 0, drill.used_ms
    _prepare(drill, at)
    return [Show()]


def _paced(drill: Drill, one: Try | None) -> None:
    """Let the pacing know what became of the present prompt; None for one that was shown."""
    if drill.pacing is None or drill.asked is None:
        return
    took_s = (drill.used_ms - drill.asked_ms) / 1000
    if one is None:
        drill.pacing = drill.pacing.after(drill.asked, "hit", None, took_s)
        return
    asked = replace(drill.asked, binding=one.binding, shown=False)
    outcome = "blank" if one.outcome == "hit" and one.aids else one.outcome
    drill.pacing = drill.pacing.after(asked, outcome, one.slip, took_s)


def _prepare(drill: Drill, at: datetime) -> None:
    """A fresh question; its clock starts when the prompt has been painted."""
    binding = drill.binding
    assert binding is not None
    # The board itself is heard as what it sends; a stand-in, a device and a drawn board as their own keys.
    by_spot = isinstance(binding.trigger, Spot) and (drill.options.hands != "board" or drill.mode in ("point", "name"))
    board = binding.spot.board if by_spot else None
    habits = () if drill.forced or drill.showing else habits_of(drill.folio, binding, drill.changes, drill.computer, at)
    drill.question = Question(
        drill.folio, binding, computer=drill.computer, on_board=board, strict=drill.options.strict,
        deadline_ms=_NO_DEADLINE_MS if drill.forced or drill.showing else drill.deadline_ms, habits=habits,
    )  # fmt: skip
    drill._judge, drill.prompt_ms = None, None
    drill._events, drill._void_why = (), None


def _shown(drill: Drill, t: float) -> None:
    question = drill.question
    if drill.prompt_ms is not None or question is None or drill.paused or drill.pending is not None:
        return
    drill.prompt_ms = t
    if drill.mode == "name":
        return
    board = question.on_board
    if board not in drill._listeners:
        assert board is not None
        drill._listeners = {**drill._listeners, board: BoardListener(drill.folio, board, question.program)}
    elif board is not None:
        drill._listeners[board].feed(Event(t, "front", question.program or ""))
    drill._judge = Judge(question, drill._listeners[board], t)


# Answers


def _struck(drill: Drill, what: Struck) -> Answer | None:
    """To every listener, so that what is held stays known; to the judge on the one that answers."""
    if what.late_ms > STALL_MS:
        drill._void_why = "the application stalled"
    answering = drill.question.on_board if drill.question is not None else None
    answer: Answer | None = None
    for board, listener in drill._listeners.items():
        event = _mapped(drill, board, what)
        if event is None:
            continue
        if board == answering and drill._judge is not None and drill.pending is None and not drill.paused:
            drill._events = (*drill._events, event)
            answer = drill._judge.feed(event)
        else:
            listener.feed(event)
    return answer


def _mapped(drill: Drill, board: str | None, what: Struck) -> Event | None:
    """Return the event in a board's own keys; None for a place that acts for none of them, or another board's event. Where a
    board is there as a device, nothing stands in for it."""
    event, options = what.event, drill.options
    if what.board is not None or board is None:
        return event if board == what.board else None
    if options.hands == "device" and board == options.device_board:
        return None
    key = board_keys(drill.folio.boards[board]).get(event.key)
    return None if key is None else replace(event, key=key)


def _answered(drill: Drill, answer: Answer, at: datetime) -> list[Effect]:
    """Return the try of an answer, to be committed before anything is shown of it."""
    question = drill.question
    assert question is not None
    if drill.showing:
        return _studied(drill, answer, at)
    one = _try_of(drill, answer, at, drill._void_why)
    events = tuple((event.t, event.kind, event.key) for event in drill._events)
    kept = KeyEvents(drill.new_id(at), drill.round_id, at, question.on_board, events)
    commit = Commit((one, kept))
    drill.pending = (commit, one, answer)
    drill._judge = None
    return [commit]


def _studied(drill: Drill, answer: Answer, at: datetime) -> list[Effect]:
    """A binding that is shown was struck: it is no try. What was struck wrong stays shown."""
    if answer.outcome == "hit":
        drill.showing, drill._judge = False, None
        _paced(drill, None)
        return _next(drill, at)
    drill.answer = answer if answer.outcome == "slip" else drill.answer
    _prepare(drill, at)
    return [Show()]


def _try_of(drill: Drill, answer: Answer, at: datetime, void_why: str | None) -> Try:
    binding = drill.binding
    assert binding is not None
    first = not drill.forced
    credited = answer.credited if answer.outcome == "hit" else None
    struck = drill.folio.bindings[credited] if credited else binding
    outcome = "void" if void_why else answer.outcome
    cold = first and not any(one.binding == struck.id and one.first and one.outcome != "void" for one in drill.tries)
    return Try(
        id=drill.new_id(at), round=drill.round_id, nth=drill.state.nth, at=at, computer=drill.computer,
        binding=struck.id, trigger=str(struck.trigger), mode=drill.mode, strict=drill.options.strict, outcome=outcome,
        slip=answer.slip if outcome == "slip" else None, pressed=None if answer.pressed is None else str(answer.pressed),
        would_do=answer.would_do, offset_u=answer.offset_u, recall_ms=answer.recall_ms, motor_ms=answer.motor_ms,
        deadline_ms=drill.deadline_ms, first=first, cold=cold, aids=drill.aids, void_why=void_why,
        cue=drill.cue(binding).kind,
    )  # fmt: skip


def _committed(drill: Drill, at: datetime) -> list[Effect]:
    """The present try is written: now it counts, and the round goes on."""
    if drill.pending is None:
        return []
    _, one, answer = drill.pending
    drill.pending, drill.failure = None, ""
    drill.tries = (*drill.tries, one)
    was_forced = drill.forced
    if one.outcome == "void":
        # A step of a task run is asked again; elsewhere another prompt may come first.
        drill.state = replace(drill.state, asked=None, nth=drill.state.nth - bool(drill.state.order))
    elif one.first:
        # A hit with help counts for no planned one, and the prompt comes back as after a slip.
        clean = one.outcome == "hit" and not one.aids
        drill.state = rounds.answered(drill.state, clean, answer.credited if clean else None)
        drill.state = _replanned(drill)
        _paced(drill, one)
        drill.forced = one.outcome != "hit"
    elif one.outcome == "hit":
        drill.forced = False
    if drill.paused:
        return [Show()]
    if one.outcome in ("void", "hit"):
        counted: list[Effect] = [Counted(one, len(drill.tries))] if one.counts and one.outcome == "hit" else []
        return [*counted, *_next(drill, at)]
    drill.answer = drill.answer if was_forced else answer
    _prepare(drill, at)
    return [Show()]


def _replanned(drill: Drill) -> rounds.RoundState:
    """Return the round with its plan made again from what is known now."""
    if drill.replan is None or drill.pacing is not None:
        return drill.state
    lanes = {lane.binding for lane in drill.state.lanes}
    mine = [one for one in drill.tries if one.binding in lanes]
    return drill.state.with_hits(drill.replan(mine, drill.used_ms / 1000))


# Interruptions


def _pause(drill: Drill, why: str | None, at: datetime) -> list[Effect]:
    """Stop the clock. A prompt under way is void, with its reason; what is held is not known any more."""
    if drill.paused:
        return []
    under_way = drill.prompt_ms is not None and drill.pending is None and drill.binding is not None
    running = under_way and not (drill.forced or drill.showing)
    drill.paused, drill._judge, drill.prompt_ms = True, None, None
    drill._listeners = _listeners_of(drill.mode)
    if why is None or not running:
        return [Show()]
    one = _try_of(drill, Answer("blank"), at, why)
    commit = Commit((one,))
    drill.pending = (commit, one, Answer("blank"))
    return [commit]


def _go_on(drill: Drill, at: datetime) -> list[Effect]:
    if drill.pending is not None:
        return [drill.pending[0]]  # the same record again
    if not drill.paused:
        return []
    drill.paused = False
    if drill.forced or drill.showing:
        _prepare(drill, at)
        return [Show()]
    return _next(drill, at)
