"""A hostile week in a short form: each class of script/soak a few times, with other numbers than the soak begins with."""

from __future__ import annotations

from pathlib import Path
from random import Random

import pytest
from benchmarks.soak.folios import commands, seed_folio, try_one
from benchmarks.soak.strangers import STRANGERS
from benchmarks.soak.weeks import CLASSES
from typer.testing import CliRunner

from glimber.cli.commands import app

SHORT = {"kills in saves": 3, "kills in rounds": 2, "full disk": 4, "locked log": 2, "replaced log": 12, "editor races": 3,
         "two writers": 2, "packs": 30, "sources": 60, "drawings": 60,
         "waiting tries": 2, "waiting disk": 6, "server trouble": 2, "other roles": 3, "passwords": 2, "strangers' packs": 4,
         "endless lists": 3, "kills while setting": 1, "typed memory": 1, "merged twice": 2}  # fmt: skip
EVERY = {**CLASSES, **STRANGERS}


@pytest.fixture
def seed(tmp_path: Path) -> Path:
    return seed_folio(tmp_path / "seed")


def test_what_is_mutated_is_good_to_begin_with(seed: Path, tmp_path: Path) -> None:
    """Otherwise every command would only say what is wrong with it."""
    (tmp_path / "out").mkdir()
    for arguments in commands(seed, tmp_path / "out"):
        assert CliRunner().invoke(app, arguments).exit_code == 0, arguments


@pytest.mark.parametrize("name", EVERY)
def test_nothing_fails(seed: Path, tmp_path: Path, name: str) -> None:
    assert SHORT[name] > 0
    for number in range(SHORT[name]):
        assert EVERY[name][1](seed, tmp_path / "work", Random(f"short {number}")) == []


def test_mutated_folios_under_every_command(seed: Path, tmp_path: Path) -> None:
    for number in range(30):
        assert try_one(seed, tmp_path / "work", Random(f"short {number}")) == []
