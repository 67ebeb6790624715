"""The drill's machine: a try is committed first, then the round goes on; what cannot be written stays the present prompt."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.engine.events import Event
from glimber.core.engine.perform import perform
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import Spot, parse_trigger
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
    Pause,
    Pointed,
    Refused,
    Show,
    Shown,
    Struck,
    Tell,
)
from glimber.core.practice.machine import Drill, begin, step
from glimber.core.practice.options import Options
from glimber.core.practice.pacing import Pacing, Prompt
from glimber.core.practice.round import CLEAN_HITS
from glimber.core.practice.round_plan import RoundPlan
from glimber.core.practice.tries import Try
from glimber.store.practice.uuid7 import uuid7
from tests.helpers import LAYOUT, NOON, folio_of

SMALL = folio_of()
CODES = {key: code for code, key in board_keys(SMALL.boards["split-42"]).items()}


class Hand:
    """Drives a machine: every commit succeeds, unless ``full``."""

    def __init__(self, *bindings: str, mode: str = "press", folio: Folio = SMALL, pacing: Pacing | None = None) -> None:
        self.folio = folio
        options = Options(mode, minutes=1 if pacing is not None else None)  # type: ignore[arg-type]
        self.drill = begin(folio, RoundPlan(bindings, options, pacing=pacing), "bridge", (), NOON, 1, uuid7)
        self.t, self.full, self.effects = 100_000.0, False, list[Effect]()
        self.do(GoOn())

    def do(self, what: Input) -> list[Effect]:
        self.drill, effects = step(self.drill, what, self.t, NOON)
        found = list(effects)
        self.effects += effects
        for effect in effects:
            if isinstance(effect, Commit):
                found += self.do(Refused("the disk is full") if self.full else Committed())
        return found

    def show(self) -> None:
        self.t += 400
        self.do(Shown())

    def strike(self, trigger: str | None = None) -> list[Effect]:
        """Carry a trigger out at the present prompt; the wanted one unless another is given."""
        binding = self.drill.binding
        assert binding is not None
        wanted = binding.trigger if trigger is None else parse_trigger(trigger)
        self.show()
        begin, found = self.t, list[Effect]()
        for event in perform(self.folio, wanted):
            self.t = begin + 300 + event.t
            key = CODES.get(event.key, event.key) if isinstance(wanted, Spot) else event.key
            found += self.do(Struck(Event(self.t, event.kind, key)))
        return found

    def wait(self) -> list[Effect]:
        due = self.drill.wake_ms()
        assert due is not None
        self.t = due
        return self.do(None)


def kinds(effects: list[Effect]) -> list[type]:
    return [type(effect) for effect in effects]


def test_a_hit_is_committed_before_it_counts_and_the_next_is_asked() -> None:
    hand = Hand("sounding-s", "range-d")
    asked = hand.drill.binding
    assert kinds(hand.strike()) == [Commit, Counted, Show]
    assert [one.outcome for one in hand.drill.tries] == ["hit"]
    assert hand.drill.binding is not asked and hand.drill.prompt_ms is None
    assert sum(lane.hits for lane in hand.drill.state.lanes) == 1


def test_a_try_that_cannot_be_written_stays_the_present_prompt_and_does_not_count() -> None:
    hand = Hand("sounding-s", "range-d")
    hand.full, asked = True, hand.drill.binding
    assert kinds(hand.strike()) == [Commit, Tell]
    assert hand.drill.failure == "the disk is full" and hand.drill.binding is asked
    assert hand.drill.tries == () and not any(lane.hits for lane in hand.drill.state.lanes)
    first = hand.drill.pending
    assert kinds(hand.do(GoOn())) == [Commit, Tell]  # it is tried again as often as it is asked for
    assert hand.do(Struck(Event(hand.t, "down", "KeyQ"))) == [] and hand.do(GaveUp()) == []  # no second answer meanwhile
    hand.full = False
    assert kinds(hand.do(GoOn())) == [Commit, Counted, Show]
    assert first is not None and hand.drill.tries == (first[1],)  # the same record
    assert sum(lane.hits for lane in hand.drill.state.lanes) == 1 and hand.drill.failure == ""


PLACES = """format = "glimber-program/1"
name = "Namewell"

[commands.name-place]
name = "Name this place"
"""
FRONT = (
    LAYOUT.replace("KeyP = { hold", 'KeyG = { tap = { id = "list-g", does = "shoalwright/quay-list" } }\nKeyP = { hold', 1)
    + """
[[layers]]
id = "places"
name = "Places"
unbound = "falls"
front = "namewell"

