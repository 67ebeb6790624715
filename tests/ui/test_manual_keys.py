"""The manual's page of keys: every action of every room, as the registry has them."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from glimber.ui.session.actions import ANYWHERE, ROOMS, Action
from tests.ui.kinds import OpenRoom

PAGE = Path(__file__).resolve().parents[2] / "docs/manual/keys.md"
HEAD = """# Every key

Made from the actions themselves: `RECORD=1 script/test tests/ui/test_manual_keys.py` renews this page. `?` shows those that work where you are, and `/`
finds an action by its name. Other keys for an action: give them in the program *Glimber* of the folio.

"""


def spelt(keys: str) -> str:
    """A key as a keycap says it; capitals for letters, which are struck without Shift."""
    words = {"Escape": "Esc", "Delete": "Del", "PageUp": "PgUp", "PageDown": "PgDn", "Left": "←", "Right": "→", "Up": "↑", "Down": "↓", "|": "\\|"}
    parts = ["+"] if keys == "+" else keys.split("+")
    return "+".join(words.get(part, part[:1].upper() + part[1:]) for part in parts)


def table(actions: Iterable[Action]) -> str:
    rows = [f"| {', '.join(map(spelt, one.keys))} | {one.name.replace('|', chr(92) + '|')} |" for one in actions if one.keys]
    return "\n".join(["| key | does |", "|---|---|", *rows]) + "\n"


def test_the_manual_has_every_key(folder: Path, open_room: OpenRoom) -> None:
    registry: Any = open_room(folder, "gather").registry
    page = HEAD + "## In every room\n\n" + table(one for one in registry.of_room("gather") if one.room == ANYWHERE)
    for room in ROOMS:
        page += f"\n## {room.capitalize()}\n\n" + table(one for one in registry.of_room(room) if one.room == room)
    if os.environ.get("RECORD"):
        PAGE.write_text(page)
    assert PAGE.read_text() == page, "run RECORD=1 script/test tests/ui/test_manual_keys.py"
    assert page.count("\n| ") > 150
