"""Edits run ahead of the files and are written a moment later: nothing is lost, and nothing of somebody else's either."""

from __future__ import annotations

import errno
import sqlite3
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from threading import Event
from typing import Any

import pytest

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import EditError, move_binding
from glimber.core.notation.keys import parse_trigger
from glimber.core.practice.tries import Change
from glimber.store.backups import copies_in
from glimber.store.faults import StoreError
from glimber.store.practice.log import open_log
from glimber.store.settings import load_settings
from glimber.store.toml.reading import open_folio
from glimber.ui.session.edits import Edits
from glimber.ui.session.jobs import Jobs
from glimber.ui.session.session import Session
from tests.helpers import write_folio
from tests.ui.choosing import heard
from tests.ui.kinds import Settle

LEAD = "shoalwright/lead-line"


@pytest.fixture
def edits(tmp_path: Path, qtbot: Any) -> Iterator[Edits]:
    jobs = Jobs()
    yield Edits(open_folio(write_folio(tmp_path / "small")), lambda: datetime.now(UTC), jobs)
    jobs.close()


def files(edits: Edits) -> dict[str, bytes]:
    folder = edits.opened.folder
    return {str(p.relative_to(folder)): p.read_bytes() for p in sorted(folder.rglob("*.toml")) if "backups" not in p.parts}


def called(name: str) -> Callable[[Any], Any]:
    return lambda folio: edit_command(folio, LEAD, label=name)


def test_an_edit_is_there_at_once_and_in_the_file_a_moment_later(edits: Edits, settle: Settle) -> None:
    edits.edit("one", called("Lead"))
    assert edits.folio.commands[LEAD].label == "Lead" and b'"Lead"' not in files(edits)["programs/shoalwright.toml"]
    settle(lambda: not edits.waits())
    assert b'label = "Lead"' in files(edits)["programs/shoalwright.toml"]
    assert edits.opened.folio is edits.folio


def test_many_edits_undone_give_the_files_back_byte_for_byte(edits: Edits, settle: Settle) -> None:
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
    assert edits.folio.commands["shoalwright/add-sounding"].uses_per_day == 61 and edits.folio.commands[LEAD].label == "Lead"
    edits.flush()
    found = open_folio(edits.opened.folder).folio
    assert (found.commands["shoalwright/add-sounding"].uses_per_day, found.commands[LEAD].label) == (61, "Lead")
    edits.undo()  # takes back what it did, and nothing of what somebody else wrote
    edits.flush()
    found = open_folio(edits.opened.folder).folio
    assert (found.commands["shoalwright/add-sounding"].uses_per_day, found.commands[LEAD].label) == (61, None)


def test_an_edit_that_no_longer_fits_is_told(edits: Edits) -> None:
    told = heard(edits)
    program = edits.opened.folder / "programs" / "shoalwright.toml"
    edits.edit("label", called("Lead"))
    text = program.read_text()
    program.write_text(text.replace('[commands.lead-line]\nname = "Lead line"\nshortcut = "Ctrl+K Ctrl+L"\n', ""))
    edits.flush()
    assert "could not be laid over the files" in told[-1] and LEAD not in edits.folio.commands


def test_a_file_broken_meanwhile_keeps_the_edit_waiting(edits: Edits) -> None:
    told = heard(edits)
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
    def full(path: Path, data: bytes) -> Path:
        raise OSError(errno.ENOSPC, "No space left on device", str(path))

    told = heard(edits)
    edits.edit("label", called("Lead"))
    monkeypatch.setattr("glimber.store.saving.new_beside", full)
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


def test_edits_in_quick_succession_are_written_within_a_second_of_the_first(edits: Edits, qtbot: Any, settle: Settle) -> None:
    """Each edit puts the write off a little, but never the first one's."""
    began, written = time.monotonic(), list[float]()
    edits.written.connect(lambda: written.append(time.monotonic() - began))
    for number in range(60):
        edits.edit("one", called(f"Lead {number}"))
        qtbot.wait(40)
    settle(lambda: not edits.waits())
    assert len(written) >= 3 and 0.8 < written[0] < 1.8
    assert b'label = "Lead 59"' in files(edits)["programs/shoalwright.toml"]


