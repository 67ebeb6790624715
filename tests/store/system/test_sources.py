"""Linked sources: files wherever they are, and the running system."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from glimber.core.folio.folio import Source
from glimber.readers.registry import kind_of, read
from glimber.store.faults import StoreError
from glimber.store.system.sources import path_of, read_source


def test_paths_are_the_persons_own_or_within_the_folio(tmp_path: Path) -> None:
    assert path_of(Source("a", path="notes/pad.csv"), tmp_path) == tmp_path / "notes" / "pad.csv"
    assert path_of(Source("a", path="~/pad.csv"), tmp_path) == Path("~/pad.csv").expanduser()
    assert path_of(Source("a", system="gsettings"), tmp_path) is None


def test_a_file_that_is_not_there_and_a_source_that_is_nothing(tmp_path: Path) -> None:
    with pytest.raises(StoreError, match=r"pad\.csv: cannot be read"):
        read_source(Source("a", path="pad.csv"), tmp_path)
    with pytest.raises(StoreError, match="neither path nor system"):
        read_source(Source("a"), tmp_path)


def test_a_system_that_is_not_installed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(StoreError, match="gsettings is not installed on this computer"):
        read_source(Source("a", system="gsettings"), tmp_path)


@pytest.mark.skipif(shutil.which("bash") is None, reason="bash is not installed")
def test_the_running_shells_line_editor(tmp_path: Path) -> None:
    name, data = read_source(Source("a", system="line-editor"), tmp_path)
    assert kind_of(name, data) == "line-editor"
    rows = {row.command: row.triggers for row in read("line-editor", data).rows}
    assert "Ctrl+A" in rows["beginning-of-line"] and rows["abort"]
