"""Rows against a program: new, same, changed, probably renamed; and what taking them in keeps."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glimber.core.edit.commands import edit_binding
from glimber.core.edit.compare import Incoming, compare, likely_program, merged, take
from glimber.core.edit.defaults import back_to_defaults, departures
from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio
from glimber.core.notation.ids import slug_of
from tests.helpers import folio_of

SMALL = folio_of()


def kinds(*rows: Incoming) -> list[str]:
    return kinds_in(SMALL, *rows)


@pytest.mark.parametrize(("row", "kind"), [
    (Incoming("Add sounding", ("Ctrl+Shift+S",)), "same"),
    (Incoming("add Sounding", ("Ctrl+Shift+[KeyS]",)), "same"),  # the same strike, spelt otherwise
    (Incoming("Add sounding", ("F9",)), "changed"),
    (Incoming("Add sounding", ()), "changed"),
    (Incoming("Add soundings", ("F9",)), "renamed"),
    (Incoming("Name of a strait", ("Ctrl+K Ctrl+S",)), "renamed"),  # alike, and the same keys
    (Incoming("Name of a strait", ("F9",)), "new"),
    (Incoming("Trace coast", ("F9",)), "new"),
])  # fmt: skip
def test_what_a_row_is(row: Incoming, kind: str) -> None:
    assert kinds(row) == [kind]


def test_a_command_that_is_there_is_not_taken_for_a_former_name() -> None:
    assert kinds(Incoming("Add sounding", ("Ctrl+Shift+S",)), Incoming("Add soundings", ())) == ["same", "new"]


def test_a_command_that_comes_twice_has_the_triggers_of_both() -> None:
    rows = merged([Incoming("Trim", ("F4",)), Incoming("trim", ("F5", "F4"))])
    assert rows == [Incoming("Trim", ("F4", "F5"))]


def test_a_command_taken_in_under_its_whole_explanation_is_still_known() -> None:
    folio = folio_of()
    row = Incoming("Trace the coast along the line in front", ("Ctrl+F9",), None, "With Shift it goes on over the edge.")
    whole = Incoming(f"{row.name}. {row.note}", row.triggers)
    after = take(folio, "shoalwright", [one for one in compare(folio, "shoalwright", [whole]) if one.kind == "new"])
    assert [one.kind for one in compare(after, "shoalwright", [row]) if one.row.name == row.name] == ["same"]


def test_taking_keeps_ids_reasons_and_what_is_not_ticked() -> None:
    rows = [Incoming("Add soundings", ("F9",)), Incoming("Lead line", ("F3", "F4")), Incoming("Trace coast", ("F8",), "Coast")]
    after = take(SMALL, "shoalwright", compare(SMALL, "shoalwright", rows))
    command = after.commands["shoalwright/add-sounding"]
    assert (command.name, command.was) == ("Add soundings", ("Add sounding",))
    assert str(after.bindings["add-sounding"].trigger) == "Ctrl+Shift+S"  # a new name is no new key
    assert [str(b.trigger) for b in after.bindings_of["shoalwright/lead-line"]] == ["F3", "F4"]
    assert "lead-line" in after.bindings and "lead-line-2" in after.bindings
    assert after.programs["shoalwright"].groups["coast"].name == "Coast"
    assert after.bindings["tide-table"] == SMALL.bindings["tide-table"]


def test_a_row_with_the_same_keys_tells_the_slow_way_and_other_names() -> None:
    ways = [Incoming("Add sounding", ("Ctrl+Shift+S",), None, "", ("menu Survey", "click Add sounding")),
            Incoming("Lead line", ("Ctrl+K Ctrl+L",), None, "", (), ("Lotleine",)), Incoming("Tide table", ("Ctrl+T",))]  # fmt: skip
    known = SMALL.commands["shoalwright/add-sounding"].slow_way
    found = compare(SMALL, "shoalwright", ways)
    assert [one.kind for one in found][:2] == ["same" if known else "more", "more"]
    after = take(SMALL, "shoalwright", found)
    assert after.commands["shoalwright/add-sounding"].slow_way == (known or ("menu Survey", "click Add sounding"))
    assert "Lotleine" in after.commands["shoalwright/lead-line"].words and after.bindings["lead-line"] == SMALL.bindings["lead-line"]
    assert [one.kind for one in compare(after, "shoalwright", ways)] == ["same"] * 3


def test_a_row_with_the_same_keys_tells_those_of_other_systems() -> None:
    row = Incoming("Add sounding", ("Ctrl+Shift+S",), keys_of=(("mac", ("Shift+Super+S",)),))
    (difference,) = compare(SMALL, "shoalwright", [row])
    assert difference.kind == "more"
    taken = take(SMALL, "shoalwright", [difference])
    assert taken.commands["shoalwright/add-sounding"].keys_of == row.keys_of and taken.bindings == SMALL.bindings
    assert kinds_in(taken, row) == ["same"]
    more = replace(row, keys_of=(("windows", ("F9",)),))
    again = take(taken, "shoalwright", compare(taken, "shoalwright", [more]))
    assert dict(again.commands["shoalwright/add-sounding"].keys_of) == {"mac": ("Shift+Super+S",), "windows": ("F9",)}


def kinds_in(folio: Folio, *rows: Incoming) -> list[str]:
    return [one.kind for one in compare(folio, "shoalwright", rows)]


def test_the_first_set_read_is_kept_as_the_programs_own() -> None:
    once = take(SMALL, "shoalwright", compare(SMALL, "shoalwright", [Incoming("Lead line", ("Ctrl+K Ctrl+L",))]))
    assert once.programs["shoalwright"].defaults == {"lead-line": ("Ctrl+K Ctrl+L",)}
    twice = take(once, "shoalwright", compare(once, "shoalwright", [Incoming("Lead line", ("F3",))]))
    assert twice.programs["shoalwright"].defaults == once.programs["shoalwright"].defaults


def test_the_program_that_has_most_of_them_is_likely() -> None:
    assert likely_program(SMALL, [Incoming("Lead line", ()), Incoming("Show desktop", ()), Incoming("tide table", ())]) == "shoalwright"
    assert likely_program(SMALL, [Incoming("Nothing like it", ())]) is None


VERSION_1 = [
    Incoming("Add sounding", ("Ctrl+Shift+S",)),
    Incoming("Lead line", ("Ctrl+L",)),
    Incoming("Name strait", ("Ctrl+K Ctrl+S",)),
    Incoming("Tide table", ("F8",)),
    Incoming("Quay list", ("F9",)),
]


def with_version_1() -> Folio:
    """The small office, of which version 1 is the program's own set: the person changed Lead line and Tide table."""
    return take(SMALL, "shoalwright", [], own_set=VERSION_1)