[layers.keys]
KeyG = { tap = { id = "name-g", does = "namewell/name-place" } }
"""
)


def test_each_prompt_is_answered_with_its_program_in_front() -> None:
    folio = folio_of({"programs/namewell.toml": PLACES, "layouts/split-42.toml": FRONT})
    hand = Hand("list-g", "name-g", folio=folio)
    while not hand.drill.done and len(hand.drill.tries) < 12:
        hand.strike()
    assert [one.outcome for one in hand.drill.tries] == ["hit"] * (2 * CLEAN_HITS)
    does = {(one.binding, one.would_do) for one in hand.drill.tries}
    assert does == {("list-g", "shoalwright/quay-list"), ("name-g", "namewell/name-place")}


def test_a_hit_on_another_binding_of_the_command_is_a_try_of_that_one() -> None:
    hand = Hand("range-held")
    hand.strike("split-42:draw:KeyD:tap")
    hand.strike()
    assert [(one.binding, one.trigger, one.cold) for one in hand.drill.tries] == [
        ("range-d", "split-42:draw:KeyD:tap", True), ("range-held", "split-42:draw:KeyS:hold", True)]  # fmt: skip


def test_first_cold_and_forced_strikes() -> None:
    hand = Hand("sounding-s")
    assert kinds(hand.strike("split-42:draw:KeyD:tap")) == [Commit, Show]
    slip = hand.drill.tries[0]
    assert (slip.outcome, slip.slip, slip.first, slip.cold) == ("slip", "neighbour", True, True)
    assert hand.drill.forced and hand.drill.answer is not None and not hand.drill.done
    hand.strike("split-42:draw:KeyD:tap")  # wrong again: still to be struck, and what was wrong first stays to be seen
    assert hand.drill.forced and hand.drill.answer.slip == "neighbour"
    hand.strike()
    hand.strike()
    forced, hit = hand.drill.tries[2:]
    assert (forced.first, forced.cold, forced.outcome) == (False, False, "hit")
    assert (hit.first, hit.cold, hit.nth) == (True, False, 2)
    assert hand.drill.state.lanes[0].strikes == (False, True)


@pytest.mark.parametrize(("late", "outcome"), [(49.9, "hit"), (50.0, "hit"), (50.1, "void")])
def test_a_stall_makes_the_try_void(late: float, outcome: str) -> None:
    hand = Hand("lead-line", "sounding-s")
    while hand.drill.binding is not None and hand.drill.binding.id != "lead-line":
        hand.strike()
    hand.show()
    begin = hand.t
    for event in perform(SMALL, SMALL.bindings["lead-line"].trigger):
        hand.t = begin + 300 + event.t
        hand.do(Struck(replace(event, t=hand.t), late))
    one = hand.drill.tries[-1]
    assert (one.outcome, one.void_why) == (outcome, "the application stalled" if outcome == "void" else None)


@pytest.mark.parametrize(("after", "tries"), [(3999.9, 0), (4000.0, 1), (4000.1, 1)])
def test_the_deadline(after: float, tries: int) -> None:
    hand = Hand("sounding-s")
    hand.show()
    hand.t += after
    hand.do(None)
    assert len(hand.drill.tries) == tries and all(one.outcome == "blank" for one in hand.drill.tries)


@pytest.mark.parametrize(("after", "tries"), [(3999.9, 0), (4000.0, 1)])
def test_the_deadline_of_a_lit_key_to_be_named(after: float, tries: int) -> None:
    hand = Hand("sounding-s", mode="name")
    hand.show()
    hand.t += after
    hand.do(None)
    assert [one.outcome for one in hand.drill.tries] == ["blank"] * tries


@pytest.mark.parametrize("mode", ["press", "name", "point"])
def test_who_does_not_know_says_so_in_every_way_of_answering(mode: str) -> None:
    hand = Hand("sounding-s", mode=mode)
    hand.show()
    hand.do(GaveUp())
    assert [(one.outcome, one.mode) for one in hand.drill.tries] == [("blank", mode)]


def test_without_a_deadline_a_minute_of_nothing_is_void() -> None:
    hand = Hand("sounding-s")
    hand.drill = replace(hand.drill, options=Options(deadline="none"))
    hand.do(Pause())
    hand.do(GoOn())
    hand.show()
    hand.t += 59_999
    assert hand.do(None) == []
    hand.t += 1
    hand.do(None)
    assert [(one.outcome, one.void_why) for one in hand.drill.tries] == [("void", "nothing came for 60 s")]


def test_help_is_given_at_a_prompt_that_is_seen_and_counted_with_its_try() -> None:
    hand = Hand("sounding-s")
    assert hand.do(Aid()) == [] and hand.drill.aids == 0  # nothing is asked yet
    hand.show()
    most = hand.drill.most_aids
    assert most > 2
    for n in range(most):
        assert kinds(hand.do(Aid())) == [Show] and hand.drill.aids == n + 1
    assert hand.do(Aid()) == [] and hand.drill.aids == most
    hand.strike("split-42:draw:KeyD:tap")
    assert hand.drill.tries[0].aids == most and hand.drill.forced
    hand.show()
    assert hand.do(Aid()) == []  # the way is shown anyway


def test_what_comes_from_a_device_is_for_its_board_and_nothing_stands_in_for_it() -> None:
    hand = Hand("sounding-s")
    hand.drill = replace(hand.drill, options=Options(hands="device", device_board="split-42"))
    hand.do(Pause())
    hand.do(GoOn())
    hand.show()
    for place, event in enumerate(perform(SMALL, parse_trigger("split-42:draw:KeyS:tap"))):
        hand.t += 100 * (place > 0)
        assert hand.do(Struck(Event(hand.t, event.kind, CODES.get(event.key, event.key)))) == []  # the ordinary keyboard
    found = []
    for event in perform(SMALL, parse_trigger("split-42:draw:KeyS:tap")):
        found += hand.do(Struck(Event(hand.t + event.t, event.kind, event.key), board="split-42"))
    assert [one.outcome for one in hand.drill.tries] == ["hit"] and Commit in kinds(found)


def test_no_deadline_while_the_wanted_one_must_be_struck() -> None:
    hand = Hand("sounding-s")
    hand.show()
    hand.wait()
    hand.show()
    hand.t += 1e7
    assert hand.do(None) == [] and hand.drill.forced


def test_a_pause_makes_the_prompt_void_and_it_is_asked_again() -> None:
    hand = Hand("sounding-s", "range-d")
    hand.show()
    assert kinds(hand.do(Pause("the window lost focus"))) == [Commit, Show]
    void = hand.drill.tries[0]
    assert (void.outcome, void.void_why, void.slip) == ("void", "the window lost focus", None)
    assert hand.drill.paused and not hand.drill.forced and not any(lane.strikes for lane in hand.drill.state.lanes)
    assert hand.do(Pause("again")) == []
    assert kinds(hand.do(GoOn())) == [Show] and hand.drill.prompt_ms is None


def test_a_pause_before_the_prompt_was_seen_or_after_a_slip_is_no_try() -> None:
    hand = Hand("sounding-s")
    assert kinds(hand.do(Pause("the window lost focus"))) == [Show] and hand.drill.tries == ()
    hand.do(GoOn())
    hand.strike("split-42:draw:KeyD:tap")
    hand.show()
    hand.do(Pause("paused"))
    assert len(hand.drill.tries) == 1 and hand.drill.forced
    hand.do(GoOn())
    assert kinds(hand.strike()) == [Commit, Show]


def test_pointing_and_giving_up() -> None:
    hand = Hand("sounding-s", mode="point")
    hand.show()
    hand.t += 500
    hand.do(Pointed("KeyS"))
    hand.show()
    hand.do(GaveUp())
    assert [(one.outcome, one.mode, one.recall_ms) for one in hand.drill.tries] == [("hit", "point", 500), ("blank", "point", None)]


def test_a_round_ends_once_and_takes_nothing_more() -> None:
    hand = Hand("sounding-s")
    while not hand.drill.done:
        hand.strike()
    assert kinds(hand.effects).count(Ended) == 1
    hand.show()
    assert hand.do(Struck(Event(hand.t, "down", "KeyS"))) == [] and hand.do(None) == []


def test_an_up_that_comes_with_the_answer_is_heard_too() -> None:
    """A hold decided by time is told when its up comes: the key must not stay down for the prompts after it."""
    hand = Hand("range-held", "sounding-s")
    for _ in range(12):
        if hand.drill.done:
            break
        hand.strike()
    assert [one.outcome for one in hand.drill.tries] == ["hit"] * (2 * CLEAN_HITS) and hand.drill.done


MOVES = st.lists(st.sampled_from(["right", "wrong", "wait", "pause", "on", "fill", "empty", "give up"]), max_size=16)


@pytest.mark.slow
@given(MOVES)
@settings(max_examples=120, deadline=None)
def test_whatever_comes_every_try_is_written_once_and_the_round_shows_only_what_is(moves: list[str]) -> None:
    hand = Hand("sounding-s", "range-d")
    for move in moves:
        before, was = hand.drill, repr(hand.drill)
        if move == "right" and hand.drill.binding is not None and not hand.drill.paused:
            hand.strike()
        elif move == "wrong" and hand.drill.binding is not None and not hand.drill.paused:
            hand.strike("split-42:draw:KeyA:tap")
        elif move == "wait" and hand.drill.wake_ms() is not None:
            hand.wait()
        elif move == "pause":
            hand.do(Pause("paused"))
        elif move == "on":
            hand.do(GoOn())
        elif move in ("fill", "empty"):
            hand.full = move == "fill"
        elif move == "give up":
            hand.show()
            hand.do(GaveUp())
        assert repr(before) == was  # a state is left as it was
    written: dict[str, Try] = {}
    waiting: list[Try] = []
    for effect in hand.effects:
        if isinstance(effect, Commit):
            waiting = [record for record in effect.records if isinstance(record, Try)]
        elif isinstance(effect, Tell):
            waiting = []
        else:
            written |= {one.id: one for one in waiting}
            waiting = []
    assert {one.id for one in hand.drill.tries} == set(written)
    firsts = [one for one in hand.drill.tries if one.first and one.outcome != "void"]
    assert sum(len(lane.strikes) for lane in hand.drill.state.lanes) == len(firsts)
    assert sum(lane.hits for lane in hand.drill.state.lanes) == sum(one.outcome == "hit" for one in firsts)


def test_the_same_state_always_goes_on_in_the_same_way() -> None:
    def orders(drill: Drill) -> str | None:
        after, _ = step(drill, GoOn(), 0.0, NOON)
        return after.state.asked

    drill = begin(SMALL, RoundPlan(["sounding-s", "range-d", "lead-line"]), "bridge", (), NOON, 5, uuid7)
    assert len({orders(drill) for _ in range(5)}) == 1
    assert len({orders(replace(drill, seed=seed)) for seed in range(40)}) == 3


class Steps:
    """A pacing of given prompts, which remembers what came of each."""

    def __init__(self, *prompts: Prompt, heard: tuple[tuple[str, bool, str], ...] = ()) -> None:
        self.prompts, self.heard = prompts, heard

    def next(self) -> Prompt | None:
        return self.prompts[0] if self.prompts else None

    def after(self, prompt: Prompt, outcome: str, slip: object, took_s: float) -> Steps:
        assert took_s >= 0
        return Steps(*self.prompts[1:], heard=(*self.heard, (prompt.binding, prompt.shown, outcome)))


def test_a_new_binding_is_shown_and_struck_before_it_is_asked_and_that_is_no_try() -> None:
    steps = Steps(Prompt("sounding-s", True, True), Prompt("range-d", False, False), Prompt("sounding-s", True, False))
    hand = Hand("sounding-s", pacing=steps)
    assert hand.drill.showing and hand.drill.wake_ms() is None
    assert hand.do(Aid()) == [] and hand.do(GaveUp()) == []
    hand.strike("split-42:draw:KeyD:tap")
    assert hand.drill.showing and hand.drill.tries == () and hand.drill.answer is not None  # it stays until it is struck
    assert kinds(hand.strike()) == [Show, Show] or not hand.drill.showing
    assert hand.drill.tries == () and hand.drill.binding is not None and hand.drill.binding.id == "range-d"
    hand.show()
    hand.wait()
    assert [one.outcome for one in hand.drill.tries] == ["blank"] and hand.drill.forced
    hand.strike()
    assert kinds(hand.strike())[-1] is Ended and hand.drill.done
    assert isinstance(hand.drill.pacing, Steps)
    assert hand.drill.pacing.heard == (("sounding-s", True, "hit"), ("range-d", False, "blank"), ("sounding-s", False, "hit"))
    assert {lane.binding for lane in hand.drill.state.lanes} == {"sounding-s", "range-d"}


def test_a_paced_round_ends_with_its_minutes() -> None:
    hand = Hand("sounding-s", pacing=Steps(*[Prompt("sounding-s", False, False)] * 99))
    count = 0
    while not hand.drill.done:
        hand.show()
        hand.t += 3000
        hand.strike()
        count += 1
    assert 60_000 <= hand.drill.used_ms < 70_000 and 10 < count < 25
    assert kinds(hand.effects)[-1] is Ended


def test_names_are_asked_without_being_shown_first() -> None:
    hand = Hand("sounding-s", mode="name", pacing=Steps(Prompt("sounding-s", True, True)))
    assert not hand.drill.showing and hand.drill.binding is not None
