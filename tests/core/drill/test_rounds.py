"""The next round, and the order of prompts within one."""

from __future__ import annotations

from datetime import timedelta
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.drill.round import CLEAN_HITS, answered, ask, begin, resumed
from glimber.core.drill.tries import Change, Practice
from glimber.core.weigh.measures import measure
from glimber.core.weigh.plan import due_now, plan_round
from tests.helpers import NOON, folio_of, practice, tries_of

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


def test_what_slipped_last_time_comes_first_and_new_ones_fill_up_to_two() -> None:
    fine = tries_of("range-d", D, ["hit"] * 30, until=NOON - timedelta(hours=2))
    last = tries_of("sounding-s", S, ["hit", ("neighbour", D, "")], round_size=9, days=1)
    due = plan_round(measure(folio_of(), practice(fine, last), NOON))
    assert (due[0].binding, due[0].why, due[0].new) == ("sounding-s", "slipped last time", False)
    assert [one.why for one in due].count("new") == 2
    assert due[-1].why == "to keep" and due[-1].binding == "range-d"
    assert len({one.binding for one in due}) == len(due) <= 5


def test_new_ones_wait_while_enough_else_presses() -> None:
    ids = {
        "sounding-s": S,
        "range-d": D,
        "show-desktop": "Super+D",
        "lead-line": "Ctrl+K Ctrl+L",
        "tide-table": "Shift+[Numpad4]",
    }
    weak = practice(*(tries_of(id, trigger, ["blank"] * 6) for id, trigger in ids.items()))
    due = plan_round(measure(folio_of(), weak, NOON))
    assert {one.binding for one in due} == set(ids) and not any(one.new for one in due)
    assert due_now(measure(folio_of(), weak, NOON)) == 5


def test_the_most_used_of_the_new_ones_comes_first() -> None:
    due = plan_round(measure(folio_of(), Practice(), NOON))
    assert len(due) == 2 and due[0].binding in ("add-sounding", "sounding-s") and all(one.new for one in due)


def test_a_moved_binding_is_asked_at_its_new_place() -> None:
    when = NOON - timedelta(hours=1)
    change = Change(
        "c",
        when,
        "bridge",
        "range-d",
        "move",
        "shoalwright/depth-range",
        "split-42:draw:KeyW:tap",
        D,
        "w",
        applied=when,
    )
    tries = practice(tries_of("sounding-s", S, ["hit"] * 10))
    due = plan_round(measure(folio_of(), Practice(tries.tries, (change,)), NOON))
    assert ("range-d", "moved") in [(one.binding, one.why) for one in due]


@given(st.integers(1, 7), st.integers(0, 2**32), st.floats(0.2, 1.0))
def test_a_round_ends_with_five_hits_each_in_mixed_order(count: int, seed: int, skill: float) -> None:
    random, state, asked = Random(seed), begin([str(i) for i in range(count)]), []
    while not state.done:
        state = ask(state, random)
        asked.append(state.asked)
        open_before = [lane.binding for lane in state.lanes if not lane.done]
        if len(asked) > 1 and asked[-1] == asked[-2]:
            assert open_before == [asked[-1]]  # twice running only as the last one left
        state = answered(state, random.random() < skill)
        assert len(asked) < 2000
    assert all(lane.hits == CLEAN_HITS for lane in state.lanes)
    assert state.nth == len(asked) == sum(len(lane.strikes) for lane in state.lanes)
    with pytest.raises(ValueError, match="the round is done"):
        ask(state, random)


def test_hits_come_back_later_and_slips_sooner() -> None:
    state = begin(["a", "b"])
    state = answered(ask(state, Random(1)), True)
    first = next(lane for lane in state.lanes if lane.hits)
    assert first.due == 2
    for _ in range(3):
        state = answered(ask(state, Random(1)), True)
    longest = max(state.lanes, key=lambda lane: lane.streak)
    assert longest.due - state.nth <= 8
    state = ask(state, Random(1))
    state = answered(state, False)
    lane = next(lane for lane in state.lanes if lane.binding == state.asked)
    assert lane.due == state.nth + 2 and lane.streak == 0 and lane.slips == 1


def test_a_hit_credited_elsewhere_counts_there() -> None:
    state = ask(begin(["a", "b"]), Random(2))
    other = "b" if state.asked == "a" else "a"
    state = answered(state, True, credited=other)
    assert {lane.binding: lane.hits for lane in state.lanes} == {other: 1, state.asked: 0}


def test_resuming_a_round_gives_the_state_it_stood_in() -> None:
    random, state, results = Random(4), begin(["a", "b", "c"]), []
    for clean in (True, False, True, True, False, True):
        state = ask(state, random)
        results.append((state.asked or "", clean))
        state = answered(state, clean)
    again = resumed(["a", "b", "c"], results)
    assert again.lanes == state.lanes and again.nth == state.nth and again.asked is None
