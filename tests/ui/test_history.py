"""Undo that lasts: over restarts and folios, past other people's edits, and back to a moment from the history."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from glimber.core.edit.commands import edit_command
from glimber.core.edit.edit import EditError
from glimber.store.settings import load_settings
from glimber.store.steps import FORMAT, load_steps, steps_file
from glimber.store.toml.reading import open_folio
from glimber.ui.session.edits import Edits
from glimber.ui.session.jobs import Jobs
from glimber.ui.session.session import Session
from tests.helpers import write_folio
from tests.ui.kinds import OpenRoom, Settle

LEAD, SOUNDING = "shoalwright/lead-line", "shoalwright/add-sounding"


def called(name: str, ref: str = LEAD) -> Callable[[Any], Any]:
    return lambda folio: edit_command(folio, ref, label=name)


@pytest.fixture
def begin(tmp_path: Path, qtbot: Any) -> Callable[[], Edits]:
    """Begin another day on the same folio."""
    folder = write_folio(tmp_path / "small")
    return lambda: Edits(open_folio(folder), lambda: datetime.now(UTC))


def label(edits: Edits, ref: str = LEAD) -> str | None:
    return edits.folio.commands[ref].label


def test_steps_of_yesterday_are_taken_back_and_done_again(begin: Callable[[], Edits]) -> None:
    edits = begin()
    first = label(edits)
    for name in ("one", "two", "three"):
        edits.edit(name, called(name))
        edits.flush()
    edits.end()
    edits = begin()
    assert edits.undo_name() == "three"
    assert (edits.undo(), label(edits)) == ("three", "two")
    edits.end()
    edits = begin()
    assert (edits.undo(), label(edits)) == ("two", "one")
    assert (edits.redo(), edits.redo(), label(edits)) == ("two", "three", "three")
    edits.edit("four", called("four"))
    assert [edits.undo() for _ in range(5)] == ["four", "three", "two", "one", None] and label(edits) == first
    edits.end()
    assert label(begin()) == first


def test_a_journal_written_late_takes_the_place_of_none(
    begin: Callable[[], Edits], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    edits, late = begin(), list[Callable[[object], object]]()
    run = Jobs.run

    def run_late(jobs: Jobs, name: str, do: Any, *rest: Any) -> Any:
        if name != "steps":
            return run(jobs, name, do, *rest)
        return late.append(do)

    monkeypatch.setattr(Jobs, "run", run_late)
    for name in ("one", "two"):
        edits.edit(name, called(name))
        edits.flush()
    assert len(late) == 2
    late[0](None)  # the newer one is made already
    assert not steps_file(edits.opened.folder).exists()
    late[1](None)
    kept = load_steps(edits.opened.folder)
    assert [entry.names for entry in kept.undo] == [("one",), ("two",)]
    former, other = edits.opened.folder, write_folio(tmp_path / "other")
    edits.open(open_folio(other))
    late[0](None), late[1](None)
    assert load_steps(former) == kept and not steps_file(other).exists()


def test_edits_within_one_save_are_one_step_of_another_day(begin: Callable[[], Edits]) -> None:
    edits = begin()
    first = label(edits)
    edits.edit("one", called("one"))
    edits.edit("two", called("two"))
    edits.end()
    edits = begin()
    assert (edits.undo(), label(edits)) == ("one, two", first)


def test_what_others_changed_since_stays(begin: Callable[[], Edits]) -> None:
    edits = begin()
    edits.edit("one", called("one"))
    edits.end()
    file = edits.opened.folder / "programs" / "shoalwright.toml"
    file.write_text("# a colleague was here\n" + file.read_text().replace('name = "Add sounding"', 'name = "Add a sounding"'))
    edits = begin()
    edits.edit("two", called("two"))
    edits.flush()
    assert (edits.undo(), edits.undo()) == ("two", "one")
    edits.end()
    text = file.read_text()
    assert text.startswith("# a colleague was here\n") and "Add a sounding" in text and '"one"' not in text


def test_a_step_that_others_built_upon_is_refused_and_stays(begin: Callable[[], Edits]) -> None:
    edits = begin()
    edits.edit("one", called("one"))
    edits.end()
    file = edits.opened.folder / "programs" / "shoalwright.toml"
    file.write_text(file.read_text().replace('label = "one"', 'label = "theirs"'))
    edits = begin()
    with pytest.raises(EditError, match="one: "):
        edits.undo()
    assert label(edits) == "theirs"


def test_going_back_to_a_moment_is_one_edit_that_can_be_taken_back(begin: Callable[[], Edits]) -> None:
    edits = begin()
    for name in ("one", "two", "three"):
        edits.edit(name, called(name))
        edits.flush()
        edits.edit(f"{name} too", called(name, SOUNDING))
        edits.flush()
    journal = edits.steps.journal()
    entry = next(one for one in journal.undo if one.names == ("two",))
    edits.go_back(journal.id_before(entry), "back to 14:05")
    edits.flush()
    assert (label(edits), label(edits, SOUNDING)) == ("one", "one")
    assert (edits.undo(), label(edits)) == ("back to 14:05", "three")


def test_a_single_step_is_taken_back_from_between_others(begin: Callable[[], Edits]) -> None:
    edits = begin()
    first = label(edits, SOUNDING)
    edits.edit("lead", called("lead"))
    edits.flush()
    edits.edit("sounding", called("sounding", SOUNDING))
    edits.flush()
    edits.edit("wreck", called("lead 2"))
    edits.flush()
    entry = next(one for one in edits.steps.journal().undo if one.names == ("sounding",))
    edits.take_back(entry.id, "undo sounding")
    assert (label(edits), label(edits, SOUNDING)) == ("lead 2", first)
    with pytest.raises(EditError, match="lead: "):  # what came after it changed the same
        edits.take_back(edits.steps.journal().undo[0].id, "undo lead")
    with pytest.raises(EditError, match="not in the history"):
        edits.take_back(999, "undo nothing")


@pytest.mark.parametrize("data", [b"", b"not one", FORMAT + b"\x00\x01", b"glimber-steps/9\nx"])
def test_a_journal_that_cannot_be_read_begins_again(begin: Callable[[], Edits], data: bytes) -> None:
    edits = begin()
    edits.edit("one", called("one"))
    edits.end()
    file = steps_file(edits.opened.folder)
    assert load_steps(edits.opened.folder).undo and file.stat().st_mode & 0o777 == 0o600
    file.write_bytes(data)
    edits = begin()
    assert edits.undo() is None
    edits.edit("two", called("two"))
    edits.end()
    assert (begin().undo()) == "two"


def test_another_folio_and_back_again(tmp_path: Path, qtbot: Any) -> None:
    one, other = write_folio(tmp_path / "one"), write_folio(tmp_path / "other")
    session = Session(open_folio(one), load_settings())
    session.edit("one", called("one"))
    session.open_folder(other)
    session.edit("other", called("other"))
    session.open_folder(one)
    session.undo()
    assert session.folio.commands[LEAD].label != "one"
    session.open_folder(other)
    assert session.undo_name() == "other"
    session.close()


def test_the_history_shows_steps_and_goes_back(tmp_path: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(write_folio(tmp_path / "small"), "gather")
    session = window.session
    first = session.folio.commands[LEAD].label
    for name in ("one", "two"):
        session.edit(f"label {name}", called(name))
        session.flush()
    window.go("weigh")
    session.edit("label three", called("three"))
    session.flush()
    hands.strike("ctrl+shift+h")
    page = window.page_over()
    settle(page.list.hasFocus)
    texts = [page.list.item(row).text() for row in range(page.list.count())]
    assert page.head.text() == "History: 3 steps" and len(texts) == 4
    assert texts[1].endswith("label three: Weigh · programs/shoalwright.toml") and "label one: Gather · " in texts[3]
    hands.strike("Down", "Return")
    settle(lambda: page.head.text() == "As it was before: label two")
    lines = [page.list.item(row).text() for row in range(page.list.count())]
    assert any('removed' in line and '"three"' in line for line in lines)
    hands.strike("Return")
    settle(lambda: session.folio.commands[LEAD].label == "one")
    hands.strike("ctrl+z")
    settle(lambda: session.folio.commands[LEAD].label == "three")
    hands.strike("ctrl+z", "ctrl+z", "ctrl+z")
    settle(lambda: session.folio.commands[LEAD].label == first)


def test_one_step_is_taken_back_from_the_history(tmp_path: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(write_folio(tmp_path / "small"), "gather")
    session = window.session
    first = session.folio.commands[LEAD].label
    session.edit("label lead", called("lead"))
    session.flush()
    session.edit("label sounding", called("sounding", SOUNDING))
    session.flush()
    hands.strike("ctrl+shift+h")
    page = window.page_over()
    settle(page.list.hasFocus)
    hands.strike("Down", "u")
    settle(lambda: page.head.text() == "Undo label lead")
    hands.strike("Return")
    settle(lambda: session.folio.commands[LEAD].label == first)
    assert session.folio.commands[SOUNDING].label == "sounding"
