"""Before there is a window: the demo made with progress shown, and what to do when the last folio cannot be opened."""

from __future__ import annotations

import threading
from datetime import UTC, datetime
from pathlib import Path

from PySide6.QtCore import QEventLoop, QObject, Qt, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QProgressDialog

from glimber.demo.build import DAYS, default_folder, make_demo
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.store.toml.reading import open_folio


class _Making(QObject):
    """The demo made on a thread of its own."""

    day = Signal(int)
    done = Signal(object)

    def __init__(self, folder: Path, computer: str) -> None:
        super().__init__()
        self.stopped = threading.Event()
        self.error: str | None = None
        self._folder, self._computer = folder, computer
        self.thread_ = threading.Thread(target=self._work, name="demo", daemon=True)

    def _work(self) -> None:
        try:
            make_demo(self._folder, datetime.now(UTC), self._computer, self._told)
        except StoreError as error:
            self.error = str(error)
        self.done.emit(None)

    def _told(self, day: int) -> bool:
        self.day.emit(day)
        return not self.stopped.is_set()


def demo_folio(computer: str, folder: Path | None = None) -> Opened | None:
    """The demo folio, made where there is none yet, with progress that can be stopped; None after an error told."""
    folder = folder or default_folder()
    if not (folder / "folio.toml").exists():
        error = _make(folder, computer)
        if error is not None:
            QMessageBox.critical(None, "Glimber", error)
            return None
    try:
        return open_folio(folder)
    except (FolioError, StoreError) as error:
        return ask_what_to_open(folder, str(error), computer)


def _make(folder: Path, computer: str) -> str | None:
    """Make the demo while a progress window shows the days; stopping keeps the days practised so far."""
    making = _Making(folder, computer)
    shown = QProgressDialog("Making the chart office: sixteen days of practice by a simulated person", "Stop", 0, DAYS)
    shown.setWindowTitle("Glimber")
    shown.setWindowModality(Qt.WindowModality.ApplicationModal)
    shown.setMinimumDuration(0)
    shown.setAutoClose(False)
    shown.setAutoReset(False)
    shown.setMinimumWidth(520)
    making.day.connect(shown.setValue)
    shown.canceled.connect(making.stopped.set)
    loop = QEventLoop()
    making.done.connect(loop.quit)
    making.thread_.start()
    shown.show()
    loop.exec()
    making.thread_.join()
    shown.close()
    return making.error


def ask_what_to_open(folder: Path, error: str, computer: str) -> Opened | None:
    """The last folio cannot be used: say why, and let the person try again, choose another or take the demo."""
    while True:
        box = QMessageBox()
        box.setWindowTitle("Glimber")
        box.setText(f"{folder} cannot be opened.")
        box.setInformativeText("Mend the files and try again, or open another folio. Nothing was changed.")
        box.setDetailedText(error)
        again = box.addButton("Try again", QMessageBox.ButtonRole.AcceptRole)
        other = box.addButton("Open another…", QMessageBox.ButtonRole.ActionRole)
        demo = box.addButton("Open the demo", QMessageBox.ButtonRole.ActionRole)
        box.addButton("Quit", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        chosen = box.clickedButton()
        if chosen is other:
            name = QFileDialog.getExistingDirectory(None, "Open a folio")
            folder = Path(name) if name else folder
        elif chosen is demo and folder != default_folder():
            return demo_folio(computer)
        elif chosen is not again:
            return None
        try:
            return open_folio(folder)
        except (FolioError, StoreError) as failed:
            error = str(failed)
