"""Names that stand for several modifiers, as a folio has them or as a source says itself."""

from __future__ import annotations

import pytest

from glimber.readers.bundles import with_bundles_written_out
from glimber.readers.found import Options
from glimber.readers.process import read_apart
from glimber.readers.registry import choose

CROWN = {"Crown": ("Ctrl", "Alt", "Shift")}


@pytest.mark.parametrize(("text", "written"), [
    ("Crown+P  Plot", "Ctrl+Alt+Shift+P  Plot"), ("Crown + P", "Ctrl+Alt+Shift + P"), ("Crown-P", "Ctrl+Alt+Shift-P"),
    ("Crown", "Crown"), ("Crown+", "Crown+"), ("The Crown of the chart", "The Crown of the chart"), ("Crowned+P", "Crowned+P"),
    ("X-Crown+P", "X-Crown+P"), ("Keel = Ctrl+Shift\nKeel+A", "Keel = Ctrl+Shift\nCtrl+Shift+A"),
    ("`Keel` means the keys Alt-Super.\nKeel+A", "`Keel` means the keys Alt-Super.\nAlt-Super+A"),
    ("Crown: Super+Alt\nCrown+A", "Crown: Super+Alt\nSuper+Alt+A"), ("Undo: Ctrl+Z\nUndo+A", "Undo: Ctrl+Z\nUndo+A"),
    ("Escape = Ctrl+Alt\nEscape+A", "Escape = Ctrl+Alt\nEscape+A"), ("Save = Ctrl+Shift+S\nSave+A", "Save = Ctrl+Shift+S\nSave+A"),
])  # fmt: skip
def test_a_name_before_a_plus_is_written_out(text: str, written: str) -> None:
    assert with_bundles_written_out(text.encode(), CROWN).decode() == written


@pytest.mark.parametrize(("name", "text"), [
    ("a.md", "# Sheets\n\n| Keys | Command |\n|---|---|\n| Crown+P | Plot sheet |\n| Crown+F5 | Find buoy |\n"),
    ("a.csv", "Command,Shortcut\nPlot sheet,Crown+P\nFind buoy,Crown+F5\n"),
    ("a.html", "<table><tr><th>Key</th><th>What</th></tr><tr><td>Crown + P</td><td>Plot sheet</td></tr>"
               "<tr><td>Crown + F5</td><td>Find buoy</td></tr></table>"),
    ("a.txt", "Crown+P   Plot sheet\nCrown+F5  Find buoy\n"),
])  # fmt: skip
def test_tables_with_the_names_of_bundles_are_read(name: str, text: str) -> None:
    options = Options(bundles=CROWN)
    wanted = [("Plot sheet", ("Ctrl+Alt+Shift+P",)), ("Find buoy", ("Ctrl+Alt+Shift+F5",))]
    for chosen in (choose(name, text.encode(), options), read_apart(name, text.encode(), options)):
        assert [(row.command, row.triggers) for row in chosen.found.rows] == wanted
