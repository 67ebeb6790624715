"""The window around the rooms: going about by keys, find, the card of keys, both desks, faults while it is open."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QImage
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton, QWidget

from glimber.core.edit.edit import move_binding
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tries import Change
from glimber.store.faults import StoreError
from glimber.store.settings import load_settings, remember
from glimber.store.toml.reading import open_folio
from glimber.ui.paint.look import DARK, DAY
from glimber.ui.session.actions import ROOMS
from tests.helpers import LAYOUT, write_folio
from tests.ui.choosing import heard
from tests.ui.kinds import OpenRoom, Settle

CARD = 'format = "glimber-card/1"\ntitle = "Draw"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\n'
SPLIT = "layouts/split-42.toml"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return write_folio(tmp_path / "small", {"cards/draw.toml": CARD})


@pytest.fixture
def window(folder: Path, open_room: OpenRoom) -> Any:
    return open_room(folder)


def picture(widget: QWidget) -> QImage:
    return widget.grab().toImage()


def test_ctrl_and_a_figure_go_to_the_rooms(window: Any, hands: Any, settle: Settle) -> None:
    for number, id in enumerate(ROOMS, start=1):
        hands.strike(f"ctrl+{number}")
        settle(lambda id=id: window.current == id)
        assert window.stack.currentWidget() is window.rooms[id]
        assert id.title() in window.top.loop.accessibleDescription()
    assert load_settings().last_room == "weigh"


def test_gather_begins_with_the_commands_and_arrange_with_a_board(window: Any) -> None:
    window.go("gather")
    assert window.rooms["gather"].bench.list.row(0).text.startswith("Add sounding · Shoalwright · ")
    window.go("arrange")
    assert window.rooms["arrange"].title.text() == "Base" and window.rooms["arrange"].canvas.hasFocus()


def test_find_goes_to_commands_keys_cards_and_actions(window: Any, hands: Any, settle: Settle) -> None:
    hands.strike("slash", "d", "e", "p", "t", "h")
    texts = lambda: [window.found().list.item(i).text() for i in range(window.found().list.count())]  # noqa: E731
    settle(lambda: window.found().isVisible() and bool(texts()) and texts()[0].startswith("Depth range"))
    assert any("held on Draw" in text for text in texts())
    hands.strike("Return")
    settle(lambda: window.current == "weigh")
    assert window.rooms["weigh"].ledger.current_id() in ("range-held", "range-d")
    hands.strike("slash", "n", "e", "w", "space", "s", "o", "u", "n", "d")
    settle(window.found().isVisible)
    hands.strike("Escape")
    settle(lambda: not window.found().isVisible())
    assert window.rooms["weigh"].ledger.hasFocus()
    hands.strike("slash", "q", "u", "a", "y")
    settle(lambda: window.found().isVisible() and any("on the bench" in text for text in texts()[:1]))
    hands.strike("Return")
    settle(lambda: window.current == "gather")
    hands.strike("slash", "x", "x", "q", "z", "x")
    settle(lambda: texts() == ["Nothing is called xxqzx."])


def test_find_takes_keys_as_they_are_pressed_or_written(window: Any, hands: Any, settle: Settle) -> None:
    texts = lambda: [window.found().list.item(i).text() for i in range(window.found().list.count())]  # noqa: E731
    hands.strike("slash", "ctrl+shift+s")
    settle(lambda: window.top.field.text() == "Ctrl+Shift+S" and bool(texts()) and texts()[0].startswith("Add sounding"))
    hands.strike("ctrl+k")
    settle(lambda: window.top.field.text() == "Ctrl+K" and any("Begins" in text for text in texts()))
    assert "Begins" not in window.found().list.currentItem().text()  # it says something, and leads nowhere
    hands.strike("ctrl+l")
    settle(lambda: window.top.field.text() == "Ctrl+K Ctrl+L" and texts()[0].startswith("Lead line"))
    hands.strike("Return")
    settle(lambda: window.current == "weigh" and window.rooms["weigh"].ledger.current_id() == "lead-line")
    hands.strike("slash", "braceleft")
    settle(lambda: window.top.field.text() == "{" and any("Free" in text and "{" in text for text in texts()))
    hands.strike("ctrl+a", "q", "u", "a", "y")
    settle(lambda: window.top.field.text() == "quay" and texts()[0].startswith("Quay list"))


def test_the_card_of_keys_is_made_from_the_live_actions(window: Any, hands: Any, settle: Settle) -> None:
    for id in ("weigh", "drill", "cards"):
        window.go(id)
        hands.strike("question")
        settle(window.overlay().isVisible)
        said = window.overlay().accessibleDescription()
        for action in window.registry.of_room(id):
            assert not action.keys or f"{action.name}: {action.keys[0]}" in said
        hands.strike("Escape")
        settle(lambda: not window.overlay().isVisible())


def test_no_two_actions_of_a_room_answer_to_the_same_key(window: Any) -> None:
    for id in ROOMS:
        actions = window.registry.of_room(id)
        keys = [(action.scope, key) for action in actions for key in action.keys]
        assert len(keys) == len(set(keys)), id
        # a key of one pane is no key of the whole room as well
        whole = {key for scope, key in keys if scope is None}
        assert not whole & {key for scope, key in keys if scope is not None}, id


def test_f6_goes_round_the_panes_and_focus_is_seen(window: Any, hands: Any, settle: Settle) -> None:
    for id in ("cards", "weigh", "gather"):
        window.go(id)
        panes = [pane for pane in window.rooms[id].panes() if pane.isVisible() and pane.isEnabled()]
        seen = []
        for _ in panes:
            before = QApplication.focusWidget()
            hands.strike("F6")
            settle(lambda before=before, panes=panes: QApplication.focusWidget() is not before or len(panes) == 1)
            seen.append(QApplication.focusWidget())
        assert {id_(pane) for pane in seen} == {id_(pane) for pane in panes}
        assert all(pane.accessibleName() or isinstance(pane, QPushButton) for pane in panes)


def id_(widget: object) -> int:
    return id(widget)


def test_both_desks(window: Any, hands: Any, settle: Settle) -> None:
    assert picture(window).pixelColor(640, 60).name().upper() == DARK.desk
    hands.strike("ctrl+t")
    settle(lambda: load_settings().theme == "day")
    assert picture(window).pixelColor(640, 60).name().upper() == DAY.desk
    hands.strike("ctrl+t")
    settle(lambda: load_settings().theme == "dark")


def test_a_hand_edit_shows_on_the_card_while_the_window_is_open(window: Any, folder: Path, settle: Settle) -> None:
    sheet = window.rooms["cards"].sheet
    assert "Add sounding" in sheet.drawing.find("KeyS").name
    before = picture(sheet)
    text = LAYOUT.replace("KeyS = {", "KeyA = {")
    told = heard(window.session)
    (folder / SPLIT).write_text(text)
    settle(lambda: any(f"Read {SPLIT} again: " in one and "Add sounding is A on Draw now" in one for one in told))
    settle(lambda: "Add sounding" in sheet.drawing.find("KeyA").name)
    assert "Add sounding" not in sheet.drawing.find("KeyS").name
    assert picture(sheet) != before and not window.notice.isVisible()


def test_a_broken_edit_is_told_with_its_line_and_the_last_good_value_stays(window: Any, folder: Path, settle: Settle) -> None:
    sheet = window.rooms["cards"].sheet
    line = LAYOUT[: LAYOUT.index("KeyF =")].count("\n") + 1
    (folder / SPLIT).write_text(LAYOUT.replace("KeyF =", "KeyJ2 ="))
    settle(window.notice.isVisible)
    assert f"layouts/split-42.toml:{line}: KeyJ2 is not a key of split-42" in window.notice.text.text()
    assert "The last good value is shown" in window.notice.head.text()
    assert "Add sounding" in sheet.drawing.find("KeyS").name
    (folder / SPLIT).write_text(LAYOUT.replace("KeyF =", "KeyG ="))
    settle(lambda: not window.notice.isVisible())
    assert window.session.faults == ()


def test_an_edit_in_the_window_and_one_on_disk_do_not_lose_each_other(window: Any, folder: Path, settle: Settle) -> None:
    (folder / SPLIT).write_text(LAYOUT + "# mine\n")
    window.session.take_move("range-d", parse_trigger("split-42:draw:KeyA:tap"), False, "why")
    settle(lambda: not window.session.edits.waits())
    assert "# mine" in (folder / SPLIT).read_text()
    assert str(open_folio(folder).folio.bindings["range-d"].trigger) == "split-42:draw:KeyA:tap"


def test_opening_another_folio_and_one_that_cannot_be_used(window: Any, tmp_path: Path, settle: Settle) -> None:
    window.open_folder(tmp_path / "gone")
    assert window.notice.isVisible() and "there is no such folder" in window.notice.text.text()
    assert window.session.folio.settings.title == "Small office"
    window.notice.put_away()
    from glimber.store.toml.writing import new_folio

    new_folio(tmp_path / "mine", "My own", "split-42")
    window.open_folder(tmp_path / "mine")
    settle(lambda: window.session.ledger is not None)
    assert window.windowTitle() == "My own – Glimber" and load_settings().last_folio.endswith("mine")


def test_an_empty_folio_says_in_each_room_what_to_do_first(tmp_path: Path, open_room: OpenRoom, settle: Settle) -> None:
    from glimber.store.toml.writing import new_folio

    new_folio(tmp_path / "mine", "My own", "split-42")
    window = open_room(tmp_path / "mine")
    assert "No cards yet. Ctrl+1" in window.rooms["cards"].sheet.message
    assert "Ctrl+V reads it" in window.rooms["gather"].bench.head.text()
    window.go("drill")
    assert "Nothing to drill yet. Ctrl+1" in window.rooms["drill"].setup.note.text()
    assert not window.rooms["drill"].setup.begin_button.isEnabled()
    window.go("weigh")
    assert window.rooms["weigh"].empty.isVisible() and "Nothing to weigh yet" in window.rooms["weigh"].empty.text()


def test_the_smallest_window_and_large_type_cut_nothing_off(window: Any, settle: Settle, qtbot: Any) -> None:
    window.resize(1000, 560)
    for id in ROOMS:
        window.go(id)
        qtbot.wait(30)
        assert window.width() == 1000 and window.height() == 560, id
        assert window.desk.size() == window.glass.size() and window.top.isVisible(), id  # nothing of it has to be scrolled
        loop = window.top.loop
        assert loop.geometry().right() < window.top.field.geometry().left()


def test_a_first_start_makes_the_demo_and_greets(qtbot: Any, settle: Settle, tmp_path: Path, monkeypatch: Any) -> None:
    from glimber.ui.shell import app, first

    monkeypatch.setattr("glimber.demo.build.DAYS", 1)
    remember(introduced=False)
    app.application("dark")
    opened = first.demo_folio("bridge", tmp_path / "office")
    assert opened is not None and len(opened.folio.programs) == 3
    window = app.open_window(opened, load_settings())
    qtbot.addWidget(window)
    settle(window.chooser().isVisible)
    window.chooser().dismiss()
    window.introduce()
    said = window.overlay().accessibleDescription()
    assert all(room.title() in said for room in ROOMS)
    qtbot.keyClick(window.overlay(), Qt.Key.Key_Space)
    assert not window.overlay().isVisible() and load_settings().introduced
    settle(lambda: window.session.ledger is not None, 15000)
    window.close()


@pytest.mark.parametrize(
    ("error", "told"),
    [(StoreError("office: no room left"), "office: no room left"), (OSError(5, "bad sector"), "OSError: [Errno 5] bad sector.")],
)  # fmt: skip
def test_a_demo_that_fails_is_told(tmp_path: Path, qtbot: Any, monkeypatch: Any, error: Exception, told: str) -> None:
    from glimber.ui.shell import app, first

    def fails(folder: Path, now: Any, computer: str, each_day: Callable[[int], bool]) -> list[str]:
        assert each_day(3)
        raise error

    seen: list[str] = []
    monkeypatch.setattr(first, "make_demo", fails)
    monkeypatch.setattr(first, "say", seen.append)
    app.application("dark")
    assert first.demo_folio("bridge", tmp_path / "office") is None
    assert len(seen) == 1 and seen[0].startswith(told)


def test_a_last_folio_that_cannot_be_opened_is_asked_about(tmp_path: Path, qtbot: Any, monkeypatch: Any) -> None:
    from glimber.ui.shell import app, first

    app.application("dark")
    folder = write_folio(tmp_path / "broken", {SPLIT: "nonsense ="})
    seen: list[str] = []

    def answer(box: QMessageBox) -> int:
        seen.append(box.detailedText())
        (folder / SPLIT).write_text(LAYOUT)
        monkeypatch.setattr(box, "clickedButton", lambda: box.buttons()[0])
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    opened = first.ask_what_to_open(folder, "layouts/split-42.toml:1: not TOML", "bridge")
    assert seen == ["layouts/split-42.toml:1: not TOML"] and opened is not None


def test_undo_and_redo_by_keys_byte_for_byte(window: Any, folder: Path, hands: Any, settle: Settle) -> None:
    before = (folder / SPLIT).read_bytes()
    window.session.take_move("sounding-s", parse_trigger("split-42:draw:KeyD:tap"), True, "why")
    settle(lambda: not window.session.edits.waits())
    after = (folder / SPLIT).read_bytes()
    assert before != after
    hands.strike("ctrl+z")
    settle(lambda: (folder / SPLIT).read_bytes() == before)
    hands.strike("ctrl+shift+z")
    settle(lambda: (folder / SPLIT).read_bytes() == after)
    assert window.session.folio.by_trigger == move_binding(
        open_folio(write_folio(folder.parent / "again")).folio, "sounding-s", parse_trigger("split-42:draw:KeyD:tap"), True
    ).folio.by_trigger  # fmt: skip


def test_ctrl_s_writes_at_once_and_says_that_everything_is_saved(window: Any, folder: Path, hands: Any, settle: Settle) -> None:
    before, told = (folder / SPLIT).read_bytes(), []
    window.session.notified.connect(told.append)
    window.session.take_move("sounding-s", parse_trigger("split-42:draw:KeyD:tap"), True, "why")
    hands.strike("ctrl+s")
    settle(lambda: any(text.startswith("Everything is saved") for text in told))
    assert not window.session.edits.waits() and (folder / SPLIT).read_bytes() != before


def test_shortcuts_that_change_places_both_wait_on_the_sheet(window: Any, settle: Settle) -> None:
    window.rooms["gather"].commands.take_own()
    session, first, second = window.session, "room-gather", "room-arrange"
    session.flush()  # what was never in a file has nothing to be set
    old, to = (session.folio.bindings[id].trigger for id in (first, second))
    session.take_move(first, to, True, "why")
    session.flush()
    settle(lambda: not session.edits.waits())
    changes = {one.binding: one for one in session.log().records(Change)}
    assert (changes[first].to_trigger, changes[second].to_trigger) == (str(to), str(old))
    assert [changes[id].applied for id in (first, second)] == [None, None] and changes[second].swap_with == first
    window.rooms["weigh"].verbs.go_back(changes[first])
    assert [session.folio.bindings[id].trigger for id in (first, second)] == [old, to]


def test_the_applications_own_keys_are_a_program_and_can_be_others(window: Any, hands: Any, settle: Settle) -> None:
    window.go("gather")
    window.rooms["gather"].commands.take_own()
    program = window.session.folio.programs["glimber"]
    assert {"undo", "gather-find", "arrange-swap", "weigh-drill"} <= program.commands.keys()
    window.session.edit("move", lambda folio: move_binding(folio, "room-arrange", parse_trigger("Ctrl+Alt+A")).folio)
    hands.strike("ctrl+2")
    hands.strike("ctrl+alt+a")
    settle(lambda: window.current == "arrange")
    window.session.edit("sequence", lambda folio: move_binding(folio, "room-gather", parse_trigger("Ctrl+K g")).folio)
    hands.strike("ctrl+k", "g")
    settle(lambda: window.current == "gather")
    assert ("Ctrl+K g",) in [action.keys for action in window.registry.all()]
    while window.session.undo_name() is not None:
        window.session.undo()
    hands.strike("ctrl+2")
    settle(lambda: window.current == "arrange")


def test_rooms_out_of_view_catch_up_after_a_round_and_not_in_it(window: Any, settle: Settle, qtbot: Any) -> None:
    refreshed: list[str] = []
    window.go("drill")
    for id, room in window.rooms.items():
        room.refresh = lambda id=id: refreshed.append(id)
    window.take_whole_window(True)
    window._folio_changed()
    qtbot.wait(500)
    assert refreshed == ["drill"]
    window.take_whole_window(False)
    settle(lambda: set(refreshed) == set(window.rooms))


def test_what_is_worked_out_beside_waits_while_keys_are_edited_or_a_round_is_on(window: Any, settle: Settle, qtbot: Any) -> None:
    session, at = window.session, [0]

    def count(work: Any) -> None:
        while True:
            work.give_way()
            at[0] += 1
            time.sleep(0.001)

    def stands_still() -> bool:
        before = at[0] + 1  # one may be under way
        qtbot.wait(60)
        return at[0] <= before

    session.jobs.run("count", count)
    settle(lambda: at[0] > 3)
    session._rest.setInterval(60_000)
    session.edit("spot", lambda folio: move_binding(folio, "range-d", parse_trigger("split-42:draw:KeyQ:tap"), False).folio)
    assert stands_still()
    session._rest.start(0)  # keys have rested
    settle(lambda: not stands_still())
    session.hold_work(True)
    session.edits.changed.emit()  # a file was changed from outside, in the middle of the round
    assert stands_still() and not session._rest.isActive()
    session.hold_work(False)
    session._rest.start(0)
    settle(lambda: not stands_still())
    session.jobs.stop("count")


def test_everything_that_applies_is_in_the_menu_of_the_room(window: Any, hands: Any, settle: Settle) -> None:
    window.go("cards")
    menu = window.menus.menu()
    rows = [row.text().split("\t") for row in menu.actions() if row.menu() is None and not row.isSeparator()]
    own = [a for a in window.registry.of_room("cards") if a.room == "cards" and a.when() and a.scope is None]
    named = {(a.name, a.keys[0].casefold()) for a in own if a.keys and a.keys[0].split("+")[-1] not in ("Left", "Right", "Up", "Down")}
    assert named and named == {(name, key.casefold()) for name, key in rows}
    everywhere = menu.actions()[-1].menu()
    rooms = next(row for row in everywhere.actions() if row.text().startswith("Go to Weigh"))
    rooms.trigger()
    settle(lambda: window.current == "weigh")
    window.registry.set_enabled(False)
    assert window.menus.menu() is None  # in a round
    window.registry.set_enabled(True)
    hands.strike("question")
    settle(window.overlay().isVisible)
    assert window.menus.menu() is None  # a sheet lies over the room


def test_a_right_click_brings_the_menu_for_the_key_under_it(window: Any, qtbot: Any, settle: Settle) -> None:
    window.go("arrange")
    canvas = window.arrange_room().canvas
    key = next(id for id in canvas.faces if id != window.arrange_room().desk.place.key)
    points = [QPoint(x, y) for x in range(0, canvas.width(), 8) for y in range(0, canvas.height(), 8)]
    at = next(point for point in points if canvas.key_at(QPointF(point)) == key)
    qtbot.mouseClick(canvas, Qt.MouseButton.RightButton, pos=at)
    assert window.arrange_room().desk.place.key == key
    QApplication.postEvent(canvas, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, canvas.mapToGlobal(at)))
    settle(lambda: QApplication.activePopupWidget() is not None)
    row = next(row for row in QApplication.activePopupWidget().actions() if row.text().startswith("Unbound keys"))
    before = window.session.folio
    row.trigger()
    settle(lambda: window.session.folio is not before)
    QApplication.activePopupWidget().close()


@pytest.mark.parametrize("key", ["shift+F10", "Menu"])
def test_the_menu_comes_by_keys(window: Any, hands: Any, settle: Settle, key: str) -> None:
    window.go("gather")
    hands.strike(key)
    settle(lambda: QApplication.activePopupWidget() is not None)
    hands.strike("Escape")
    settle(lambda: QApplication.activePopupWidget() is None)


def test_the_words_at_the_foot_can_be_clicked(window: Any, qtbot: Any, settle: Settle) -> None:
    window.go("cards")
    settle(lambda: bool(window.bottom._boxes))
    place = next(n for n, (_, what) in enumerate(window.bottom._keys) if what == "this room's keys")
    settle(lambda: len(window.bottom._boxes) > place)
    box = window.bottom._boxes[place]
    qtbot.mouseClick(window.bottom, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    settle(window.overlay().isVisible)
    find = next(n for n, (_, what) in enumerate(window.bottom._keys) if what == "find")
    qtbot.mouseClick(window.bottom, Qt.MouseButton.LeftButton, pos=window.bottom._boxes[find].center().toPoint())
    assert not window.found().isVisible()  # a sheet lies over the room


def test_the_folios_name_opens_what_works_everywhere(window: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    qtbot.mouseClick(window.top.title, Qt.MouseButton.LeftButton)
    settle(lambda: QApplication.activePopupWidget() is not None)
    menu = QApplication.activePopupWidget()
    texts = [one.text() for one in menu.actions()]
    for wanted in ("Settings", "The day's page", "undo", "folio"):
        assert any(wanted.lower() in text.lower() for text in texts), (wanted, texts)
    next(one for one in menu.actions() if one.text().startswith("Settings")).trigger()
    settle(lambda: window.settings().isVisible())
    menu.close()
