"""Judging an answer: hit or slip, which kind of slip, and what to say. The rules are those of docs/judging.md."""

from __future__ import annotations

import copy
from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.listen import BoardListener, KeyboardListener, Listener, Unit
from glimber.core.model.board import Board
from glimber.core.model.folio import Binding, Folio, Layer
from glimber.core.model.meaning import meanings
from glimber.core.notation import keys
from glimber.core.notation.keycodes import MODIFIERS
from glimber.core.notation.keys import Spot, Strike, Trigger, chord_of, strikes_of
from glimber.core.practice.answer import Answer, CannotAnswer, Question
from glimber.core.practice.sentence import words_of, words_of_name
from glimber.core.practice.slip_kinds import SlipKind


def listener_for(question: Question) -> Listener:
    """Return what hears the answer to a question."""
    if question.on_board is not None:
        return BoardListener(question.folio, question.on_board, question.program)
    return KeyboardListener()


class Judge:
    """Judges one answer as it comes. ``feed`` and ``advance`` return the Answer once there is one."""

    def __init__(
        self, question: Question, listener: Listener, since: float = 0.0, first_down: float | None = None
    ) -> None:
        self.question, self.listener, self.since = question, listener, since
        folio, wanted = question.folio, question.wanted
        command = folio.command_of(wanted)
        self._meanings = meanings(folio, question.program, command.context if command else None, question.computer)
        sent = folio.sent_by(wanted)
        self._target: tuple[Strike, ...] = ()
        if sent is not None:
            self._target = strikes_of(sent, folio.legend, folio.bundles) or ()
        self._by_spot = isinstance(wanted.trigger, Spot) and question.on_board == wanted.trigger.board
        if not self._by_spot and not self._target:
            raise CannotAnswer(
                f"{wanted.trigger} sends nothing that the ordinary keyboard can show; "
                "point at it, or answer on the stand-in board"
            )
        self._habit_strikes = [
            (habit, () if isinstance(habit.trigger, Spot) else
             strikes_of(habit.trigger, folio.legend, folio.bundles) or ())
            for habit in question.habits
        ]  # fmt: skip
        self._units: list[Unit] = []
        self._first_down = first_down

    def copy(self, listener: Listener) -> Judge:
        """Return another judge of the same answer as far as it has come, on a listener of its own."""
        other = copy.copy(self)
        other.listener, other._units = listener, list(self._units)
        return other

    def waits_until(self) -> float | None:
        """Return the time at which a step that completes one sequence and begins a longer one will count, in ms."""
        if not self._units or self._by_spot or self._meanings.read(self._seen()).state != "both":
            return None
        return self._units[-1].t + self.question.folio.settings.timing.sequence_ms

    def feed(self, event: Event) -> Answer | None:
        """Take one key event; times are on the listener's clock."""
        answer = self._take(self.listener.advance(event.t)) or self._over(event.t)
        if answer is not None:
            self.listener.feed(
                event
            )  # it is no part of the answer, but the listener lives on and must know what is held
            return answer
        if event.kind in ("down", "turn") and self._first_down is None and event.t >= self.since:
            self._first_down = event.t
        return self._take(self.listener.feed(event))

    def advance(self, t: float) -> Answer | None:
        """Let time pass: a waiting gesture may be decided, or the deadline be reached."""
        return self._take(self.listener.advance(t)) or self._over(t)

    def settle(self) -> Answer:
        """Time runs on until nothing is pending, then to the deadline."""
        return self._take(self.listener.settle()) or self._expired()

    def give_up(self) -> Answer:
        """The person says they do not know."""
        return self._expired()

    def _over(self, t: float) -> Answer | None:
        waited = self._complete_by_waiting(t)
        if waited is not None:
            return waited
        return self._expired() if t - self.since >= self.question.deadline_ms and not self._deciding() else None

    def _deciding(self) -> bool:
        pending = self.listener.pending_until()
        return pending is not None and pending - self.since < self.question.deadline_ms

    def _complete_by_waiting(self, t: float) -> Answer | None:
        """A step that completes one sequence and begins a longer one counts after ``sequence_ms``."""
        due = self.waits_until()
        return self._judge_strikes(due) if due is not None and t >= due else None

    def _take(self, units: list[Unit]) -> Answer | None:
        for unit in units:
            if not 0 <= unit.down - self.since < self.question.deadline_ms:
                continue  # struck before the prompt could be seen, or too late
            if self._by_spot:
                if not unit.modifier:
                    return self._judge_spot(unit)
            elif answer := self._take_strikes(unit):
                return answer
        return None

    def _take_strikes(self, unit: Unit) -> Answer | None:
        place = len(self._seen())
        if unit.modifier and self._target[place : place + 1] != unit.strikes:
            return None
        self._units.append(unit)
        seen = self._seen()
        if not unit.strikes:
            return self._judge_strikes(unit.t)
        if seen == self._target or any(strikes == seen for _, strikes in self._habit_strikes):
            return self._judge_strikes(unit.t)
        begins = [self._target, *(strikes for _, strikes in self._habit_strikes)]
        if any(strikes[: len(seen)] == seen for strikes in begins):
            return None
        if self._meanings.read(seen).state in ("beginning", "both"):
            return None
        return self._judge_strikes(unit.t)

    def _seen(self) -> tuple[Strike, ...]:
        return tuple(strike for unit in self._units for strike in unit.strikes)

    # Times

    def _timed(self, answer: Answer, t: float) -> Answer:
        first = self._first_down if self._first_down is not None else t
        steps = tuple(unit.t - first for unit in self._units) if len(self._units) > 1 else ()
        return replace(answer, recall_ms=first - self.since, motor_ms=max(0.0, t - first), steps_ms=steps)

    # Answers

    def _expired(self) -> Answer:
        """Nothing more came: a blank, or a sequence left unfinished."""
        question = self.question
        seen = self._seen()
        if seen and self._meanings.read(seen).state == "both":
            return self._judge_strikes(self._units[-1].t)
        if seen:
            answer = Answer("slip", "unfinished", _as_trigger(question.folio, seen))
            if seen != self._target[: len(seen)]:
                return self._judge_strikes(self._units[-1].t)
            answer = self._timed(replace(answer, done=len(seen)), self._units[-1].t)
        else:
            answer = Answer("blank")
        return self._worded(answer)

    def _worded(self, answer: Answer) -> Answer:
        return replace(answer, words=words_of(self.question, answer))

    def _judge_strikes(self, t: float) -> Answer:
        """An answer of which only what the computer sees is known."""
        question, seen = self.question, self._seen()
        folio, wanted = question.folio, question.wanted
        would_do = self._meanings.command(seen)
        pressed = _as_trigger(folio, seen) if seen else self._units[-1].spot
        answer = Answer("slip", "stray", pressed, would_do=would_do)
        if isinstance(wanted.trigger, Spot):
            answer = self._worked_back(answer, wanted.trigger, seen)
        else:
            answer = _compared(answer, folio.boards.get(folio.settings.keyboard), self._target, seen)
        credited = self._credited(seen, would_do)
        if credited is not None:
            answer = replace(answer, outcome="hit", slip=None, credited=credited,
                             would_do=would_do or wanted.command)  # fmt: skip
        else:
            done = next((i for i, (a, b) in enumerate(zip(seen, self._target, strict=False)) if a != b), len(seen))
            habit = next((habit for habit, strikes in self._habit_strikes if strikes and strikes == seen), None)
            if habit is None and isinstance(answer.pressed, Spot):
                habit = next((habit for habit in question.habits if habit.trigger == answer.pressed), None)
            answer = replace(answer, habit=habit, done=done)
            answer = replace(answer, slip=self._kind(answer, seen))
        return self._worded(self._timed(answer, t))

    def _credited(self, seen: tuple[Strike, ...], would_do: str | None) -> str | None:
        """Return the live binding that a clean hit counts for, or None."""
        if seen and seen == self._target:
            return self.question.wanted.id
        if self.question.strict or would_do is None or would_do != self.question.wanted.command:
            return None
        bindings = self._meanings.read(seen).bindings
        return next((binding.id for binding in bindings if binding.command == would_do), None)

    def _worked_back(self, answer: Answer, wanted: Spot, seen: tuple[Strike, ...]) -> Answer:
        """Return the spot of the wanted board that the hand most likely struck: the nearest that sends what was seen."""
        spots = spots_sending(self.question.folio, wanted.board, seen)
        board = self.question.folio.boards.get(wanted.board)
        if not spots or board is None:
            return answer
        spots.sort(key=lambda spot: (_distance(board, spot, wanted), spot.layer != wanted.layer,
                                     spot.gesture != wanted.gesture, str(spot)))  # fmt: skip
        return replace(_placed(answer, board, spots[0], wanted), likely=len(spots) > 1)

    def _judge_spot(self, unit: Unit) -> Answer:
        """An answer of which the spot is known."""
        question = self.question
        folio, wanted = question.folio, question.wanted
        struck = unit.spot
        assert struck is not None and isinstance(wanted.trigger, Spot)
        binding = folio.by_trigger.get(struck)
        if not unit.bound and wanted.trigger.layer in unit.layers:
            struck = replace(struck, layer=wanted.trigger.layer)  # the hand was on the layer the key fell through
        would_do = self._meanings.of_binding(binding) if binding else None
        if would_do is None and unit.strikes:
            would_do = self._meanings.command(unit.strikes)
        board = folio.boards[wanted.trigger.board]
        answer = replace(_placed(Answer("slip", "stray", struck, would_do=would_do), board, struck, wanted.trigger),
                         extra=_in_order(unit.held))  # fmt: skip
        credited = self._hit_of(unit, binding, would_do)
        if credited is not None:
            answer = replace(answer, outcome="hit", slip=None, credited=credited,
                             would_do=would_do or wanted.command)  # fmt: skip
        else:
            habit = next((habit for habit in question.habits if habit.trigger == struck), None)
            answer = replace(answer, habit=habit)
            answer = replace(answer, slip=self._kind(answer, unit.strikes))
        return self._worded(self._timed(answer, unit.t))

    def _hit_of(self, unit: Unit, binding: Binding | None, would_do: str | None) -> str | None:
        """Return the binding that a known spot is a hit of; None where it is none."""
        wanted = self.question.wanted
        if unit.spot == wanted.trigger and not unit.held:
            return wanted.id
        if self.question.strict or would_do is None or would_do != wanted.command:
            return None
        if binding is not None and binding.command == would_do and not unit.held:
            return binding.id
        return next((one.id for one in self._meanings.read(unit.strikes).bindings if one.command == would_do), None)

    def _kind(self, answer: Answer, seen: tuple[Strike, ...]) -> SlipKind:
        """Return the first line of the table in docs/judging.md that fits."""
        wanted, pressed = self.question.wanted.trigger, answer.pressed
        if answer.habit is not None:
            return "old habit"
        if not self._by_spot and 0 < answer.done < len(self._target) and self._leaves_stem(seen, answer.done):
            return "unfinished"
        if isinstance(wanted, Spot) and isinstance(pressed, Spot):
            kind = _kind_of_spots(self.question.folio, wanted, pressed, answer)
        else:
            kind = _kind_of_strikes(self.question.folio, self._target, seen, answer)
        if kind is not None:
            return kind
        other = answer.would_do is not None and answer.would_do != self.question.wanted.command
        return "mix-up" if other else "stray"

    def _leaves_stem(self, seen: tuple[Strike, ...], done: int) -> bool:
        return len(seen) > done and self._meanings.read(seen).state == "none"