@pytest.mark.parametrize(("row", "kind", "taken_by"), [
    (Incoming("Lead line", ("Ctrl+L",)), "yours", None),  # only the person changed it
    (Incoming("Name strait", ("F7",)), "changed", None),  # only the program did
    (Incoming("Lead line", ("F7",)), "conflict", None),  # both did
    (Incoming("Lead line", ("Ctrl+K Ctrl+L",)), "same", None),  # both, in the same way
    (Incoming("Name strait", ("Shift+[Numpad4]",)), "conflict", "Tide table"),  # what the person gave to another
    (Incoming("Trace coast", ("Ctrl+K Ctrl+L",)), "conflict", "Lead line"),
    (Incoming("Trace coast", ("F7",)), "new", None),
])  # fmt: skip
def test_a_new_version_is_merged_with_what_the_person_made_of_the_old_one(row: Incoming, kind: str, taken_by: str | None) -> None:
    found = compare(with_version_1(), "shoalwright", [row], new_version=True)[0]
    assert (found.kind, found.taken_by) == (kind, taken_by)


def test_a_merge_keeps_what_is_the_persons_and_the_new_set_becomes_the_default() -> None:
    before = with_version_1()
    version_2 = [*VERSION_1[:2], Incoming("Name strait", ("F7",)), *VERSION_1[3:], Incoming("Trace coast", ("F6",))]
    found = compare(before, "shoalwright", version_2, new_version=True)
    assert [one.kind for one in found] == ["same", "yours", "changed", "yours", "yours", "new"]
    after = take(before, "shoalwright", found, own_set=version_2)
    assert str(after.bindings["lead-line"].trigger) == "Ctrl+K Ctrl+L"
    assert str(after.bindings["name-strait"].trigger) == "F7"
    assert after.programs["shoalwright"].defaults["trace-coast"] == ("F6",)
    assert {one.kind for one in compare(after, "shoalwright", version_2, new_version=True)} == {"same", "yours"}


