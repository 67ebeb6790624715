"""Sheets that are lists and tables on paper: the change sheet, to be ticked off by hand."""

from __future__ import annotations

from collections.abc import Sequence

from glimber.core.cards.frame import Frame, Note, note_sheets, numbered
from glimber.core.drawing.drawing import Drawing
from glimber.core.drawing.metrics import Faces
from glimber.core.drawing.paper import paper_of
from glimber.core.session.change_sheet import Edit


def change_pages(title: str, edits: Sequence[Edit], faces: Faces) -> list[Drawing]:
    """Return the change sheet on A4, a page or more for each program and board."""
    frame, pages = Frame(paper_of("A4", False), faces), list[Drawing]()
    for where in dict.fromkeys(edit.where for edit in edits):
        notes = [Note("☒" if edit.done else "☐", _line(edit)) for edit in edits if edit.where == where]
        pages += note_sheets(frame, where, "changes to set", title, notes)
    if not pages:
        pages = note_sheets(frame, title, "changes to set", "", [Note("–", "Nothing waits to be set.")])
    return numbered(pages)


def _line(edit: Edit) -> str:
    at = f" ({edit.set_at})" if edit.set_at else ""
    why = f" {edit.change.why}" if edit.change.why else ""
    return f"{edit.command}{at}: {edit.old} → {edit.new}. The old one: {edit.then}.{why}"
