"""What the window keeps to when others interfere: locks, logs that are taken away, kills, names and pictures made to harm."""

from __future__ import annotations

import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QLabel

from glimber.core.practice.cues import Cue
from glimber.core.practice.tries import Round, Try
from glimber.store.practice.jsonl import lines_of
from glimber.store.practice.log import open_log, read_practice
from glimber.store.system import crash
from glimber.store.toml.reading import open_folio
from glimber.ui.drill.cue import paint_cue
from glimber.ui.paint.pictures import MOST_SIDE, picture
from glimber.ui.paint.plain_text import tip
from tests.helpers import EVERYWHERE, FILES, PROGRAM, tries_of, write_folio
from tests.ui.kinds import OpenRoom, Settle
from tests.ui.test_drill_real import strike


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return write_folio(tmp_path / "small", tried=[*tries_of("show-desktop", "Super+D", ["blank"] * 4)])


@pytest.fixture
def room(folder: Path, open_room: OpenRoom, settle: Settle) -> Any:
    """The Drill room at the first prompt of a round."""
    room = open_room(folder, "drill").room("drill")
    room.begin_with(["show-desktop"], seed=1)
    settle(lambda: room.play.prompt_ms is not None)
    return room


def test_a_log_that_is_held_stops_nothing(folder: Path, room: Any, hands: Any, settle: Settle, qtbot: Any) -> None:
    other = sqlite3.connect(folder / "practice.db", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    strike(hands, "show-desktop")
    settle(lambda: "another program is writing" in room.play.stuck)
    gaps, last = [], time.monotonic()
    for _ in range(40):  # two seconds, with several attempts in them
        qtbot.wait(50)
        gaps.append(time.monotonic() - last)
        last = time.monotonic()
    # Every attempt that waited for the log would be a gap; one or two may be the machine's own.
    assert sorted(gaps)[-3] < 0.4 and room.play.tries == () and room.play.stuck
    other.execute("ROLLBACK")
    settle(lambda: len(room.play.tries) == 1 and not room.play.stuck)
    assert [one.outcome for one in read_practice(folder, "practice.db").tries][-1] == "hit"
    settle(lambda: room.play.prompt_ms is not None)
    strike(hands, "show-desktop")  # the keys belong to the prompt again
    settle(lambda: len(room.play.tries) == 2)
    other.close()


@pytest.mark.parametrize("how", ["an older copy", "deleted"])
def test_a_log_that_is_taken_away_in_a_round_loses_no_try(folder: Path, room: Any, hands: Any, settle: Settle, how: str) -> None:
    old = folder / "old.db"
    shutil.copy2(folder / "practice.db", old)
    strike(hands, "show-desktop")
    settle(lambda: len(room.play.tries) == 1)
    settle(lambda: room.play.prompt_ms is not None)
    if how == "deleted":
        (folder / "practice.db").unlink()
    else:
        old.replace(folder / "practice.db")
    strike(hands, "show-desktop")
    settle(lambda: "while it was open" in room.play.stuck)
    assert len(room.play.tries) == 1
    (aside,) = (folder / "backups").glob("*-tries.jsonl")
    kept = [one for one in lines_of(aside).records if isinstance(one, Try)]
    assert len(kept) == 2 and kept[0].id == room.play.tries[0].id
    hands.strike("Return")
    settle(lambda: len(room.play.tries) == 2 and not room.play.stuck)
    now = read_practice(folder, "practice.db")
    assert [one.id for one in now.tries if one.round == room.play.drill.round_id] == [one.id for one in room.play.tries]
    assert [one.id for one in now.rounds] == [room.play.drill.round_id]
    strike(hands, "show-desktop")
    settle(lambda: len(room.play.tries) == 3)
    room.put_aside()
    with open_log(folder, "practice.db") as log:
        assert log.count(Try) == 3 + (4 if how == "an older copy" else 0) and log.count(Round) == 1


ENDED = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from glimber.core.edit.commands import edit_command
from glimber.ui.shell import app
def edit(window):
    window.session.edit("label", lambda folio: edit_command(folio, "shoalwright/lead-line", label="Lead"))
    print("edited", flush=True)
shown = app.open_window
def open_window(*a, **k):
    window = shown(*a, **k)
    window.first_frame.connect(lambda: QTimer.singleShot(300, lambda: edit(window)))
    return window
app.open_window = open_window
sys.exit(app.run(Path(sys.argv[1])))
"""


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_polite_kill_saves_what_waits(folder: Path, number: signal.Signals) -> None:
    process = subprocess.Popen([sys.executable, "-c", ENDED, str(folder)], stdout=subprocess.PIPE, stderr=subprocess.PIPE,
                               text=True)  # fmt: skip
    assert process.stdout is not None and process.stdout.readline().strip() == "edited"
    process.send_signal(number)
    _, told = process.communicate(timeout=20)
    assert process.returncode == 0 and "Traceback" not in told
    assert open_folio(folder).folio.commands["shoalwright/lead-line"].label == "Lead"


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGKILL])
def test_nothing_that_the_window_began_outlives_it(folder: Path, number: signal.Signals) -> None:
    process = subprocess.Popen([sys.executable, "-c", ENDED, str(folder)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

    def until(done: Callable[[], bool]) -> None:
        end = time.monotonic() + 60
        while not done():
            assert time.monotonic() < end
            time.sleep(0.02)

    until(lambda: b"spawn_main" in b"".join(map(arguments_of, children_of(process.pid))))  # the process that edits texts
    begun = children_of(process.pid)
    process.send_signal(number)
    process.wait(20)
    until(lambda: not any(map(arguments_of, begun)))


def children_of(pid: int) -> list[int]:
    return [int(one) for one in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def arguments_of(pid: int) -> bytes:
    """The command line of a process; nothing for one that has ended."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return b""


def test_a_display_server_that_dies_leaves_a_report_and_loses_no_edit(folder: Path) -> None:
    read, write = os.pipe()
    server = subprocess.Popen(["Xvfb", "-displayfd", str(write), "-nolisten", "tcp"], pass_fds=[write], stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as pipe:
        there = {**os.environ, "DISPLAY": f":{pipe.readline().strip()}", "QT_QPA_PLATFORM": "xcb"}
    process = subprocess.Popen([sys.executable, "-c", ENDED, str(folder)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
                               env=there)  # fmt: skip
    assert process.stdout is not None and process.stdout.readline().strip() == "edited"
    server.kill()
    server.wait()
    _, told = process.communicate(timeout=20)
    assert process.returncode == 1 and "The display server is gone" in told and "Traceback" not in told
    assert open_folio(folder).folio.commands["shoalwright/lead-line"].label == "Lead"
    report = crash.arm(datetime(2026, 11, 27, 9, 0))
    crash.disarm()
    assert report is not None and "display server is gone" in report.read_text()


@pytest.mark.parametrize(("variables", "told"), [
    ({"DISPLAY": ":987"}, "The display :987 cannot be reached"), ({"DISPLAY": "nowhere.example:0"}, "cannot be reached"),
    ({"DISPLAY": "", "WAYLAND_DISPLAY": "wayland-gone"}, "wayland-gone cannot be reached"),
    ({"QT_QPA_PLATFORM": "paper"}, "QT_QPA_PLATFORM names paper"), ({"DISPLAY": ""}, "There is no display"),
])  # fmt: skip
def test_a_display_that_is_not_there_is_one_sentence(folder: Path, variables: dict[str, str], told: str) -> None:
    names = {name: value for name, value in os.environ.items() if name not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    done = subprocess.run([sys.executable, "-m", "glimber", str(folder)], env={**names, **variables}, capture_output=True, text=True,
                          timeout=60, check=False)  # fmt: skip
    assert done.returncode == 2 and told in done.stderr and done.stderr.count("\n") == 1
    card = subprocess.run([sys.executable, "-m", "glimber", "boards"], env={**names, **variables}, capture_output=True, timeout=60,
                          check=False)  # fmt: skip
    assert card.returncode == 0


MARKUP = '<b>Zoom</b> <img src="file:///etc/hostname"> & more'


def test_names_are_shown_letter_by_letter(tmp_path: Path, open_room: OpenRoom, settle: Settle) -> None:
    """In every room: no label takes a name for markup, whatever it holds."""
    program = PROGRAM.replace('name = "Add sounding"', f"name = '{MARKUP}'").replace('name = "Survey"', f"name = '{MARKUP}'")
    path = write_folio(tmp_path / "small", {**FILES, "programs/shoalwright.toml": program,
                                            "programs/everywhere.toml": EVERYWHERE.replace("Show desktop", "<i>desktop</i>")})  # fmt: skip
    text = (path / "folio.toml").read_text().replace('title = "Small office"', f"title = '{MARKUP}'")
    (path / "folio.toml").write_text(text)
    window = open_room(path, "gather")
    for room in ("gather", "arrange", "cards", "drill", "weigh"):
        window.go(room)
        settle(lambda room=room: window.current == room)
        labels = window.findChildren(QLabel)
        assert (
            labels
            and [
                label.text()
                for label in labels
                if label.textFormat() != Qt.TextFormat.PlainText and re.search(r"<(?!/?(?:b|br|span)\b)", label.text())
            ]
            == []
        )
    assert tip(MARKUP) == f"<qt>{'&lt;b&gt;Zoom&lt;/b&gt;'} &lt;img src=&quot;file:///etc/hostname&quot;&gt; &amp; more</qt>"
    assert tip("Zoom & more") == "Zoom & more"


def svg(**attributes: str) -> bytes:
    said = " ".join(f'{name}="{value}"' for name, value in attributes.items())
    return f'<svg xmlns="http://www.w3.org/2000/svg" {said}><rect width="9" height="9"/></svg>'.encode()


PICTURES = {
    "wide.svg": svg(width="1000000000", height="1"), "large.svg": svg(width="1e9", height="1e9"), "none.svg": svg(width="0", height="0"),
    "less.svg": svg(width="-5", height="-5"), "odd.svg": svg(width="nan", height="inf"), "thin.svg": svg(viewBox="0 0 1 1000000"),
    "plain.svg": svg(viewBox="0 0 9 9"), "script.svg": b"<svg><script/></svg>", "cut.svg": b"<svg", "empty.png": b"",
    "cut.png": b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x7f\xff\xff\xff\x7f\xff\xff\xff\x08\x06\x00\x00\x00", "text.png": b"a letter",
}  # fmt: skip


@pytest.mark.parametrize("name", [*PICTURES, "gone.png", "../outside.png", "pipe.png", "/etc/hostname"])
def test_no_picture_is_larger_than_its_place_and_none_ends_the_program(tmp_path: Path, qapp: Any, name: str) -> None:
    folder = tmp_path / "office"
    folder.mkdir()
    for one, data in PICTURES.items():
        (folder / one).write_bytes(data)
    os.mkfifo(folder / "pipe.png")
    (tmp_path / "outside.png").write_bytes(b"x")
    found = picture(folder, name, 300, 100, 1.0)
    assert found.isNull() or (found.width() <= 300 and found.height() <= 100)
    assert found.isNull() == (
        name not in ("wide.svg", "large.svg", "thin.svg", "plain.svg", "odd.svg", "none.svg", "less.svg") or found.isNull()
    )
    image = QImage(400, 200, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    paint_cue(painter, QRectF(20, 20, 300, 100), Cue("picture", name), "Add sounding", folder, "#000000")
    assert painter.end()


def test_a_picture_fits_whatever_place_it_gets(tmp_path: Path, qapp: Any) -> None:
    (tmp_path / "plain.svg").write_bytes(svg(viewBox="0 0 9 9"))
    for width, height in ((1, 1), (0.2, 0.2), (50, 10), (100_000, 90_000)):
        found = picture(tmp_path, "plain.svg", width, height, 1.0)
        side = min(max(1, round(width)), max(1, round(height)), MOST_SIDE)
        assert (found.width(), found.height()) == (side, side)


@pytest.mark.parametrize("broken", ['board = "splt-42"', "a layer", "a command"])
def test_a_folio_with_a_broken_reference_opens_and_says_so(tmp_path: Path, qtbot: Any, settle: Settle, broken: str) -> None:
    from glimber.store.cache.folio_cache import open_quickly
    from glimber.store.settings import load_settings
    from glimber.ui.shell.app import application, open_window

    path = write_folio(tmp_path / "small")
    layout = path / "layouts" / "split-42.toml"
    good = layout.read_text()
    changed = {
        "a layer": good.replace('enters = "draw"', 'enters = "drow"'),
        "a command": good.replace("shoalwright/depth-range", "shoalwright/depth-rang"),
    }.get(broken, good.replace('board = "split-42"', broken))
    layout.write_text(changed)
    application("dark")
    window = open_window(open_quickly(path), load_settings())
    settle(lambda: len(window.rooms) == 5)
    assert window.session.faults and window.notice.isVisible() and "is not a" in window.notice.text.text()
    layout.write_text(good)
    settle(lambda: not window.session.faults and not window.notice.isVisible())
    assert "sounding-s" in window.session.folio.bindings
    window.close()


def test_a_pipe_put_among_the_files_freezes_nothing(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    window = open_room(folder, "gather")
    (folder / "cards").mkdir()
    os.mkfifo(folder / "cards" / "tide.toml")
    settle(lambda: bool(window.session.faults))
    assert "expected a regular file" in window.notice.text.text()
    (folder / "cards" / "tide.toml").unlink()
    settle(lambda: not window.session.faults)


def test_a_folder_that_is_renamed_into_place_is_seen(folder: Path, open_room: OpenRoom, settle: Settle) -> None:
    window = open_room(folder, "gather")

    def copied(source: Path, target: Path, name: str) -> None:
        shutil.copytree(source, target)
        program = next(target.rglob("shoalwright.toml"))
        program.write_text(re.sub(r'name = "\w+ line"', f'name = "{name} line"', program.read_text()))

    def seen(name: str) -> None:
        settle(lambda: window.session.folio.commands["shoalwright/lead-line"].name == f"{name} line")

    for name in ("Coast", "Base"):  # one of its folders, twice
        copied(folder / "programs", folder / "next", name)
        (folder / "programs").rename(folder / f"was {name}")
        (folder / "next").rename(folder / "programs")
        seen(name)
    copied(folder, folder.with_name("whole"), "Tide")  # and the whole of it
    folder.rename(folder.with_name("was"))
    folder.with_name("whole").rename(folder)
    seen("Tide")
    path = folder / "programs" / "shoalwright.toml"
    path.write_text(path.read_text().replace("Tide line", "Deep line"))
    seen("Deep")
