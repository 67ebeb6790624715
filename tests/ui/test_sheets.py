"""What lies over any room: settings, copies, the first question; and one instance, an end in the middle."""

from __future__ import annotations

import os
import subprocess
import sys
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt

from glimber.core.edit.edit import EditError
from glimber.core.edit.settings import NUMBERS, number_of, set_setting
from glimber.store.settings import load_settings, remember
from glimber.store.system import crash
from glimber.store.toml.reading import open_folio
from glimber.ui.paint.style import theme
from glimber.ui.shell.settings import Setting
from glimber.ui.shell.window_place import scaled
from tests.helpers import folio_of, write_folio
from tests.ui.choosing import asked, page_rows, page_title
from tests.ui.kinds import OpenRoom, Settle


@pytest.fixture
def window(open_room: OpenRoom, folder: Path) -> Any:
    return open_room(folder, "gather")


def go_to(sheet: Any, id: str) -> None:
    sheet.list.setCurrentRow([getattr(one, "id", "") for one in sheet._rows].index(id))


# Settings


def test_each_setting_has_its_effect_at_once_and_undo_works_there(window: Any, folder: Path, hands: Any, settle: Settle) -> None:
    hands.strike("ctrl+comma")
    sheet = window.settings()
    settle(lambda: sheet.isVisible() and sheet.line.hasFocus())
    go_to(sheet, "theme")
    hands.strike("Right")
    settle(lambda: theme().name == "day" and load_settings().theme == "day")
    hands.strike("Left")
    settle(lambda: theme().name == "dark")
    begun: list[int] = []
    go_to(sheet, "scale")
    hands.strike("Right")
    settle(lambda: "from the next start" in window.bottom._shown and load_settings().scale == 110)
    window.restart = lambda: begun.append(load_settings().scale)  # as the application itself has it: anew at once
    hands.strike("Left")
    settle(lambda: begun == [100])
    go_to(sheet, "minutes")
    hands.strike("Right")
    settle(lambda: load_settings().minutes == 5.0)
    assert window.room("drill").setup.minutes == 5.0
    go_to(sheet, "deadline")
    hands.strike("Right")
    settle(lambda: window.room("drill").setup.options.deadline == "adaptive")
    go_to(sheet, "target_ms")
    hands.ask(window, "Return", "1200")
    settle(lambda: window.session.folio.settings.target_ms == 1200 and sheet.isVisible())
    window.session.flush()
    assert open_folio(folder).folio.settings.target_ms == 1200
    settle(sheet.line.hasFocus)
    hands.strike("ctrl+z")
    settle(lambda: window.session.folio.settings.target_ms == 1500)
    assert "1500 ms" in sheet.list.currentItem().text()
    hands.ask(window, "Return", "fast")
    settle(lambda: "expected from 100 to 60000" in window.bottom._shown)
    hands.strike("Escape")
    settle(lambda: not sheet.isVisible())


