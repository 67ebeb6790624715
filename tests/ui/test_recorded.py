"""What every action shows, as it was when somebody looked at it: words, roles and fixed sizes of all that is in view, and pictures.

``RECORD=1 script/test tests/ui/test_recorded.py`` records anew; read the difference.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from glimber.ui.session.actions import ANYWHERE
from tests.helpers import tries_of, write_folio
from tests.ui.kinds import OpenRoom
from tests.ui.recording import Recording

S, D = "split-42:draw:KeyS:tap", "split-42:draw:KeyD:tap"
CARD = 'format = "glimber-card/1"\ntitle = "{0}"\nkind = "{1}"\nboard = "split-42"\nlayers = ["draw"]\n'
PAGE = b"""<html><head><title>Shoalwright keys</title></head><body><h1>Keyboard shortcuts</h1>
<table><tr><th>Action</th><th>Windows/Linux</th></tr>
<tr><td>Add sounding</td><td>Ctrl+Shift+S</td></tr>
<tr><td>Lead line</td><td>Ctrl+Shift+H (Cmd+Shift+H on macOS)</td></tr>
<tr><td>Fathom mark</td><td>Ctrl+Frob</td></tr>
<tr><td>14</td><td>Ctrl+Alt+B</td></tr></table></body></html>"""
ELSEWHERE = frozenset({"drill-begin", "weigh-drill", "drill-sprint-begin"})
"""Actions that begin a round, where every key is an answer and nothing comes to rest."""


pytestmark = pytest.mark.usefixtures("one_moment")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    cards = {"draw": ("Draw", "board"), "strip": ("Strip", "strip")}
    outcomes: list[Any] = ["hit", "hit", ("neighbour", D, "shoalwright/depth-range")] * 14
    return write_folio(
        tmp_path / "small",
        {f"cards/{id}.toml": CARD.format(*rest) for id, rest in cards.items()},
        tried=[*tries_of("sounding-s", S, outcomes), *tries_of("range-d", D, ["hit"] * 20)],
    )


def compare(name: str, window: Any, room: str, of: str, asked: list[str], qtbot: Any) -> None:
    """Compare what is in view in a room, and what each action that is offered there changes."""
    recording = Recording(window, qtbot)
    for action in sorted(window.registry.of_room(room), key=lambda one: (one.id == "quit", one.id)):  # nothing is in view after it
        if action.room == of and action.id not in ELSEWHERE and action in window.registry.offered(room):
            recording.step(f"{action.id}: {action.name}", lambda id=action.id: window.registry.carry_out(id), asked)
    recording.check(name)


def test_gather(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    compare("room-gather", open_room(folder, "gather"), "gather", "gather", asked, qtbot)


def test_arrange(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    compare("room-arrange", open_room(folder, "arrange"), "arrange", "arrange", asked, qtbot)


def test_cards(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    compare("room-cards", open_room(folder, "cards"), "cards", "cards", asked, qtbot)


def test_drill(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    compare("room-drill", open_room(folder, "drill"), "drill", "drill", asked, qtbot)


def test_weigh(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    compare("room-weigh", open_room(folder, "weigh"), "weigh", "weigh", asked, qtbot)


def test_gather_with_a_page_on_the_desk(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    window = open_room(folder, "gather")
    window.room("gather").desk.read_bytes("shoalwright-keys.html", PAGE)
    compare("room-gather-page", window, "gather", "gather", asked, qtbot)


def test_what_works_in_every_room(folder: Path, open_room: OpenRoom, asked: list[str], qtbot: Any) -> None:
    window = open_room(folder, "cards")
    compare("room-any", window, "cards", ANYWHERE, asked, qtbot)
