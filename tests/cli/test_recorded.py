"""What each command says, as it was when somebody read it: a transcript of one afternoon with a small folio and the office's."""

from __future__ import annotations

import re
import shlex
import shutil
from datetime import timedelta
from pathlib import Path

import pytest
from msgspec.structs import replace
from typer.main import get_command
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.cli.manual import completions, man_page
from glimber.store.practice.log import open_log
from glimber.store.tally import change_tally
from tests.helpers import NOON, tries_of, write_folio
from tests.recorded import assert_recorded

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
AFTERNOON = Path(__file__).with_name("afternoon")
"""The commands, a line each, and the files they are given, those after " < " as standard input."""
_VOLATILE = (
    (re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}"), "UUID"),
    (re.compile(r"\d{4}-\d\d-\d\d([T -])\d\d:?\d\d(:?\d\d)?(\.\d+)?(Z|\+00:00)?"), "MOMENT"),
    (re.compile(r"\b20\d\d-\d\d-\d\d\b|\b\d{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\w*( \d{4})?"), "DAY"),
    (re.compile(r"\b\d+ kB"), "N kB"),
    (re.compile(r"(?<=/tally/small-)[0-9a-f]{10}"), "HASH"),
)


def test_commands_say_what_they_said(tmp_path: Path, office_folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("COLUMNS", "130")
    shutil.copytree(office_folder, tmp_path / "office")
    write_folio(tmp_path / "small")
    with open_log(tmp_path / "small", "practice.db") as log:
        log.add(*tries_of("sounding-s", S, ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14),
                *tries_of("range-d", D, ["hit"] * 20, until=NOON - timedelta(hours=3)))  # fmt: skip
    days = {f"2026-11-{day}": {"add-sounding": (day, day % 3), "lead-line": (day // 10, 0)} for day in range(14, 20)}
    change_tally(tmp_path / "small", lambda tally: replace(tally, days=days))
    shutil.copytree(AFTERNOON, tmp_path, dirs_exist_ok=True)
    lines: list[str] = []
    for command in (AFTERNOON / "commands.txt").read_text().splitlines():
        call, _, given = command.partition(" < ")
        result = CliRunner().invoke(app, shlex.split(call), input=(tmp_path / given).read_text() if given else None)
        said = result.stdout + "".join(f"! {line}\n" for line in result.stderr.splitlines())
        lines += [f"$ {command}", *said.rstrip("\n").splitlines(), f"= {result.exit_code}"]
    text = "\n".join(lines).replace(str(tmp_path), "HERE")
    for pattern, name in _VOLATILE:
        text = pattern.sub(name, text)
    assert_recorded("commands", text.splitlines())


def test_the_manual_page_and_the_completions_of_shells_are_as_they_were() -> None:
    root = get_command(app)
    lines = man_page(root).splitlines()[1:]  # the first line has the version
    for shell, text in completions(root).items():
        lines += [f"# {shell}", *text.splitlines()]
    assert_recorded("manual-page", lines)
