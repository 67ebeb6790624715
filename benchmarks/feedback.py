"""From a key event to its feedback painted: the next prompt after a hit, the picture after a slip. Tries are committed."""

from __future__ import annotations

import time

import numpy as np

from benchmarks.figures import Figure, alone, office

PROMPTS = 2000
LIMIT_MS = 12.0
BINDINGS = ("show-desktop", "snap-chord", "export-sheet", "lock-selection", "save-copy")


def figures() -> list[Figure]:
    """99th percentile over 2,000 prompts, every ninth of them a slip."""
    from PySide6.QtCore import QEvent, Qt
    from PySide6.QtGui import QKeyEvent
    from PySide6.QtWidgets import QApplication

    from glimber.core.engine.events import Event
    from glimber.core.engine.perform import perform
    from glimber.core.notation.keycodes import EVDEV_NUMBERS, XKB_OFFSET
    from glimber.store.settings import load_settings, remember
    from glimber.store.toml.reading import open_folio
    from glimber.ui.capture.keystrokes import monotonic_ms
    from glimber.ui.shell.app import application, open_window

    remember(introduced=True)
    app = application("dark")
    window = open_window(open_folio(office()), load_settings())
    _until(app, lambda: window.session.ledger is not None)
    room = window.room("drill")
    window.go("drill")
    took: list[float] = []
    slips, stamp = 0, 0

    def send(code: str, down: bool) -> None:
        nonlocal stamp
        while time.monotonic_ns() // 1_000_000 <= stamp:
            pass  # an up and a down of one moment would be a repeat
        stamp = time.monotonic_ns() // 1_000_000
        kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
        event = QKeyEvent(
            kind, Qt.Key.Key_unknown, Qt.KeyboardModifier.NoModifier, EVDEV_NUMBERS[code] + XKB_OFFSET, 0, 0
        )
        event.setTimestamp(stamp)
        QApplication.sendEvent(room.prompt, event)

    while len(took) < PROMPTS:
        if room.play is None:
            room.begin_with(list(BINDINGS))
        play = room.play
        # A key stamped before the prompt was painted is no answer to it, and stamps are whole milliseconds.
        _until(app, lambda play=play: play.prompt_ms is not None and monotonic_ms() > play.prompt_ms + 3)
        binding, judged = play.binding, len(play.tries)
        slip = len(took) % 9 == 4 and not play.waits_for_strike
        slips += slip
        strikes = (
            [Event(0, "down", "KeyW"), Event(0, "up", "KeyW")] if slip else perform(play.drill.folio, binding.trigger)
        )
        last = max(place for place, event in enumerate(strikes) if event.kind == "down")
        for event in strikes[:last]:
            send(event.key, event.kind == "down")
        began = monotonic_ms()
        send(strikes[last].key, True)
        while room.play is play and (len(play.tries) == judged or play.prompt_ms is None):
            app.processEvents()
        if room.play is play:  # a round that ends shows its sheet, which is no feedback to a key
            took.append(play.prompt_ms - began)  # the moment its paint ended
        for event in strikes[last + 1 :]:
            send(event.key, False)
    room.put_aside()
    window.close()
    values = np.array(took)
    median = float(np.median(values))
    note = f"median {median:.1f} ms, {slips} slips among {len(took)} prompts; {alone(median)}"
    return [
        Figure(
            "key event to painted feedback, 99th percentile",
            float(np.percentile(values, 99)),
            "ms",
            LIMIT_MS,
            note=note,
        )
    ]


def _until(app, done, seconds: float = 30.0) -> None:  # type: ignore[no-untyped-def]
    end = time.monotonic() + seconds
    while not done():
        app.processEvents()
        if time.monotonic() > end:
            raise TimeoutError("the window did not get there")
