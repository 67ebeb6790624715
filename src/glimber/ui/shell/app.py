"""Opens the window: on the folio named, on the last one, or on the demo the first time."""

from __future__ import annotations

import atexit
import os
import sys
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from glimber.store.cache.folio_cache import open_quickly
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.store.settings import UserSettings, load_settings, remember
from glimber.ui.paint.fonts import load_fonts
from glimber.ui.paint.style import apply_theme
from glimber.ui.session.collector import Collector
from glimber.ui.session.session import Session
from glimber.ui.shell.window import Window
from glimber.ui.shell.window_place import scaled, take_place

HELPER_MS = 800
LOST_DISPLAY = "The display server is gone; edits are saved."


def application(theme: str) -> QApplication:
    """Return the one QApplication of this process, dressed."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(["glimber", "-style", "fusion"])  # with it no class of styles need be loaded
        app.setApplicationName("glimber")
        app.setApplicationDisplayName("Glimber")
        app.setDesktopFileName("org.glimber.Glimber")
    # Threads hand over within a millisecond, so that weighing in the background is not felt at the keys.
    sys.setswitchinterval(0.001)
    Collector.of(app)
    load_fonts()
    apply_theme(app, theme)
    return app


def run(folder: Path | None) -> int:
    """Run the application; its exit status. A folder that was named and cannot be used ends with 2."""
    settings = load_settings()
    opened: Opened | None = None
    try:
        if folder is not None:
            opened = open_quickly(folder)
    except (FolioError, StoreError) as error:
        print(error, file=sys.stderr)
        return 2
    scaled(settings.scale)
    app = application(settings.theme)
    return _show(app, opened or last_or_demo(settings), settings)


def run_demo(folder: Path) -> int:
    """Run the application on the demo in a folder, made first where it is not there yet."""
    from glimber.ui.shell.first import demo_folio

    settings = load_settings()
    scaled(settings.scale)
    app = application(settings.theme)
    return _show(app, demo_folio(settings.computer_name, folder), settings)


def _show(app: QApplication, opened: Opened | None, settings: UserSettings) -> int:
    if opened is None:
        return 2
    from glimber.store.system.crash import arm, disarm, keep_report

    restarted: list[str] = []
    # What is registered first is called last: when everything that others leave at the end is put away.
    atexit.register(_restart, restarted)
    report = arm(datetime.now())
    window = open_window(opened, settings, helper=True)
    if report is not None:
        text = f"A report is in {report}; nothing was sent anywhere."
        window.notice.tell("Glimber ended in the middle of its work last time.", [text])

    def restart() -> None:
        restarted.append(str(window.session.folder))
        QTimer.singleShot(0, window.close)

    window.restart = restart
    status = app.exec()
    window.session.close()
    if status == 0:
        disarm()
    elif (report := keep_report(f"The event loop ended with status {status}: {LOST_DISPLAY}")) is not None:
        print(f"{LOST_DISPLAY} A report is in {report}.", file=sys.stderr)
    return status


def _restart(folders: list[str]) -> None:
    """The application once more in this process's place, on the last of some folders."""
    if folders:
        os.execv(sys.executable, [sys.executable, "-m", "glimber", folders[-1]])


def last_or_demo(settings: UserSettings) -> Opened | None:
    """Return the last folio; the demo where there is none yet. None where neither can be opened, after an error was shown."""
    from glimber.ui.shell.first import ask_what_to_open, demo_folio

    last = Path(settings.last_folio) if settings.last_folio else None
    if last is None or not last.exists():
        return demo_folio(settings.computer_name)
    try:
        return open_quickly(last)
    except (FolioError, StoreError) as error:
        return ask_what_to_open(last, str(error), settings.computer_name)


def open_window(opened: Opened, settings: UserSettings, helper: bool = False) -> Window:
    """Show the window; everything the first painted frame does not need begins after it.

    ``helper``: this window is the application. Texts are edited by a process of its own, begun when all that is done, and a
    polite kill closes the window.
    """
    app = QApplication.instance()
    assert app is not None
    collector = Collector.of(app)
    session = Session(opened, settings)
    window = Window(session)
    take_place(window, settings.window)
    window.show()

    def after_first_frame() -> None:
        from glimber.store.system.logs import keep_log
        from glimber.ui.paint.icon import window_icon

        keep_log()
        if QApplication.windowIcon().isNull():
            QApplication.setWindowIcon(window_icon())
        session.start_work()
        window.build_rooms()
        remember(last_folio=str(opened.folder.resolve()))
        if not settings.introduced:
            window.begin().ask()
            remember(introduced=True)
        if helper:
            from glimber.ui.shell.signals import ClosesOnSignals

            ClosesOnSignals(window)
            QTimer.singleShot(HELPER_MS, session.start_helper)
        QTimer.singleShot(HELPER_MS, collector.start)

    window.first_frame.connect(lambda: QTimer.singleShot(0, after_first_frame))
    return window
