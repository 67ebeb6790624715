"""What each command says, as it was when somebody read it: a transcript of one afternoon with a small folio and the office's."""

from __future__ import annotations

import re
import shlex
import shutil
from datetime import timedelta
from pathlib import Path

import pytest
from typer.testing import CliRunner

from glimber.cli.commands import app
from glimber.store.practice.log import open_log
from tests.helpers import NOON, tries_of, write_folio
from tests.recorded import assert_recorded

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
AT = f"--at {NOON:%Y-%m-%dT%H:%M:%SZ}"
FILES = {
    "keys.csv": "Command,Keys\nMark the depth,Ctrl+M\nOpen tide table,Ctrl+Alt+T\nDiscard the batch,\n88,F9\nFlag,Ctrl+ü\nNo such,Ctrl+Fjord\n",
    "next.csv": "Command,Keys\nMark the depth,Ctrl+Shift+M\nOpen tide table,Ctrl+Alt+T\nPlot line,Ctrl+L\n",
    "counts.csv": "command,count\nAdd sounding,300\nNothing of the kind,4\n",
    "broken.csv": "Command,Keys\nOpen,Ctrl+\n",
    "events.jsonl": '{"t": 0, "ev": "down", "key": "thumb-left-1"}\n{"t": 300, "ev": "down", "key": "KeyS"}\n'
                    '{"t": 350, "ev": "up", "key": "KeyS"}\n{"t": 400, "ev": "up", "key": "thumb-left-1"}\n',
}  # fmt: skip
COMMANDS = f"""
list small
check small
check office
check nowhere
boards
boards pad-21
boards pad-12
new fresh --board pad-21 --title Night
new fresh
new odd --board no-such-board
read keys.csv
read keys.csv --json
read keys.csv --into fresh --program plumbline
read keys.csv --into fresh --program plumbline --anyway
read next.csv --into fresh --program plumbline --new-version
read next.csv --into fresh --program plumbline --json
read keys.csv --column Shortcut
read keys.csv --as nothing
read broken.csv --into fresh
read missing.csv
list fresh
check fresh
uses small counts.csv --days 10
uses small counts.csv --program nothing
plan small {AT}
plan small {AT} --minutes 1 --json
plan small {AT} --size 2
weigh small {AT}
weigh small {AT} --binding sounding-s
weigh small {AT} --binding sounding-s --json
weigh small {AT} --name nobody
weigh small --at yesterday
replan small --board split-42 --layer draw {AT}
replan small --board split-42 --layer draw --moves 1 {AT} --json
replan small --board split-42 --layer nowhere {AT}
change small sounding-s --to {D} --why "the hand goes there"
change small sounding-s --to {D} --why "the hand goes there" --swap
change small no-such --to Ctrl+P --why "none"
change small sounding-s --to Ctrl+Fjord --why "none"
sheet small
sheet small --done sounding-s
sheet small --to sheet.md
sheet small --all
set small --dry-run
set small --into no-writer
set small --program nothing
set small --back
missed small "Add sounding"
missed small Nothing
calendar small --to due.ics {AT}
calendar small --to due.doc {AT}
timing small
timing small --json
resolve small events.jsonl --board split-42
resolve small events.jsonl --board split-42 --json
resolve small events.jsonl --board pad-21
card office draw --to draw.svg
card office nothing --to draw.svg
card office draw --to draw.doc
cards office --to out.d --program shoalwright
cards office --to all.pdf --backs long
cards office --to all.pdf --paper a9
pack small small.glimber
pack small small.glimber --with-tries
unpack small.glimber other
unpack small.glimber other
agree other
agree small --list
tries export small tries.jsonl
tries merge small tries.jsonl
tries merge small missing.jsonl
log grant small drafter
confirm-log small
tally --status
"""
_VOLATILE = (
    (re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}"), "UUID"),
    (re.compile(r"\d{4}-\d\d-\d\d([T -])\d\d:?\d\d(:?\d\d)?(\.\d+)?(Z|\+00:00)?"), "MOMENT"),
    (re.compile(r"\b20\d\d-\d\d-\d\d\b|\b\d{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\w*( \d{4})?"), "DAY"),
    (re.compile(r"\b\d+ kB"), "N kB"),
)


def test_commands_say_what_they_said(tmp_path: Path, office_folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("COLUMNS", "130")
    shutil.copytree(office_folder, tmp_path / "office")
    write_folio(tmp_path / "small")
    with open_log(tmp_path / "small", "practice.db") as log:
        log.add(*tries_of("sounding-s", S, ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14),
                *tries_of("range-d", D, ["hit"] * 20, until=NOON - timedelta(hours=3)))  # fmt: skip
    for name, text in FILES.items():
        (tmp_path / name).write_text(text)
    lines: list[str] = []
    for command in COMMANDS.strip().splitlines():
        result = CliRunner().invoke(app, shlex.split(command))
        said = result.stdout + "".join(f"! {line}\n" for line in result.stderr.splitlines())
        lines += [f"$ {command}", *said.rstrip("\n").splitlines(), f"= {result.exit_code}"]
    text = "\n".join(lines).replace(str(tmp_path), "HERE")
    for pattern, name in _VOLATILE:
        text = pattern.sub(name, text)
    assert_recorded("commands", text.splitlines())
