"""Which rows are shown and how they are sorted, which round can be resumed, and how long its tries took."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.decide.row_order import ORDERS, kinds_of, shown
from glimber.core.decide.summary import Row
from glimber.core.practice.round import begin, running, seconds_of, unfinished
from glimber.core.practice.tries import Round, jsonable
from tests.helpers import NOON, tries_of

A = Row(
    "a",
    "Sounding",
    "S on Draw",
    "tide",
    "ring",
    0.9,
    (1, 2, 3, 4),
    10.0,
    None,
    "keep",
    "solid",
    "",
    None,
    4,
    "Shoalwright",
    "Draw",
    "Survey",
    0.9,
    1.0,
)
B = replace(A, id="b", name="buoy", place="Ctrl+B", grip=0.2, weekly_s=30.0, choice="move", reason="stuck", tries=9, layer="", lost_s=None)
C = replace(A, id="c", name="Contour", grip=0.0, weekly_s=None, choice="practise", reason="thin evidence", tries=0, group="", lost_s=5.0)
D = replace(A, id="d", name="Depth", grip=0.5, weekly_s=0.0, choice="retire", reason="unused", tries=1, program="Namewell", lost_s=0.0)


@pytest.mark.parametrize(("order", "ids"), [
    ("cost", "badc"), ("seconds lost", "cadb"), ("name", "bcda"), ("grip", "bdac"), ("verdict", "bdca"), ("tries", "badc"),
])  # fmt: skip
def test_rows_are_sorted_and_alike_ones_by_cost(order: str, ids: str) -> None:
    assert "".join(row.id for row in shown([A, B, C, D], order)) == ids and set(ORDERS) >= {order}
    assert [
        row.id for row in shown([C, replace(A, name="Contour", grip=0.0, tries=0, choice="practise", reason="thin evidence")], "name")
    ] == ["a", "c"]


@pytest.mark.parametrize(("words", "ids"), [
    ("", "badc"), ("SOUND", "a"), ("ctrl+b", "b"), ("namewell", "d"), ("draw survey", "ad"), ("thin", "c"), ("move", "b"), ("keep stuck", ""),
])  # fmt: skip
def test_rows_are_chosen_by_words_in_any_of_their_texts(words: str, ids: str) -> None:
    assert "".join(row.id for row in shown([A, B, C, D], words=words)) == ids


def test_what_rows_can_be_chosen_by_is_told_once() -> None:
    assert kinds_of([A, C]) == [("Shoalwright", "program"), ("Draw", "layer"), ("Survey", "group"), ("keep", "verdict"), ("practise", "verdict"),
                                ("solid", "reason"), ("thin evidence", "reason")]  # fmt: skip


LAST = Round("r1", NOON - timedelta(days=1), "bridge", "press", ("a", "b"))


@pytest.mark.parametrize(("changed", "more", "found"), [
    ({}, (), "r1"), ({"ended": NOON}, (), None), ({"bindings": ("a", "gone")}, (), None),
    ({}, (replace(LAST, id="r2", began=NOON, ended=NOON),), None), ({}, (replace(LAST, id="r2", began=NOON),), "r2"),
    ({}, (replace(LAST, id="r2", began=NOON + timedelta(seconds=1), ended=NOON),), "r1"),
])  # fmt: skip
def test_the_newest_round_can_be_gone_on_with_where_it_has_not_ended(
    changed: dict[str, Any], more: tuple[Any, ...], found: str | None
) -> None:
    one = unfinished([replace(LAST, **changed), *more], NOON, ["a", "b", "c"])
    assert (one.id if one else None) == found and unfinished([], NOON, []) is None


@pytest.mark.parametrize(("gaps", "seconds"), [((), 2.0), ((4.0,), 6.0), ((10.0,), 12.0), ((10.5,), 12.0), ((3.0, 700.0, 1.0), 16.0)])
def test_how_long_tries_took_without_their_pauses(gaps: tuple[float, ...], seconds: float) -> None:
    one = tries_of("a", "Ctrl+A", ["hit"])[0]
    rows = [replace(one, at=NOON + timedelta(seconds=sum(gaps[:n]))) for n in range(len(gaps) + 1)]
    assert seconds_of(rows[::-1]) == seconds and seconds_of([]) == 0.0


def test_how_many_prompts_a_round_will_have() -> None:
    run = running(["a", "b", "a"])
    assert [(lane.binding, lane.wanted) for lane in run.lanes] == [("a", 2), ("b", 1)] and run.expected_prompts() == 3
    assert not run.done and not replace(run, nth=3, asked="a").done and replace(run, nth=3).done
    state = replace(begin(["a", "b"], {"a": 3, "b": 2}), nth=4)
    assert state.expected_prompts() == 9
    state = replace(state, lanes=(replace(state.lanes[0], hits=1), replace(state.lanes[1], hits=2)))
    assert state.expected_prompts() == 6 and not state.done


def test_what_a_json_document_holds() -> None:
    given = {"at": NOON, "list": (1.0, 2.5, float("nan"), float("inf")), "in": [{"x": True}], "text": "ä", "none": None}
    assert jsonable(given) == {
        "at": "2026-11-20T12:00:00.000Z",
        "list": [1, 2.5, None, None],
        "in": [{"x": True}],
        "text": "ä",
        "none": None,
    }
    assert [type(one) for one in jsonable((3.0, 3.5, True))] == [int, float, bool]
