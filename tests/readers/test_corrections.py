"""Corrections of rows, and which other rows the same correction fits."""

from __future__ import annotations

import pytest

from glimber.readers.corrections import (
    Corrections,
    corrected,
    like_dropped,
    like_keyed,
    like_renamed,
    like_turned,
    turned,
)
from glimber.readers.found import Found, Row
from glimber.readers.registry import read


def found_in(text: str) -> Found:
    return read("csv", f"Command,Keys\n{text}".encode())


def names(found: Found, corrections: Corrections) -> list[tuple[str, tuple[str, ...]]]:
    return [(row.command, row.triggers) for row in corrected(found, corrections)]


def test_rows_are_renamed_given_keys_dropped_and_restored() -> None:
    found = found_in("Lead line,F2\nOdd one,Ctrl+Frob\nPan,Drag\nWreck,F4\n")
    assert names(found, Corrections()) == [("Lead line", ("F2",)), ("Wreck", ("F4",))]
    said = Corrections().with_names({"LEAD line": "Sounding lead"}).with_keys({"Odd one": ("F9",), "pan": ("F7",)}).drop(["Wreck"])
    assert names(found, said) == [("Sounding lead", ("F2",)), ("Pan", ("F7",)), ("Odd one", ("F9",))]
    assert said.decided == {"lead line", "odd one", "pan", "wreck"}
    back = said.restore("wreck")
    assert ("Wreck", ("F4",)) in names(found, back) and "wreck" not in back.decided
    assert said.with_keys({"Wreck": ("F5",)}).dropped == frozenset()  # what is given keys is a shortcut after all
    assert said.decide(["Other"]).decided - said.decided == {"other"}


def test_what_another_system_has_is_not_taken_in() -> None:
    assert names(found_in("Lead line,Ctrl+L (Cmd+L on macOS)\n"), Corrections()) == [("Lead line", ("Ctrl+L",))]


@pytest.mark.parametrize(
    ("old", "new", "others", "expected"),
    [
        ("Sheet list 14", "Sheet list", ["Wreck 7", "Lead line", "Buoy 112"], {"Wreck 7": "Wreck", "Buoy 112": "Buoy"}),
        ("Sheet list (menu)", "Sheet list", ["Wreck (toolbar only)", "Lead (line) on"], {"Wreck (toolbar only)": "Wreck"}),
        ("3. Sheet list", "Sheet list", ["4. Wreck", "Wreck 4."], {"4. Wreck": "Wreck"}),
        ("Survey: list", "list", ["Survey: wreck", "Relief: wreck"], {"Survey: wreck": "wreck"}),
        ("Sheet list", "List of sheets", ["Wreck list"], {}),  # not a part that went
        ("Sheet list", "Sheet list", ["Wreck"], {}),
        ("14", "", ["15"], {}),
        ("x" * 70, "x" * 9, ["y" + "x" * 61], {}),  # 61 characters less: that is another text
        ("x" * 69, "x" * 9, ["y" + "x" * 60], {"y" + "x" * 60: "y"}),
    ],
)
def test_names_that_lose_the_same(old: str, new: str, others: list[str], expected: dict[str, str]) -> None:
    rows = [Row(name, ("F2",), None, 1) for name in (old, *others)]
    assert like_renamed(rows, old, new) == expected


def test_rows_in_doubt_for_the_same_reason_go_together() -> None:
    found = found_in("Lead line,Ctrl+L\n14,Ctrl+B\n15,Ctrl+D\nCtrl,Ctrl+E\nWreck,Ctrl+F\n")
    assert like_dropped(found.rows, "14") == ["15"] and like_dropped(found.rows, "Lead line") == []


def test_rows_the_wrong_way_round_are_turned_together() -> None:
    rows = [Row("Ctrl+B", ("T",), None, 1, "trace", sure=0.1), Row("Ctrl+D", ("W",), None, 2, "wreck", sure=0.2),
            Row("Lead line", ("F2",), None, 3, "F2")]  # fmt: skip
    assert turned(rows[0]) == ("trace", ("Ctrl+B",)) and turned(rows[2]) is None
    assert like_turned(rows, "ctrl+b") == ["Ctrl+D"] and like_turned(rows, "Ctrl+D") == ["Ctrl+B"]


def test_a_word_for_a_key_is_learnt_from_one_row_for_all() -> None:
    found = found_in("Odd one,Ctrl+Frob\nOther,Alt+Frob\nThird,Frobnicate\nLead line,Ctrl+L\nWreck,F2\n")
    assert like_keyed(found, "Odd one", "Ctrl+Insert") == {"Other": ("Alt+Insert",)}
    assert like_keyed(found, "Odd one", "F9") == {} and like_keyed(found, "Nobody", "F9") == {}
