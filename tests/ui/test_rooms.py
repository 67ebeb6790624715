"""Cards, Drill's setup and sheet, and Weigh, used as a person would."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QImage

from glimber.core.edit.commands import edit_command
from glimber.core.practice.tries import Change
from glimber.core.session.pending import as_set
from glimber.store.practice.log import open_log
from glimber.store.toml.reading import open_folio
from glimber.ui.paint.look import DARK, DAY, INKS_ON_PAPER, PAPER
from tests.helpers import tries_of, write_folio
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
CARD = 'format = "glimber-card/1"\ntitle = "{0}"\nkind = "{1}"\nboard = "split-42"\nlayers = ["{2}"]\n'


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    cards = {"draw": ("Draw", "board", "draw"), "base": ("Base", "board", "base"), "strip": ("Strip", "strip", "draw")}
    slip = ("neighbour", D, "shoalwright/depth-range")
    outcomes: list[Any] = ["hit", "hit", slip] * 14
    return write_folio(
        tmp_path / "small",
        {f"cards/{id}.toml": CARD.format(*rest) for id, rest in cards.items()},
        tried=[*tries_of("sounding-s", S, outcomes), *tries_of("range-d", D, ["hit"] * 20)],
    )


def test_the_shelf_is_walked_by_keys_and_each_card_is_drawn(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(folder, "cards")
    room = window.room("cards")
    assert room.sheet.drawing.title.startswith("Draw")
    hands.strike("Right")
    settle(lambda: room.sheet.drawing is not None and room.sheet.drawing.title.startswith("Strip"))
    hands.strike("Left", "Left")
    settle(lambda: room.sheet.drawing is not None and room.sheet.drawing.title.startswith("Base"))
    assert room.sheet.accessibleDescription()


def test_full_names_are_had_where_labels_are_short(folder: Path, open_room: OpenRoom) -> None:
    sheet = open_room(folder, "cards").room("cards").sheet
    left, top, width, _ = sheet._place()
    scale = width / sheet.drawing.width
    tile = sheet.drawing.find("KeyS").items[0]
    name = sheet.name_at(left + (tile.x + tile.w / 2) * scale, top + (tile.y + tile.h / 2) * scale)
    assert name.startswith("S: Add sounding; Depth range (hold)")
    assert sheet.name_at(1, 1) == ""


def test_a_card_is_written_as_svg_and_png_from_the_same_drawing(folder: Path, open_room: OpenRoom, tmp_path: Path) -> None:
    room = open_room(folder, "cards").room("cards")
    svg, png = tmp_path / "draw.svg", tmp_path / "draw.png"
    room.write_to(svg)
    room.write_to(png)
    assert ElementTree.parse(svg).getroot().get("width") == "210mm"
    image = QImage(str(png))
    assert (image.width(), image.height()) == (2480, 1748)  # 210 × 148 mm at 300 dots an inch
    assert image.pixelColor(40, 40).name().upper() == PAPER["paper"]
    colours = {image.pixelColor(x, y).name().upper() for x in range(0, 2480, 3) for y in range(300, 1100, 3)}
    assert INKS_ON_PAPER["tide"] in colours
    told = heard(room.session)
    room.write_to(tmp_path / "draw.gif")
    assert "ends in .svg, .pdf or .png" in told[0]


def test_what_is_due_is_listed_with_why_and_without_where(folder: Path, open_room: OpenRoom, hands: Any,
                                                          settle: Settle) -> None:  # fmt: skip
    room = open_room(folder, "drill").room("drill")
    names = [one.binding for one in room.setup.due()]
    assert names[0] == "sounding-s" and all(1 <= one.hits <= 8 for one in room.setup.due())
    assert sum(one.seconds for one in room.setup.due()) <= 190 and "worth" in room.setup.note.text()
    texts = " ".join(room.setup.list.texts())
    assert "Add sounding" in texts and "KeyS" not in texts and "S on Draw" not in texts
    assert "B for left thumb 1" in room.setup.standin.text()
    hands.strike("m")
    settle(lambda: room.setup.mode == "point")
    assert all(":" in str(room.session.folio.bindings[one.binding].trigger) for one in room.setup.due())
    hands.strike("equal")
    settle(lambda: room.setup.minutes == 5)


def test_another_cue_is_chosen_and_the_name_is_not_told(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(folder, "drill")
    room = window.room("drill")
    hands.strike("c")
    settle(lambda: room.setup.values["drill-cue"].text() == "situation")
    window.session.edit("words", lambda folio: edit_command(folio, "shoalwright/add-sounding", words=("the lead came up",)))
    room.begin_with(["sounding-s"])
    settle(lambda: room.play.prompt_ms is not None)
    assert room.play.drill.options.cue == "situation"
    by_situation = room.prompt.grab().toImage()
    room.play.drill.options = replace(room.play.drill.options, cue="name")
    assert room.prompt.grab().toImage() != by_situation
    room.put_aside()


def test_the_round_sheet_tells_strokes_slips_and_who_comes_next(folder: Path, open_room: OpenRoom,
                                                                settle: Settle) -> None:  # fmt: skip
    window = open_room(folder, "drill")
    slip = ("neighbour", D, "shoalwright/depth-range")
    tries = tries_of("sounding-s", S, ["hit", slip, slip, "hit", "hit", "hit", "hit", "blank"])
    sheet = window.room("drill").sheet
    sheet.show_round(window.session.folio, "Round 3", ["sounding-s"], tries, {"sounding-s": "slipped last time", "range-d": "weak"})
    said = sheet.accessibleDescription()
    assert said == "Add sounding: 5 clean of 8; 2 × D on Draw (neighbour), no answer"
    image = sheet.grab().toImage()
    assert image.pixelColor(60, 60) != image.pixelColor(2, 2)


def test_the_ledger_says_what_costs_most_and_the_case_says_why(folder: Path, open_room: OpenRoom, hands: Any,
                                                               settle: Settle) -> None:  # fmt: skip
    window = open_room(folder, "weigh")
    room = window.room("weigh")
    assert room.ledger.current_id() == "sounding-s"
    case = room.case
    assert case.title.text() == "Add sounding" and "Move to D on Draw." in case.words.text()
    assert case.known.text() == "Struck D for S in 14 of 14 slips." and "Better than staying: 96 %." in case.brings.text()
    assert case.details().board.marks.counts == {"KeyD": 14} and case.details().board.marks.lit == ("KeyS",)
    assert case.details().places.item(0, 0).text() == "D on Draw, swapping"
    assert "from 42 tries on 4 days" in case.details().figures.text()
    hands.strike("Down")
    settle(lambda: room.ledger.current_id() != "sounding-s")
    assert case.title.text() == "Depth range"


def test_taking_a_move_edits_records_and_asks_for_it(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(folder, "weigh")
    before = (folder / "layouts/split-42.toml").read_bytes()
    hands.strike("2")
    settle(window.chooser().line.hasFocus)
    assert window.chooser().line.text().startswith("Struck D for S in 14 of 14 slips.")
    hands.strike("Return")
    settle(lambda: str(window.session.folio.bindings["sounding-s"].trigger) == D)
    ledger = window.session.ledger
    settle(lambda: window.session.ledger is not ledger, 15000)
    assert str(open_folio(folder).folio.bindings["sounding-s"].trigger) == D
    with open_log(folder, "practice.db") as log:
        changes = [one for one in log.records(Change) if one.binding == "sounding-s"]
    assert changes[0].why.startswith("Struck D for S") and changes[0].verdict == "move"
    assert window.session.ledger.settling["sounding-s"] == 0
    setup = window.room("drill").setup
    due = [one for one in setup.due() if one.binding == "sounding-s"]
    assert due and due[0].why == "moved"
    changes = window.session.ledger.practice.changes
    assert str(as_set(window.session.folio, changes).bindings["sounding-s"].trigger) == S  # until it is ticked off
    row = next(row for row in window.room("weigh").ledger.rows if row.id == "sounding-s")
    assert row.settling == "day 0 of 14" and row.place == "D on Draw"
    hands.strike("ctrl+z")
    settle(lambda: (folder / "layouts/split-42.toml").read_bytes() == before and not window.session.edits.waits())
    with open_log(folder, "practice.db") as log:
        assert all(one.reverted is not None for one in log.records(Change))


def test_another_key_is_pressed_for_a_binding_and_its_why_kept(folder: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(folder, "weigh")
    hands.strike("k")
    settle(lambda: window.press_it().isVisible())
    hands.tap("g")
    settle(lambda: str(window.press_it().trigger()) == "split-42:base:KeyG:tap")
    hands.strike("Down")
    settle(lambda: str(window.press_it().trigger()) == "split-42:draw:KeyG:tap")
    hands.strike("Return")
    settle(window.chooser().line.hasFocus)
    window.chooser().line.setText("G as in gauge")
    hands.strike("Return")
    settle(lambda: window.chooser().head.text().startswith("Until it is set"))
    hands.strike("Return")
    settle(lambda: str(window.session.folio.bindings["sounding-s"].trigger) == "split-42:draw:KeyG:tap")
    window.session.flush()
    with open_log(folder, "practice.db") as log:
        change = next(one for one in log.records(Change) if one.binding == "sounding-s")
    assert (change.why, change.verdict) == ("G as in gauge", "move")


def test_the_other_verdicts_by_their_keys(folder: Path, open_room: OpenRoom, hands: Any,
                                          settle: Settle) -> None:  # fmt: skip
    window = open_room(folder, "weigh")
    hands.strike("1", "4", "3")

    def noted() -> list[str]:
        with open_log(folder, "practice.db") as log:
            return sorted(one.verdict for one in log.records(Change))

    settle(lambda: noted() == ["keep", "practise", "rebind"])
    hands.strike("5")
    settle(lambda: "sounding-s" not in window.session.folio.bindings)
    window.session.flush()
    assert "retire" in noted()
    hands.strike("ctrl+z")
    settle(lambda: "sounding-s" in window.session.folio.bindings)


def test_the_last_ledger_is_shown_before_anything_is_weighed(folder: Path, open_room: OpenRoom) -> None:
    first = open_room(folder, "weigh")
    assert first.session.summary is not None
    first.close()
    second = open_room(folder, "weigh", weighed=False)
    room = second.room("weigh")
    assert room.ledger.rows[0].id == "sounding-s" and room.case.title.text() == "Add sounding"
    assert "Struck D for S" in room.case.known.text()


def test_a_screen_reader_is_given_the_rows_of_the_ledger(folder: Path, open_room: OpenRoom) -> None:
    room = open_room(folder, "weigh").room("weigh")
    ledger = QAccessible.queryAccessibleInterface(room.ledger)
    said = [ledger.child(place).text(QAccessible.Text.Name) for place in range(ledger.childCount())]
    assert ledger.role() == QAccessible.Role.List and len(said) == len(room.ledger.rows) > 1
    first = said[0].split(", ")
    assert first[:2] == ["Add sounding", "S on Draw"] and first[2].endswith(" s a week") and len(first) == 5
    assert all(row.name in words for row, words in zip(room.ledger.rows, said, strict=True))


def test_the_ledger_walks_to_its_ends_and_letters_are_actions(folder: Path, open_room: OpenRoom, qtbot: Any) -> None:
    room = open_room(folder, "weigh").room("weigh")
    seen: list[str] = []
    room.ledger.chosen.connect(seen.append)
    ids = [row.id for row in room.ledger.rows]
    for key in (Qt.Key.Key_End, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_T):
        qtbot.keyClick(room.ledger, key)
    assert seen == [ids[-1], ids[0], ids[1]] and room.ledger.current_id() == ids[1]
    room.ledger.show_rows(tuple(reversed(room.ledger.rows)))
    assert room.ledger.current_id() == ids[1] and len(seen) == 3  # the one in front stays there, and nothing is told


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(one: str, other: str) -> float:
    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@pytest.mark.parametrize("desk", [DARK, DAY])
def test_text_can_be_read_on_every_ground(desk: Any) -> None:
    """Contrast by WCAG 2: at least 4.5 for text and 7 for the labels on keys."""
    for ground in (desk.desk, desk.panel):
        for text in (desk.text, desk.quiet, desk.faint, desk.slip, desk.settled):
            assert contrast(text, ground) >= 4.5, (text, ground)
        assert contrast(desk.light, ground) >= 4.5
    assert contrast(desk.on_lamp, desk.light) >= 4.5
    assert contrast(PAPER["ink"], PAPER["tile"]) >= 7
    for ink in (*INKS_ON_PAPER.values(), PAPER["prints"]):
        assert contrast(ink, PAPER["paper"]) >= 4.5