def judge(question: Question, events: Sequence[Event]) -> Answer:
    """Judge one whole answer; events count from the prompt at t = 0."""
    judging = Judge(question, listener_for(question))
    for event in events:
        answer = judging.feed(event)
        if answer is not None:
            return answer
    return judging.settle()


def judge_pointed(question: Question, key: str, down: float, layer: str | None = None) -> Answer:
    """Judge a click on a key of the wanted spot's blank board: the layer and gesture are taken as the wanted ones."""
    wanted = question.wanted.trigger
    if not isinstance(wanted, Spot):
        raise CannotAnswer(f"{wanted} is not a place on a board; press it or spell it")
    judging = Judge(replace(question, on_board=wanted.board), KeyboardListener(), first_down=down)
    spot = replace(wanted, keys=(key,), layer=layer or wanted.layer) if key not in wanted.keys else wanted
    return judging._judge_spot(Unit(down, down, (), spot, (spot.layer,)))


def judge_named(question: Question, command: str | None, first_ms: float | None, done_ms: float | None) -> Answer:
    """Judge the answer about a lit key: the right command, another one (a mix-up), or none (a blank)."""
    folio, wanted = question.folio, question.wanted
    if command is None:
        return Answer("blank", words=words_of_name(folio, wanted, None))
    first = 0.0 if first_ms is None else max(0.0, first_ms)
    motor = max(0.0, (done_ms or first) - first)
    if command == wanted.command:
        return Answer("hit", would_do=command, recall_ms=first, motor_ms=motor, credited=wanted.id)
    struck = next((one.trigger for one in folio.bindings_of.get(command, ())), None)
    return Answer("slip", "mix-up", struck, would_do=command, recall_ms=first, motor_ms=motor,
                  words=words_of_name(folio, wanted, command))  # fmt: skip


