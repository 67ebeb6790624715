"""How exactly a strike's moment is recorded: real key events of the X server, struck at known times by another process."""

from __future__ import annotations

import subprocess
import sys
import time

import numpy as np

from benchmarks.figures import Figure

STRIKES = 400
MEDIAN_MS, WORST_MS = 2.0, 10.0
_HAND = """
import sys, time
from random import Random
from Xlib import X, XK, display
from Xlib.ext import xtest
random, server = Random(1), display.Display()
key = server.keysym_to_keycode(XK.string_to_keysym("s"))
sys.stdin.readline()
for _ in range(int(sys.argv[1])):
    time.sleep(random.uniform(0.02, 0.06))
    print(time.monotonic_ns() / 1e6)
    xtest.fake_input(server, X.KeyPress, key)
    server.sync()
    time.sleep(0.01)
    xtest.fake_input(server, X.KeyRelease, key)
    server.sync()
print("done", flush=True)
"""


def figures() -> list[Figure]:
    """Median and 99th percentile of the error, in ms; none without an X server."""
    from PySide6.QtGui import QGuiApplication, QKeyEvent
    from PySide6.QtWidgets import QWidget

    from glimber.core.engine.events import Event
    from glimber.ui.capture.keystrokes import KeyReader
    from glimber.ui.shell.app import application

    app = application("dark")
    if QGuiApplication.platformName() != "xcb":
        return []
    recorded: list[float] = []

    class Sheet(QWidget):
        def keyPressEvent(self, event: QKeyEvent) -> None:
            reader.read(event)

        def keyReleaseEvent(self, event: QKeyEvent) -> None:
            reader.read(event)

    def tell(event: Event, late_ms: float) -> None:
        if event.kind == "down":
            recorded.append(event.t)

    sheet = Sheet()
    reader = KeyReader(tell, sheet)
    sheet.resize(300, 200)
    sheet.show()
    sheet.activateWindow()
    _until(app, sheet.isActiveWindow)
    hand = subprocess.Popen(
        [sys.executable, "-c", _HAND, str(STRIKES)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert hand.stdin is not None and hand.stdout is not None
    hand.stdin.write("\n")
    hand.stdin.flush()
    _until(app, lambda: len(recorded) >= STRIKES, 60.0)
    struck = [float(line) for line in hand.stdout.read().split()[:-1]]
    sheet.close()
    if len(recorded) != len(struck):
        raise RuntimeError(f"{len(recorded)} of {len(struck)} strikes came")
    # The first strokes relate the two clocks; a round has had its own when the first prompt is answered.
    apart = np.abs(np.array(recorded[20:]) - np.array(struck[20:]))
    note = f"{len(apart)} strikes by another process"
    return [
        Figure("moment of a strike, median error", float(np.median(apart)), "ms", MEDIAN_MS, note=note),
        Figure("  99th percentile", float(np.percentile(apart, 99)), "ms", WORST_MS),
    ]


def _until(app: object, done: object, seconds: float = 10.0) -> None:
    end = time.monotonic() + seconds
    while not done() and time.monotonic() < end:  # type: ignore[operator]
        app.processEvents()  # type: ignore[attr-defined]
        time.sleep(0.0005)
