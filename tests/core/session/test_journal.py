"""The journal of steps: taken back one by one on another day, past what others changed, and small."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.session import journal as module
from glimber.core.session.journal import BrokenError, Journal, patch_of

AT = datetime(2026, 3, 2, 14, 5, tzinfo=UTC)


def files(**texts: str) -> dict[str, bytes]:
    return {name: text.encode() for name, text in texts.items()}


class Desk:
    """Files that change with a journal beside them."""

    def __init__(self, **texts: str) -> None:
        self.now, self.journal = files(**texts), Journal()

    def save(self, made: dict[int, str], *reverted: int, **texts: str) -> None:
        after = {**self.now, **files(**texts)}
        self.journal = self.journal.save(made, reverted, self.now, after, AT, "gather")
        self.now = after

    def change_outside(self, **texts: str) -> None:
        after = {**self.now, **files(**texts)}
        self.journal = self.journal.see(self.now, after, AT)
        self.now = after

    def names(self) -> list[tuple[str, ...]]:
        return [entry.names for entry in self.journal.undo]


@given(st.binary(max_size=60), st.binary(max_size=60))
def test_a_patch_has_what_differs_and_nothing_else(before: bytes, after: bytes) -> None:
    patch = patch_of("a", before, after)
    assert before[: patch.start] + (patch.after or b"") + before[patch.start + len(patch.before or b"") :] == after
    if patch.before and patch.after:
        assert patch.before[:1] != patch.after[:1] and patch.before[-1:] != patch.after[-1:]


def test_each_save_is_a_step_and_gives_back_every_earlier_state() -> None:
    desk = Desk(a="one two three", b="x")
    states = [dict(desk.now)]
    for number, text in enumerate(("one 2 three", "one 2 3", "1 2 3"), start=1):
        desk.save({number: f"step {number}"}, a=text)
        states.append(dict(desk.now))
    assert desk.names() == [("step 1",), ("step 2",), ("step 3",)]
    for place, state in enumerate(states):
        id = desk.journal.undo[place - 1].id if place else 0
        assert desk.journal.state_after(id, desk.now) == state
    before, after = desk.journal.states_of(desk.journal.undo[1], desk.now)
    assert (before["a"], after["a"]) == (b"one 2 three", b"one 2 3")
    assert desk.journal.texts == files(a="1 2 3")  # of a file that no step changed nothing is kept


def test_an_undone_step_can_be_done_again_and_a_new_one_ends_that() -> None:
    desk = Desk(a="one")
    desk.save({1: "two"}, a="two")
    desk.save({}, 1, a="one")
    assert desk.names() == [] and [entry.names for entry in desk.journal.redo] == [("two",)]
    before, after = desk.journal.states_of(desk.journal.redo[0], desk.now)
    assert (before["a"], after["a"]) == (b"one", b"two")
    desk.save({1: "two"}, a="two")
    assert desk.names() == [("two",)] and desk.journal.redo == ()
    desk.save({2: "three"}, 1, a="three")  # undone and edited in one save
    assert desk.names() == [("three",)]
    assert desk.journal.state_after(0, desk.now) == files(a="one")


def test_what_others_changed_stays_between_the_steps() -> None:
    desk = Desk(a="alpha", b="beta")
    desk.save({1: "first"}, a="ALPHA")
    desk.change_outside(b="BETA")
    desk.save({2: "second"}, a="ALPHA!")
    assert [(first.names, last.names) for first, last in desk.journal.runs_after(0)] == [
        (("second",), ("second",)), (("first",), ("first",))
    ]  # fmt: skip
    desk.save({}, 2, a="ALPHA")
    assert desk.journal.newest() == desk.journal.undo[0] and desk.journal.undo[-1].outside
    desk.save({}, 1, a="alpha")  # the entry from outside above it stays in the journal as what remains
    assert desk.now == files(a="alpha", b="BETA")
    assert desk.journal.newest() is None and desk.journal.state_after(0, desk.now) == files(a="alpha", b="beta")


def test_a_run_without_others_in_between_is_one() -> None:
    desk = Desk(a="1")
    for number in range(2, 6):
        desk.save({number: f"to {number}"}, a=str(number))
    (first, last), = desk.journal.runs_after(desk.journal.undo[0].id)
    assert (first.names, last.names) == (("to 3",), ("to 5",)) and desk.journal.runs_after(last.id) == []


def test_files_made_and_removed() -> None:
    desk = Desk(a="one")
    desk.save({1: "a second file"}, b="new")
    assert desk.journal.state_after(0, desk.now) == files(a="one")
    after = files(a="one")
    gone = desk.journal.save({2: "without it"}, (), desk.now, after, AT, "cards")
    assert gone.state_after(desk.journal.last_id, after) == files(a="one", b="new")


def test_another_day_begins_with_what_changed_meanwhile() -> None:
    desk = Desk(a="one", b="x")
    desk.save({1: "two"}, a="two")
    fresh = desk.journal.resume(files(a="two!", b="y"), AT)
    assert [entry.outside for entry in fresh.undo] == [False, True]
    assert fresh.state_after(fresh.undo[0].id, files(a="two!", b="y"))["a"] == b"two"
    same = desk.journal.resume(desk.now, AT)
    assert [entry.names for entry in same.undo] == [("two",)] and not same.undo[0].steps  # numbers end with the program


def test_a_state_that_is_not_there_is_refused_by_name() -> None:
    desk = Desk(a="one")
    desk.save({1: "two"}, a="two")
    with pytest.raises(BrokenError, match="a is not what it was"):
        desk.journal.state_after(0, files(a="quite another"))


@pytest.mark.parametrize(("steps", "kept"), [(399, 399), (400, 400), (401, 400)])
def test_only_so_many_steps_are_kept(steps: int, kept: int) -> None:
    desk = Desk(a="0")
    for number in range(1, steps + 1):
        desk.save({number: "step"}, a=str(number))
    assert len(desk.journal.undo) == kept


@pytest.mark.parametrize(("most", "kept"), [(19, 1), (20, 2), (21, 2)])
def test_only_so_many_bytes_are_kept(monkeypatch: pytest.MonkeyPatch, most: int, kept: int) -> None:
    monkeypatch.setattr(module, "MOST_BYTES", most)
    desk = Desk(a="aaaaa")
    desk.save({1: "one"}, a="bbbbb")
    desk.save({2: "two"}, a="ccccc")
    assert len(desk.journal.undo) == kept


def test_a_step_of_yesterday_is_one_of_today_once_it_was_recalled() -> None:
    desk = Desk(a="one")
    desk.save({1: "two"}, a="two")
    yesterday = Journal(tuple(entry for entry in desk.journal.undo), (), desk.journal.texts, desk.journal.last_id)
    today = yesterday.recalled(yesterday.undo[0], 77)
    assert today.save({}, [77], desk.now, files(a="one"), AT, "gather").undo == ()
