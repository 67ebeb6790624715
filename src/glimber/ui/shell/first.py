"""Before there is a window: the demo made with progress shown, and what to do when the last folio cannot be opened."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from threading import Event

from PySide6.QtCore import QEventLoop, Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QProgressDialog

from glimber.demo.build import default_folder, make_demo
from glimber.demo.days import DAYS
from glimber.store.faults import FolioError, StoreError
from glimber.store.folder import Opened
from glimber.store.toml.reading import open_folio
from glimber.ui.session.jobs import Jobs, Work, words_of


def demo_folio(computer: str, folder: Path | None = None) -> Opened | None:
    """Return the demo folio, made where there is none yet, with progress that can be stopped; None after an error was shown."""
    folder = folder or default_folder()
    if not (folder / "folio.toml").exists():
        error = _make(folder, computer)
        if error is not None:
            say(error)
            return None
    try:
        return open_folio(folder)
    except (FolioError, StoreError) as error:
        return ask_what_to_open(folder, str(error), computer)


def say(error: str) -> None:
    """Show an error in its own window, and wait until it was read."""
    box = QMessageBox(QMessageBox.Icon.Critical, "Glimber", "")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(error)
    box.exec()


def _make(folder: Path, computer: str) -> str | None:
    """Make the demo while a progress window shows the days; stopping keeps the days practised so far."""
    shown = QProgressDialog("Making the chart office: sixteen days of practice by a simulated person", "Stop", 0, DAYS)
    shown.setWindowTitle("Glimber")
    shown.setWindowModality(Qt.WindowModality.ApplicationModal)
    shown.setMinimumDuration(0)
    shown.setAutoClose(False)
    shown.setAutoReset(False)
    shown.setMinimumWidth(520)
    stopped, errors = Event(), list[str]()

    def make(work: Work) -> None:
        def day_done(day: int) -> bool:
            work.tell(day / DAYS)
            return not stopped.is_set()

        make_demo(folder, datetime.now(UTC), computer, day_done)

    def failed(error: Exception) -> bool:
        errors.append(words_of(error))
        loop.quit()
        return True

    jobs, loop = Jobs(), QEventLoop()
    shown.canceled.connect(stopped.set)
    job = jobs.run("demo", make, lambda _: loop.quit(), failed)
    job.work.progressed.connect(
        lambda share, _: shown.setValue(round(share * DAYS)), Qt.ConnectionType.QueuedConnection
    )
    shown.show()
    loop.exec()
    jobs.close()
    shown.close()
    return errors[0] if errors else None


def ask_what_to_open(folder: Path, error: str, computer: str) -> Opened | None:
    """Say why the last folio cannot be opened, and let the person try again, choose another or open the demo."""
    while True:
        box = QMessageBox()
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setWindowTitle("Glimber")
        box.setText(f"{folder} cannot be opened.")
        box.setInformativeText("Fix the files and try again, or open another folio. Nothing was changed.")
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
