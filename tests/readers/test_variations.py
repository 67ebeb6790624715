"""Ways in which people write shortcuts down, each as a short made-up source: what must be read of it, and what must not.

A row is a command and its triggers; without triggers it is a command that has no keys.
"""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glimber.readers.evidence import systems_named
from glimber.readers.found import Options, for_this_system
from glimber.readers.registry import choose, read

Rows = list[tuple[str, ...]]

CASES: dict[str, tuple[str, str, Rows]] = {
    one["name"]: (one["file"], one["text"], [tuple(row) for row in one["rows"]])
    for one in tomllib.loads(Path(__file__).with_name("variations.toml").read_text())["case"]
}


@pytest.mark.parametrize("case", CASES)
def test_what_is_read_of_the_ways_in_which_people_write(case: str) -> None:
    name, text, wanted = CASES[case]
    found = choose(name, text.encode()).found
    assert [(row.command, *row.triggers) for row in for_this_system(found)] == wanted
    assert not [one for one in found.problems if one.line or wanted]


def test_the_keys_of_every_system_are_told() -> None:
    found = choose("a.txt", CASES["keys by system"][1].encode()).found
    assert [(row.triggers, row.system) for row in found.rows][:2] == [(("Super+S",), "mac"), (("Ctrl+S",), "windows")]


def test_what_a_column_of_its_own_says_of_a_command_is_its_note() -> None:
    for case in ("a name, its keys and what is said of it", "the exact name beside a description"):
        name, text, _ = CASES[case]
        assert [row.note for row in choose(name, text.encode()).found.rows][1] in ("Saves all sheets that are open.", "go to the first sheet")


OF_THREE = "Action,Windows,Linux,Mac\nSave sheet,Ctrl+S,Ctrl+S,Cmd+S\nLeave,Alt+F4,Ctrl+Q,Cmd+Q or Cmd+W\nPlot,F5,F5,F5\nStamp,,,Cmd+T\nHelp,F1,F1,a click\n"


@pytest.mark.parametrize(("own", "rows"), [
    ("linux", [("Save sheet", ("Ctrl+S",), {"mac": ("Super+S",)}),
               ("Leave", ("Ctrl+Q",), {"windows": ("Alt+F4",), "mac": ("Super+Q", "Super+W")}), ("Plot", ("F5",), {}),
               ("Stamp", (), {"mac": ("Super+T",)}), ("Help", ("F1",), {})]),
    ("mac", [("Save sheet", ("Super+S",), {"windows": ("Ctrl+S",), "linux": ("Ctrl+S",)}),
             ("Leave", ("Super+Q", "Super+W"), {"windows": ("Alt+F4",), "linux": ("Ctrl+Q",)}), ("Plot", ("F5",), {}), ("Stamp", ("Super+T",), {})]),
])  # fmt: skip
def test_a_page_of_several_systems_is_one_list(own: str, rows: list[tuple[str, tuple[str, ...], dict[str, tuple[str, ...]]]]) -> None:
    """The keys of the person's system are the rows' own; those of the others are kept where they are others."""
    found = choose("a.csv", OF_THREE.encode(), Options(system=own)).found
    assert [(row.command, row.triggers, dict(row.keys_of)) for row in for_this_system(found)][: len(rows)] == rows


@pytest.mark.parametrize(("heading", "systems"), [
    ("Windows / Linux keys", ["linux", "windows"]), ("Shortcut (macOS)", ["mac"]), ("OS X", ["mac"]), ("GNU/Linux", ["linux"]), ("PC", ["windows"]),
    ("Darwin", ["mac"]), ("Window", []), ("Machine", []), ("Keys", []), ("x11", ["linux"]),
])  # fmt: skip
def test_which_systems_a_heading_names(heading: str, systems: list[str]) -> None:
    assert systems_named(heading) == systems


