"""Edits run ahead of the files and are written a moment later: nothing is lost, and nothing of somebody else's either."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from glimber.core.edits.commands import edit_command
from glimber.core.edits.edit import EditError
from glimber.store.faults import StoreError
from glimber.store.toml.reading import open_folio
from glimber.ui.edits import Edits
from tests.helpers import write_folio

LEAD = "shoalwright/lead-line"


@pytest.fixture
def edits(tmp_path: Path, qtbot: Any) -> Edits:
    return Edits(open_folio(write_folio(tmp_path / "small")), lambda: datetime.now(UTC))


def files(edits: Edits) -> dict[str, bytes]:
    folder = edits.opened.folder
    return {
        str(p.relative_to(folder)): p.read_bytes() for p in sorted(folder.rglob("*.toml")) if "backups" not in p.parts
    }


def called(name: str) -> Callable[[Any], Any]:
    return lambda folio: edit_command(folio, LEAD, label=name)


def test_an_edit_is_there_at_once_and_in_the_file_a_moment_later(edits: Edits, settle: Callable[..., None]) -> None:
    edits.edit("one", called("Lead"))
    assert edits.folio.commands[LEAD].label == "Lead" and b'"Lead"' not in files(edits)["programs/shoalwright.toml"]
    settle(lambda: not edits.waits())
    assert b'label = "Lead"' in files(edits)["programs/shoalwright.toml"]
    assert edits.opened.folio is edits.folio


def test_many_edits_undone_give_the_files_back_byte_for_byte(edits: Edits, settle: Callable[..., None]) -> None:
    before = files(edits)
    for number in range(7):
        edits.edit(f"number {number}", called(f"Lead {number}"))
        if number % 3 == 0:
            settle(lambda: not edits.waits())
    assert [edits.undo() for _ in range(7)] == [f"number {number}" for number in reversed(range(7))]
    assert edits.undo() is None
    edits.flush()
    assert files(edits) == before
    assert edits.redo() == "number 0" and edits.redo() == "number 1"
    edits.flush()
    assert open_folio(edits.opened.folder).folio.commands[LEAD].label == "Lead 1"


def test_a_refused_edit_changes_nothing(edits: Edits) -> None:
    with pytest.raises(EditError):
        edits.edit("bad", lambda folio: edit_command(folio, LEAD, name=""))
    assert not edits.waits() and edits.undo_name() is None


def test_a_file_edited_meanwhile_is_read_and_the_edit_laid_over_it(edits: Edits) -> None:
    program = edits.opened.folder / "programs" / "shoalwright.toml"
    edits.edit("label", called("Lead"))
    program.write_text(program.read_text().replace("uses_per_day = 60", "uses_per_day = 61"))
    edits.flush()  # finds the file changed, reads it, and lets the edit wait on top of it
    assert (
        edits.folio.commands["shoalwright/add-sounding"].uses_per_day == 61
        and edits.folio.commands[LEAD].label == "Lead"
    )
    edits.flush()
    found = open_folio(edits.opened.folder).folio
    assert (found.commands["shoalwright/add-sounding"].uses_per_day, found.commands[LEAD].label) == (61, "Lead")
    edits.undo()  # takes back what it did, and nothing of what somebody else wrote
    edits.flush()
    found = open_folio(edits.opened.folder).folio
    assert (found.commands["shoalwright/add-sounding"].uses_per_day, found.commands[LEAD].label) == (61, None)


def test_an_edit_that_no_longer_fits_is_told(edits: Edits) -> None:
    told: list[str] = []
    edits.told.connect(told.append)
    program = edits.opened.folder / "programs" / "shoalwright.toml"
    edits.edit("label", called("Lead"))
    text = program.read_text()
    program.write_text(text.replace('[commands.lead-line]\nname = "Lead line"\nshortcut = "Ctrl+K Ctrl+L"\n', ""))
    edits.flush()
    assert "could not be laid over the files" in told[-1] and LEAD not in edits.folio.commands


def test_a_file_broken_meanwhile_keeps_the_edit_waiting(edits: Edits) -> None:
    told: list[str] = []
    edits.told.connect(told.append)
    program = edits.opened.folder / "programs" / "shoalwright.toml"
    good = program.read_text()
    edits.edit("label", called("Lead"))
    program.write_text(good + "\nbroken")
    with pytest.raises(StoreError):
        edits.flush()
    assert "Not saved yet" in told[-1] and edits.waits() and edits.folio.commands[LEAD].label == "Lead"
    program.write_text(good)
    edits.flush()
    assert open_folio(edits.opened.folder).folio.commands[LEAD].label == "Lead"


def test_what_cannot_be_written_is_taken_back(edits: Edits, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(path: Path, data: bytes) -> None:
        raise StoreError(f"{path}: cannot be written (No space left on device)")

    told: list[str] = []
    edits.told.connect(told.append)
    edits.edit("label", called("Lead"))
    monkeypatch.setattr("glimber.store.toml.writing.write_atomically", full)
    with pytest.raises(StoreError, match="No space left"):
        edits.flush()
    assert edits.folio.commands[LEAD].label is None and edits.undo_name() is None
    assert told[-1].endswith("Taken back: label.")


def test_what_cannot_be_saved_at_the_end_is_put_aside(edits: Edits, capsys: pytest.CaptureFixture[str]) -> None:
    program = edits.opened.folder / "programs" / "shoalwright.toml"
    good = program.read_text()
    edits.edit("label", called("Lead"))
    program.write_text(good + "\nbroken")
    edits.end()
    kept = list((edits.opened.folder / "backups").glob("*-unsaved-programs-shoalwright.toml"))
    assert len(kept) == 1 and 'label = "Lead"' in kept[0].read_text() and str(kept[0]) in capsys.readouterr().err
    program.write_text(good)
    edits.end()
    assert open_folio(edits.opened.folder).folio.commands[LEAD].label == "Lead"
