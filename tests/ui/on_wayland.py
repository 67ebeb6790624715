"""Run by test_wayland.py in a process of its own on a Wayland compositor: window, rooms, a round, a card put up, counting."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QApplication

from glimber.core.notation.keycodes import EVDEV_NUMBERS, XKB_OFFSET
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio
from glimber.store.work.x_server import problem
from glimber.ui.shell.app import application, open_window

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


def main(folder: Path) -> dict[str, Any]:
    app = application("dark")
    window = open_window(open_folio(folder), load_settings())

    def until(done: Callable[[], bool], seconds: float = 20.0) -> None:
        end = time.monotonic() + seconds
        while not done():
            assert time.monotonic() < end, "it did not come to that in time"
            app.processEvents()
            time.sleep(0.002)

    def key(code: str, down: bool, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """As the platform gives it to Qt: with the number of the key, as Wayland has it."""
        kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
        number = EVDEV_NUMBERS[code] + XKB_OFFSET
        event = QKeyEvent(kind, 0, held, number, 0, 0, "", False)
        event.setTimestamp(int(time.monotonic() * 1000))
        QApplication.sendEvent(window.drill_room().prompt, event)

    until(lambda: len(window.rooms) == 5 and window.session.ledger is not None)
    found: dict[str, Any] = {"platform": QGuiApplication.platformName(), "size": [window.width(), window.height()]}
    colours = set()
    for room in window.rooms:
        window.go(room)
        until(lambda room=room: window.rooms[room].isVisible())
        image = window.grab().toImage()
        colours.add(len({image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}) > 3)
    found["rooms painted"] = colours == {True}
    drill = window.drill_room()
    window.go("drill")
    drill.begin_with(["show-desktop"], hits={"show-desktop": 2})
    until(lambda: drill.play is not None and drill.play.prompt_ms is not None)
    play, tries = drill.play, 0
    while drill.play is not None and tries < 2:
        key("MetaLeft", True)
        key("KeyD", True, Qt.KeyboardModifier.MetaModifier)
        key("KeyD", False, Qt.KeyboardModifier.MetaModifier)
        key("MetaLeft", False)
        tries += 1
        until(lambda tries=tries: len(play.tries) >= tries)
        until(lambda: drill.play is None or play.prompt_ms is not None)
    found["outcomes"] = [one.outcome for one in play.tries]
    cards = window.cards_room()
    window.go("cards")
    found["put up"] = cards.up().toggle(next(iter(cards.up()._ids())))
    until(lambda: bool(cards.up().up))
    found["counting"] = problem()
    window.close()
    return found


if __name__ == "__main__":
    print(json.dumps(main(Path(sys.argv[1]))))