@pytest.mark.parametrize(
    "error", [RuntimeError("odd"), RecursionError("deep"), KeyError("lost"), UnicodeDecodeError("utf-8", b"x", 0, 1, "bad")]
)
def test_no_exception_leaves_it_deaf(edits: Edits, settle: Settle, monkeypatch: pytest.MonkeyPatch, error: Exception) -> None:
    told = heard(edits)

    def fail(*_: Any) -> None:
        raise error

    edits.edit("first", called("First"))
    with monkeypatch.context() as patched:
        patched.setattr("glimber.store.saving.new_beside", fail)
        settle(lambda: bool(told))
    assert "Taken back: first." in told[-1] and not edits.saving() and not edits.waits()
    edits.edit("second", called("Second"))
    settle(lambda: not edits.waits())
    assert b'label = "Second"' in files(edits)["programs/shoalwright.toml"]
    with pytest.raises(StoreError), monkeypatch.context() as patched:
        edits.edit("third", called("Third"))
        patched.setattr("glimber.store.saving.new_beside", fail)
        edits.flush()
    assert edits.folio.commands[LEAD].label == "Second" and edits.undo_name() == "second"


def test_an_id_once_written_stays_whatever_is_undone(edits: Edits) -> None:
    edits.edit("label", called("Lead"))
    edits.state({"lead-line"})
    edits.undo()
    edits.flush()
    text = files(edits)["programs/shoalwright.toml"].decode()
    assert 'id = "lead-line"' in text and 'label = "Lead"' not in text
    assert open_folio(edits.opened.folder).folio.bindings["lead-line"].given_id


def noted(edits: Edits) -> list[tuple[str, str, str | None, bool]]:
    with open_log(edits.opened.folder, "practice.db") as log:
        return sorted((one.binding, one.verdict, one.to_trigger, one.reverted is not None) for one in log.records(Change))


SWAPPED = [("range-d", "move", "split-42:draw:KeyS:tap", False), ("sounding-s", "move", "split-42:draw:KeyD:tap", False)]


def test_every_trigger_that_differs_is_a_change_whoever_made_it(edits: Edits, settle: Settle) -> None:
    """A swap in Arrange, taken back, and the same swap by hand in the file."""
    to = parse_trigger("split-42:draw:KeyD:tap")
    edits.edit("swap", lambda folio: move_binding(folio, "sounding-s", to, True).folio)
    edits.flush()
    assert noted(edits) == SWAPPED
    edits.undo()
    edits.flush()
    assert [reverted for *_, reverted in noted(edits)] == [True, True]
    layout = edits.opened.folder / "layouts/split-42.toml"
    text = layout.read_text()
    layout.write_text(text.replace("KeyS = {", "KeyX1 = {").replace("KeyD = {", "KeyS = {").replace("KeyX1 = {", "KeyD = {"))
    edits.read(open_folio(edits.opened.folder))
    settle(lambda: len(noted(edits)) > 2)
    by_hand = [(binding, to) for binding, _, to, reverted in noted(edits) if not reverted]
    assert ("range-d", "split-42:draw:KeyS:tap") in by_hand and ("sounding-s", "split-42:draw:KeyD:tap") in by_hand
    count = len(noted(edits))
    edits.read(open_folio(edits.opened.folder))  # read again without a difference
    edits.flush()
    assert len(noted(edits)) == count


