"""What the time of a round is given to, against a slow way of giving it; and what a plan made anew takes into account."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.decide.plan import Budget, SoFar, budget_of, due_now, due_of, missed_at_work, planned_hits, replanned
from glimber.core.decide.round_choice import choose_round, deadlines_of, replan_of
from glimber.core.decide.selection import EVERYTHING
from glimber.core.decide.verdict import verdicts
from glimber.core.practice.log import Practice
from glimber.core.practice.options import Options, adaptive_ms
from glimber.core.practice.round import sprinting
from glimber.core.practice.tries import Change, Try
from glimber.core.stats.gain import hit_seconds
from glimber.core.stats.ledger import Ledger
from glimber.core.stats.measures import measure
from tests.helpers import NOON, folio_of, practice, tries_of

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
IDS = ("a", "b", "c", "d", "e")


def budget_of_rows(rows: list[tuple[list[float], float, float]], pressed: Mapping[str, str]) -> Budget:
    worths = [sorted(worth, reverse=True) for worth, _, _ in rows]
    return Budget(IDS[: len(rows)], np.array(worths).reshape(len(rows), 8).T, np.array([one for _, one, _ in rows]),
                  np.array([one for _, _, one in rows]), pressed)  # fmt: skip


def slowly(budget: Budget, left: float, so_far: Mapping[str, SoFar], size: int | None, pace: float) -> dict[str, int]:
    """Hit after hit to whoever's next is worth most a second, looking at all of them each time."""
    more: dict[str, int] = {}
    none = SoFar(0, 0)

    def hits(id: str) -> int:
        return so_far.get(id, none).hits + more.get(id, 0)

    def value(id: str) -> float:
        place, first, count = budget.ids.index(id), min(7, so_far.get(id, none).strikes + more.get(id, 0)), max(1, 2 - hits(id))
        known, ever = float(budget.known[place]), so_far.get(id, none).first_ever
        learnt = 1.0 if ever is None or known >= 1 else (1 - (4 * known + ever) / 5) / (1 - known)
        return float(learnt * budget.worths[first : first + count, place].sum() / (count * budget.seconds[place] * pace))

    def give(id: str) -> bool:
        nonlocal left
        begun = id in so_far or id in more
        cost = max(1, 2 - hits(id)) * budget.seconds[budget.ids.index(id)] * pace
        if (not begun and size is not None and len({*so_far, *more}) >= size) or (cost > left + 1e-9 and (more or so_far)):
            return False
        left, more[id] = left - cost, more.get(id, 0) + max(1, 2 - hits(id))
        return True

    if left <= 0:
        return {}
    for id in so_far:
        if hits(id) < 2:
            give(id)
    for id in sorted(set(budget.pressed) - set(so_far), key=lambda id: (-value(id), id)):
        if not give(id):
            break
    waiting = [id for id in budget.ids if hits(id) < 8]
    while waiting:
        best = max(waiting, key=value)
        if value(best) <= 0 or left <= 0:
            break
        if not give(best) or hits(best) >= 8:
            waiting.remove(best)
    return more


ROW = st.tuples(st.lists(st.sampled_from([0.0, 0.25, 1.0, 3.0, 7.5]), min_size=8, max_size=8), st.sampled_from([1.0, 2.5, 4.0]),
                st.sampled_from([0.1, 0.6, 1.0]))  # fmt: skip
DONE = st.builds(SoFar, st.integers(0, 8), st.integers(0, 9), st.sampled_from([None, True, False]))


@given(st.lists(ROW, min_size=1, max_size=5), st.sets(st.sampled_from(IDS)), st.dictionaries(st.sampled_from(IDS), DONE, max_size=3),
       st.sampled_from([-1.0, 0.0, 0.5, 3.0, 8.0, 20.0, 60.0, 400.0]), st.sampled_from([None, 1, 2, 3]), st.sampled_from([0.5, 1.0, 1.7]))  # fmt: skip
def test_time_is_given_as_by_the_slow_way(
    rows: Any, pressed: set[str], done: dict[str, SoFar], left: float, size: Any, pace: float
) -> None:
    budget = budget_of_rows(rows, {id: "x" for id in IDS[: len(rows)] if id in pressed})
    so_far = {id: one for id, one in done.items() if id in budget.ids}
    assert budget.share_out(left, so_far, size, pace) == slowly(budget, left, so_far, size, pace)


def test_what_everybody_knows_is_worth_what_it_was_whatever_its_first_try_told() -> None:
    budget = budget_of_rows([([1.0] * 8, 10.0, 1.0), ([1.1] * 8, 10.0, 0.5)], {})
    assert budget.share_out(10.0, {"a": SoFar(2, 2, False), "b": SoFar(2, 2)}) == {"b": 1}
    assert budget.share_out(10.0, {"a": SoFar(2, 2, False), "b": SoFar(2, 2, True)}) == {"a": 1}  # b was known: 0.8 of its worth


