"""What we rest on: the toolkit's version, scan codes, stamps and repeats; each key event through the one adapter."""

from __future__ import annotations

import subprocess
import sys
from functools import partial
from typing import Any

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QImage, QKeyEvent, QPainter
from PySide6.QtWidgets import QWidget

from glimber.core.engine.events import Event
from glimber.core.notation.keycodes import EVDEV_NUMBERS, XKB_OFFSET
from glimber.store.cache.folio_cache import keep
from glimber.store.settings import settings_file
from glimber.store.toml.reading import open_folio
from glimber.ui.capture import keystrokes
from glimber.ui.capture.keystrokes import KeyReader, StampClock, code_of
from glimber.ui.session.actions import Action, Registry, qt_keys, with_keypad


def test_the_toolkit_does_not_lose_references_to_none(qtbot: Any) -> None:
    """PySide6 6.12.0 on Python 3.11 takes one with every call that returns nothing, and aborts in the end."""
    image = QImage(8, 8, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(1000):
        painter.setPen(Qt.PenStyle.NoPen)
    after = sys.getrefcount(None)
    painter.end()
    if sys.version_info < (3, 12):  # later versions do not count references to None at all
        assert before - after < 50


def key_event(code: str, down: bool, stamp: int, repeat: bool = False) -> QKeyEvent:
    kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
    event = QKeyEvent(kind, Qt.Key.Key_4, Qt.KeyboardModifier.NoModifier, EVDEV_NUMBERS[code] + XKB_OFFSET, 0, 0, "4", repeat)
    event.setTimestamp(stamp)
    return event


def test_places_are_told_apart_whatever_is_printed_on_them() -> None:
    for code in ("Digit4", "Numpad4", "KeyS", "F13", "MetaLeft", "AltRight"):
        assert code_of(key_event(code, True, 0)) == code
    event = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_4, Qt.KeyboardModifier.NoModifier, 0, 0, 0, "4")
    assert code_of(event) is None


@pytest.fixture
def told(monkeypatch: pytest.MonkeyPatch) -> list[tuple[Event, float]]:
    return []


def read(rows: list[tuple[str, bool, int, float, bool]], monkeypatch: pytest.MonkeyPatch) -> list[tuple[str, str, float, float]]:
    """Rows of (code, down, server's stamp, moment handled, repeat flag) through the reader."""
    found: list[tuple[str, str, float, float]] = []
    reader = KeyReader(lambda event, late: found.append((event.kind, event.key, event.t, late)))
    for code, down, stamp, handled, repeat in rows:
        monkeypatch.setattr(keystrokes, "monotonic_ms", lambda handled=handled: handled)
        reader.read(key_event(code, down, stamp, repeat))
    reader.flush()
    return found


