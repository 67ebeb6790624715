"""The Weigh room used as a person would: filtered, looked behind, rearranged, set, settled, gone back from, looked back on."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt

from glimber.core.edit.commands import edit_binding
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tries import Change
from glimber.store.practice.log import open_log
from glimber.store.toml.reading import open_folio
from tests.helpers import tries_of, write_folio
from tests.ui.choosing import heard, page_rows, page_title
from tests.ui.kinds import OpenRoom, Settle

S, D, P = (f"split-42:draw:Key{key}:tap" for key in "SDP")
NOW = datetime.now(UTC)
SET = NOW - timedelta(days=16)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """Add sounding came from P sixteen days ago and is better there; the hand goes to D for it; Depth range is known."""
    slip = ("neighbour", D, "shoalwright/depth-range")
    return write_folio(
        tmp_path / "small",
        tried=[
            *tries_of("sounding-s", P, ["hit", "blank"] * 12, until=SET - timedelta(hours=2)),
            *tries_of("sounding-s", S, ["hit", "hit", slip] * 14, until=NOW),
            *tries_of("range-d", D, ["hit"] * 20, until=NOW),
            Change("c1", SET, "bridge", "sounding-s", "move", "shoalwright/add-sounding", P, S, "nearer", applied=SET),
        ],
    )


@pytest.fixture
def room(folder: Path, open_room: OpenRoom, settle: Settle) -> Any:
    room = open_room(folder, "weigh").room("weigh")
    room.choose("sounding-s")
    settle(lambda: room.case.verdict is not None)
    return room


def asked(room: Any) -> str:
    text: str = room.window().chooser().head.text()
    return text


def test_rows_are_sorted_and_chosen_by_words(room: Any, hands: Any, settle: Settle) -> None:
    whole = len(room.ledger.rows)
    hands.ask(room, "l", "survey draw")
    settle(lambda: {row.id for row in room.ledger.rows} == {"sounding-s", "range-held", "range-d"})
    assert room.only.text() == f"only “survey draw”, 3 of {whole}"
    hands.ask(room, "o", "name")
    settle(lambda: [row.name for row in room.ledger.rows] == sorted(row.name for row in room.ledger.rows))
    room.choose("quay-list" if "quay-list" in room.session.verdicts else "show-desktop")
    assert not room.words and len(room.ledger.rows) == whole


def test_what_is_behind_a_verdict_is_one_key_away(room: Any, hands: Any, settle: Settle) -> None:
    assert room.case.cause.text().startswith("The hand goes to one other place, ")
    hands.tap("c")
    settle(lambda: page_title(room) == "What is wrong with Add sounding")
    first = page_rows(room)[0]
    assert first.startswith("One other place: ") and "the same wrong key again and again" in first and "14 of 42 tries" in first
    hands.strike("Return")
    settle(lambda: page_title(room) == "14 tries of Add sounding: one other place")
    hands.strike("Escape")
    settle(lambda: page_title(room) == "")
    hands.tap("f")
    settle(lambda: page_title(room) == "42 tries of Add sounding")


def test_a_place_is_tried_on_without_changing_anything(room: Any, folder: Path, hands: Any, settle: Settle) -> None:
    before = (folder / "layouts/split-42.toml").read_bytes()
    hands.tap("t")
    settle(lambda: room.case.details().board.marks.lit == ("KeyD",))
    assert "nothing is changed" in room.case.details().went.text()
    hands.tap("t")
    settle(lambda: room.case.details().board.marks.lit == ("KeyS",))
    assert (folder / "layouts/split-42.toml").read_bytes() == before


def test_a_change_settles_is_confirmed_or_gone_back_from(room: Any, folder: Path, hands: Any, settle: Settle) -> None:
    strip = room.settling()
    assert strip.isVisible() and strip.current.change.id == "c1" and strip.current.day == 16
    assert "before P on Draw" in strip.spoken(strip.current) and "after S on Draw" in strip.spoken(strip.current)
    hands.tap("z")
    settle(lambda: str(room.session.folio.bindings["sounding-s"].trigger) == P)
    room.session.flush()
    hands.strike("ctrl+z")
    settle(lambda: str(room.session.folio.bindings["sounding-s"].trigger) == S)
    room.session.flush()
    settle(lambda: room.session.ledger is not None and str(room.session.ledger.rows["sounding-s"].binding.trigger) == S, 15000)
    room.verbs.confirm(strip.current or strip.settlings[0])
    with open_log(folder, "practice.db") as log:
        settle(lambda: any(one.verdict == "confirmed" for one in log.records(Change)))


def test_what_is_taken_waits_until_ticked_off(room: Any, folder: Path, tmp_path: Path, hands: Any, settle: Settle) -> None:
    hands.ask(room, "2", "")
    settle(lambda: str(room.session.folio.bindings["sounding-s"].trigger) == D)
    room.session.flush()
    ledger = room.session.ledger
    settle(lambda: room.session.ledger is not ledger, 15000)
    hands.tap("s")
    settle(lambda: page_title(room).startswith("To be set"))
    rows = page_rows(room)
    assert rows[0].endswith("2 to set") and any(row.startswith("Add sounding: S on Draw → D on Draw. ") for row in rows)
    hands.strike("space")
    settle(lambda: page_rows(room)[0].endswith("all set"))  # both halves of the swap, and the page stays
    assert all(row.endswith(". Done") for row in page_rows(room)[1:3])
    hands.strike("Return")  # not after all
    settle(lambda: page_rows(room)[0].endswith("2 to set"))
    hands.strike("space")

    def ticked() -> bool:
        with open_log(folder, "practice.db") as log:
            return all(one.applied for one in log.records(Change))  # one half of a swap is set with the other

    settle(ticked)
    for ending in ("md", "csv", "pdf"):
        room.verbs.write_sheet(tmp_path / f"sheet.{ending}")
    assert (tmp_path / "sheet.md").read_text().startswith("# Changes to set: Small office\n") and (tmp_path / "sheet.pdf").read_bytes()[
        :4
    ] == b"%PDF"


def test_what_waits_is_shown_as_a_difference_set_and_put_back(open_room: OpenRoom, folder: Path, hands: Any, settle: Settle) -> None:
    notes = "Command;Keys\nAdd sounding;Ctrl+Shift+S\n"
    (folder / "notes.csv").write_text(notes)
    with (folder / "folio.toml").open("a") as file:
        file.write('\n[sources.notes]\npath = "notes.csv"\nprogram = "shoalwright"\n')
    room = open_room(folder, "weigh").room("weigh")
    room.session.take_move("add-sounding", parse_trigger("Ctrl+Alt+S"), False, "nearer", "move", "dead")
    room.session.flush()
    hands.tap("w")
    settle(lambda: page_title(room) == "Set 1 change in 1 place")
    assert page_rows(room) == ["notes.csv. 1 change", "unchanged, line 1: Command;Keys", "removed, line 2: Add sounding;Ctrl+Shift+S",
                               "added, line 2: Add sounding;Ctrl+Alt+S"]  # fmt: skip
    assert (folder / "notes.csv").read_text() == notes
    hands.strike("Return")
    settle(lambda: (folder / "notes.csv").read_text() == notes.replace("Shift", "Alt"))

    def ticked() -> bool:
        with open_log(folder, "practice.db") as log:
            return all(one.applied for one in log.records(Change))

    settle(ticked)
    settle(lambda: not room.session.jobs.running("setting"))
    hands.strike("shift+w")
    settle(lambda: (folder / "notes.csv").read_text() == notes and not ticked())


def test_a_layer_is_rearranged_in_one_step(room: Any, folder: Path, hands: Any, settle: Settle) -> None:
    before = (folder / "layouts/split-42.toml").read_bytes()
    hands.tap("r")
    settle(lambda: room.rearranging.made is not None and room.rearranging().isVisible(), 15000)
    cover = room.rearranging()
    assert cover.at == 1 and len(cover.board.arrows) == 1
    assert cover.load.text().startswith("Uses a day by finger: left ")  # from hand to hand, and no codes
    hands.tap("Right")
    settle(lambda: cover.at == 2)
    hands.tap("h")
    settle(lambda: "each on its hand" in cover.words.text(), 15000)
    hands.strike("Down")
    settle(lambda: cover.steps.currentRow() == 0 == cover.board.front)
    pinned = cover.plans[cover.at].steps[0].binding
    hands.tap("p")
    stays = lambda: [row for row in range(cover.steps.count()) if "stays" in cover.steps.item(row).text()]  # noqa: E731
    settle(lambda: bool(stays()), 15000)
    assert all(step.binding != pinned for plan in cover.plans for step in plan.steps) and "each on its hand" in cover.words.text()
    hands.strike(*["Down"] * (stays()[0] + 1))
    settle(lambda: cover.steps.currentRow() == stays()[0])
    hands.tap("p")
    settle(lambda: not stays() and any(step.binding == pinned for step in cover.plans[-1].steps), 15000)
    hands.strike("End")
    settle(lambda: cover.at == len(cover.plans) - 1)
    hands.strike("Home")
    settle(lambda: cover.at == 0)
    hands.strike("Right")
    settle(lambda: cover.at == 1)
    plan = cover.plans[cover.at]
    hands.strike("Return")
    settle(lambda: all(room.session.folio.bindings[step.binding].trigger == step.to for step in plan.steps))
    room.session.flush()
    assert all(open_folio(folder).folio.bindings[step.binding].trigger == step.to for step in plan.steps)
    hands.strike("ctrl+z")
    settle(lambda: (folder / "layouts/split-42.toml").read_bytes() == before and not room.session.edits.waits())


def test_a_verdict_is_set_aside_until_a_day(room: Any, folder: Path, hands: Any, settle: Settle) -> None:
    told = heard(room.session)
    for written in ("yesterday", "0001-01-01", "9999-12-31T23:59:59-12:00"):
        hands.ask(room, "b", written)
        settle(lambda: bool(told) and told[-1].startswith(f"{written} is not a day to come"))
    open_now = room.number()
    hands.ask(room, "b", f"{NOW + timedelta(days=9):%Y-%m-%d}")
    settle(lambda: room.number() == open_now - 1, 15000)
    assert next(row for row in room.ledger.rows if row.id == "sounding-s").aside == f"{NOW + timedelta(days=9):%Y-%m-%d}"


def test_the_field_is_walked_and_clicked(room: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    hands.tap("v")
    settle(lambda: room.field.made is not None and room.field().isVisible() and room.field().hasFocus())
    field = room.field()
    (other,) = (row for row in field.rows if row.id == "range-d")
    at = field.at(other).toPoint()
    qtbot.mouseClick(field, Qt.MouseButton.LeftButton, pos=QPoint(at.x(), at.y()))
    settle(lambda: room.ledger.current_id() == "range-d" and field.current == "range-d")
    hands.strike("Left")
    settle(lambda: room.ledger.current_id() == "sounding-s")


def test_two_are_compared_and_the_whole_is_looked_back_on(room: Any, tmp_path: Path, hands: Any, settle: Settle, qtbot: Any) -> None:
    hands.tap("x")
    qtbot.wait(100)
    room.choose("range-d")
    hands.tap("x")
    overlay = room.window().overlay()
    settle(overlay.isVisible)
    assert "Add sounding" in overlay.accessibleDescription() and "Depth range" in overlay.accessibleDescription()
    hands.strike("Escape")
    told: list[str] = []
    room.session.notified.connect(told.append)
    hands.tap("y")
    settle(lambda: overlay.isVisible() and overlay.accessibleName().endswith("progress"), 15000)
    settle(lambda: "Looking back…" in told and not room.window().bottom._shown)  # it is done, and no longer said
    hands.strike("Escape")
    for name in ("report.pdf", "figures.csv"):
        room.reports().write(tmp_path / name)
        settle((tmp_path / name).exists, 15000)
    head = (tmp_path / "figures.csv").read_text().splitlines()[0]
    assert head == "day,tries,clean,practice_s,weekly_s,saved_s_week,held"


def test_the_charts_are_walked_day_by_day_and_say_each(room: Any, hands: Any, settle: Settle) -> None:
    details = room.case.details()
    assert [pane for pane in room.panes() if pane in (details.chart, details.times)]
    details.chart.setFocus()
    settle(lambda: details.chart.here != "")
    newest = details.chart.here
    assert "%" in newest and " to " in newest
    hands.tap("Left")
    settle(lambda: details.chart.here not in ("", newest))
    hands.tap("Home")
    first = details.chart._points[0].day
    settle(lambda: details.chart.here.startswith(f"{first:%-d %B}"))
    assert details.chart.accessibleName().endswith(details.chart.here)
    hands.tap("End")
    settle(lambda: details.chart.here == newest)
    details.times.setFocus()
    settle(lambda: "ms" in details.times.here and details.chart.here == "")
    assert details.times.accessibleDescription().count(":") == len(details.times._points)


def test_a_save_weighs_anew_only_where_something_weighed_is_another(room: Any, settle: Settle) -> None:
    session = room.session
    before, place = session.ledger, session.folio.bindings["sounding-s"].trigger
    session.edit("why", lambda folio: edit_binding(folio, "sounding-s", reason="said anew"))
    session.flush()
    settle(lambda: session.ledger.folio is session.folio, 15000)
    assert session.ledger.rows["sounding-s"].binding.reason == "said anew"
    assert session.ledger.belief is before.belief and session.ledger.rows["sounding-s"].counted is before.rows["sounding-s"].counted
    session.edit("pin", lambda folio: edit_binding(folio, "sounding-s", pinned=True))
    session.flush()
    settle(lambda: session.ledger.belief is not before.belief, 15000)
    assert session.ledger.rows["sounding-s"].binding.pinned and session.folio.bindings["sounding-s"].trigger == place
