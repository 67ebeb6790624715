"""The command line at its edges, as processes: a sentence and a status, never a traceback; and what goes to a terminal is tame."""

from __future__ import annotations

import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest
from msgspec.structs import replace
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.store.practice.log import open_log, read_practice
from tests.helpers import PROGRAM, tries_of, write_folio

ROUND = '{"kind":"round","id":"%s","began":"%s","computer":"x","mode":"press","bindings":[]}'
TRY = ('{"kind":"try","id":"a","round":"r","nth":1,"at":"2026-01-01T00:00:00Z","computer":"x","binding":"b","trigger":"Ctrl+S",'
       '"mode":"press","outcome":"hit","recall_ms":%s}')  # fmt: skip


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return write_folio(tmp_path / "small", tried=[*tries_of("sounding-s", "split-42:draw:KeyS:tap", ["hit", "slip"] * 5)])


def shell(line: str, **more: str) -> subprocess.CompletedProcess[str]:
    python = f"{sys.executable} -m glimber"
    return subprocess.run(["sh", "-c", line.replace("glimber", python, 1)], capture_output=True, text=True, timeout=60,
                          env={**os.environ, **more}, check=False)  # fmt: skip


@pytest.mark.parametrize(("line", "told"), [
    ("glimber list {0} > /dev/full", "No space left on device"), ("glimber list {0} --json > /dev/full", "No space left on device"),
    ("glimber judge {0} --binding sounding-s - <&-", "standard input is closed"),
    ("glimber list ~nobody-of-that-name/x", "no such home folder"), ("glimber weigh {0} --at 0001-01-01", "out of range"),
    ("glimber weigh {0} --at 0001-01-01T00:00:00+05:00", "is not a moment"), ("glimber read /dev/zero", "expected a regular file"),
    ("glimber read {0}/gone.html", "cannot be read"), ("glimber unpack /dev/null {0}-out", "expected a regular file"),
    ("glimber list \"$(printf 'a\\033[2Jb')\"", "a\\x1b[2Jb: there is no such folder"), ("glimber card {0} base --to /proc/x.svg", ""),
])  # fmt: skip
def test_a_sentence_and_status_2(folder: Path, line: str, told: str) -> None:
    done = shell(line.format(folder))
    assert done.returncode == 2 and told in done.stderr and "Traceback" not in done.stderr and "\x1b" not in done.stderr


@pytest.mark.parametrize("more", [{"HOME": "/gone"}, {"HOME": "/proc"}, {"HOME": "/gone", "XDG_STATE_HOME": "/proc/x"}])
def test_a_home_that_is_not_there_hinders_nothing(folder: Path, more: dict[str, str]) -> None:
    done = shell(f"glimber list {folder} --json", **more)
    assert done.returncode == 0 and json.loads(done.stdout)["bindings"] and not done.stderr


def test_a_reader_that_stops_listening_is_no_fault(folder: Path) -> None:
    done = shell(f"glimber boards full-105 | head -1; glimber list {folder} >&-")
    assert "Traceback" not in done.stderr


@pytest.mark.parametrize("after_s", [0.1, 0.4, 0.8])
def test_an_interrupt_is_no_traceback(folder: Path, after_s: float) -> None:
    process = subprocess.Popen([sys.executable, "-m", "glimber", "weigh", str(folder)], stdout=subprocess.PIPE,
                               stderr=subprocess.PIPE, text=True)  # fmt: skip
    time.sleep(after_s)
    process.send_signal(signal.SIGINT)
    _, told = process.communicate(timeout=30)
    assert process.returncode in (0, 130, -signal.SIGINT) and (after_s < 0.3 or "Traceback" not in told)


DEEP, LONG = "[" * 100_000, "9" * 5000


@pytest.mark.parametrize(("lines", "told"), [
    ('{"kind": []}', "kind is '[]'"), ('{"kind": {}}', "kind is"), ("[]", "kind is"), (DEEP, "nested too deeply"),
    (f'{{"kind":"try","id":{LONG}}}', "limit"), (ROUND % ("\\ud800", "2026-01-01T00:00:00Z"), "half of a character"),
    (ROUND % ("a", "0001-01-01T00:00:00+09:00"), "year 1"), (ROUND % ("a", "9001-01-01T00:00:00Z"), "year 9001"),
    (ROUND % ("a", "1989-12-31T23:59:59Z"), "year 1989"), (TRY % "1e999", "not a number"), (TRY % "NaN", "not a number"),
    (TRY.replace('"nth":1', f'"nth":{2**53 + 1}') % "1", "out of range"), (TRY.replace('"hit"', '"good"') % "1", "outcome: invalid enum value"),
])  # fmt: skip
def test_lines_that_are_no_tries(folder: Path, tmp_path: Path, lines: str, told: str) -> None:
    """Refused where none of them is one; told beside what was merged where others are."""
    file = tmp_path / "tries.jsonl"
    file.write_text(lines)
    refused = CliRunner().invoke(app, ["tries", "merge", str(folder), str(file)])
    assert refused.exit_code == 2 and told in refused.stderr and "nothing was merged" in refused.stderr
    first, last = (ROUND % (id, at) for id, at in (("first", "1990-01-01T00:00:00Z"), ("last", "9000-12-31T23:59:59Z")))
    file.write_text(f"{lines}\n{first}\n{last}\n")
    merged = CliRunner().invoke(app, ["tries", "merge", str(folder), str(file), "--json"])
    answer = json.loads(merged.stdout)
    assert (answer["read"], answer["new"], len(answer["bad"])) == (3, 2, 1) and told in answer["bad"][0]["text"]