def spots_sending(folio: Folio, board: str, seen: tuple[Strike, ...]) -> list[Spot]:
    """Return all spots of a board that send exactly these strikes, unbound keys that send themselves among them."""
    layout = folio.layouts.get(board)
    if layout is None or not seen:
        return []
    found = []
    for layer in layout.layers:
        for binding in layer.bindings:
            sent = folio.sent_by(binding)
            if sent is not None and strikes_of(sent, folio.legend, folio.bundles) == seen:
                found.append(binding.spot)
        if len(seen) == 1 and not seen[0][0] and folio.boards[board].has(seen[0][1]):
            key = seen[0][1]
            if not any(key in other.by_key or _dead(other, key) for other in (layout.base, layer)):
                found.append(Spot(board, layer.id, (key,), "tap"))
    return found


def _dead(layer: Layer, key: str) -> bool:
    return layer.unset.get(key, layer.unbound) == "dead"


def _as_trigger(folio: Folio, seen: tuple[Strike, ...]) -> Trigger:
    return keys.Sequence(tuple(chord_of(strike, folio.legend) for strike in seen))


def _distance(board: Board, one: Spot, other: Spot) -> float:
    a, b = board.centre(one.keys), board.centre(other.keys)
    if a is None or b is None:
        return 1e9
    return float(round(((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5, 6))


def _in_order(modifiers: Iterable[str]) -> tuple[str, ...]:
    found = set(modifiers)
    return tuple(name for name in MODIFIERS if name in found)


def _finger(board: Board, key: str) -> str | None:
    return board.by_id[key].finger if key in board.by_id else None


def _apart(board: Board, struck: tuple[str, ...], wanted: tuple[str, ...]) -> tuple[float, float] | None:
    a, b = board.centre(struck), board.centre(wanted)
    return None if a is None or b is None else (round(a[0] - b[0], 3) + 0.0, round(a[1] - b[1], 3) + 0.0)


def _are_neighbours(board: Board, struck: tuple[str, ...], wanted: tuple[str, ...]) -> bool:
    if len(struck) != 1 or len(wanted) != 1 or struck == wanted:
        return False
    return wanted[0] in board.neighbours.get(struck[0], frozenset())


def _placed(answer: Answer, board: Board, struck: Spot, wanted: Spot) -> Answer:
    """Return the answer with what is known of a struck spot."""
    return replace(
        answer,
        pressed=struck,
        offset_u=_apart(board, struck.keys, wanted.keys),
        neighbour=_are_neighbours(board, struck.keys, wanted.keys),
        layer=struck.layer,
        gesture=struck.gesture,
        finger_wanted=_finger(board, wanted.keys[0]),
        finger_struck=_finger(board, struck.keys[0]),
    )


def _compared(answer: Answer, board: Board | None, target: tuple[Strike, ...], seen: tuple[Strike, ...]) -> Answer:
    """Return the answer with what differs between the strikes, at the first step that does."""
    if not seen or board is None:
        return answer
    pairs = list(zip(seen, target, strict=False))
    (held, code), (wanted_held, wanted_code) = next(((a, b) for a, b in pairs if a != b), pairs[-1])
    return replace(
        answer,
        offset_u=_apart(board, (code,), (wanted_code,)),
        neighbour=_are_neighbours(board, (code,), (wanted_code,)),
        missing=_in_order(wanted_held - held),
        extra=_in_order(held - wanted_held),
        finger_wanted=_finger(board, wanted_code),
        finger_struck=_finger(board, code),
    )


def _kind_of_spots(folio: Folio, wanted: Spot, pressed: Spot, answer: Answer) -> SlipKind | None:
    if pressed.board != wanted.board:
        return None
    same_key, same_layer = pressed.keys == wanted.keys, pressed.layer == wanted.layer
    if same_key and same_layer and pressed.gesture != wanted.gesture:
        return "gesture"
    if _is_other_gesture_of_way_in(folio, wanted, pressed):
        return "gesture"
    if same_key and pressed.gesture == wanted.gesture and not same_layer:
        return "layer"
    if same_key and same_layer and answer.extra:
        return "modifiers"
    if same_layer and pressed.gesture == wanted.gesture and not answer.extra:
        if answer.neighbour:
            return "neighbour"
        if _mirrored(folio.boards[wanted.board], wanted.keys, pressed.keys):
            return "mirror"
    return None


def _is_other_gesture_of_way_in(folio: Folio, wanted: Spot, pressed: Spot) -> bool:
    """Return True where the key that brings the wanted layer in was struck with another gesture than brings it in."""
    ways_in = [b.spot for b in folio.all_bindings() if b.enters == wanted.layer and b.spot.board == wanted.board]
    return any(way.keys == pressed.keys and way.layer == pressed.layer and way.gesture != pressed.gesture for way in ways_in)


def _kind_of_strikes(
    folio: Folio, target: tuple[Strike, ...], seen: tuple[Strike, ...], answer: Answer
) -> SlipKind | None:
    """For chords and sequences: all other steps must be as wanted for modifiers, neighbour and mirror."""
    differing = [(a, b) for a, b in zip(seen, target, strict=False) if a != b]
    if len(differing) != 1 or (len(seen) != len(target) and seen[-1] != differing[0][0]):
        return None
    (held, code), (wanted_held, wanted_code) = differing[0]
    if code == wanted_code:
        return "modifiers"
    if held == wanted_held and answer.neighbour:
        return "neighbour"
    board = folio.boards.get(folio.settings.keyboard)
    if held == wanted_held and board is not None and _mirrored(board, (wanted_code,), (code,)):
        return "mirror"
    return None


def _mirrored(board: Board, wanted: tuple[str, ...], struck: tuple[str, ...]) -> bool:
    return len(wanted) == len(struck) == 1 and board.mirror_of(wanted[0]) == struck[0]