def test_keys_of_another_system_that_cannot_be_read_are_a_remark() -> None:
    (row,) = [row for row in choose("a.csv", OF_THREE.encode()).found.rows if row.command == "Help"]
    assert row.remark == "mac: a click is not read" and row.sure >= 0.5


def test_a_row_with_a_macs_key_is_a_macs_where_the_command_has_another() -> None:
    found = choose("chart.conf", b"map ctrl+shift+c copy_sheet\nmap cmd+c copy_sheet\nmap ctrl+shift+v paste_sheet\nmap cmd+o open_sheet\n").found
    rows = {row.command: (row.triggers, dict(row.keys_of)) for row in for_this_system(found)}
    assert rows == {"copy_sheet": (("Ctrl+Shift+C",), {"mac": ("Super+C",)}), "paste_sheet": (("Ctrl+Shift+V",), {}), "open_sheet": (("Super+O",), {})}


def test_a_macs_column_beside_one_for_all_others_is_not_read_as_alternates() -> None:
    found = choose("a.csv", b"Function,Key (Standard),Key (macOS)\nLeave,Control + Q,Cmd + Q\nPlot,F5,F5\nOpen sheet,Control + O,Cmd + O\n").found
    rows = [(row.command, row.triggers, dict(row.keys_of)) for row in for_this_system(found)]
    assert rows[:2] == [("Leave", ("Ctrl+Q",), {"mac": ("Super+Q",)}), ("Plot", ("F5",), {})]


def test_rows_of_their_own_for_several_systems_are_brought_together() -> None:
    found = choose("a.txt", CASES["keys by system"][1].encode()).found
    first = for_this_system(found)[0]
    assert first.triggers == ("Ctrl+S",) and dict(first.keys_of) == {"mac": ("Super+S",)}


LINES = st.sampled_from([
    "Ctrl+O   Open sheet", "# Survey", "Some prose about the sheets of the office, which is long.", "bind c new-window", "  and goes on",
    "map F2 add-sounding", "- `Ctrl+B` - bold", "quit = q", "", "| F5 | Reload |", "Discard batch,", "F9", "class Sheet:", "    'open': 'Ctrl+P',",
    "Middle button   pan", "Shift+Nope   nothing", "^X^S  Save   ^X^C  Quit",
])  # fmt: skip


@settings(max_examples=150)
@given(st.lists(LINES, min_size=1, max_size=14), st.sampled_from(["text", "markdown", "config", "script"]))
def test_every_line_ends_in_one_list(lines: list[str], kind: str) -> None:
    """Or goes on with the row above it, further in than that; nothing is in two lists."""
    found = read(kind, "\n".join(lines).encode())
    if any(not problem.line for problem in found.problems):
        return  # the source as a whole was refused
    where: dict[int, set[str]] = {}
    for name in ("rows", "not_bindings", "problems", "headings"):
        for one in getattr(found, name):
            where.setdefault(one.line, set()).add(name)
    assert all(len(lists) == 1 or lists == {"rows", "not_bindings"} for lists in where.values()), where
    for number, line in enumerate(lines, start=1):
        if any(char.isalnum() for char in line) and number not in where:
            above = next(n for n in range(number - 1, 0, -1) if n in where)
            assert where[above] & {"rows", "problems"} and line.startswith(" "), (number, line)


@pytest.mark.parametrize("case", ["keys above keys with one description", "a chord that goes on in the next line"])
def test_a_line_whose_keys_stand_in_another_row_is_not_called_prose(case: str) -> None:
    name, text, _ = CASES[case]
    found = choose(name, text.encode()).found
    assert found.joined and not found.joined & {one.line for one in found.not_bindings}


def test_the_lines_of_a_section_that_is_one_binding_belong_to_it() -> None:
    section = b"[custom0]\nbinding='<Super>t'\ncommand='sheet --new'\nname='New sheet'\n"
    found = choose("keys.conf", section).found
    assert [row.command for row in found.rows] == ["New sheet"] and not found.not_bindings
