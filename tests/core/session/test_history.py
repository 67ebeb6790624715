"""The history without a window: net differences, steps over other people's edits, ids stated for good."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import EditError, move_binding, retire_binding
from glimber.core.edit.spots import move_key, swap_keys
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tries import Change
from glimber.core.session.changes import Note, differences, settle
from glimber.core.session.history import History
from glimber.core.session.merge import ClashError, fault_of, merged, over
from tests.helpers import NOON, folio_of

SMALL = folio_of()
LEAD, SOUNDING = "shoalwright/lead-line", "shoalwright/add-sounding"
S, D = ("split-42", "draw", "KeyS"), ("split-42", "draw", "KeyD")


def called(label: str, ref: str = LEAD):  # type: ignore[no-untyped-def]
    return lambda folio: edit_command(folio, ref, label=label)


def write(history: History) -> None:
    history.begin_write()
    history.wrote()


def test_an_edit_undone_before_it_is_written_is_nothing_at_all() -> None:
    history = History(SMALL)
    history.edit("label", called("Lead"))
    history.undo()
    assert not history.waits and history.waiting() == []
    fresh = edit_command(SMALL, SOUNDING, label="Sounding")
    assert history.read(fresh) == [] and history.value is fresh  # it does not come back
    history.redo()
    assert (history.value.commands[LEAD].label, history.value.commands[SOUNDING].label) == ("Lead", "Sounding")


def test_ids_once_stated_stay_whatever_is_undone() -> None:
    history = History(SMALL)
    history.edit("label", called("Lead"))
    history.state({"lead-line"})
    write(history)
    history.undo()
    assert history.value.commands[LEAD].label is None and history.value.bindings["lead-line"].given_id
    history.edit("retire", lambda folio: retire_binding(folio, "lead-line"))
    history.undo()
    assert history.value.bindings["lead-line"].given_id
    history.redo(), history.undo()
    assert history.value.bindings["lead-line"].given_id


def test_going_back_leaves_what_others_wrote_since() -> None:
    history = History(SMALL)
    history.edit("swap", lambda folio: swap_keys(folio, S, D))
    write(history)
    assert history.read(edit_command(history.value, SOUNDING, label="Theirs")) == []
    history.undo()
    assert str(history.value.bindings["sounding-s"].trigger) == "split-42:draw:KeyS:tap"
    assert history.value.commands[SOUNDING].label == "Theirs"


def test_what_somebody_else_changed_too_cannot_be_taken_back_and_stays_to_be_undone() -> None:
    history = History(SMALL)
    history.edit("mine", called("Mine"))
    write(history)
    history.read(edit_command(history.value, LEAD, label="Theirs"))
    with pytest.raises(EditError, match="changed meanwhile"):
        history.undo()
    assert [step.name for step in history.stacks.undo] == ["mine"] and history.stacks.redo == ()
    assert history.value.commands[LEAD].label == "Theirs"


def test_of_edits_that_wait_those_that_do_not_fit_are_named_and_the_others_stay() -> None:
    history = History(SMALL)
    history.edit("mine", called("Mine"))
    history.edit("swap", lambda folio: swap_keys(folio, S, D))
    assert history.read(edit_command(SMALL, LEAD, label="Theirs")) == ["mine"]
    assert history.value.commands[LEAD].label == "Theirs"
    assert str(history.value.bindings["sounding-s"].trigger) == "split-42:draw:KeyD:tap"
    assert [step.name for step in history.stacks.undo] == ["swap"]


def test_a_refused_write_takes_back_only_what_was_not_written() -> None:
    history = History(SMALL)
    history.edit("label", called("One"))
    write(history)
    history.edit("label", called("Two"))
    history.begin_write()
    assert history.refused() == ["label"]
    assert history.value.commands[LEAD].label == "One" and [step.name for step in history.stacks.undo] == ["label"]
    history.undo()
    history.begin_write()
    assert history.refused() == ["label"]  # an undo that could not be written has not happened
    assert history.value.commands[LEAD].label == "One"
    assert [step.name for step in history.stacks.undo] == ["label"] and history.stacks.redo == ()


def test_an_edit_made_while_another_is_written_waits() -> None:
    history = History(SMALL)
    history.edit("one", called("One"))
    history.begin_write()
    history.edit("two", called("Two"))
    history.wrote()
    assert history.waits and [step.name for step in history.waiting()] == ["two"]
    assert history.written.commands[LEAD].label == "One"


@given(st.lists(st.sampled_from(["label", "swap", "retire", "undo", "redo", "write", "refuse", "theirs"]), max_size=14))
def test_any_order_of_edits_leaves_a_sound_folio_and_undoes_to_what_others_left(moves: list[str]) -> None:
    history, theirs, number = History(SMALL), SMALL, 0
    for move in moves:
        number += 1
        try:
            if move == "label":
                history.edit(move, called(f"Mine {number}"))
            elif move == "swap":
                history.edit(move, lambda folio: swap_keys(folio, S, D))
            elif move == "retire":
                history.edit(move, lambda folio: retire_binding(folio, "lead-line"))
            elif move == "undo":
                history.undo()
            elif move == "redo":
                history.redo()
            elif move == "write":
                write(history)
            elif move == "refuse":
                history.begin_write()
                history.refused()
            else:
                theirs = edit_command(theirs, SOUNDING, label=f"Theirs {number}")
                history.read(over(SMALL, theirs, history.written))
        except EditError:
            continue
        except ClashError:
            return
        assert fault_of(history.value) is None
    while history.undo() is not None:
        pass
    assert history.value.commands[SOUNDING].label == theirs.commands[SOUNDING].label
    assert {id: str(b.trigger) for id, b in history.value.bindings.items()} == {id: str(b.trigger) for id, b in SMALL.bindings.items()}


# Merging


@pytest.mark.parametrize(("base", "mine", "theirs", "found"), [
    ({"a": 1}, {"a": 2}, {"a": 1, "b": 1}, {"a": 2, "b": 1}),
    ({"a": 1, "b": 1}, {"b": 1}, {"a": 1, "b": 2}, {"b": 2}),
    (frozenset("ab"), frozenset("abc"), frozenset("b"), frozenset("bc")),
    ({"a": 1, "b": 1}, {"a": 1, "c": 1, "b": 1}, {"d": 1, "a": 1, "b": 1}, {"d": 1, "a": 1, "c": 1, "b": 1}),
])  # fmt: skip
def test_both_sides_changes_are_kept(base: object, mine: object, theirs: object, found: object) -> None:
    result = merged(base, mine, theirs)
    assert result == found
    if isinstance(result, dict) and isinstance(found, dict):
        assert list(result) == list(found)


@pytest.mark.parametrize(("base", "mine", "theirs"), [("a", "b", "c"), ({"a": 1}, {"a": 2}, {"a": 3}), ({"a": 1}, {}, {"a": 2})])
def test_the_same_thing_changed_on_both_sides_is_a_clash(base: object, mine: object, theirs: object) -> None:
    with pytest.raises(ClashError):
        merged(base, mine, theirs)


def test_two_sides_that_each_keep_the_rules_may_break_one_together() -> None:
    one = move_key(SMALL, S, ("split-42", "draw", "KeyA"))
    other = move_key(SMALL, D, ("split-42", "draw", "KeyA"))
    with pytest.raises(ClashError, match="two bindings"):
        over(SMALL, one, other)


# Changes of triggers


def moved(folio: Folio, id: str, to: str, swap: bool = False) -> Folio:
    return move_binding(folio, id, parse_trigger(to), swap).folio


def told(changes: list[Change]) -> list[tuple[str, str, str | None, str | None, str | None]]:
    return [(c.binding, c.verdict, c.from_trigger, c.to_trigger, c.swap_with) for c in changes]


DRAW_S, DRAW_D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"


def test_a_swap_is_two_changes_whoever_made_it() -> None:
    found = differences(SMALL, moved(SMALL, "sounding-s", DRAW_D, True))
    added, updated = settle(found, [], {}, NOON, "bridge", ["a", "b"])
    assert sorted(told(added)) == [
        ("range-d", "move", DRAW_D, DRAW_S, "sounding-s"), ("sounding-s", "move", DRAW_S, DRAW_D, "range-d")]  # fmt: skip
    assert updated == [] and all(c.applied == NOON for c in added)


def test_going_back_reverts_the_change_and_adds_none() -> None:
    there = moved(SMALL, "sounding-s", "split-42:draw:KeyA:tap")
    added, _ = settle(differences(SMALL, there), [], {"sounding-s": Note("move", "A is easier")}, NOON, "bridge", ["a"])
    assert (added[0].verdict, added[0].why) == ("move", "A is easier")
    more, updated = settle(differences(there, SMALL), added, {}, NOON, "bridge", ["b"])
    assert more == [] and [(c.id, c.reverted) for c in updated] == [("a", NOON)]


def test_what_another_window_noted_is_not_noted_again_and_gains_the_why() -> None:
    there = moved(SMALL, "sounding-s", "split-42:draw:KeyA:tap")
    bare, _ = settle(differences(SMALL, there), [], {}, NOON, "bridge", ["a"])
    added, updated = settle(differences(SMALL, there), bare, {}, NOON, "bridge", ["b"])
    assert (added, updated) == ([], [])
    added, updated = settle(differences(SMALL, there), bare, {"sounding-s": Note("move", "why")}, NOON, "bridge", ["b"])
    assert added == [] and [(c.id, c.why) for c in updated] == [("a", "why")]


def test_other_gestures_and_kinds_are_a_rebind_and_what_is_taken_off_is_retired() -> None:
    held = moved(SMALL, "sounding-s", "split-42:draw:KeyA:hold")
    assert [one.verdict for one in differences(SMALL, held)] == ["rebind"]
    gone = retire_binding(SMALL, "sounding-s")
    added, _ = settle(differences(SMALL, gone), [], {}, NOON, "bridge", ["a"])
    assert told(added) == [("sounding-s", "retire", DRAW_S, None, None)]
    back, updated = settle(differences(gone, SMALL), added, {}, NOON, "bridge", ["b"])
    assert back == [] and updated[0].reverted == NOON


def test_a_new_binding_is_no_change_of_one() -> None:
    gone = retire_binding(SMALL, "lead-line")
    assert settle(differences(gone, SMALL), [], {}, NOON, "bridge", ["a"]) == ([], [])