def test_files_and_history_wait_together_for_a_log_that_another_program_holds(edits: Edits, settle: Settle) -> None:
    told = heard(edits)
    to = parse_trigger("split-42:draw:KeyA:tap")
    with open_log(edits.opened.folder, "practice.db"):
        pass
    before = files(edits)
    other = sqlite3.connect(edits.opened.folder / "practice.db")
    other.execute("BEGIN EXCLUSIVE")
    edits.edit("move", lambda folio: move_binding(folio, "sounding-s", to).folio)
    settle(lambda: bool(told))
    assert told[0].startswith("Not saved yet: another program is using the practice log")
    assert files(edits) == before and edits.folio.bindings["sounding-s"].trigger == to and edits.waits()
    other.rollback()
    other.close()
    settle(lambda: not edits.waits())
    assert noted(edits) == [("sounding-s", "move", str(to), False)]
    assert open_folio(edits.opened.folder).folio.bindings["sounding-s"].trigger == to


def test_where_the_history_cannot_be_written_the_edit_is_taken_back(edits: Edits) -> None:
    told = heard(edits)
    (edits.opened.folder / "practice.db").write_bytes(b"no database at all, but a letter")
    before = files(edits)
    to = parse_trigger("split-42:draw:KeyA:tap")
    edits.edit("move", lambda folio: move_binding(folio, "sounding-s", to).folio)
    with pytest.raises(StoreError, match="not a log"):
        edits.flush()
    assert files(edits) == before and edits.folio.bindings["sounding-s"].trigger != to
    assert told[-1].endswith("Taken back: move.")


def test_reading_while_another_writes(tmp_path: Path, qtbot: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch) -> None:
    """Read before Glimber wrote, and ready while it writes: what was read is looked at again when the write is done."""
    from glimber.store.toml import reading
    from glimber.ui.session.edits import _Saving

    session = Session(open_folio(write_folio(tmp_path / "small")), load_settings())
    may_read, may_write, read, write = Event(), Event(), reading.read_files, session.edits._write

    def slow_read(*folder_and_files: Any) -> Any:
        assert may_read.wait(5)
        return read(*folder_and_files)

    def slow_write(saving: _Saving) -> Any:
        assert may_write.wait(5)
        return write(saving)

    monkeypatch.setattr(reading, "read_files", slow_read)
    monkeypatch.setattr(session.edits, "_write", slow_write)
    file = session.folder / "programs" / "everywhere.toml"
    file.write_text(file.read_text().replace("Super+D", "Super+M"))
    session.read_again()
    session.edit("one", called("Lead"))
    settle(session.edits.saving)
    may_read.set()
    settle(lambda: not session.jobs.running("reading the folio"))
    assert session.edits.saving()
    may_write.set()
    settle(lambda: not session.edits.waits() and str(session.folio.bindings["show-desktop"].trigger) == "Super+M")
    assert session.folio.commands[LEAD].label == "Lead"
    found = open_folio(session.folder).folio
    assert found.commands[LEAD].label == "Lead" and "Super+M" in file.read_text() and found == session.folio
    session.close()


def test_a_folio_left_while_it_was_read_tells_no_faults(tmp_path: Path, qtbot: Any, settle: Settle) -> None:
    session = Session(open_folio(write_folio(tmp_path / "small")), load_settings())
    other = write_folio(tmp_path / "other")
    (session.folder / "folio.toml").write_text("broken =")
    session.read_again()
    session.open_folder(other)
    settle(lambda: not session.jobs.running("reading the folio"))
    assert session.faults == () and session.folder == other
    session.close()


def test_a_file_replaced_by_somebody_else_is_kept_as_it_was_once(tmp_path: Path, qtbot: Any, settle: Settle) -> None:
    session = Session(open_folio(write_folio(tmp_path / "small")), load_settings())
    layout = session.folder / "layouts/split-42.toml"
    before = layout.read_text()
    whole = before.replace("Draw", "Sketch")
    for text in (whole, "broken =", "still broken =", whole.replace("Sketch", "Trace")):
        layout.write_text(text)
        session.read_again()
        settle(lambda: not session.jobs.running("reading the folio"))
    kept = [one.path.read_text() for one in copies_in(session.folder)]
    assert kept == [whole, before]  # the newest first; no other file was copied
    assert session.folio.layouts["split-42"].layer("draw").name == "Trace"  # type: ignore[union-attr]
    session.close()
