"""Spoken prompts: each prompt goes to the desktop's speech service, only where the person turned it on."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from glimber.store.settings import load_settings
from glimber.ui.widgets.speak import MISSING, Speech
from tests.helpers import write_folio
from tests.ui.kinds import OpenRoom, Settle


@pytest.fixture
def heard(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A stand-in for the speech service's program; the file that it writes what it is to say into, one a line."""
    folder, said = tmp_path / "bin", tmp_path / "said.txt"
    folder.mkdir()
    program = folder / "spd-say"
    program.write_text(f"#!/bin/sh\nshift 5\nprintf '%s\\n' \"$1\" >> {said}\n")
    program.chmod(0o755)
    monkeypatch.setenv("PATH", f"{folder}:/usr/bin:/bin")
    return said


def test_a_round_is_spoken_where_that_is_turned_on(tmp_path: Path, heard: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    window = open_room(write_folio(tmp_path / "small"), "drill")
    sheet = window.settings()
    hands.strike("ctrl+comma")
    settle(sheet.isVisible)
    hands.strike(*"spoken")
    settle(lambda: len(sheet._rows) <= 2)
    hands.strike("Right", "Escape")
    settle(lambda: load_settings().spoken)
    room = window.room("drill")
    settle(lambda: room.setup.chosen() is not None and bool(room.setup.chosen().due))
    room.enter()
    hands.strike("Return")
    settle(lambda: room.play is not None)
    settle(lambda: heard.exists() and bool(heard.read_text().strip()), 10_000)
    line = heard.read_text().splitlines()[0]
    command = room.play.drill.folio.command_of(room.play.drill.binding)
    assert command.name in line
    room.put_aside()


def test_nothing_is_spoken_where_it_is_off_and_a_missing_service_is_reported_once(
    tmp_path: Path, heard: Path, settle: Settle, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    wanted = [False]
    speech = Speech(lambda: wanted[0], told.append)
    speech.say("Add sounding, Shoalwright.")
    wanted[0] = True
    speech.say("Lead line; --help $HOME")
    settle(lambda: heard.exists() and heard.read_text() == "Lead line; --help $HOME\n", 10_000)
    monkeypatch.setenv("PATH", str(tmp_path / "nothing"))
    speech.say("once")
    speech.say("twice")
    assert told == [MISSING]
