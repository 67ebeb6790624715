"""The accessibility bus for real: a program's menus read over it, and a round heard by a reader on it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import textwrap
from pathlib import Path
from typing import Any

from glimber.store.faults import StoreError
from glimber.store.system import accessibility
from tests.helpers import text_of, write_folio
from tests.ui.buses import needs_bus, needs_program
from tests.ui.kinds import Settle


def programs() -> list[str]:
    try:
        with accessibility.Bus() as open_bus:
            return [one.name for one in accessibility.running_programs(open_bus)]
    except StoreError:
        return []


def glimber(environment: dict[str, str], *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "glimber", *arguments], env=environment, capture_output=True, text=True, check=False)


@needs_bus
@needs_program
def test_the_menus_of_a_running_program_are_read_and_taken_in(bus: dict[str, str], tmp_path: Path, settle: Settle) -> None:
    (tmp_path / "note.txt").write_text("a line")
    program = subprocess.Popen(["mousepad", str(tmp_path / "note.txt")], env=bus, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        settle(lambda: "mousepad" in [name.lower() for name in programs()], 20_000)
        listed = glimber(bus, "read", "--running", "--json")
        (one,) = json.loads(listed.stdout)["programs"]
        assert one["name"].lower() == "mousepad" and any("note.txt" in title for title in one["windows"])
        done = glimber(bus, "read", "--running", "mousepad", "--json")
        read = json.loads(done.stdout)
        rows = {row["command"]: row for row in read["rows"]}
        assert read["kind"] == "menus" and len(rows) > 80
        assert (rows["Save As"]["triggers"], rows["Save As"]["group"]) == (["Ctrl+Shift+S"], "File")
        assert rows["Save As"]["slow_way"] == ["menu File", "click Save As"] and rows["Save As"]["sure"] > 0.5
        assert any("is empty until it is opened" in problem["text"] for problem in read["problems"])
        refused = glimber(bus, "read", "--running", "nosuch")
        assert refused.returncode == 2 and "nosuch is not running" in refused.stderr
        folder = write_folio(tmp_path / "mine")
        taken = glimber(bus, "read", "--running", "mousepad", "--into", str(folder), "--json")
        assert json.loads(taken.stdout)["taken"]["new"] > 60
        text = (folder / "programs" / "mousepad.toml").read_text()
        assert 'slow_way = ["menu File", "click Save As"]' in text
    finally:
        program.kill()
        program.wait(10)


READER = """
import sys, time
from jeepney import DBusAddress, HeaderFields, MatchRule, message_bus, new_method_call
from glimber.store.system.accessibility import _address, _connected
bus = _connected(_address())
registry = DBusAddress("/org/a11y/atspi/registry", "org.a11y.atspi.Registry", "org.a11y.atspi.Registry")
bus.send_and_get_reply(new_method_call(registry, "RegisterEvent", "sass", ("object:announcement", [], "")), timeout=5)
bus.send_and_get_reply(message_bus.AddMatch(MatchRule(type="signal", interface="org.a11y.atspi.Event.Object")), timeout=5)
print("ready", flush=True)
while True:
    message = bus.receive()
    if message.header.fields.get(HeaderFields.member) == "Announcement":
        print(message.body[3][1], flush=True)
"""
ROUND = text_of("first-round.txt")


@needs_bus
def test_a_round_is_heard_by_a_reader_on_the_bus(bus: dict[str, str], tmp_path: Path, hands: Any, settle: Settle) -> None:
    """The prompt, what is shown, a slip, a pause: all of it is announced."""
    folder = write_folio(tmp_path / "small", {"layouts/split-42.toml": None})
    settings = {"XDG_DATA_HOME": str(tmp_path / "d"), "XDG_STATE_HOME": str(tmp_path / "s"), "XDG_CACHE_HOME": str(tmp_path / "k")}
    environment = {**bus, **settings, "PYTHONPATH": os.pathsep.join(sys.path)}
    heard: list[str] = []
    reader = subprocess.Popen([sys.executable, "-c", textwrap.dedent(READER)], env=environment, stdout=subprocess.PIPE, text=True)
    assert reader.stdout is not None
    assert reader.stdout.readline().strip() == "ready"
    os.set_blocking(reader.stdout.fileno(), False)
    window = subprocess.Popen([sys.executable, "-c", ROUND, str(folder)], env=environment)

    def said(*parts: str) -> bool:
        while (line := reader.stdout.readline() if reader.stdout is not None else "") and line.strip():
            heard.append(line.strip())
        return any(all(part in line for part in parts) for line in heard)

    try:
        settle(lambda: said("New: ", "Strike it once."), 60_000)
        hands.strike("+Escape", 1.0, "-Escape")
        settle(lambda: said("Paused. Enter continues, Q puts the round aside."), 10_000)
    finally:
        for process in (window, reader):
            process.kill()
            process.wait(10)
        reader.stdout.close()
