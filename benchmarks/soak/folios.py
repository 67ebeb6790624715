"""Mutated folios under every command: it answers 0, 1 or 2 and a sentence, never a traceback, and nothing is changed by a 2."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from random import Random

from tests.helpers import tries_of, write_folio
from typer.testing import CliRunner

from benchmarks.soak.mutate import mutated
from glimber.cli.commands import app
from glimber.store.practice.log import open_log

EXTRA = {
    "cards/draw.toml": 'format = "glimber-card/1"\ntitle = "Draw"\nkind = "board"\nboard = "split-42"\nlayers = ["draw"]\n'
                       'shows = ["labels", "legend", "reasons"]\n\n[[tour]]\nkeys = ["KeyS"]\ntext = "Soundings"\n',
    "runs/soundings.toml": 'format = "glimber-run/1"\nname = "Soundings"\ncommands = ["shoalwright/add-sounding"]\n',
    "boards/pad.toml": 'format = "glimber-board/1"\nid = "pad"\nname = "Pad"\n\n[[keys]]\nid = "KeyA"\nx = 0.0\ny = 0.0\n\n'
                       '[[keys]]\nid = "KeyB"\nx = 1\ny = 0\nw = 1.5\nangle = 12.0\npivot = [1, 0]\nfinger = "left-index"\n'
                       'home = true\n\n[[knobs]]\nid = "knob-1"\nx = 3\ny = 0\n\n[stand_in]\nKeyA = "KeyQ"\n',
    "layouts/pad.toml": 'format = "glimber-layout/1"\nboard = "pad"\n\n[[layers]]\nid = "base"\nname = "Base"\n\n[layers.keys]\n'
                        'KeyA = { tap = { does = "shoalwright/lead-line" }, '
                        'hold = { steps = ["Ctrl+K", { wait_ms = 200 }, "Ctrl+L"] } }\n'
                        'knob-1 = { left = "F13", right = "F14" }\n"KeyA&KeyB" = { tap = "\\"fathom\\""  }\n',
}  # fmt: skip
EVENTS = '[[0,"down","KeyS"],[90,"up","KeyS"],[200,"down","thumb-left-1"],[500,"down","KeyS"],[560,"up","KeyS"]]'


def seed_folio(folder: Path) -> Path:
    """The folio that is mutated, with a little practice."""
    write_folio(folder, EXTRA)
    with open_log(folder, "practice.db") as log:
        log.add(*tries_of("sounding-s", "split-42:draw:KeyS:tap", ["hit", "slip", "hit", "blank"] * 8))
    return folder


def commands(folder: Path, out: Path) -> list[list[str]]:
    """Every command on a folio, as a person would give it."""
    name, events = str(folder), str(out / "events.json")
    (out / "events.json").write_text(EVENTS)
    (out / "uses.csv").write_text("command,count\nAdd sounding,40\n")
    return [
        ["list", name], ["list", name, "--json"], ["check", name, "--json"], ["check", name], ["plan", name, "--json"],
        ["weigh", name, "--json"], ["weigh", name], ["resolve", name, "--board", "split-42", events, "--json"],
        ["judge", name, "--binding", "sounding-s", "--board", "split-42", events, "--json"],
        ["card", name, "draw", "--to", str(out / "draw.svg")], ["pack", name, str(out / "office.glimber")],
        ["read", name, "--json"], ["tries", "export", name, str(out / "tries.jsonl")],
        ["uses", name, str(out / "uses.csv")],
        ["change", name, "sounding-s", "--to", "split-42:draw:KeyA:tap", "--why", "soak"],
    ]  # fmt: skip


def files_of(folder: Path) -> dict[str, bytes]:
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and path.suffix == ".toml" and "backups" not in path.parts
    }


def try_one(seed: Path, work: Path, random: Random) -> list[str]:
    """One mutated folio under two commands; what went wrong, in words."""
    folder, out = work / "folio", work / "out"
    shutil.rmtree(work, ignore_errors=True)
    shutil.copytree(seed, folder)
    out.mkdir()
    name = random.choice(list(files_of(folder)))
    text = mutated((folder / name).read_text(), random)
    (folder / name).write_bytes(text.encode("utf-8", "surrogatepass"))
    wrong = []
    before = files_of(folder)
    for arguments in random.sample(commands(folder, out), 2):
        result = CliRunner().invoke(app, arguments)
        said = f"{' '.join(arguments[:2])} with {name}"
        if result.exception is not None and not isinstance(result.exception, SystemExit):
            wrong.append(f"{said}: {type(result.exception).__name__}: {result.exception}")
        elif result.exit_code not in (0, 1, 2):
            wrong.append(f"{said}: status {result.exit_code}")
        elif result.exit_code == 2 and (not result.stderr.strip() or files_of(folder) != before):
            wrong.append(f"{said}: status 2 without a word, or with changes")
        elif "--json" in arguments and result.exit_code != 2:
            try:
                json.loads(result.stdout, parse_constant=_no_constant)
            except ValueError as error:
                wrong.append(f"{said}: not JSON: {error}")
        before = files_of(folder)
    return wrong


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is no JSON")
