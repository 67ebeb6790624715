"""Pages over a room: gone through by keys and by mouse, what is done at their foot, and how a difference is told."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QPushButton

from glimber.ui.session.pages import Page, PageAction
from glimber.ui.widgets.page_rows import Bar, DiffLine, Head, Option, Plain, Tick, diff_rows
from tests.helpers import write_folio
from tests.ui.choosing import page_rows, page_title
from tests.ui.kinds import OpenRoom, Settle

ROWS = (Head("Soundings", "two"), Plain("Deep", "40 m", "deep"), Plain("Shoal", "2 m", "shoal"), Plain("told only"), Head("Lights"),
        Option("Fixed", "always", True, "fixed"), Bar("Flashing", 0.5, "3 s", "in two", low=0.4, high=0.6, value="flashing"),
        Tick("Move", "Ctrl+Alt+S", "F5", "by hand", False, "move"), DiffLine("+", 7, "a\tline", (2, 6), "line"))  # fmt: skip


@pytest.fixture
def window(open_room: OpenRoom, tmp_path: Path) -> Any:
    return open_room(write_folio(tmp_path / "small"), "cards")


def lay(window: Any, done: list[object], paper: bool = False, leaves: bool = False) -> None:
    actions = (PageAction("Enter", "takes it", done.append, of_row=True, leaves=leaves), PageAction("X", "empties it", lambda _: done.clear()))
    window.show_page(Page("Depths", lambda: ROWS, actions, "Of the survey", paper))


@pytest.mark.parametrize("paper", [False, True])
def test_rows_are_gone_through_taken_and_left(window: Any, hands: Any, settle: Settle, paper: bool) -> None:
    done: list[object] = []
    before = window.focusWidget()
    lay(window, done, paper)
    settle(lambda: page_title(window) == "Depths")
    hands.strike("Return", "Down", "Return", "Down", "Return")  # the third is told only
    settle(lambda: done == ["deep", "shoal"])
    hands.strike("Tab", "Return", "End", "Return")
    settle(lambda: done == ["deep", "shoal", "fixed", "line"])
    hands.strike("Tab", "Return")  # round to the first heading
    settle(lambda: done[-1] == "deep")
    hands.strike("2", "a")  # no keys of this page, nor of the room below it
    assert window.current == "cards" and page_title(window) == "Depths"
    assert not window.page_over().grab().isNull()
    hands.strike("Escape")
    settle(lambda: page_title(window) == "" and window.focusWidget() is before)


def test_what_leaves_goes_first_and_the_foot_is_clicked(window: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    done: list[object] = []
    lay(window, done, leaves=True)
    hands.strike("Return")
    settle(lambda: done == ["deep"] and page_title(window) == "")
    lay(window, done)
    buttons = [one for one in window.page_over().foot.findChildren(QPushButton) if one.isVisible()]
    assert [one.text() for one in buttons] == ["Enter  takes it", "X  empties it", "Esc  closes"]
    buttons[1].click()
    settle(lambda: done == [] and page_title(window) == "")


def test_a_reader_hears_each_row() -> None:
    assert [row.spoken for row in ROWS] == [
        "Soundings. two", "Deep: 40 m", "Shoal: 2 m", "told only", "Lights", "Fixed, in use: always", "Flashing: 3 s, in two",
        "Move: Ctrl+Alt+S → F5. by hand", "added, line 7: a\tline",
    ]  # fmt: skip


@pytest.mark.parametrize(("before", "after", "expected"), [
    ("a\nb\nc", "a\nb\nc", []), ("", "new", [("+", 1, "new", (0, 0))]), ("old", "", [("-", 1, "old", (0, 0))]),
    ("1\n2\n3\n4\n5\nkeys = F1\n7", "1\n2\n3\n4\n5\nkeys = F12\n7", [
        (" ", 4, "4", (0, 0)), (" ", 5, "5", (0, 0)), ("-", 6, "keys = F1", (9, 9)), ("+", 6, "keys = F12", (9, 10)), (" ", 7, "7", (0, 0))]),
    ("a\nb", "c", [("-", 1, "a", (0, 0)), ("-", 2, "b", (0, 0)), ("+", 1, "c", (0, 0))]),
    ("aXa", "aYa", [("-", 1, "aXa", (1, 2)), ("+", 1, "aYa", (1, 2))]),
])  # fmt: skip
def test_a_difference_is_lines_with_what_differs_marked(before: str, after: str, expected: list[tuple[Any, ...]]) -> None:
    rows = diff_rows(before.splitlines(), after.splitlines())
    assert [(row.sign, row.number, row.text, row.marked) for row in rows] == expected


def test_how_a_source_is_read_is_a_page_of_its_own(window: Any, hands: Any, settle: Settle) -> None:
    window.go("gather")
    room = window.room("gather")
    room.desk.read_bytes("keys.csv", b"Command,Keys\nSave chart,\"Ctrl+K, Ctrl+S\"\nQuit,Q\n")
    settle(lambda: room.desk.reading is not None, 20_000)
    hands.tap("y")
    settle(lambda: page_title(window) == "How keys.csv is read")
    rows = page_rows(window)
    assert rows[0] == "A comma between keys. Ctrl+K, Ctrl+S" and "csv, in use: " in rows
    place = next(n for n, row in enumerate(window.page_over().rows) if row.spoken.startswith("is struck with Shift"))
    window.page_over().list.setCurrentRow(place)
    hands.strike("Return")
    settle(lambda: any(row.triggers == ("Shift+Q",) for row in room.desk.reading.found.rows), 20_000)
