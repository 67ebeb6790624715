"""Before a round: the sentence whose parts are changed, the cards along its time, and what is left to sort."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt

from glimber.ui.drill.coming import Coming, ComingList, _lines
from glimber.ui.paint.fonts import advance
from glimber.ui.paint.look import LARGE
from tests.helpers import tries_of, write_folio
from tests.ui.kinds import OpenRoom, Settle

S = "split-42:draw:KeyS:tap"


@pytest.fixture
def window(open_room: OpenRoom, tmp_path: Path, settle: Settle) -> Any:
    folder = write_folio(tmp_path / "small", tried=[*tries_of("sounding-s", S, ["hit", "slip"] * 12), *tries_of("undo", "Ctrl+Z", ["hit"] * 9)])
    window = open_room(folder, "drill")
    settle(lambda: bool(window.room("drill").setup.due()))
    return window


def test_each_part_of_the_sentence_is_changed_by_a_click_or_its_key(window: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    setup = window.room("drill").setup
    parts = {id: one.text() for id, one in setup.values.items()}
    assert (parts["drill-of"], parts["drill-more"], parts["drill-mode"]) == ("what is due", "3 minutes", "press the keys")
    assert (parts["drill-hands"], parts["drill-cue"], parts["drill-sprint"]) == ("this keyboard", "name", "with its planned hits")
    for id, after in (("drill-more", "5 minutes"), ("drill-mode", "point at a blank board"), ("drill-cue", "situation"),
                      ("drill-deadline", "by your own times"), ("drill-strict", "this trigger alone")):  # fmt: skip
        qtbot.mouseClick(setup.values[id], Qt.MouseButton.LeftButton)
        settle(lambda id=id, after=after: setup.values[id].text() == after)
    hands.strike("minus")
    settle(lambda: setup.values["drill-more"].text() == "3 minutes")


def test_cards_are_gone_through_left_out_and_opened(window: Any, hands: Any, settle: Settle) -> None:
    room = window.room("drill")
    setup = room.setup
    cards = setup.list
    order = [one.binding for one in setup.due()]
    assert cards.front() == 0 and len(cards.names()) == len(order) >= 2
    assert cards.texts()[0].startswith(f"{cards.names()[0]}: ") and "KeyS" not in " ".join(cards.texts())
    cards.setFocus()
    hands.strike("Right")
    settle(lambda: cards.front() == 1)
    hands.strike("Delete")
    settle(lambda: order[1] in setup.dropped and order[1] not in [one.binding for one in setup.due()])
    cards.setFocus()
    hands.strike("Home", "Return")  # on a card Enter opens its case
    settle(lambda: window.current == "weigh" and window.rooms["weigh"].ledger.current_id() == order[0])
    window.go("drill")
    setup.begin_button.setFocus()
    hands.strike("Return")  # elsewhere it begins
    settle(lambda: room.play is not None)
    room.put_aside()


def test_a_low_window_shows_the_cards_and_leaves_out_what_can_be_said_elsewhere(window: Any, settle: Settle) -> None:
    setup = window.room("drill").setup
    window.resize(1000, 560)
    settle(lambda: not setup.sorting.isVisible())
    assert not setup.standin.isVisible() and setup.list.height() > 180
    window.resize(1280, 800)
    settle(setup.sorting.isVisible)
    assert setup.waiting.text().startswith("L sorts")  # nothing waits behind this round


def coming(count: int) -> list[Coming]:
    return [Coming(f"b{n}", f"Sheet {n}", "ring", "tide", "new", None, n % 9, f"Sheet {n}: new", "F2") for n in range(count)]


@pytest.mark.parametrize(("count", "front", "after"), [(0, -1, -1), (1, 0, 0), (3, 2, 2), (30, 29, 29), (30, 5, 5)])
def test_what_is_in_front_stays_there(qtbot: Any, count: int, front: int, after: int) -> None:
    cards = ComingList(None)  # type: ignore[arg-type]
    qtbot.addWidget(cards)
    cards.resize(1168, 400)
    cards.show()
    cards.show_coming(coming(count), 3)
    if front >= 0:
        row = next(row for row in range(cards.count()) if (one := cards.at(row)) is not None and one.binding == f"b{front}")
        cards.setCurrentRow(row)
    cards.show_coming(coming(count), 3)
    assert cards.front() == after
    assert sum(cards.at(row) is not None for row in range(cards.count())) == count  # the time stands between, once
    assert cards.count() == count + (count > 0) and not cards.grab().isNull()
    cards.resize(500, 400)  # fewer cards, and the same one in front
    assert cards.front() == after


def test_a_name_is_broken_between_words_and_cut_at_the_third_line() -> None:
    assert _lines("Snap to graticule", 70) == ["Snap to", "graticule"]
    lines = _lines("Carry the whole window to the workspace on the left of this one", 90)
    assert len(lines) == 3 and lines[2].endswith("…") and all(advance(line, LARGE, 600) <= 90 for line in lines)
    assert _lines("", 90) == []


def test_an_empty_folio_offers_no_keys_that_do_nothing(open_room: OpenRoom, tmp_path: Path, settle: Settle) -> None:
    folder = write_folio(tmp_path / "small")
    for file in (folder / "layouts").iterdir():
        file.unlink()
    for file in (folder / "programs").iterdir():
        file.unlink()
    window = open_room(folder, "drill")
    settle(lambda: "Nothing to drill yet" in window.room("drill").setup.note.text())
    offered = {action.id for action in window.registry.offered("drill")}
    assert not any(id.startswith("drill-") for id in offered), offered
