"""Which rows are taken as sure, and which are asked about."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from glimber.readers.found import Row, name_and_note
from glimber.readers.registry import read
from glimber.readers.sureness import SURE, with_sureness

SOUND = [Row("Save chart", ("Ctrl+S",), "File", 1, "Ctrl+S"), Row("Trim line", ("F4",), "Edit", 2, "F4")]


def sure_of(*row: Any) -> float:
    return with_sureness([*SOUND, Row(*row)])[-1].sure


@pytest.mark.parametrize(
    "row",
    [
        ("Add sounding", ("Ctrl+Shift+A",), "Survey", 3, "Ctrl+Shift+A"),
        ("Trace coast", ("t",), "Survey", 3, "t"),
        ("Go to index", ("g i",), "Survey", 3, "g i"),
        ("Pause", ("p", "Space"), "Survey", 3, "p or Space"),
        ("Leave the sheet", ("Shift+Z Shift+Z",), "Survey", 3, "ZZ"),
        ("Trace coast", (), "Survey", 3),
        ("Add sounding", ("Ctrl+A",), "Survey", 3, "Ctrl+A (Cmd+A on macOS)", "left out: Cmd+A on macOS"),
    ],
)
def test_what_reads_well_is_sure(row: tuple[Any, ...]) -> None:
    assert sure_of(*row) >= SURE


@pytest.mark.parametrize(
    "row",
    [
        ("88", ("Ctrl+P",), "Survey", 3, "Ctrl+P"),  # the number of a page
        ("h", ("h e l p",), "Survey", 3, "help"),
        ("Ctrl+Shift+A", ("Ctrl+A",), "Survey", 3, "Ctrl+A"),  # the other system's keys
        ("Escape", ("Ctrl+A",), "Survey", 3, "Ctrl+A"),
        ("Turn", ("n e x t",), "Survey", 3, "next"),
        ("Odd one", ("Ctrl+O",), "Survey", 3, "Crtl+O", "read as Ctrl+O"),
        ("Nudge", ("Ctrl+N",), "Survey", 3, "Ctrl+N twice", "left out: twice"),
        ("to the harbour", ("Shift+M Shift+A Shift+I Shift+L",), "Survey", 3, "MAIL"),
        ("the sheet is shown", ("Shift+I f",), "Survey", 3, "If"),
        ("Press the key or choose a sheet", ("F9",), "Survey", 3, "F9"),
        ("Open sheet", ("# Ctrl+O",), "Survey", 3, "#<ctrl>o"),
        ("key leave = 'q', 'Q',", ("3",), "Survey", 3, "3"),
        ("'&edit-sheet)", ("e s",), "Survey", 3, "E S"),
        ("SH-Insert paste the sheet", ("Ctrl+V",), "Survey", 3, "Ctrl+V"),
        ("a Raise the gain", ("s", "d"), "Survey", 3, "s or d"),
        ("Netlist", ("' n '",), "Survey", 3, "'n'"),
        ("Change the range", ("| -",), "Survey", 3, "| -"),
        ("HELP", ("1 4 Shift+A",), "Survey", 3, "14A"),
        ("0x213 /* F2 */", ("F2",), "Survey", 3, "F2"),
    ],
)
def test_what_may_be_wrong_is_doubtful(row: tuple[Any, ...]) -> None:
    assert sure_of(*row) < SURE


def test_three_commands_of_one_trigger_are_less_sure_than_two() -> None:
    rows = [Row(f"Command {n}", ("Ctrl+J",), "Edit", n, "Ctrl+J") for n in range(3)]
    assert with_sureness([*SOUND, *rows[:2]])[-1].sure > with_sureness([*SOUND, *rows])[-1].sure


@pytest.mark.slow
@given(st.text(max_size=30), st.text(max_size=20), st.lists(st.text(max_size=8), max_size=5))
def test_any_row_is_between_never_and_certain(command: str, keys: str, triggers: list[str]) -> None:
    assert 0 <= sure_of(command, tuple(triggers), None, 3, keys) <= 1


def test_mistyped_modifiers_are_read_and_doubted() -> None:
    found = read("csv", b"Command,Keys\nSave chart,Ctrl+S\nLead line,Crtl+L\nNudge,Foo+L\n")
    assert [(row.command, row.triggers, row.sure >= SURE) for row in found.rows] == [
        ("Save chart", ("Ctrl+S",), True), ("Lead line", ("Ctrl+L",), False),
    ]  # fmt: skip
    assert [one.command for one in found.problems] == ["Nudge"]


LONG = "Add a sounding at the place of the pointer, on the sheet that is in front"


@pytest.mark.parametrize(
    ("command", "name", "note"),
    [
        ("Save chart. Save it", "Save chart. Save it", ""),  # up to 60 characters a name is whole
        ("x" * 60, "x" * 60, ""),
        (f"{LONG}. Its depth is asked for.", LONG, "Its depth is asked for."),
        (f"{LONG}.Its depth is asked for.", LONG, "Its depth is asked for."),
        (f"{LONG} — its depth is asked for", LONG, "its depth is asked for"),
        (LONG, LONG, ""),
    ],
)
def test_a_long_explanation_is_a_note_and_no_name(command: str, name: str, note: str) -> None:
    assert name_and_note(command) == (name, note)


def test_a_phrase_that_several_commands_begin_with_is_no_name() -> None:
    page = f"Command;Keys\n{LONG}. By hand.;Ctrl+A\n{LONG}. By sonar.;Ctrl+B\n{LONG} again. By hand.;Ctrl+C\n"
    assert [(row.command, row.note) for row in read("csv", page.encode()).rows] == [
        (f"{LONG}. By hand", ""), (f"{LONG}. By sonar", ""), (f"{LONG} again", "By hand."),
    ]  # fmt: skip


def test_the_column_of_a_system_is_told() -> None:
    found = read("csv", b"Command,Windows,Linux\nSave chart,F2,Ctrl+S\nTrim line,F4,Ctrl+T\n")
    assert [(row.triggers, row.system) for row in found.rows] == [(("Ctrl+S",), "linux"), (("Ctrl+T",), "linux")]


ALIKE = [Row(f"Sheet {n}", (f"Ctrl+K {n}",), "Sheets", n, f"Ctrl+K {n}") for n in range(1, 6)]


def test_steps_that_begin_as_no_others_do_may_be_alternates() -> None:
    rows = [*SOUND, *ALIKE, Row("Next sheet", ("Alt+J Alt+Tab",), "Sheets", 9, "Alt+J, Alt+Tab"), Row("First sheet", ("g g",), "Sheets", 10, "gg")]
    doubted = {row.command: row.sure < SURE for row in with_sureness(rows)}
    assert doubted == {row.command: row.command == "Next sheet" for row in rows}
    assert with_sureness([*SOUND, rows[-2]])[-1].sure >= SURE  # a few rows tell nothing of it


@pytest.mark.parametrize(("others", "doubted"), [(4, False), (5, True), (6, True)])
def test_keys_with_which_several_sequences_begin_have_hardly_a_command_of_their_own(others: int, doubted: bool) -> None:
    begun = [Row(f"Sheet {n}", (f"Ctrl+W {n}",), "Sheets", n, f"Ctrl+W {n}") for n in range(others)]
    row = Row("Widen", ("Ctrl+W",), "Sheets", 20, "Ctrl+W")
    assert (with_sureness([*SOUND, *begun, row])[-1].sure < SURE) is doubted


@pytest.mark.parametrize(("groups", "sure"), [(["Survey"] * 4, True), (["Survey"] * 5, False), (list("ABCDE"), True), ([None] * 5, False)])
def test_a_name_that_stands_again_is_doubted_within_its_group_alone(groups: list[str | None], sure: bool) -> None:
    """In each of several windows the same command may have keys; in one, five rows of a name are hardly five commands."""
    rows = [Row("Fold the chart", (f"Ctrl+{place}",), group, place, f"Ctrl+{place}") for place, group in enumerate(groups, start=1)]
    assert [row.sure >= SURE for row in with_sureness(rows)] == [sure] * len(rows)
