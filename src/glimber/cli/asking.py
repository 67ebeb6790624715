"""A small window that asks which binding was missed at work; for a key of the desktop that calls ``glimber missed``."""

from __future__ import annotations

from glimber.cli.common import stop
from glimber.core.model.folio import Folio


def ask_missed(folio: Folio, computer: str | None) -> str | None:
    """Return the name that was chosen, None where the window was closed. Stops where there is no display."""
    from glimber.cli.display import display_problem

    if (problem := display_problem()) is not None:
        stop(f"{problem}; say which: glimber missed FOLIO TEXT")
    from PySide6.QtCore import Qt
    from PySide6.QtWidgets import QApplication, QCompleter, QInputDialog, QLineEdit

    from glimber.store.settings import load_settings
    from glimber.ui.shell.app import application

    app: QApplication = application(load_settings().theme)
    names = sorted({folio.commands[one.command or ""].name for one in folio.drillable(computer)})
    dialog = QInputDialog()
    dialog.setWindowTitle("Missed at work")
    dialog.setLabelText("Which command did you reach by the menu?")
    dialog.setMinimumWidth(420)
    line = dialog.findChild(QLineEdit)
    if line is not None:
        completer = QCompleter(names, line)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        line.setCompleter(completer)
    taken = dialog.exec()
    app.processEvents()
    return dialog.textValue().strip() or None if taken else None
