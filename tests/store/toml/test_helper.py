"""The process that edits texts: it says what this one would, until it is up and after it broke too."""

from __future__ import annotations

import os
import signal
import time
from concurrent.futures import Future
from pathlib import Path

import pytest
from msgspec.structs import replace

from glimber.core.edit.commands import edit_command
from glimber.core.model.folio import Folio
from glimber.store.faults import FolioError
from glimber.store.folder import Opened
from glimber.store.toml.edit_process import SaveHelper
from glimber.store.toml.reading import open_folio
from glimber.store.toml.writing import edited_texts, save_folio
from tests.helpers import NOON, write_folio

LEAD = "shoalwright/lead-line"


@pytest.fixture
def opened(tmp_path: Path) -> Opened:
    return open_folio(write_folio(tmp_path / "small"))


def called(folio: Folio, label: str) -> Folio:
    return edit_command(folio, LEAD, label=label)


def test_a_save_by_the_helper_is_a_save(opened: Opened) -> None:
    helper = SaveHelper()
    one = save_folio(opened, called(opened.folio, "One"), NOON, helper.edit)  # not begun yet: done here
    helper.start()
    assert helper._ready is not None and helper._ready.result(30)
    two = save_folio(one, called(one.folio, "Two"), NOON, helper.edit)
    pool = helper._pool
    assert pool is not None
    (pid,) = list(pool._processes)
    os.kill(pid, signal.SIGKILL)
    time.sleep(0.2)
    three = save_folio(two, called(two.folio, "Three"), NOON, helper.edit)
    for saved, label in ((one, "One"), (two, "Two"), (three, "Three")):
        assert saved.folio.commands[LEAD].label == label
    assert open_folio(opened.folder).folio == three.folio and open_folio(opened.folder).texts == three.texts
    helper.close()


def test_a_helper_that_hangs_is_ended_and_the_edit_made_here(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("glimber.store.toml.edit_process.PATIENCE_S", 0.2)
    helper = SaveHelper()
    helper.start()
    assert helper._ready is not None
    pid = helper._ready.result(30)
    os.kill(pid, signal.SIGSTOP)
    saved = save_folio(opened, called(opened.folio, "One"), NOON, helper.edit)
    assert saved.folio.commands[LEAD].label == "One" and helper._pool is None
    for _ in range(100):
        if not Path(f"/proc/{pid}").exists():
            break
        time.sleep(0.05)
    assert not Path(f"/proc/{pid}").exists()


def process(*_: object) -> int:
    return os.getpid()


def test_the_work_is_done_over_there_while_that_is_up(opened: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("glimber.store.toml.edit_process.edited_texts", process)
    helper = SaveHelper()
    asked = opened.folder, opened.texts, {}, {}
    assert helper.edit(*asked) == os.getpid()  # not begun
    helper.start()
    helper._ready = Future()
    assert helper.edit(*asked) == os.getpid()  # not up yet
    helper._ready.set_result(os.getpid())
    assert helper._pool is not None and helper.edit(*asked) in helper._pool._processes and helper.edit(*asked) != os.getpid()
    pool = helper._pool
    helper.close()
    helper.close()
    assert helper.edit(*asked) == os.getpid()
    with pytest.raises(RuntimeError):
        pool.submit(process)


def test_what_is_no_good_folio_comes_back_as_its_faults(opened: Opened) -> None:
    program = opened.folio.programs["shoalwright"]
    lead = replace(program.commands["lead-line"], group="nowhere")
    bad = replace(
        opened.folio, programs={**opened.folio.programs, "shoalwright": replace(program, commands={**program.commands, "lead-line": lead})}
    )
    found = edited_texts(opened.folder, opened.texts, {}, {})
    assert found == ({}, (), True, ())
    with pytest.raises(FolioError):
        save_folio(opened, bad, NOON, SaveHelper().edit)
    assert open_folio(opened.folder).texts == opened.texts
