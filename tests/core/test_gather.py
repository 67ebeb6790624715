"""Rows against a program: new, same, changed, probably renamed; and what taking them in keeps."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.core.gather import Incoming, compare, likely_program, merged, slug_of, take
from tests.helpers import folio_of

SMALL = folio_of()


def kinds(*rows: Incoming) -> list[str]:
    return [one.kind for one in compare(SMALL, "shoalwright", rows)]


@pytest.mark.parametrize(
    ("row", "kind"),
    [
        (Incoming("Add sounding", ("Ctrl+Shift+S",)), "same"),
        (Incoming("add Sounding", ("Ctrl+Shift+[KeyS]",)), "same"),  # the same strike, spelt otherwise
        (Incoming("Add sounding", ("F9",)), "changed"),
        (Incoming("Add sounding", ()), "changed"),
        (Incoming("Add soundings", ("F9",)), "renamed"),
        (Incoming("Name of a strait", ("Ctrl+K Ctrl+S",)), "renamed"),  # alike, and the same keys
        (Incoming("Name of a strait", ("F9",)), "new"),
        (Incoming("Trace coast", ("F9",)), "new"),
    ],
)
def test_what_a_row_is(row: Incoming, kind: str) -> None:
    assert kinds(row) == [kind]


def test_a_command_that_is_there_is_not_taken_for_a_former_name() -> None:
    assert kinds(Incoming("Add sounding", ("Ctrl+Shift+S",)), Incoming("Add soundings", ())) == ["same", "new"]


def test_a_command_that_comes_twice_has_the_triggers_of_both() -> None:
    rows = merged([Incoming("Trim", ("F4",)), Incoming("trim", ("F5", "F4"))])
    assert rows == [Incoming("Trim", ("F4", "F5"))]


def test_taking_keeps_ids_reasons_and_what_is_not_ticked() -> None:
    rows = [
        Incoming("Add soundings", ("F9",)),
        Incoming("Lead line", ("F3", "F4")),
        Incoming("Trace coast", ("F8",), "Coast"),
    ]
    after = take(SMALL, "shoalwright", compare(SMALL, "shoalwright", rows))
    command = after.commands["shoalwright/add-sounding"]
    assert (command.name, command.was) == ("Add soundings", ("Add sounding",))
    assert str(after.bindings["add-sounding"].trigger) == "Ctrl+Shift+S"  # a new name is no new key
    assert [str(b.trigger) for b in after.bindings_of["shoalwright/lead-line"]] == ["F3", "F4"]
    assert "lead-line" in after.bindings and "lead-line-2" in after.bindings
    assert after.programs["shoalwright"].groups["coast"].name == "Coast"
    assert after.bindings["tide-table"] == SMALL.bindings["tide-table"]


def test_the_first_set_read_is_kept_as_the_programs_own() -> None:
    once = take(SMALL, "shoalwright", compare(SMALL, "shoalwright", [Incoming("Lead line", ("Ctrl+K Ctrl+L",))]))
    assert once.programs["shoalwright"].defaults == {"lead-line": ("Ctrl+K Ctrl+L",)}
    twice = take(once, "shoalwright", compare(once, "shoalwright", [Incoming("Lead line", ("F3",))]))
    assert twice.programs["shoalwright"].defaults == once.programs["shoalwright"].defaults


def test_the_program_that_has_most_of_them_is_likely() -> None:
    assert (
        likely_program(SMALL, [Incoming("Lead line", ()), Incoming("Show desktop", ()), Incoming("tide table", ())])
        == "shoalwright"
    )
    assert likely_program(SMALL, [Incoming("Nothing like it", ())]) is None


@given(
    st.lists(
        st.tuples(st.text(min_size=1, max_size=12).filter(str.strip), st.sampled_from(["F1", "F2", "Ctrl+K F3"])),
        max_size=12,
    )
)
def test_what_was_taken_is_the_same_afterwards(rows: list[tuple[str, str]]) -> None:
    incoming = [Incoming(" ".join(name.split()), (keys,)) for name, keys in rows]
    after = take(SMALL, "new-program", compare(SMALL, "new-program", incoming), "New program")
    assert {one.kind for one in compare(after, "new-program", incoming)} <= {"same"}
    assert len(after.bindings) == len(list(after.all_bindings()))
    assert all(slug_of(command.id) == command.id for command in after.programs["new-program"].commands.values())
