"""What a desktop and a shell know of Glimber: entry, icon, description, page of the manual, completions; and the wheel."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

import pytest
import typer
from typer.testing import CliRunner

from glimber import __version__
from glimber.cli.commands import app
from glimber.cli.manual import BASH, commands, completions, man_page
from glimber.cli.manualpage import command_line
from glimber.store.system.desktop_files import SHARE, _forget_index, _quoted, own_program

COMMANDS = typer.main.get_command(app)
ROOT = Path(__file__).resolve().parents[2]


def run(*arguments: str) -> Any:
    result = CliRunner().invoke(app, ["install-desktop", *arguments, "--json"])
    assert result.exit_code == 0, (result.stderr, result.exception)
    return json.loads(result.stdout)


def test_what_is_installed_is_taken_away_and_nothing_else(own_folders: Path) -> None:
    data = Path(os.environ["XDG_DATA_HOME"])
    (data / "applications").mkdir(parents=True)
    (data / "applications/other.desktop").write_text("[Desktop Entry]\n")
    wrote = [Path(one) for one in run("--program", "/opt/my tools/glimber")["wrote"]]
    assert all(path.is_file() and data in path.parents for path in wrote)
    entry = (data / "applications/org.glimber.Glimber.desktop").read_text()
    assert 'Exec="/opt/my tools/glimber" %f' in entry and "Icon=org.glimber.Glimber" in entry
    assert {path.name for path in wrote} >= {"org.glimber.Glimber.svg", "glimber.1", "glimber", "_glimber", "glimber.fish"}
    assert set(run("--undo")["took_away"]) == set(map(str, wrote))
    left = [path for path in sorted(data.rglob("*")) if path.name != "mimeinfo.cache"]
    assert left == [data / "applications", data / "applications/other.desktop"]
    assert run("--undo")["took_away"] == []


@pytest.mark.parametrize(
    ("path", "quoted"),
    [("/usr/bin/glimber", "/usr/bin/glimber"), ("/a b/g", '"/a b/g"'), ("/50%/g", '"/50%%/g"'), ('/a"b/g', '"/a\\\\"b/g"')],
)
def test_a_program_with_blanks_in_its_path_is_quoted_as_an_entry_wants_it(path: str, quoted: str) -> None:
    assert _quoted(path) == quoted


def test_how_this_program_is_started_from_anywhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    ours, beside = tmp_path / "glimber", tmp_path / "bin/glimber"
    monkeypatch.setattr("sys.executable", str(beside.with_name("python")))
    monkeypatch.setattr("shutil.which", lambda name: None)
    monkeypatch.setattr("sys.argv", [str(ours), "install-desktop"])
    assert own_program() == "glimber"
    monkeypatch.setattr("shutil.which", lambda name: f"/usr/bin/{name}")
    assert own_program() == "/usr/bin/glimber"
    beside.parent.mkdir()
    beside.write_text("")
    assert own_program() == str(beside)
    ours.write_text("")
    assert own_program() == str(ours)
    monkeypatch.setattr("sys.argv", [str(beside.with_name("python")), str(ours)])
    assert own_program() == str(beside)


@pytest.mark.parametrize(("there", "left", "told"), [
    (["mimeinfo.cache"], False, []), (["mimeinfo.cache", "other.desktop"], True, ["data/applications"]), ([], True, ["data/applications"]), (None, False, []),
])  # fmt: skip
def test_an_index_of_our_entry_alone_goes_with_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, there: list[str] | None, left: bool, told: list[str]
) -> None:
    calls: list[str] = []
    monkeypatch.setattr("shutil.which", lambda name: f"/usr/bin/{name}")
    monkeypatch.setattr("subprocess.run", lambda command, **_: calls.append(str(Path(command[1]).relative_to(tmp_path))))
    folder = tmp_path / "data" / "applications"
    if there is not None:
        folder.mkdir(parents=True)
        for name in there:
            (folder / name).write_text("")
    _forget_index(folder)
    assert folder.exists() == left and calls == told


@pytest.mark.parametrize("program", ["desktop-file-validate", "appstreamcli"])
def test_the_entry_and_the_description_are_valid(program: str) -> None:
    if shutil.which(program) is None:
        pytest.skip(f"{program} is not here")
    arguments = (
        ["validate", "--no-net", str(SHARE / "org.glimber.Glimber.metainfo.xml")]
        if program == "appstreamcli"
        else [str(SHARE / "org.glimber.Glimber.desktop")]
    )
    done = subprocess.run([program, *arguments], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def test_every_command_is_in_the_manual_with_its_example() -> None:
    text, told = man_page(COMMANDS), commands(COMMANDS)
    assert len(told) > 25 and all(one.does and "glimber " in one.example for one in told), [one.words for one in told if not one.example]
    assert all(one.usage.replace("-", r"\-") in text for one in told) and __version__ in text
    assert (ROOT / "docs/manual/command-line.md").read_text() == command_line(), (
        "make it anew: python -m glimber.cli.manualpage > docs/manual/command-line.md"
    )


@pytest.mark.parametrize(("typed", "offered"), [
    ("glimber we", {"weigh"}), ("glimber tally o", {"on", "off"}), ("glimber weigh folio --te", {"--team"}),
    ("glimber set x --d", {"--dry-run"}), ("glimber --v", {"--version"}),
])  # fmt: skip
def test_a_real_shell_completes(typed: str, offered: set[str], tmp_path: Path) -> None:
    file = tmp_path / "glimber"
    file.write_text(completions(COMMANDS)[BASH])
    words = typed.split(" ")
    script = f"source {file}; COMP_WORDS=({typed}); COMP_CWORD={len(words) - 1}; _glimber; printf '%s\\n' \"${{COMPREPLY[@]}}\""
    done = subprocess.run(["bash", "--norc", "-c", script], capture_output=True, text=True, check=True, cwd=tmp_path)
    assert offered <= set(done.stdout.split()) and not done.stderr


def test_the_version() -> None:
    done = subprocess.run([sys.executable, "-m", "glimber", "--version"], capture_output=True, text=True, check=True)
    assert done.stdout == f"glimber {__version__}\n"


def test_the_wheel_works_without_the_checkout(tmp_path: Path) -> None:
    """Built from a copy of what a build needs, unpacked elsewhere: everything it reads while it runs is in it."""
    source = tmp_path / "source"
    shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source / name)
    build = "from setuptools import build_meta; print(build_meta.build_wheel('.'))"
    subprocess.run([sys.executable, "-c", build], cwd=source, check=True, capture_output=True)
    (wheel,) = source.glob("*.whl")
    with zipfile.ZipFile(wheel) as file:
        file.extractall(tmp_path / "site")
    here = {str(path.relative_to(ROOT / "src")) for path in (ROOT / "src/glimber").rglob("*")
            if path.is_file() and "__pycache__" not in path.parts}  # fmt: skip
    there = {str(path.relative_to(tmp_path / "site")) for path in (tmp_path / "site/glimber").rglob("*") if path.is_file()}
    assert here == there
    environment = {**os.environ, "PYTHONPATH": str(tmp_path / "site")}
    script = "import glimber, json, sys; from glimber.cli.main import main; print(glimber.__file__); sys.argv = ['glimber', 'demo', '--no-window', '--folio', 'office', '--json']; main()"
    done = subprocess.run([sys.executable, "-c", script], cwd=tmp_path, env=environment, capture_output=True, text=True, check=True)
    first, answer = done.stdout.splitlines()
    assert Path(first).is_relative_to(tmp_path) and json.loads(answer)["verdicts"]
