"""The next round, and the order of prompts within one."""

from __future__ import annotations

from datetime import timedelta
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.decide.plan import due_now, plan_round, planned_hits
from glimber.core.practice.log import Practice
from glimber.core.practice.round import LEAST_HITS, MOST_HITS, answered, ask, begin, resumed
from glimber.core.practice.tries import Change
from glimber.core.stats.belief import day_of
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of, practice, tries_of

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


def test_what_slipped_last_time_comes_first_and_the_rest_by_worth() -> None:
    fine = tries_of("range-d", D, ["hit"] * 30, until=NOON - timedelta(hours=2))
    last = tries_of("sounding-s", S, ["hit", ("neighbour", D, "")], round_size=9, days=1)
    due = plan_round(measure(folio_of(), practice(fine, last), NOON))
    assert (due[0].binding, due[0].why, due[0].new) == ("sounding-s", "slipped last time", False)
    worths = [one.worth_s_week for one in due[1:]]
    assert worths == sorted(worths, reverse=True) and min(worths) > 0
    assert len({one.binding for one in due}) == len(due) and all(LEAST_HITS <= one.hits <= MOST_HITS for one in due)
    assert [one.why for one in due].count("new") > 2  # new ones come in by the same worth, without a limit of their own
    known = {one.binding: one for one in due}
    assert "range-d" not in known or known["range-d"].worth_s_week < max(worths)


@pytest.mark.parametrize("minutes", [0.5, 1, 3, 10])
def test_a_round_is_as_long_as_was_said(minutes: float) -> None:
    ids = {"sounding-s": S, "range-d": D, "show-desktop": "Super+D", "lead-line": "Ctrl+K Ctrl+L"}
    ledger = measure(folio_of(), practice(*(tries_of(id, trigger, ["blank", "hit"] * 4) for id, trigger in ids.items())), NOON)
    due = plan_round(ledger, minutes)
    assert sum(one.seconds for one in due) <= minutes * 60 + 1e-6 or len(due) == 1
    full = all(one.hits == MOST_HITS for one in due) and len(due) == len(ledger.rows)
    assert full or sum(one.seconds for one in due) >= minutes * 60 * 0.6
    assert len(plan_round(ledger, minutes, size=2)) <= 2
    assert {one.binding for one in plan_round(ledger, minutes, may=lambda id: id == "range-d")} == {"range-d"}
    assert due_now(ledger) >= 1


def test_a_hit_is_worth_what_the_memory_says_it_saves() -> None:
    """Strike by strike: the gain of the belief, times what not knowing costs; a later hit is never worth more."""
    ledger = measure(folio_of(), practice(tries_of("sounding-s", S, ["hit"] * 6 + ["blank"] * 2, days=3)), NOON)
    row, day = ledger.rows["sounding-s"], day_of(NOON)
    stake = row.uses_week * (1 - row.hand.mean) * (row.slow_s or 0.0)  # every error so far was a blank: the slow way
    belief, least = ledger.belief.copy(np.array([row.number])), float("inf")
    for worth in ledger.hits.worths[:, row.number]:
        least = min(least, stake * float(belief.gain(day)[0]))
        assert worth == pytest.approx(least) and worth >= 0
        belief.strikes(np.array([0]), np.array([day]), np.array([True]))


def test_what_was_missed_at_work_is_due_until_it_is_tried() -> None:
    missed = Change("m", NOON - timedelta(minutes=5), "bridge", "range-d", "missed", None, D, None)
    tries = practice(tries_of("sounding-s", S, ["hit"] * 10), tries_of("range-d", D, ["hit"] * 30, until=NOON - timedelta(hours=1)))
    due = plan_round(measure(folio_of(), Practice(tries.tries, (missed,)), NOON), 0.5)
    assert ("range-d", "missed at work") in [(one.binding, one.why) for one in due]
    later = practice(tries.tries, tries_of("range-d", D, ["hit"], until=NOON, days=1))
    due = plan_round(measure(folio_of(), Practice(later.tries, (missed,)), NOON + timedelta(minutes=1)), 0.5)
    assert all(one.why != "missed at work" for one in due)


def test_hits_are_planned_for_what_is_picked_by_hand() -> None:
    assert planned_hits(None, ["sounding-s"]) == {"sounding-s": 4}
    ledger = measure(folio_of(), practice(tries_of("range-d", D, ["hit"] * 60)), NOON)
    found = planned_hits(ledger, ["sounding-s", "range-d"])
    assert set(found) == {"sounding-s", "range-d"} and all(LEAST_HITS <= hits <= MOST_HITS for hits in found.values())


def test_a_moved_binding_is_asked_at_its_new_place() -> None:
    when = NOON - timedelta(hours=1)
    change = Change("c", when, "bridge", "range-d", "move", "shoalwright/depth-range", "split-42:draw:KeyW:tap", D, "w", applied=when)
    tries = practice(tries_of("sounding-s", S, ["hit"] * 10))
    due = plan_round(measure(folio_of(), Practice(tries.tries, (change,)), NOON))
    assert ("range-d", "moved") in [(one.binding, one.why) for one in due]


@given(st.integers(1, 7), st.integers(0, 2**32), st.floats(0.2, 1.0))
def test_a_round_ends_with_the_planned_hits_of_each_in_mixed_order(count: int, seed: int, skill: float) -> None:
    hits = {str(i): 2 + (i * 3) % 7 for i in range(count)}
    random, state, asked = Random(seed), begin(list(hits), hits), []
    while not state.done:
        state = ask(state, random)
        asked.append(state.asked)
        open_before = [lane.binding for lane in state.lanes if not lane.done]
        if len(asked) > 1 and asked[-1] == asked[-2]:
            assert open_before == [asked[-1]]  # twice running only as the last one left
        state = answered(state, random.random() < skill)
        assert len(asked) < 2000
    assert {lane.binding: lane.hits for lane in state.lanes} == hits
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