@pytest.mark.parametrize(("own", "before", "chosen", "found"), [
    (None, None, 150, "1.5"), (None, None, 100, None), ("1.25", None, 150, "1.25"),  # what the person's environment says stands
    ("2", "1", 150, "1.5"), ("2", "1", 100, None), (None, None, 117, None),
])  # fmt: skip
def test_the_size_in_the_environment(
    own: str | None, before: str | None, chosen: int, found: str | None, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, value in (("QT_SCALE_FACTOR", own), ("GLIMBER_SCALE_SET", before)):
        monkeypatch.setenv(name, value or "")  # so that it is put back whatever happens to it
        if value is None:
            monkeypatch.delenv(name)
    scaled(chosen)
    assert os.environ.get("QT_SCALE_FACTOR") == found


def test_every_setting_is_found_by_its_name(window: Any, hands: Any, settle: Settle) -> None:
    rows = window.settings()._settings.rows()
    found = {one.text for one in window._findable() if one.detail.startswith("setting")}
    assert found == {one.name for one in rows} and len(rows) > 20
    hands.strike("slash")
    settle(window.top.field.hasFocus)
    hands.strike("p", "a", "y", "b", "a", "c", "k")
    settle(lambda: window.found().isVisible())
    hands.strike("Return")
    settle(lambda: window.settings().isVisible())
    assert window.settings().row(window.settings().list.currentRow()).id == "horizon_weeks"


def test_settings_are_found_by_typing_and_changed_by_key_and_by_mouse(window: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    hands.strike("ctrl+comma")
    sheet = window.settings()
    settle(lambda: sheet.isVisible() and sheet.line.hasFocus())
    texts = lambda: [sheet.list.item(n).text() for n in range(sheet.list.count())]  # noqa: E731
    assert texts()[0] == "Appearance" and sheet.row(sheet.list.currentRow()).id == "theme"
    hands.strike("Up")  # round to the last, and past no heading
    settle(lambda: sheet.row(sheet.list.currentRow()).id == "least_gain_s")
    hands.strike("h", "o", "l", "d")
    settle(lambda: sheet.row(0) is not None and sheet.row(0).id == "hold_ms")
    assert not any(text == "Appearance" for text in texts())
    go_to(sheet, "hold_ms")
    before = window.session.folio.settings.timing.hold_ms
    hands.strike("Right")
    settle(lambda: window.session.folio.settings.timing.hold_ms == before + 10)
    item = sheet.list.visualItemRect(sheet.list.item(0))
    qtbot.mouseClick(sheet.list.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(int(item.right() - item.width() * 0.4), item.center().y()))
    settle(lambda: window.session.folio.settings.timing.hold_ms == before)
    assert not sheet.grab().isNull()


@pytest.mark.parametrize(("id", "value", "by", "after", "share"), [
    ("hold_ms", 20, -1, "20", 0.0), ("hold_ms", 30, 1, "40", 0.088), ("hold_ms", 2000, 1, "2000", 1.0), ("sure", 0.8, 1, "0.81", 0.612),
    ("working_days", 7, 1, "7", 1.0), ("horizon_weeks", 1, -1, "1", 0.0), ("least_gain_s", 0, 1, "1", 0.0), ("hold_ms", 207, 1, "220", 0.507),
])  # fmt: skip
def test_a_number_goes_up_and_down_within_its_limits(id: str, value: float, by: int, after: str, share: float) -> None:
    steps = {"hold_ms": 10, "sure": 0.01, "working_days": 0.5, "horizon_weeks": 1, "least_gain_s": 1}
    one = Setting("", id, "", "", lambda: f"{value:g}", lambda text: None, step=steps[id])
    assert one.stepped(by) == after and one.share == pytest.approx(share, abs=0.002)


@pytest.mark.parametrize("name", sorted(NUMBERS))
def test_a_number_at_its_limits(name: str) -> None:
    kind, folio = NUMBERS[name], folio_of()
    for value in (kind.least, kind.most):
        after = set_setting(folio, name, f"{value:g}").settings
        assert getattr(after.timing, name, None) == value or getattr(after, name, None) == value
    for text in (f"{kind.least - 1:g}", f"{kind.most + 1:g}", "nan", "", "x", "1e999"):
        with pytest.raises(EditError, match="expected"):
            number_of(name, text)
    if kind.whole:
        with pytest.raises(EditError, match="whole number"):
            number_of(name, f"{kind.least + 0.5}")


def test_what_may_be_one_of_some(name: str = "keyboard") -> None:
    folio = folio_of()
    assert set_setting(folio, "away", "left").settings.away == "left"
    assert set_setting(folio, "policy", "timer").settings.timing.policy == "timer"
    for id in ("away", "policy", "keyboard"):
        with pytest.raises(EditError, match="expected one of"):
            set_setting(folio, id, "telex")
    with pytest.raises(EditError, match="empty"):
        set_setting(folio, "title", "  ")
    with pytest.raises(KeyError):
        set_setting(folio, "colour", "red")


# Copies


def test_copies_are_looked_through_and_put_back(window: Any, folder: Path, hands: Any, settle: Settle) -> None:
    hands.strike("ctrl+b")
    settle(lambda: "no copies yet" in window.bottom._shown)
    before = (folder / "folio.toml").read_text()
    window.session.edit("title", lambda folio: set_setting(folio, "title", "Large office"))
    window.session.flush()
    assert "Large office" in (folder / "folio.toml").read_text()
    hands.strike("ctrl+b")
    settle(lambda: page_title(window) == "1 copy of a file" and "folio.toml" in page_rows(window)[1])
    hands.strike("Return")
    settle(lambda: page_title(window) == "folio.toml")
    texts = [row.partition(": ")[::2] for row in page_rows(window)]
    assert [text for kind, text in texts if kind.startswith("removed")] == ['title = "Large office"']
    assert [text for kind, text in texts if kind.startswith("added")] == ['title = "Small office"']
    hands.strike("Return")
    settle(lambda: window.session.folio.settings.title == "Small office")
    assert (folder / "folio.toml").read_text() == before


# The first start


@pytest.mark.parametrize(("taken", "rows"), [("What was copied", 2), ("The line editor", 30)])
def test_the_first_question_leads_to_rows_of_ones_own(
    taken: str, rows: int, open_room: OpenRoom, folder: Path, hands: Any, settle: Settle, own_folders: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(own_folders / "papers"))
    remember(introduced=False)
    window = open_room(folder, "cards")
    settle(lambda: window.chooser.made is not None and window.chooser().isVisible())
    assert window.chooser().head.text() == "How do you want to start?" and len(asked(window)) == 5
    from PySide6.QtGui import QGuiApplication

    QGuiApplication.clipboard().setText("Lead line\tCtrl+L\nAdd buoy\tCtrl+B\n")
    hands.answer(window, taken)
    room = window.room("gather")
    settle(lambda: room.desk.reading is not None, 15000)
    own = window.session.folder
    assert own != folder and own.name == "Glimber" and own_folders in own.parents
    assert window.session.folio.layouts == {} and window.current == "gather" and load_settings().last_folio == str(own.resolve())
    assert len(room.desk.reading.found.rows) >= rows


def test_a_look_round_shows_what_the_rooms_are_for_and_how_to_leave(open_room: OpenRoom, folder: Path, hands: Any, settle: Settle) -> None:
    remember(introduced=False)
    window = open_room(folder, "cards")
    settle(lambda: window.chooser.made is not None and window.chooser().isVisible())
    hands.answer(window, "A look round")
    settle(window.overlay().isVisible)
    assert "Ctrl+Q leaves" in window.overlay().accessibleDescription()
    hands.tap("space")
    settle(lambda: not window.overlay().isVisible())
    assert window.session.folder == folder and load_settings().introduced


# One instance, and an end in the middle


def test_a_second_start_shows_the_first_or_the_other(window: Any, folder: Path, tmp_path: Path, settle: Settle) -> None:
    other = write_folio(tmp_path / "other")
    window.showMinimized()
    settle(window.isMinimized)

    def start(*arguments: str) -> str:
        process = subprocess.Popen([sys.executable, "-m", "glimber", *arguments], stdout=subprocess.PIPE, text=True)
        settle(lambda: process.poll() is not None, 15000)
        assert process.returncode == 0 and process.stdout is not None
        with process.stdout:
            return process.stdout.read()

    assert "runs already" in start()
    settle(lambda: not window.isMinimized() and window.isActiveWindow())
    assert "runs already" in start(str(other))
    settle(lambda: window.session.folder.resolve() == other.resolve())


def test_what_ended_in_the_middle_leaves_a_report_that_is_told_once(own_folders: Path) -> None:
    now = datetime(2026, 11, 27, 9, 0)
    script = "from datetime import datetime; from glimber.store.system.crash import arm; arm(datetime.now()); import os, ctypes; {}"
    for end, left in (
        ("ctypes.string_at(0)", True),
        ("from glimber.store.system.crash import disarm; disarm()", False),
        ("os.kill(os.getpid(), 9)", True),
    ):
        subprocess.run([sys.executable, "-c", script.format(end)], check=False, capture_output=True, env={**os.environ})
        report = crash.arm(now)
        assert (report is not None) == left
        if report is not None:
            text = report.read_text()
            assert "Glimber 0." in text and ("Segmentation fault" in text) == ("string_at" in end)
        assert crash.arm(now) is None  # told once
        crash.disarm()
        now += timedelta(minutes=1)
    assert [path.name[:6] for path in sorted(crash.reports_folder().iterdir())] == ["crash-", "crash-"]


def test_from_an_empty_home_to_a_verdict(
    qtbot: Any, hands: Any, settle: Settle, own_folders: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every stroke of a stranger who has copied a list somewhere: the question, the rows, a round, what it found."""
    from PySide6.QtGui import QGuiApplication

    from glimber.store.settings import settings_file
    from glimber.ui.shell import app

    settings_file().unlink()
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(own_folders / "papers"))
    application = app.application("dark")
    opened = app.last_or_demo(load_settings())
    assert opened is not None and opened.folio.settings.title == "Chart office"
    window = app.open_window(opened, load_settings())
    qtbot.addWidget(window)
    settle(lambda: window.chooser.made is not None and window.chooser().isVisible(), 20000)
    window.activateWindow()
    settle(lambda: window.isActiveWindow() and window.chooser().line.hasFocus())
    QGuiApplication.clipboard().setText("Shoalwright keys\n\nLead line\tCtrl+L\nAdd buoy\tCtrl+B\n")
    strokes = 0

    def strike(*keys: str) -> None:
        nonlocal strokes
        strokes += len(keys)
        hands.strike(*keys)

    strike("Down", "Return")  # what was copied
    gather = window.room("gather")
    settle(lambda: gather.desk.reading is not None and gather.paper.isVisible(), 15000)
    strike("Return")  # import what is certain
    settle(lambda: window.chooser().isVisible())
    if not window.session.folio.drillable():  # nothing told the program: it is asked
        strike("s", "h", "o", "a", "l", "Return")
        settle(lambda: bool(window.session.folio.drillable()) and window.chooser().isVisible())
    assert window.chooser().head.text() == "2 bindings imported. What next?"
    strike("Return")  # drill them
    drill = window.room("drill")
    settle(lambda: drill.isVisible() and drill.setup.chosen() is not None and bool(drill.setup.chosen().due), 15000)
    strike("Return")  # begin
    settle(lambda: drill.play is not None)
    before = strokes
    play = drill.play
    while drill.play is not None and strokes - before < 40:
        settle(lambda: drill.play is None or play.prompt_ms is not None)
        if drill.play is None:
            break
        nth = play.drill.state.nth  # what is new is shown first, which is no try
        letter = str(play.binding.trigger)[-1].lower()
        hands.strike("+Control_L", 0.02, f"+{letter}", 0.03, f"-{letter}", "-Control_L")
        strokes += 1
        settle(lambda nth=nth: drill.play is None or play.drill.state.nth > nth)
    assert drill.play is None and {one.outcome for one in play.tries} == {"hit"}
    assert before <= 10, before
    hands.strike("ctrl+5")
    weigh = window.room("weigh")
    settle(lambda: weigh.isVisible() and len(weigh.ledger.rows) == 2 and weigh.case.verdict is not None, 15000)
    settle(lambda: weigh.case.verdict.row.count > 0, 15000)
    assert weigh.case.verdict.choice == "practise" and "it takes one more try on one more day to judge it" in weigh.case.verdict.words
    assert window.session.folio.layouts == {}  # no layer was met on the way
    window.close()
    assert application is not None
