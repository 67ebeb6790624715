"""What is said of thousands of answers, rounds driven at random, help, look-alikes, selections: all of it held, so that nothing
changes unseen. ``answers.json`` is made by ``python -m tests.core.practice.test_held`` (see tests/held.py)."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from datetime import timedelta
from hashlib import sha256
from pathlib import Path
from random import Random
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.decide.selection import selections
from glimber.core.engine.events import Event
from glimber.core.engine.perform import CannotPerform, perform
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot, Trigger
from glimber.core.practice import round as rounds
from glimber.core.practice.aids import aids_of
from glimber.core.practice.answer import CannotAnswer, Question
from glimber.core.practice.columns import TryColumns
from glimber.core.practice.cues import CUES, cue_of
from glimber.core.practice.inputs import Aid, Commit, Committed, GaveUp, GoOn, Input, Named, Pause, Pointed, Refused, Shown, Struck
from glimber.core.practice.judge import judge, judge_named, judge_pointed
from glimber.core.practice.lookalikes import look_alikes, mix_ups
from glimber.core.practice.machine import Drill, begin, step
from glimber.core.practice.options import Options
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.round_review import before_round, worst_first
from glimber.core.practice.tries import Change, Round, Try
from glimber.core.stats.runs import best_before, run_slow_s, run_times, steps_of
from tests.held import differences, flat, hold, plain
from tests.helpers import NOON

HELD = Path(__file__).with_name("answers.json")


def values(folio: Folio) -> dict[str, Any]:
    """All of it, as plain values."""
    bindings = folio.drillable("bridge")
    driven = {mode: _driven(folio, mode, seed) for seed, mode in enumerate(("press", "point", "name", "spell", "board"))}
    tries = [one for some in driven.values() for one in some]
    columns = TryColumns.of(tries)
    by_binding: dict[str, list[Try]] = {}
    for one in tries:
        by_binding.setdefault(one.binding, []).append(one)
    mixed = mix_ups(folio, {bindings[0].id: {bindings[1].command or "": 3}, bindings[2].id: {bindings[0].command or "": 2}})
    runs = list(folio.runs.values())
    ended = [
        Round(f"run-{n}", NOON + timedelta(hours=n), "bridge", "press", (), NOON + timedelta(hours=n, minutes=1), run=runs[0].id)
        for n in range(3)
    ]
    passages = [replace(one, round=f"run-{n % 3}", nth=n // 3 + 1, first=n % 7 > 0) for n, one in enumerate(tries[:36])]
    changes = [Change("c", NOON - timedelta(days=2), "bridge", bindings[3].id, "move", bindings[3].command, "Ctrl+Q", "Ctrl+W", "")]
    grips = {one.id: place / len(bindings) for place, one in enumerate(bindings[::2])}
    return {
        "answers": _answers(folio),
        "driven": {mode: [[one.outcome, _digest(_try(one))] for one in some] for mode, some in driven.items()},
        "columns": [_digest([columns.counts.tolist(), columns.by_hand.tolist(), columns.not_known.tolist()]),
                    _digest([_try(columns.row(place)) for place in range(len(tries))])],
        "help": {one.id: _digest([plain(help) for help in aids_of(folio, one)]) for one in bindings},
        "look-alikes": {one.id: _digest([other.ref for other in look_alikes(folio, one, mixed, "seed")]) for one in bindings},
        "cues": {one.id: _digest([plain(cue_of(command, one, wish, nth)) for wish in CUES for nth in range(4)])
                 for one in bindings if (command := folio.command_of(one)) is not None},
        "selections": [[one.name, _digest([one.detail, sorted(one.of or ()), one.run])] for one in selections(folio, "bridge", grips, changes, NOON)],
        "runs": [[steps_of(folio, run, "bridge", lambda one: one.id in grips, lambda id: len(by_binding.get(id, ()))), run_slow_s(folio, run)]
                 for run in runs],
        "passages": [plain(run_times([one for one in passages if one.round == f"run-{n}"])) for n in range(3)],
        "best": plain(best_before(ended, passages, runs[0].id, 12, "run-1")),
        "after": [worst_first([one.id for one in bindings], tries), {id: plain(one) for id, one in before_round(by_binding, "gone").items()}],
        "draws": _draws(),
    }  # fmt: skip


def _answers(folio: Folio) -> dict[str, Any]:
    """Every binding asked for, answered by its own trigger and by others chosen at random, on its board and as it is sent."""
    random, bindings, found = Random(4), folio.drillable("bridge"), dict[str, Any]()
    for wanted in bindings:
        others = random.sample(bindings, 7)
        if isinstance(wanted.trigger, Spot):  # nearby places, other gestures, the layer below
            spot = wanted.trigger
            near = [replace(spot, keys=(key.id,)) for key in random.sample(folio.boards[spot.board].keys, 5)]
            triggers: list[Trigger] = [
                spot,
                *near,
                replace(spot, gesture="hold"),
                replace(spot, gesture="tap"),
                replace(spot, layer="base"),
            ]
        else:
            triggers = [wanted.trigger]
        for board in dict.fromkeys((None, wanted.trigger.board if isinstance(wanted.trigger, Spot) else None)):
            question = Question(folio, wanted, computer="bridge", on_board=board, strict=random.random() < 0.3)
            said = []
            for trigger in (*triggers, *(one.trigger for one in others)):
                with_board = isinstance(trigger, Spot) and trigger.board == board
                if isinstance(trigger, Spot) and not with_board:
                    sent = folio.by_trigger.get(trigger)
                    seen = folio.sent_by(sent) if sent is not None else None
                    if seen is None:
                        continue
                    trigger = seen
                try:
                    events = perform(folio, trigger, 400)
                    if board is not None and not with_board:
                        continue
                    said.append(
                        _digest(plain(judge(question, events))) if trigger is not wanted.trigger else plain(judge(question, events))
                    )
                except (CannotPerform, CannotAnswer, KeyError) as error:
                    said.append(str(error))
            if isinstance(wanted.trigger, Spot) and board is not None:
                keys = random.sample(folio.boards[wanted.trigger.board].keys, 3)
                said += [_digest(plain(judge_pointed(question, key.id, 700))) for key in keys]
            said += [_digest(plain(judge_named(question, one.command, 500, 900))) for one in others[:2]]
            found[f"{wanted.id} {'on its board' if board else 'as it is sent'}"] = said
    return found


def _driven(folio: Folio, mode: str, seed: int) -> list[Try]:
    """A round with strokes, pauses, help, faults of the disk and nothing at all, all at random."""
    random = Random(seed)
    spots = [
        one
        for one in folio.drillable("bridge")
        if isinstance(one.trigger, Spot) and one.trigger.gesture == "tap" and one.trigger.board == "split-42"
    ]
    chords = [one for one in folio.drillable("bridge") if not isinstance(one.trigger, Spot)]
    asked = chords[:6] if mode == "spell" else [*spots[:5], *(chords[:3] if mode in ("press", "board") else [])]
    way: Any = {"hands": "board"} if mode == "board" else {"mode": mode}
    options = Options(**way, deadline=("fixed", "none")[seed % 2])
    count = iter(range(10**6))
    plan = RoundPlan([one.id for one in asked], options)
    drill: Drill = begin(folio, plan, "bridge", (), NOON, seed, lambda at: f"{mode}-{next(count)}")
    codes = {key: code for code, key in board_keys(folio.boards["split-42"]).items()}
    t, at = 1_000_000.0, NOON

    def do(what: Input) -> None:
        nonlocal drill, at
        at += timedelta(milliseconds=3)
        drill, effects = step(drill, what, t, at)
        for effect in effects:
            if isinstance(effect, Commit):
                do(Refused("full") if random.random() < 0.05 else Committed())

    do(GoOn())
    for _ in range(160):
        if drill.done:
            break
        t += random.choice((250, 400, 900))
        do(Shown())
        wanted = drill.binding
        turn = random.random()
        if turn < 0.06:
            do(random.choice((Pause("away"), Pause(), GaveUp(), Aid())))
            do(GoOn())
        elif turn < 0.12:
            t += random.choice((3999, 4000, 60_000))
            do(None)
        elif wanted is not None and mode == "point":
            do(Pointed(random.choice([*wanted.spot.keys, *wanted.spot.keys, "KeyD"])))
        elif wanted is not None and mode == "name":
            do(Named(random.choice([wanted.command, wanted.command, asked[0].command, None]), t + 300))
        elif wanted is not None:
            struck = random.choice([wanted, wanted, wanted, random.choice(asked)])
            events = _events(folio, struck.trigger, mode)
            for event in events:
                code = codes.get(event.key, event.key) if isinstance(struck.trigger, Spot) and mode != "board" else event.key
                do(Struck(Event(t + 300 + event.t, event.kind, code), random.choice((0.0, 0.0, 50.0, 50.1)) if turn > 0.9 else 0.0))
            t += 300 + (events[-1].t if events else 0)
            do(None)
        do(GoOn())
    return list(drill.tries)


def _events(folio: Folio, trigger: Trigger, mode: str) -> list[Event]:
    if mode == "board" and isinstance(trigger, Spot):
        sent = folio.sent_by(folio.by_trigger[trigger])
        return perform(folio, sent) if sent is not None else []
    return perform(folio, trigger)


def _draws() -> list[Any]:
    """Which of some bindings are asked for next, and how far the round is, with hits and slips by turns."""
    state, random, found = rounds.begin(list("abcde"), {"a": 2, "b": 4}), Random(3), []
    while not state.done:
        state = rounds.ask(state, random)
        clean = random.random() < 0.7
        credited = random.choice((None, None, "b", "z")) if clean else None
        state = rounds.answered(state, clean, credited)
        found.append([state.asked, clean, credited, state.expected_prompts(), [(lane.hits, lane.slips, lane.due) for lane in state.lanes]])
    return found


def _try(one: Try) -> list[Any]:
    return [one.nth, one.binding, one.trigger, one.mode, one.outcome, one.slip, one.pressed, one.would_do, one.offset_u, one.recall_ms,
            one.motor_ms, one.deadline_ms, one.first, one.cold, one.aids, one.void_why, one.cue]  # fmt: skip


def _digest(value: Any) -> str:
    return sha256(json.dumps(value, sort_keys=True).encode()).hexdigest()[:10]


@pytest.fixture(scope="module")
def now(office: Folio) -> Iterator[dict[str, Any]]:
    yield dict(flat(json.loads(json.dumps(values(office)))))


@pytest.mark.slow
def test_nothing_that_is_said_or_asked_is_another(now: dict[str, Any]) -> None:
    assert not differences(HELD, now)


def test_what_is_held_has_every_outcome_in_every_mode(now: dict[str, Any]) -> None:
    outcomes = Counter(
        (path.split("/")[2], value)
        for path, value in now.items()
        if path.startswith("/driven/") and path.endswith("/0") and path.count("/") == 4
    )
    for mode in ("press", "point", "name", "spell", "board"):
        assert all(outcomes[mode, outcome] for outcome in ("hit", "slip", "void")), outcomes


if __name__ == "__main__":
    hold(HELD, values)
