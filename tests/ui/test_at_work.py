"""Counting the real day on a real X server, with a window manager and windows of other programs: XTEST strikes typed into them."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace

from glimber.core.practice.counting import Count
from glimber.core.practice.tries import Change
from glimber.store.practice.log import open_log
from glimber.store.settings import load_settings, remember
from glimber.store.tally import change_tally, read_tally, tally_file
from glimber.store.work.running import is_on, process_of
from glimber.store.work.x_server import open_windows
from tests.helpers import PROGRAM, tries_of, write_folio
from tests.memory import finds, may_look, one_after_another
from tests.ui.choosing import page_rows, page_title
from tests.ui.kinds import OpenRoom, Settle

SECRET = "quayside"
NUMBERS = {"a": 30, "d": 32, "e": 18, "i": 23, "q": 16, "s": 31, "u": 22, "y": 21}
S = "split-42:draw:KeyS:tap"


class Window:
    """A window of another program, brought to the front."""

    def __init__(self, name: str) -> None:
        from Xlib import X, display

        self.display = display.Display()
        screen = self.display.screen()
        self.window = screen.root.create_window(
            40, 40, 300, 200, 0, screen.root_depth, event_mask=X.KeyPressMask, background_pixel=screen.black_pixel
        )
        self.window.set_wm_class(name.lower(), name)
        self.window.set_wm_name(name)
        self.window.map()
        self.display.sync()

    def front(self) -> None:
        id = str(self.window.id)
        for _ in range(100):
            subprocess.run(["xdotool", "windowactivate", "--sync", id], check=False, capture_output=True)
            if subprocess.run(["xdotool", "getactivewindow"], capture_output=True, text=True, check=False).stdout.strip() == id:
                return
            time.sleep(0.05)
        raise AssertionError("the window does not come to the front")

    def close(self) -> None:
        self.display.close()


@pytest.fixture
def windows() -> Iterator[Callable[[str], Window]]:
    made: list[Window] = []

    def make(name: str) -> Window:
        made.append(Window(name))
        return made[-1]

    yield make
    for one in made:
        one.close()


def glimber(*arguments: str) -> Any:
    done = subprocess.run([sys.executable, "-m", "glimber", *arguments, "--json"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def strike(*keys: str) -> None:
    subprocess.run(["xdotool", "key", "--clearmodifiers", "--delay", "30", *keys], check=True)


@pytest.fixture
def folder(tmp_path: Path) -> Iterator[Path]:
    undo = '\n[commands.undo]\nname = "Undo"\nshortcut = "Ctrl+Z"\n'
    path = write_folio(tmp_path / "small", {"programs/shoalwright.toml": PROGRAM.replace("contexts =", 'windows = ["shoal-main"]\ncontexts =') + undo,
                                            "programs/namewell.toml": 'format = "glimber-program/1"\nname = "Namewell"\n[commands.next]\nname = "Next name"\nshortcut = "Ctrl+Shift+S"\n'})  # fmt: skip
    yield path
    glimber("tally", "off", str(path))


def test_strikes_are_counted_for_what_is_in_front(folder: Path, windows: Callable[[str], Window], settle: Settle) -> None:
    charts, names = windows("Shoal-Main"), windows("Namewell")
    settle(lambda: {"Shoal-Main", "Namewell"} <= set(open_windows()))  # the window manager lists them a moment later
    assert glimber("tally", "status", str(folder))["on"] is False
    charts.front()
    strike("ctrl+shift+s")  # before it is turned on: never counted
    assert glimber("tally", "on", str(folder))["on"] is True and is_on(folder)
    lamp = subprocess.run(["xdotool", "search", "--name", "Glimber counts"], capture_output=True, text=True, check=False)
    assert lamp.stdout.strip()  # seen as long as it counts
    for _ in range(3):
        strike("ctrl+shift+s")
    subprocess.run(["xdotool", "type", "--delay", "15", SECRET], check=True)
    strike("ctrl+k", "ctrl+l")
    strike("ctrl+z")
    names.front()
    strike("ctrl+shift+s", "ctrl+q", "super+d")
    process = process_of(folder)
    assert process is not None
    if may_look(process):  # the server's events, as the extension tells them: pressed, and the number of the key
        events = one_after_another([bytes((2, NUMBERS[letter] + 8)) for letter in SECRET])
        settle(lambda: finds(process, events) == 0, 10_000)
    time.sleep(0.3)
    assert glimber("tally", "off", str(folder))["on"] is False and process_of(folder) is None
    charts.front()
    strike("ctrl+shift+s")  # off means off
    time.sleep(0.3)
    today = date.today().isoformat()
    assert read_tally(folder).days[today] == {
        "add-sounding": (3, 0),
        "lead-line": (1, 1),
        "undo": (1, 0),
        "next": (1, 0),
        "show-desktop": (1, 0),
    }
    _leaves_no_trace(folder)


def _leaves_no_trace(folder: Path) -> None:
    """Neither what was typed, nor the keys or numbers of it one after the other, is in any file of the person or the folio."""
    places = [f"Key{letter.upper()}" for letter in SECRET]
    forms = [
        SECRET,
        ", ".join(places),
        '", "'.join(places),
        "".join(places),
        ",".join(str(NUMBERS[c]) for c in SECRET),
        ", ".join(str(NUMBERS[c] + 8) for c in SECRET),
    ]
    looked = 0
    for root in (Path(os.environ["HOME"]), folder):
        for path in root.rglob("*"):
            if path.is_file():
                looked += 1
                data = path.read_bytes()
                assert not [one for one in forms if one.encode() in data], path
    assert looked > 3 and tally_file(folder).exists()


def test_it_goes_on_where_it_was_killed_and_counts_once(folder: Path, windows: Callable[[str], Window]) -> None:
    charts = windows("Shoal-Main")
    glimber("tally", "on", str(folder))
    assert glimber("tally", "on", str(folder))["on"] is True  # turned on twice is on once
    charts.front()
    strike("ctrl+shift+s")
    time.sleep(0.3)
    process = process_of(folder)
    assert process is not None
    os.kill(process, 15)
    while process_of(folder) is not None:
        time.sleep(0.05)
    assert read_tally(folder).of("add-sounding") == (1, 0)
    found = glimber("tally", "status", str(folder))
    assert found["on"] is False and found["turned_on"] is True


def test_what_was_counted_is_kept_when_the_display_goes(folder: Path) -> None:
    read, write = os.pipe()
    server = subprocess.Popen(["Xvfb", "-displayfd", str(write), "-nolisten", "tcp"], pass_fds=[write], stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as pipe:
        there = {**os.environ, "DISPLAY": f":{pipe.readline().strip()}"}
    try:
        subprocess.run([sys.executable, "-m", "glimber", "tally", "on", str(folder)], env=there, check=True, capture_output=True)
        # The first strike of another keyboard makes the server tell every program that its keys are mapped anew: it counts on.
        subprocess.run(["xdotool", "key", "--delay", "30", "super+d", "super+d"], env=there, check=True)
        time.sleep(1.5)
    finally:
        server.kill()
        server.wait()
    end = time.monotonic() + 10
    while process_of(folder) is not None:
        assert time.monotonic() < end
        time.sleep(0.05)
    assert read_tally(folder).of("show-desktop") == (2, 0)


# The window


@pytest.fixture
def window(open_room: OpenRoom, folder: Path) -> Any:
    return open_room(folder, "gather")


def test_the_sheet_turns_it_on_shows_it_and_mends_it(window: Any, folder: Path, hands: Any, settle: Settle) -> None:
    days = [f"2026-11-{n}" for n in (23, 24, 25)]
    change_tally(folder, lambda tally: tally.with_counts([Count("struck", "lead-line", day) for day in days for _ in range(4)], days))
    hands.strike("ctrl+u")
    settle(lambda: page_title(window) == "Not counting; 3 days so far")
    rows = page_rows(window)
    assert rows[0].startswith("Lead line: 4.2 a day") and "Not counted. and why" in rows and any(one.startswith("Tide table") for one in rows)
    hands.tap("c")
    settle(lambda: process_of(folder) is not None and window.at_work().counting, 15000)
    assert window.top.counting.isVisible() and window.bottom._stands == "counting at work"
    hands.strike("ctrl+u")
    settle(lambda: page_title(window) == "Counting; 3 days so far")
    hands.tap("c")
    settle(lambda: process_of(folder) is None and not window.at_work().counting, 15000)
    assert not window.top.counting.isVisible() and not is_on(folder)
    window.at_work().show()
    hands.strike("Return")
    settle(lambda: page_title(window) == "Lead line")
    hands.strike("Down", "Return")  # the day before the last
    settle(lambda: window.chooser.made is not None and window.chooser().head.text() == "How often was Lead line (Ctrl+K Ctrl+L) struck on 2026-11-24?")
    hands.answer(window, "40")
    settle(lambda: read_tally(folder).days["2026-11-24"]["lead-line"] == (40, 0))
    settle(lambda: page_title(window).startswith("Not counting"))
    hands.strike("Return")
    settle(lambda: page_title(window) == "Lead line")
    hands.tap("t")
    settle(lambda: window.session.folio.commands["shoalwright/lead-line"].uses_per_day is not None)


def test_windows_are_offered(window: Any, folder: Path, windows: Callable[[str], Window], hands: Any, settle: Settle) -> None:
    windows("Nautilus-Names")
    window.activateWindow()
    settle(window.isActiveWindow)
    window.at_work().ask_program()
    hands.answer(window, "Namewell")
    settle(lambda: window.chooser().head.text() == "Windows of Namewell")
    hands.answer(window, "Nautilus-Names")
    settle(lambda: window.session.folio.programs["namewell"].windows == ("Nautilus-Names",))
    window.session.flush()
    assert 'windows = ["Nautilus-Names"]' in (folder / "programs/namewell.toml").read_text()
    window.at_work()._ask_windows("shoalwright")
    hands.answer(window, "nautilus-names")
    settle(lambda: "is a window of Namewell already" in window.bottom._shown)


def test_the_days_page_after_the_first_week(open_room: OpenRoom, folder: Path, hands: Any, settle: Settle) -> None:
    now = datetime.now(UTC)
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("sounding-s", S, ["hit", "blank"] * 12, until=now, days=9),
                Change("m", now, "bridge", "lead-line", "missed", "shoalwright/lead-line", "Ctrl+K Ctrl+L"))  # fmt: skip
    remember(day_page="")
    window = open_room(folder, "cards")
    settle(lambda: window.day_page().sheet.isVisible(), 20000)
    sheet = window.day_page().sheet
    heads = {line.what: line.head for line in sheet.day.lines}
    assert heads["missed"] == "One binding missed at work" and heads["due"] == "A round of ten bindings, 3 min" and heads["settling"] == "Nothing settles"
    assert "a week earned" in sheet.accessibleDescription()
    hands.tap("2")  # nothing settles: nothing is gone to
    hands.tap("4")
    settle(lambda: not sheet.isVisible() and window.current == "drill")
    window.close()
    again = open_room(folder, "cards")
    settle(lambda: again.day_page().sheet.isVisible(), 20000)
    hands.tap("n")
    settle(lambda: not again.day_page().sheet.isVisible())
    assert load_settings().day_page == "never"
    hands.strike("ctrl+d")
    settle(again.day_page().sheet.isVisible)


def test_the_days_page_does_not_take_the_keys_of_who_is_at_work(open_room: OpenRoom, folder: Path, hands: Any, settle: Settle) -> None:
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("sounding-s", S, ["hit"] * 12, until=datetime.now(UTC), days=9))
    window = open_room(folder, "weigh")
    settle(lambda: window.session.ledger is not None, 20000)
    page, jobs, job = window.day_page(), window.session.jobs, "the day's page"
    window.session.settings, page._offered = replace(window.session.settings, day_page="", introduced=True), False
    jobs.hold(True)
    page.begin()
    assert jobs.running(job)
    hands.tap("n")  # while it is worked out: nobody waits for it any more
    settle(lambda: not jobs.running(job) and page._at_work)
    jobs.hold(False)
    settle(lambda: not jobs.names())
    assert not page.sheet.isVisible()