class Asked:
    """Stands for a budget and takes down what it is asked."""

    ids = ("a", "b")

    def takes(self, id: str) -> float:
        return 4.0

    def share_out(self, left: float, so_far: Mapping[str, SoFar], pace: float) -> dict[str, int]:
        self.asked = left, so_far, pace
        return {"b": 3, "c": 1}


def test_a_plan_replanned_knows_what_became_of_each_binding() -> None:
    one = tries_of("a", S, ["hit"])[0]
    told: list[tuple[str, str, bool, str | None]] = [
        ("a", "slip", True, "neighbour"), ("a", "hit", False, None), ("a", "void", True, None), ("a", "hit", True, None),
        ("b", "blank", True, None), ("b", "hit", False, None), ("c", "slip", True, "layer"), ("d", "hit", False, None), ("d", "blank", True, None),
        ("e", "hit", True, None), ("f", "blank", True, None), ("f", "hit", True, None),
    ]  # fmt: skip
    tries = [replace(one, binding=id, outcome=outcome, first=first, slip=slip) for id, outcome, first, slip in told]  # type: ignore[arg-type]
    asked = Asked()
    plan = replanned(asked, 2, {"a", "c", "d", "f"}, tries, 50.0)  # type: ignore[arg-type]
    so_far = {
        "a": SoFar(1, 2, True),
        "b": SoFar(0, 1),
        "c": SoFar(0, 0, False),
        "d": SoFar(0, 1),
        "e": SoFar(1, 1),
        "f": SoFar(1, 1, False),
    }
    assert asked.asked == (70.0, so_far, pytest.approx((50 + 20) / (3 * 4 + 20)))
    assert plan == {"a": 1, "b": 3, "c": 1, "d": 0, "e": 1, "f": 1}
    replanned(asked, 2, (), (), 121.0)  # type: ignore[arg-type]
    assert asked.asked == (0.0, {}, pytest.approx(141 / 20))


@pytest.mark.parametrize(("seconds", "hits"), [(60 / 8, 8), (60 / 8 + 0.001, 7)])
def test_what_is_picked_has_a_minute_at_least(seconds: float, hits: int, monkeypatch: pytest.MonkeyPatch) -> None:
    budget = budget_of_rows([([1.0] * 8, seconds, 0.5)], {})
    monkeypatch.setattr("glimber.core.decide.plan.budget_of", lambda *_: budget)
    assert planned_hits(LEDGER, ["a", "gone"]) == {"a": hits, "gone": 2}
    five = budget_of_rows([([1.0] * 8, 120 / 40 * (seconds / 7.5), 0.5)] * 5, {})  # two minutes for five
    monkeypatch.setattr("glimber.core.decide.plan.budget_of", lambda *_: five)
    assert sum(planned_hits(LEDGER, IDS).values()) == {8: 40, 7: 39}[hits]


LEDGER = measure(folio_of(), practice(tries_of("sounding-s", S, ["hit"] * 4), tries_of("range-d", D, ["hit"] * 4)), NOON)


def marked(*changes: Change, ledger: Ledger = LEDGER) -> Ledger:
    return replace(ledger, practice=Practice(tuple(ledger.practice.tries), changes))


@pytest.mark.parametrize(("changed", "told"), [
    ({}, True), ({"verdict": "aside"}, False), ({"binding": "gone"}, False), ({"at": NOON}, True), ({"at": NOON + timedelta(seconds=1)}, False),
    ({"at": NOON - timedelta(minutes=1)}, False), ({"at": NOON - timedelta(seconds=59)}, True), ({"binding": "tide-table", "at": NOON - timedelta(days=90)}, True),
])  # fmt: skip
def test_what_was_missed_since_it_was_last_tried(changed: dict[str, Any], told: bool) -> None:
    change = replace(Change("m", NOON - timedelta(seconds=30), "bridge", "sounding-s", "missed"), **changed)
    assert LEDGER.rows["sounding-s"].tries[-1].at == NOON - timedelta(minutes=1)
    assert missed_at_work(marked(change)) == ([change.binding] if told else [])


@pytest.mark.parametrize(("changed", "moved"), [
    ({}, True), ({"applied": NOON - timedelta(days=14)}, True), ({"applied": NOON - timedelta(days=14, seconds=1)}, False), ({"applied": NOON}, True),
    ({"applied": NOON + timedelta(seconds=1)}, False), ({"to_trigger": None}, False), ({"binding": "gone"}, False), ({"binding": "range-d"}, False),
    ({"applied": None}, False),
])  # fmt: skip
def test_what_was_moved_and_not_tried_since_presses(changed: dict[str, Any], moved: bool) -> None:
    change = replace(Change("c", NOON - timedelta(days=30), "bridge", "tide-table", "move", None, "F3", "F4", applied=NOON), **changed)
    pressed = budget_of(marked(change)).pressed
    assert pressed == ({change.binding: "moved"} if moved else {}) and due_now(marked(change)) - due_now(LEDGER) == moved


