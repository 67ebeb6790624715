"""The page on the desk, driven by real keys: from doubt to doubt, decided, corrected for all alike, imported."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import move_binding
from glimber.core.notation.keys import parse_trigger
from tests.helpers import write_folio
from tests.ui.kinds import OpenRoom, Settle

PAGE = b"""<html><head><title>Shoalwright keys</title></head><body><h1>Keyboard shortcuts</h1><p>The default ones.</p>
<h2>Survey</h2><table>
<tr><th>Action</th><th>Windows/Linux</th></tr>
<tr><td>Add sounding</td><td>Ctrl+Shift+S</td></tr>
<tr><td>Lead line</td><td>Ctrl+Shift+H (Cmd+Shift+H on macOS)</td></tr>
<tr><td>Pan the chart</td><td>Middle mouse button</td></tr>
<tr><td>Fathom mark</td><td>Ctrl+Frob</td></tr>
<tr><td>Swing ship</td><td>Alt+Frob</td></tr></table>
<h2>Relief</h2><table><tr><th>Action</th><th>Windows/Linux</th></tr>
<tr><td>Close contour</td><td>Ctrl+Shift+Z</td></tr>
<tr><td>14</td><td>Ctrl+Alt+B</td></tr>
<tr><td>15</td><td>Ctrl+Alt+Y</td></tr></table></body></html>"""


@pytest.fixture
def room(tmp_path: Path, open_room: OpenRoom, settle: Settle) -> Any:
    room = open_room(write_folio(tmp_path / "small"), "gather").room("gather")
    room.desk.read_bytes("shoalwright-keys.html", PAGE)
    settle(lambda: room.desk.reading is not None and room.page().page.hasFocus())
    return room


def ticked(room: Any) -> list[str]:
    return [one.row.name for one in room.importing.rows.chosen()]


def test_a_source_lies_on_the_desk_with_the_first_thing_to_check_in_front(room: Any) -> None:
    page, check = room.page().page, room.page().check
    assert room.paper.isVisible() and not room.middle.isVisible() and not room.right.isVisible()
    assert room.note.text() == "shoalwright-keys.html, read as html (or xml: Y): 2 certain, 5 to check"
    assert check.count.text() == "To check: 1 of 5" and check.title.text() == "Lead line"
    assert check.message.text() == "The page says Ctrl+Shift+H. Yours is Ctrl+K Ctrl+L."
    assert check.first.text() == "1  use the page's" and check.second.text() == "2  keep mine"
    assert check.page.accessibleName() == "Ctrl and Shift and H" and check.own.accessibleName() == "Ctrl and K then Ctrl and L"
    assert check.import_button.text() == "Import 1" and check.groups.accessibleName() == "Survey: 1, Relief: 1"
    assert check.rest.text() == "The other 5 stay marked on the page until you check them."
    texts = [str(page.content.data(page.content.index(row, 0), Qt.ItemDataRole.AccessibleTextRole)) for row in range(14)]
    assert texts[0] == "Keyboard shortcuts" and "Pan the chart, Middle mouse button. it is done with the mouse" in texts
    assert any(text.startswith("Lead line, Ctrl+Shift+H (Cmd+Shift+H on macOS). to check, The page says") for text in texts)
    assert "Add sounding, Ctrl+Shift+S. read" in texts


def test_from_doubt_to_doubt_decided_by_one_key_and_imported(room: Any, hands: Any, settle: Settle) -> None:
    page, check = room.page().page, room.page().check
    hands.strike("Tab")
    settle(lambda: check.title.text() == "Fathom mark")
    hands.strike("shift+Tab", "shift+Tab")
    settle(lambda: check.title.text() == "15")  # before the first comes the last
    hands.strike("Tab")
    settle(lambda: check.title.text() == "Lead line")
    hands.strike("1")
    settle(lambda: check.title.text() == "Fathom mark")
    assert ticked(room) == ["Lead line", "Close contour"] and check.count.text() == "To check: 1 of 4"
    hands.strike("Up", "Up", "Up")
    settle(lambda: check.title.text() == "Add sounding")  # over the line about the mouse
    assert "the folio has it so" in check.message.text()
    hands.strike("Home", "End")
    settle(lambda: check.title.text() == "15")
    hands.strike("Return")
    settle(lambda: "close-contour" in room.session.folio.bindings)
    assert str(room.session.folio.bindings["lead-line"].trigger) == "Ctrl+Shift+H"
    settle(lambda: room.desk.reading is not None and not ticked(room))
    assert page.isVisible() and check.rest.text().startswith("The other 4")  # they still wait


def test_keeping_ones_own_leaves_it_and_a_row_can_be_left_out(room: Any, hands: Any, settle: Settle) -> None:
    hands.strike("2")
    settle(lambda: room.page().check.title.text() == "Fathom mark")
    assert ticked(room) == ["Close contour"]
    room.page().bring("Close contour")
    hands.strike("space")
    settle(lambda: ticked(room) == [])
    assert room.page().check.message.text().endswith("left out.")
    hands.strike("space")
    settle(lambda: ticked(room) == ["Close contour"])


def test_a_choice_outlives_the_import_and_its_undo(room: Any, hands: Any, settle: Settle) -> None:
    room.page().bring("14")
    hands.strike("2")
    settle(lambda: "14" not in [one.read_as for one in room.importing.open_checks()])
    hands.strike("Return")
    settle(lambda: "close-contour" in room.session.folio.bindings)
    assert ticked(room) == [] and "14" not in {one.name for one in room.session.folio.commands.values()}
    hands.strike("ctrl+z")
    settle(lambda: ticked(room) == ["Close contour"])
    room.page().bring("Lead line")
    hands.strike("1")
    settle(lambda: ticked(room) == ["Lead line", "Close contour"])
    room.session.edit("another", lambda folio: edit_command(folio, "shoalwright/add-sounding", uses_per_day=3))
    settle(lambda: room.importing.folio.commands["shoalwright/add-sounding"].uses_per_day == 3)
    assert ticked(room) == ["Lead line", "Close contour"]
    # Its key is changed elsewhere: what the tick would change now is another thing, and that is asked again.
    room.session.edit("moved", lambda folio: move_binding(folio, "lead-line", parse_trigger("Alt+L")).folio)
    settle(lambda: ticked(room) == ["Close contour"])


def test_all_are_ticked_or_none_in_one_step(room: Any, settle: Settle) -> None:
    rows, seen = room.importing.rows, list[int]()
    room.importing.changed.connect(lambda: seen.append(len(rows.ticked)))
    rows.tick_all()
    assert ticked(room) == ["14", "15", "Lead line", "Close contour"]
    rows.tick_all()
    assert ticked(room) == [] and seen == [4, 0]


def test_what_is_no_shortcut_goes_with_all_alike_and_comes_back(room: Any, hands: Any, settle: Settle) -> None:
    page, check = room.page(), room.page().check
    page.bring("14")
    assert "the command is a number or a sign" in check.message.text()
    hands.strike("Delete")
    settle(lambda: check.offer.isVisible())
    assert check.offer.text() == "=  do the same to 1 other: the same doubt"
    hands.strike("equal")
    settle(lambda: room.importing.corrections.dropped == {"14", "15"})
    assert [one.read_as for one in room.importing.open_checks()] == ["Lead line", "Fathom mark", "Swing ship"]
    hands.strike("Delete")
    settle(lambda: room.importing.corrections.dropped == {"15"})


def test_a_name_is_corrected_for_all_alike(room: Any, hands: Any, settle: Settle) -> None:
    listed = "Command,Keys\nTrim sheet 12,Ctrl+T\nTurn sheet 13,Ctrl+U\nLead line,Ctrl+L\n"
    room.desk.read_bytes("printed.csv", listed.encode())
    settle(lambda: room.desk.reading.name == "printed.csv")
    room.page().bring("Trim sheet 12")
    hands.ask(room, "e", "Trim sheet")
    settle(lambda: room.page().check.title.text() == "Trim sheet")
    assert room.page().check.offer.text().startswith("=  do the same to 1 other")
    hands.strike("equal")
    settle(lambda: sorted(ticked(room)) == ["Trim sheet", "Turn sheet"])


def test_a_key_that_was_not_understood_is_pressed_once_for_all(room: Any, hands: Any, settle: Settle) -> None:
    window, page = room.window(), room.page()
    page.bring("Fathom mark")
    assert page.check.first.text() == "1  press its keys" and "Frob" in page.check.message.text()
    hands.strike("1")
    settle(window.press_it().isVisible)
    hands.strike("ctrl+j")
    settle(lambda: str(window.press_it().trigger()) == "Ctrl+J")
    hands.strike("Return")
    settle(lambda: not window.press_it().isVisible())
    settle(lambda: "Fathom mark" in ticked(room))
    hands.strike("equal")
    settle(lambda: "Swing ship" in ticked(room))
    assert {one.row.name: one.row.triggers for one in room.importing.rows.chosen()}["Swing ship"] == ("Alt+J",)


def test_command_and_keys_the_wrong_way_round(room: Any, hands: Any, settle: Settle) -> None:
    page = room.page()
    page.bring("Close contour")
    hands.strike("x")
    settle(lambda: "right order" in page.check.message.text())


def test_page_and_table_are_two_views_of_one_row(room: Any, hands: Any, settle: Settle) -> None:
    room.page().bring("Close contour")
    hands.strike("t")
    settle(room.incoming.table.hasFocus)
    row = room.incoming.table.currentIndex().row()
    assert room.importing.rows.differences[row].row.name == "Close contour" and room.import_button.isVisible()
    assert room.choices.parentWidget() is room.middle
    hands.strike("space")
    settle(lambda: ticked(room) == [])
    hands.strike("t")
    settle(room.page().page.hasFocus)
    assert room.page().check.title.text() == "Close contour" and room.choices.parentWidget() is room.page().check
    hands.strike("Escape")
    settle(lambda: room.desk.reading is None)
    assert room.middle.isVisible() and room.bench.isVisible() and not room.paper.isVisible()


def test_everything_by_mouse(room: Any, qtbot: Any, settle: Settle) -> None:
    page, check = room.page().page, room.page().check
    index = page.content.index(page.content.block_of("Close contour"), 0)
    page.scrollTo(index)
    qtbot.mouseClick(page.viewport(), Qt.MouseButton.LeftButton, pos=page.visualRect(index).center())
    settle(lambda: check.title.text() == "Close contour")
    check.second.click()
    settle(lambda: ticked(room) == [])
    check.first.click()
    check.import_button.click()
    settle(lambda: "close-contour" in room.session.folio.bindings)


def test_a_page_without_a_shortcut_says_so(room: Any, settle: Settle) -> None:
    room.desk.read_bytes("prose.txt", b"Nothing here is a list.\nNor is this.\n")
    settle(lambda: room.desk.reading.name == "prose.txt")
    check = room.page().check
    assert check.count.text() == "No shortcut could be read from it" and not check.title.isVisible()
    assert not check.import_button.isEnabled() and not room.page().page.currentIndex().isValid()


@pytest.mark.parametrize(("width", "height"), [(1000, 560), (1280, 800), (1900, 1000)])
def test_page_and_pane_fit_every_window(room: Any, width: int, height: int, settle: Settle) -> None:
    window = room.window()
    window.resize(width, height)
    settle(lambda: window.width() == min(width, window.width()))
    check, page = room.page().check, room.page().page
    settle(lambda: check.geometry().right() <= room.page().width())
    assert page.width() >= 0.4 * room.width() and check.import_button.geometry().bottom() <= check.height()
    layout = page.geometries()
    for place in range(len(page.content.blocks)):
        for piece in layout.geometry(place).pieces:
            assert piece.x + piece.width <= layout.width + 1, page.content.blocks[place].cells
