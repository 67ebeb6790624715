"""What is said of commands and bindings, and what is refused; the tally; counts; the way back."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from glimber.core.edit.commands import add_command, add_context, edit_binding, edit_command, put_in_group, remove_command, step_fault
from glimber.core.edit.counts import Count, match_counts, with_uses
from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio
from glimber.core.stats.modifiers import modifier_tally
from tests.helpers import folio_of

SMALL = folio_of()
LEAD = "shoalwright/lead-line"


def test_another_name_leaves_the_former_one_findable_and_the_id_as_it_was() -> None:
    after = edit_command(SMALL, LEAD, name="  Sounding   lead ")
    assert (after.commands[LEAD].name, after.commands[LEAD].was) == ("Sounding lead", ("Lead line",))
    back = edit_command(after, LEAD, name="Lead line")
    assert back.commands[LEAD].was == ("Sounding lead",)
    assert edit_command(SMALL, LEAD, words=("plummet",), careful=True).commands[LEAD].words == ("plummet",)


@pytest.mark.parametrize(("edit", "said"), [
    (lambda f: edit_command(f, LEAD, name=" "), "needs its name"),
    (lambda f: edit_command(f, LEAD, uses_per_day=-1.0), "expected 0 or more"),
    (lambda f: edit_command(f, LEAD, uses_per_day=float("inf")), "expected 0 or more"),
    (lambda f: edit_command(f, LEAD, slow_way=("menu Survey", "press Add")), "'press Add' is not a step"),
    (lambda f: edit_command(f, LEAD, group="survay"), "not a group of Shoalwright; did you mean survey"),
    (lambda f: edit_command(f, LEAD, context="canvass"), "did you mean canvas"),
    (lambda f: edit_command(f, "shoalwright/gone", careful=True), "is not a command"),
    (lambda f: edit_command(f, LEAD, keys_of=(("macos", ("F2",)),)), "macos is not a system; did you mean mac"),
    (lambda f: edit_command(f, LEAD, keys_of=(("mac", ("Cmdd+S",)),)), "macOS: .*Cmdd"),
    (lambda f: add_command(f, "shoalwright", "lead LINE"), "has a command called lead LINE already"),
    (lambda f: add_command(f, "shoalwright", ""), "needs its name"),
    (lambda f: add_context(f, "shoalwright", " "), "needs a name"),
    (lambda f: put_in_group(f, [LEAD], "Survey", ink="gold"), "gold is not the name of an ink"),
    (lambda f: put_in_group(f, [LEAD], "Survey", mark="star"), "star is not the name of a mark"),
    (lambda f: edit_binding(f, "lead-line", share=1.5), "expected 0 to 1"),
    (lambda f: edit_binding(f, "gone", reason="no"), "is not a binding"),
    (lambda f: remove_command(f, "shoalwright/add-sounding"), "is on split-42:draw:KeyS:tap; clear that key first"),
])  # fmt: skip
def test_what_is_refused_says_why(edit: Callable[[Folio], object], said: str) -> None:
    with pytest.raises(EditError, match=said):
        edit(SMALL)


@pytest.mark.parametrize(
    ("step", "good"),
    [("menu Survey", True), ("click OK", True), ("field 8", True), ("drag The buoy", True), ("scroll", True), ("wait 1.5", True),
     ("menu", False), ("field x", False), ("field ²", False), ("scroll down", False), ("wait -1", False), ("", False)],
)  # fmt: skip
def test_steps_of_a_slow_way(step: str, good: bool) -> None:
    assert (step_fault(step) is None) == good


def test_a_command_made_and_removed() -> None:
    made, ref = add_command(SMALL, "shoalwright", "Lead-line")
    assert ref == "shoalwright/lead-line-2" and made.bench()[-1].name == "Lead-line"
    assert remove_command(made, ref) == SMALL
    assert "lead-line" not in remove_command(SMALL, LEAD).bindings


def test_groups_are_made_with_what_is_free_and_taken_off_again() -> None:
    after = put_in_group(SMALL, [LEAD, "shoalwright/quay-list"], "Harbour", mark="wave")
    group = after.programs["shoalwright"].groups["harbour"]
    assert (group.name, group.mark) == ("Harbour", "wave") and group.ink != "tide"
    assert after.commands[LEAD].group == after.commands["shoalwright/quay-list"].group == "harbour"
    assert put_in_group(after, [LEAD], "harbour", ink="rose").programs["shoalwright"].groups["harbour"].ink == "rose"
    assert put_in_group(after, [LEAD], "").commands[LEAD].group is None


def test_the_tally_of_modifiers() -> None:
    found = {one.modifiers: one for one in modifier_tally(SMALL, "shoalwright")}
    assert found[("Ctrl", "Shift")].strikes == 1 and found[("Ctrl",)].strikes == 4 and found[("Shift",)].strikes == 1
    # Half of the 60 uses a day in a week of 5 days: the other binding is on the split board.
    assert found[("Ctrl", "Shift")].uses_week == 150
    assert found[("Ctrl", "Shift")].hold_ms > found[("Ctrl",)].hold_ms > 0  # type: ignore[operator]
    assert found[("Ctrl", "Shift")].week_s == pytest.approx(150 * found[("Ctrl", "Shift")].hold_ms / 1000)  # type: ignore[operator]
    assert {one.modifiers for one in modifier_tally(SMALL)} - set(found) == {("Super",)}


def test_counts_find_commands_by_any_of_their_names_and_add_up() -> None:
    folio = edit_command(SMALL, LEAD, name="Sounding lead")
    counts = [Count("sounding", 100, 1), Count("Lead line", 30, 2), Count("lead-line", 20, 3), Count("Quay list", 6, 4, 2),
              Count("Quay lost", 1, 5)]  # fmt: skip
    found = match_counts(folio, counts, 10)
    assert found.uses == {"shoalwright/add-sounding": 10, LEAD: 5, "shoalwright/quay-list": 3}
    assert [text for _, text in found.unknown] == ["line 5: no command is called Quay lost; did you mean Quay list?"]
    assert with_uses(folio, found.uses).commands[LEAD].uses_per_day == 5
    assert match_counts(folio, counts, 10, "everywhere").uses == {}
    with pytest.raises(ValueError, match="more than 0"):
        match_counts(folio, counts, 0)


def test_keys_on_other_systems_are_kept_in_the_usual_notation() -> None:
    changed = edit_command(SMALL, LEAD, keys_of=(("mac", ("Cmd+Shift+L", "F2")), ("windows", ("Win+L",))))
    assert changed.commands[LEAD].keys_of == (("mac", ("Shift+Super+L", "F2")), ("windows", ("Super+L",)))
    assert edit_command(changed, LEAD, keys_of=()).commands[LEAD].keys_of == ()