def test_what_a_whole_list_no_longer_names_is_gone() -> None:
    before = with_version_1()
    found = compare(before, "shoalwright", VERSION_1[:3])
    gone = [one for one in found if one.kind == "gone"]
    assert [(one.command, one.was) for one in gone] == [
        ("shoalwright/tide-table", ("Shift+[Numpad4]",)), ("shoalwright/quay-list", ()),
    ]  # fmt: skip
    after = take(before, "shoalwright", gone)
    assert "shoalwright/tide-table" not in after.commands and "tide-table" not in after.bindings
    assert [one.kind for one in compare(before, "shoalwright", VERSION_1[:2])] == ["same", "changed"]  # only a part


def test_a_gone_command_that_a_spot_needs_stays() -> None:
    rows = [Incoming("Lead line", ()), Incoming("Name strait", ()), Incoming("Tide table", ())]
    gone = [one for one in compare(SMALL, "shoalwright", rows) if one.kind == "gone"]
    assert [one.command for one in gone] == ["shoalwright/add-sounding"]
    after = take(SMALL, "shoalwright", gone)
    assert "add-sounding" not in after.bindings and "sounding-s" in after.bindings


def test_a_pinned_shortcut_is_not_changed_by_taking_in() -> None:
    pinned = edit_binding(SMALL, "lead-line", pinned=True)
    with pytest.raises(EditError, match="pinned"):
        take(pinned, "shoalwright", compare(pinned, "shoalwright", [Incoming("Lead line", ("F3",))]))


def test_back_to_the_programs_own_set() -> None:
    with pytest.raises(EditError, match="is not known"):
        back_to_defaults(SMALL, "shoalwright")
    mine = with_version_1()
    assert [one.command for one in departures(mine, "shoalwright")] == [
        "shoalwright/lead-line", "shoalwright/tide-table", "shoalwright/quay-list",
    ]  # fmt: skip
    one = back_to_defaults(mine, "shoalwright", ["shoalwright/lead-line"])
    assert str(one.bindings["lead-line"].trigger) == "Ctrl+L" and str(one.bindings["tide-table"].trigger) != "F8"
    every = back_to_defaults(mine, "shoalwright")
    assert departures(every, "shoalwright") == [] and str(every.bindings["quay-list"].trigger) == "F9"
    with pytest.raises(EditError, match="has the shortcuts it came with"):
        back_to_defaults(every, "shoalwright")


@given(st.lists(st.tuples(st.text(min_size=1, max_size=12).filter(str.strip), st.sampled_from(["F1", "F2", "Ctrl+K F3"])), max_size=12))
def test_what_was_taken_is_the_same_afterwards(rows: list[tuple[str, str]]) -> None:
    incoming = [Incoming(" ".join(name.split()), (keys,)) for name, keys in rows]
    after = take(SMALL, "new-program", compare(SMALL, "new-program", incoming), "New program")
    assert {one.kind for one in compare(after, "new-program", incoming)} <= {"same"}
    assert len(after.bindings) == len(list(after.all_bindings()))
    assert all(slug_of(command.id) == command.id for command in after.programs["new-program"].commands.values())