def test_the_last_round_presses_with_what_went_wrong_in_it() -> None:
    def tries(id: str, outcome: Any, round: str, minutes: float, **more: Any) -> Try:
        return replace(
            tries_of(id, S, ["hit"])[0], outcome=outcome, round=round, at=NOON - timedelta(minutes=minutes), id=f"{id}{minutes}", **more
        )

    rows = [tries("sounding-s", "blank", "old", 9), tries("range-d", "slip", "new", 3, slip="stray"), tries("tide-table", "hit", "new", 2),
            tries("lead-line", "blank", "new", 2.5, first=False), tries("gone", "blank", "new", 2.2), tries("name-strait", "void", "newest", 1),
            tries("show-desktop", "blank", "later", -1)]  # fmt: skip
    ledger = replace(LEDGER, practice=practice(rows))
    assert budget_of(ledger).pressed == {"range-d": "slipped last time"}


@pytest.mark.parametrize(("time", "reach", "clean", "seconds"), [
    (820.0, 100.0, 1.0, 0.82 + 0.6), (820.0, None, 0.5, 0.82 + 0.6 + 0.5 * (1.4 + 0.82)), (None, 200.0, 1.0, 1.2 + 0.2 + 0.6), (None, None, 1.0, 1.2 + 0.3 + 0.6),
])  # fmt: skip
def test_what_a_clean_hit_takes(time: float | None, reach: float | None, clean: float, seconds: float) -> None:
    assert hit_seconds(time, reach, clean) == pytest.approx(seconds)


def test_a_round_is_told_pressing_first_then_by_worth_and_some_verdicts_alone() -> None:
    budget = budget_of_rows([([1.0] * 8, 1.0, 0.5), ([3.0] * 8, 1.0, 0.5), ([2.0] * 8, 1.0, 0.5)], {"a": "missed at work"})
    ledger = replace(LEDGER, rows=dict(zip(IDS, LEDGER.rows.values(), strict=False)))
    ledger = replace(ledger, rows={id: replace(row, binding=replace(row.binding, given_id=True, id=id)) for id, row in ledger.rows.items()})
    due = due_of(ledger, budget, 1)
    assert [(one.binding, one.hits, one.worth_s_week, one.seconds) for one in due] == [
        ("a", 8, 8.0, 8.0),
        ("b", 8, 24.0, 8.0),
        ("c", 8, 16.0, 8.0),
    ]
    said, rests = list[float](), list[int]()
    assert list(verdicts(LEDGER, only=["range-d", "sounding-s"], checkpoint=lambda: rests.append(1), progress=said.append)) == [
        id for id in LEDGER.rows if id in ("range-d", "sounding-s")
    ]
    assert said == [0.0, 0.5] and len(rests) == 2 and len(verdicts(LEDGER)) == len(LEDGER.rows)


def test_a_round_is_planned_anew_from_what_can_still_be_asked() -> None:
    chosen = choose_round(LEDGER, folio_of(), Options(minutes=3), EVERYTHING)
    ids = [one.binding for one in chosen.due]
    assert replan_of(chosen, LEDGER, Options(minutes=None), lambda id: True) is None
    sprint = replan_of(chosen, LEDGER, Options(minutes=1, sprint=True), lambda id: True)
    plan = replan_of(chosen, LEDGER, Options(minutes=3), lambda id: id != "range-d")
    assert sprint is not None and sprint([], 0.0) == sprinting(ids, 1)([], 0.0)
    budget, first = chosen.budget.only(lambda id: id != "range-d"), tries_of("tide-table", "F3", ["hit"])
    untried = {id for id in budget.ids if not LEDGER.rows[id].count}
    assert plan is not None and "range-d" in ids and "range-d" not in plan(first, 9.0) and {"tide-table"} <= untried != set(budget.ids)
    assert plan(first, 9.0) == replanned(budget, 3, untried, first, 9.0)


@pytest.mark.parametrize(
    ("deadline", "ledger", "some"), [("adaptive", True, True), ("adaptive", False, False), ("none", True, False), ("fixed", True, False)]
)
def test_deadlines_of_ones_own_are_by_ones_own_times(deadline: Any, ledger: bool, some: bool) -> None:
    found = deadlines_of(LEDGER if ledger else None, Options(deadline=deadline))
    assert found == (adaptive_ms({id: row.time_ms for id, row in LEDGER.rows.items()}) if some else {})
