"""The log file: what a job failed of and what nothing caught are in it; a folder that refuses breaks nothing."""

from __future__ import annotations

import logging
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from glimber.store.system import logs


@pytest.fixture(autouse=True)
def as_before(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    logger = logging.getLogger("glimber")
    monkeypatch.setattr(logger, "handlers", [])
    monkeypatch.setattr(sys, "excepthook", lambda *uncaught: None)
    yield
    for handler in logger.handlers:
        handler.close()


def raised(words: str) -> ValueError:
    try:
        raise ValueError(words)
    except ValueError as error:
        return error


def test_failures_are_written_with_where_they_happened() -> None:
    logs.keep_log()
    logs.keep_log()
    logging.getLogger("glimber.jobs").error("weighing failed", exc_info=raised("no such board"))
    written = logs.log_file().read_text(encoding="utf-8")
    assert written.count("weighing failed") == 1
    assert "ValueError: no such board" in written and "in raised" in written


def test_what_nothing_caught_is_written_and_told_as_before(monkeypatch: pytest.MonkeyPatch) -> None:
    told: list[str] = []
    monkeypatch.setattr(sys, "excepthook", lambda kind, error, trace: told.append(str(error)))
    logs.keep_log()
    error = raised("a fault in a slot")
    sys.excepthook(ValueError, error, error.__traceback__)
    assert told == ["a fault in a slot"] and "a fault in a slot" in logs.log_file().read_text(encoding="utf-8")


def test_where_no_file_can_be_made_logging_goes_on(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "full").write_text("a file, not a folder")
    monkeypatch.setattr(logs, "log_file", lambda: tmp_path / "full" / "glimber.log")
    logs.keep_log()
    assert logging.getLogger("glimber").handlers == []
    logging.getLogger("glimber.jobs").error("told on the standard error")


def test_a_command_that_failed_says_where_that_is_written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = logs.note_failure(raised("no such layer"))
    assert (
        path == str(logs.log_file()) and "no such layer" in Path(path).read_text() and "a command ended with this" in Path(path).read_text()
    )
    monkeypatch.setattr(logs, "log_file", lambda: tmp_path / "none" / "glimber.log")
    assert logs.note_failure(raised("again")) == ""


@pytest.mark.parametrize(("over", "begun_anew"), [(-1, False), (0, True), (1, True)])
def test_the_log_file_begins_anew_at_half_a_megabyte(over: int, begun_anew: bool) -> None:
    logs.keep_log()
    logger = logging.getLogger("glimber")
    logger.info("one line")
    file, line = logs.log_file(), logs.log_file().stat().st_size
    with file.open("a") as filled:
        filled.write("x" * (500_000 - 2 * line + over))
    logger.info("one line")
    assert file.with_name("glimber.log.1").exists() == begun_anew
    assert file.stat().st_size == (line if begun_anew else 500_000 + over)


def test_two_older_log_files_are_kept() -> None:
    logs.keep_log()
    for nth in range(4):
        logging.getLogger("glimber").info("%s %s", nth, "x" * 500_000)
    found = {file.name: file.read_text()[:60] for file in logs.log_file().parent.glob("glimber.log*")}
    assert sorted(found) == ["glimber.log", "glimber.log.1", "glimber.log.2"]
    assert " 3 x" in found["glimber.log"] and " 1 x" in found["glimber.log.2"]
