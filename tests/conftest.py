"""What all tests share. The person's own settings, data and caches are out of reach: every test has folders of its own."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from time import tzset

import pytest
from hypothesis import settings

from glimber.core.model.folio import Folio
from glimber.store.folder import Opened
from glimber.store.toml.reading import open_folio
from tests.helpers import write_folio

settings.register_profile("glimber", deadline=None, max_examples=120)
settings.register_profile("ci", settings.get_profile("glimber"), derandomize=True)  # a change lands by what it is, not by luck
settings.load_profile("ci" if os.environ.get("CI") else "glimber")
os.environ.pop("GLIMBER_FOLIO", None)
os.environ["TZ"] = "UTC"  # days are the person's own
tzset()


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """Settings, data and caches of this test alone; the computer is called bridge."""
    home = tmp_path / "home"
    for name, folder in (
        ("XDG_CONFIG_HOME", "config"),
        ("XDG_DATA_HOME", "data"),
        ("XDG_CACHE_HOME", "cache"),
        ("XDG_STATE_HOME", "state"),
    ):
        monkeypatch.setenv(name, str(home / folder))
    monkeypatch.setenv("HOME", str(home))
    (home / "config" / "glimber").mkdir(parents=True)
    (home / "config" / "glimber" / "settings.json").write_text('{"computer": "bridge", "introduced": true, "day_page": "never"}\n')
    yield home


@pytest.fixture(scope="session")
def office_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The chart office as it ships, without practice. Not to be written to."""
    from glimber.demo.build import copy_files

    folder = tmp_path_factory.mktemp("office")
    copy_files(folder / "chart-office")
    return folder / "chart-office"


@pytest.fixture(scope="session")
def office(office_folder: Path) -> Folio:
    return open_folio(office_folder).folio


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folio of a few keys, in a folder of its own."""
    return write_folio(tmp_path / "small")


@pytest.fixture
def small(tmp_path: Path) -> Opened:
    """The same, as it was read."""
    return open_folio(write_folio(tmp_path / "small"))