@pytest.mark.parametrize("t", ["1" * 400, "1e13", "-1e13", "1e999", "NaN", "true", '"x"', "null", LONG])
def test_times_that_are_none(folder: Path, t: str) -> None:
    done = CliRunner().invoke(app, ["resolve", str(folder), "--board", "split-42", "-"], input=f'[[{t},"down","KeyS"]]')
    assert done.exit_code == 2 and len(done.stderr) < 400


@pytest.mark.parametrize("t", ["1e12", "-1e12", "0"])
def test_times_at_their_limits(folder: Path, t: str) -> None:
    done = CliRunner().invoke(app, ["resolve", str(folder), "--board", "split-42", "-"], input=f'[[{t},"down","KeyS"]]')
    assert done.exit_code == 0


@pytest.mark.parametrize(
    ("uses", "good"), [("100000", True), ("100000.1", False), ("1e308", False), ("inf", False), ("0", True), ("-0.1", False)]
)
def test_uses_a_day_have_a_range(folder: Path, uses: str, good: bool) -> None:
    path = folder / "programs" / "shoalwright.toml"
    path.write_text(path.read_text().replace("uses_per_day = 60", f"uses_per_day = {uses}"))
    for command in ("list", "weigh"):
        done = CliRunner().invoke(app, [command, str(folder), "--json"])
        assert done.exit_code == (0 if good else 2)
        if good:
            assert "Infinity" not in done.stdout and "NaN" not in done.stdout


def test_control_characters_do_nothing_to_a_terminal_or_a_drawing(folder: Path, tmp_path: Path) -> None:
    program = PROGRAM.replace('name = "Depth range"', 'name = "Depth\\u001b[2J\\u0007\\u202Erange\\u0085"')
    (folder / "programs" / "shoalwright.toml").write_text(program)
    (folder / "cards").mkdir()
    card = 'format = "glimber-card/1"\ntitle = "Draw\\u0001"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\n'
    (folder / "cards" / "draw.toml").write_text(card)
    for arguments in (["weigh", str(folder)], ["check", str(folder)], ["plan", str(folder)]):
        shown = CliRunner().invoke(app, arguments).stdout
        assert not any((ord(letter) < 32 and letter != "\n") or 0x7F <= ord(letter) < 0xA0 or letter == "\u202e" for letter in shown)
    to = tmp_path / "draw.svg"
    assert CliRunner().invoke(app, ["card", str(folder), "draw", "--to", str(to)]).exit_code == 0
    from lxml import etree

    etree.fromstring(to.read_bytes())


@pytest.mark.parametrize("hold", ["BEGIN IMMEDIATE", "BEGIN EXCLUSIVE"])
def test_a_change_with_the_log_held_changes_nothing(folder: Path, hold: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("glimber.store.practice.log.WAIT_S", 0.1)
    other = sqlite3.connect(folder / "practice.db", isolation_level=None)
    other.execute(hold)
    before = (folder / "layouts" / "split-42.toml").read_bytes()
    change = ["change", str(folder), "sounding-s", "--to", "split-42:draw:KeyA:tap", "--why", "A as in add"]
    done = CliRunner().invoke(app, change)
    assert done.exit_code == 2 and "another program is writing" in done.stderr
    assert (folder / "layouts" / "split-42.toml").read_bytes() == before
    other.execute("ROLLBACK")
    other.close()
    assert CliRunner().invoke(app, change).exit_code == 0 and len(read_practice(folder, "practice.db").changes) == 1


def test_a_board_that_is_not_there_is_one_finding(folder: Path) -> None:
    path = folder / "layouts" / "split-42.toml"
    path.write_text(path.read_text().replace('board = "split-42"', 'board = "splt-42"'))
    done = CliRunner().invoke(app, ["check", str(folder), "--json"])
    errors = [one for one in json.loads(done.stdout)["findings"] if one["severity"] == "error"]
    assert done.exit_code == 1 and [one["code"] for one in errors] == ["unknown-reference"]
    assert errors[0]["text"] == "layouts/split-42.toml:2: splt-42 is not a board; did you mean split-42?"


@pytest.mark.parametrize("broken", ['title = "Small office', "title = 1", 'keyboard = "full-150"', 'working_days = "x"'])
def test_a_broken_folio_toml_is_one_fault(folder: Path, broken: str) -> None:
    path = folder / "folio.toml"
    lines = path.read_text().replace('title = "Small office"' if "title" in broken else 'keyboard = "full-105"', broken)
    path.write_text(lines)
    done = CliRunner().invoke(app, ["list", str(folder)])
    assert done.exit_code == 2 and done.stderr.count("\n") == 1 and done.stderr.startswith("folio.toml:")


def test_another_log_is_merged_from_its_file_once(folder: Path, tmp_path: Path) -> None:
    other = write_folio(tmp_path / "other")
    with open_log(other, "practice.db") as log:
        log.add(*(replace(one, id=f"other-{one.id}") for one in tries_of("range-d", "split-42:draw:KeyD:tap", ["hit"] * 3)))
    merge = ["tries", "merge", str(folder), str(other / "practice.db"), "--json"]
    for new in (3, 0):
        done = CliRunner().invoke(app, merge)
        assert json.loads(done.stdout) == {"read": 3, "new": new, "known": 3 - new, "bad": []}
    assert len(read_practice(folder, "practice.db").tries) == 10 + 3