def test_times_are_the_servers_on_our_clock(qtbot: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    rows = [("KeyS", True, 1000, 5003.0, False), ("KeyS", False, 1080, 5082.0, False), ("KeyD", True, 2000, 6080.0, False)]
    assert read(rows, monkeypatch) == [
        ("down", "KeyS", 5003.0, 0.0), ("up", "KeyS", 5082.0, 0.0), ("down", "KeyD", 6002.0, 78.0),
    ]  # fmt: skip


def test_repeats_never_count_with_the_flag_or_without(qtbot: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    flagged = [("KeyS", True, 0, 0.0, False), ("KeyS", True, 500, 500.0, True), ("KeyS", False, 600, 600.0, False)]
    assert [(kind, t) for kind, _, t, _ in read(flagged, monkeypatch)] == [("down", 0.0), ("up", 600.0)]
    pairs = [("KeyS", True, 0, 0.0, False)]
    for stamp in (500, 530, 560):
        pairs += [("KeyS", False, stamp, float(stamp), False), ("KeyS", True, stamp, float(stamp), False)]
    pairs.append(("KeyS", False, 600, 600.0, False))
    assert [(kind, t) for kind, _, t, _ in read(pairs, monkeypatch)] == [("down", 0.0), ("up", 600.0)]


def test_a_release_is_told_even_when_nothing_follows(qtbot: Any) -> None:
    found: list[str] = []
    reader = KeyReader(lambda event, late: found.append(event.kind))
    reader.read(key_event("KeyS", True, 10))
    reader.read(key_event("KeyS", False, 80))
    qtbot.waitUntil(lambda: found == ["down", "up"], timeout=500)


def test_the_clock_takes_the_running_minimum() -> None:
    clock = StampClock()
    assert clock.moment(100, 1030) == (1030, 0)
    assert clock.moment(200, 1110) == (1110, 0)
    assert clock.moment(300, 1290) == (1210, 80)


@pytest.mark.parametrize(
    ("ours", "theirs"),
    [("Ctrl+1", "Ctrl+1"), ("Enter", "Return"), ("NumEnter", "Enter"), ("PageUp", "PgUp"), ("Super+D", "Meta+D"), ("/", "/"),
     ("Ctrl+Shift+Z", "Ctrl+Shift+Z"), ("Escape", "Esc"), ("-", "-")],
)  # fmt: skip
def test_our_notation_as_the_toolkit_writes_it(ours: str, theirs: str) -> None:
    assert qt_keys(ours).toString() == theirs


@pytest.mark.parametrize(
    ("keys", "taken", "works"),
    [(("Enter",), (), ["Enter", "NumEnter"]), (("Ctrl+Enter", "O"), (), ["Ctrl+Enter", "Ctrl+NumEnter", "O"]),
     (("Enter",), ("NumEnter",), ["Enter"]), (("NumEnter",), (), ["NumEnter"]), (("/",), (), ["/"])],
)  # fmt: skip
def test_the_keypads_enter_is_enter(keys: tuple[str, ...], taken: tuple[str, ...], works: list[str]) -> None:
    assert with_keypad(keys, taken) == works


def test_what_no_longer_applies_is_not_carried_out(qtbot: Any) -> None:
    window, told, done = QWidget(), list[str](), list[str]()
    qtbot.addWidget(window)
    registry = Registry(window, told.append)
    applies = {"quiet": False, "saying": False}
    for id, why in (("quiet", ""), ("saying", "not here")):
        registry.add(Action(id, id, (), partial(done.append, id), when=partial(applies.get, id), refusal=partial(str, why)))  # type: ignore[arg-type]
        registry.carry_out(id)
    assert (done, told) == ([], ["not here"])
    applies["quiet"] = True
    registry.carry_out("quiet")
    assert (done, told) == (["quiet"], ["not here"])


HEAVY = ("numpy", "scipy", "sqlalchemy", "alembic", "watchfiles", "rapidfuzz", "tomlkit", "typer", "rich", "statistics",
         "glimber.core.stats.measures", "glimber.core.engine.engine")  # fmt: skip
FIRST_FRAME = f"""
import sys
from pathlib import Path
from glimber.cli.window import make_ready
make_ready()
from glimber.store.settings import load_settings
from glimber.store.cache.folio_cache import open_quickly
from glimber.ui.shell.app import application, open_window
app = application("dark")
window = open_window(open_quickly(Path(sys.argv[1])), load_settings())
def tell():
    classes = [name for name in ("QStyle", "QIcon", "QKeySequence", "QGradient", "QImage") for one in ("QtGui", "QtWidgets")
               if name in vars(sys.modules["PySide6." + one])]
    print("loaded", [name for name in {HEAVY!r} if name in sys.modules], classes)
    app.exit()
window.first_frame.connect(tell)
app.exec()
"""


@pytest.mark.parametrize("room", ["gather", "arrange", "cards", "drill", "weigh"])
def test_nothing_the_first_frame_does_not_need_is_loaded_before_it(office_folder: Any, room: str) -> None:
    """No heavy library, and of the toolkit nothing with hundreds of names."""
    keep(open_folio(office_folder))
    settings_file().parent.mkdir(parents=True, exist_ok=True)
    settings_file().write_text(f'{{"last_room": "{room}"}}')
    told = subprocess.run([sys.executable, "-c", FIRST_FRAME, office_folder], capture_output=True, text=True, check=False)
    assert told.stdout.strip() == "loaded [] []", told.stdout + told.stderr
