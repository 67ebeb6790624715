"""Every limit of judging just under, at and just over it."""

from __future__ import annotations

from datetime import timedelta

import pytest
from msgspec.structs import replace

from glimber.core.model.board import Key
from glimber.core.practice.answer import habits_of
from glimber.core.practice.judge import judge
from glimber.core.practice.tries import Change
from tests.core.practice.test_judge import SMALL, ask
from tests.helpers import NOON, events, folio_of, layout_of

S = "split-42:draw:KeyS:tap"


def moved(days: float, reverted: float | None = None, **more: object) -> Change:
    when = NOON - timedelta(days=days)
    change = Change("c", when, "bridge", "sounding-s", "move", "shoalwright/add-sounding", "split-42:base:KeyP:tap", S, "w", applied=when)
    return replace(change, reverted=None if reverted is None else NOON - timedelta(days=reverted), **more)  # type: ignore[arg-type]


def habits(*changes: Change, computer: str | None = "bridge") -> list[tuple[str, str]]:
    found = habits_of(SMALL, SMALL.bindings["sounding-s"], changes, computer, NOON)
    return [(str(one.trigger), f"{one.until:%d %b}") for one in found]


@pytest.mark.parametrize(("days", "there"), [(0, True), (1, True), (89.99, True), (90, True), (90.01, False), (400, False)])
def test_an_old_place_is_a_habit_for_ninety_days(days: float, there: bool) -> None:
    assert bool(habits(moved(days))) is there


@pytest.mark.parametrize(
    ("change", "found"),
    [
        (moved(5), ["split-42:base:KeyP:tap"]),
        (moved(-1), []),  # not yet
        (moved(50, reverted=5, to_trigger="split-42:base:KeyW:tap", from_trigger=S), ["split-42:base:KeyW:tap"]),  # went back
        (moved(200, reverted=5, to_trigger="split-42:base:KeyW:tap"), ["split-42:base:KeyW:tap"]),
        (moved(5, from_trigger=S), []),  # it answers to that now
        (moved(5, verdict="practise"), []),
        (moved(5, verdict="retire", to_trigger=None), ["split-42:base:KeyP:tap"]),
        (moved(5, verdict="move", to_trigger=None), []),
        (moved(5, computer="quay"), []),
        (moved(5, command="shoalwright/depth-range"), []),
        (moved(5, command=None), ["split-42:base:KeyP:tap"]),
        (moved(5, command=None, binding="range-d"), []),
        (moved(5, from_trigger="Gone+X"), []),  # of a bundle that is no more
    ],
)  # fmt: skip
def test_what_is_an_old_habit(change: Change, found: list[str]) -> None:
    assert [trigger for trigger, _ in habits(change)] == found
    if change.computer == "quay":
        assert [trigger for trigger, _ in habits(change, computer=None)] == ["split-42:base:KeyP:tap"]


def test_what_another_binding_of_the_command_answers_to_is_no_old_habit() -> None:
    change = moved(5, command="shoalwright/depth-range", binding="range-held")
    for old, found in (("split-42:draw:KeyD:tap", 0), ("split-42:draw:KeyF:tap", 1)):
        habits = habits_of(SMALL, SMALL.bindings["range-held"], [replace(change, from_trigger=old)], "bridge", NOON)
        assert len(habits) == found


def test_the_newest_day_of_a_habit_is_told() -> None:
    assert habits(moved(40), moved(3)) == [("split-42:base:KeyP:tap", "17 Nov")]


@pytest.mark.parametrize(("down", "outcome"), [(1999.9, "hit"), (2000, "blank"), (2000.1, "blank"), (0, "hit"), (-0.1, "blank")])
def test_a_key_counts_from_the_prompt_to_the_deadline(down: float, outcome: str) -> None:
    question = ask("add-sounding", deadline_ms=2000)
    rows = events((-500, "down", "ControlLeft"), (-400, "down", "ShiftLeft"), (down, "down", "KeyS"), (down + 50, "up", "KeyS"))
    assert judge(question, rows).outcome == outcome


@pytest.mark.parametrize(("gap", "kind"), [(0.34, "neighbour"), (0.35, "neighbour"), (0.36, "stray")])
def test_a_neighbour_is_at_most_a_third_of_a_key_away(gap: float, kind: str) -> None:
    board = folio_of().boards["split-42"]
    keys = tuple(key for key in board.keys if key.id in ("thumb-left-1", "thumb-left-2", "thumb-left-3"))
    wanted, struck = Key("KeyS", 0, 20, finger="left-ring"), Key("KeyX", 1 + gap, 20, finger="left-middle")
    folio = layout_of('id = "base"\nname = "Base"\n[layers.keys]\nKeyS = { tap = { id = "s", does = "shoalwright/add-sounding" } }\n')
    folio = replace(folio, boards={**folio.boards, "split-42": replace(board, keys=(*keys, wanted, struck))})
    answer = judge(ask("s", "split-42", folio), events((500, "down", "KeyX"), (560, "up", "KeyX")))
    assert (answer.outcome, answer.slip) == ("slip", kind)


WAY = 'id = "base"\nname = "Base"\n[layers.keys]\n{key} = {{ {gesture} = {{ enters = "draw", mode = "while" }} }}\n'
DRAW = 'id = "draw"\nname = "Draw"\n[layers.keys]\nKeyS = { tap = { id = "s", does = "shoalwright/add-sounding" } }\n'


@pytest.mark.parametrize(("struck", "slip"), [("thumb-left-1", "gesture"), ("thumb-left-2", "stray")])
def test_the_key_that_should_have_brought_the_layer_in_with_another_gesture(struck: str, slip: str) -> None:
    """Tapped where it had to be held: a gesture slip; another key of the thumb is none."""
    keys = WAY.format(key="thumb-left-1", gesture='tap = "Space", hold') + 'thumb-left-2 = "Ctrl+Alt+Z"\n'
    answer = judge(ask("s", "split-42", layout_of(keys, DRAW)), events((500, "down", struck), (560, "up", struck)))
    assert answer.slip == slip
