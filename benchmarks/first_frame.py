"""From the start of the process to the first painted frame, against an empty QMainWindow in the same run."""

from __future__ import annotations

import subprocess
import sys
import time
from statistics import median

from benchmarks.figures import Figure, office

ROOMS = ("gather", "arrange", "cards", "drill", "weigh")
RUNS = 15
LIMIT = 2.3
EMPTY = """
import sys, time
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMainWindow
class Empty(QMainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        QTimer.singleShot(0, lambda: (print(time.monotonic()), app.exit()))
app = QApplication([])
window = Empty()
window.resize(1280, 800)
window.show()
app.exec()
"""
GLIMBER = """
import sys, time
from pathlib import Path
from glimber.cli.window import make_ready
make_ready()
from glimber.store.settings import load_settings
from glimber.store.cache.folio_cache import open_quickly
from glimber.ui.shell.app import application, open_window
settings = load_settings()
opened = open_quickly(Path(sys.argv[1]))
app = application(settings.theme)
window = open_window(opened, settings)
window.first_frame.connect(lambda: (print(time.monotonic()), app.exit()))
app.exec()
"""
SETTLE = """
import sys
from pathlib import Path
from glimber.store.toml.reading import open_folio
from glimber.store.settings import load_settings
from glimber.ui.shell.app import application, open_window
app = application("dark")
window = open_window(open_folio(Path(sys.argv[1])), load_settings())
window.session.weighed.connect(app.exit)
app.exec()
window.close()
"""


def timed(script: str) -> float:
    """Seconds from the start of a process to the frame it tells of."""
    begin = time.monotonic()
    result = subprocess.run([sys.executable, "-c", script, str(office())], capture_output=True, text=True, check=True)
    return float(result.stdout.split()[-1]) - begin


def figures() -> list[Figure]:
    """The ratio for each room that can be the last one; the window has been open before, so its last ledger is kept."""
    from glimber.store.settings import settings_file

    subprocess.run([sys.executable, "-c", SETTLE, str(office())], check=True)
    found = []
    for room in ROOMS:
        settings_file().parent.mkdir(parents=True, exist_ok=True)
        settings_file().write_text(f'{{"last_room": "{room}", "introduced": true, "computer": "bench"}}')
        timed(EMPTY), timed(GLIMBER)
        pairs = [(timed(EMPTY), timed(GLIMBER)) for _ in range(RUNS)]  # one after the other: the machine's moods cancel
        ratio = median(ours / empty for empty, ours in pairs)
        note = f"{median(ours for _, ours in pairs):.2f} s against {median(empty for empty, _ in pairs):.2f} s"
        found.append(Figure(f"first frame of {room.title()} / of an empty window", ratio, "×", LIMIT, note=note))
    return found
