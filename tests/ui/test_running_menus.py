"""Menus of running programs in Gather, by keys: read, opened, imported with their icon, watched, and chosen ones offered."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from glimber.core.practice.tally import MenuChoice
from glimber.store.cache.missing_pictures import missing_pictures
from glimber.store.tally import change_tally
from glimber.store.toml.reading import open_folio
from tests.helpers import write_folio
from tests.programs import item, menu, private_bus, program, running
from tests.ui.kinds import OpenRoom, Settle

pytestmark = pytest.mark.skipif(shutil.which("dbus-daemon") is None, reason="dbus is not installed")
WRIGHT = program(
    "Wherry", menu("_File", item("_Save chart", "s;<Alt>f:s;<Primary>s"), item("_Plot", "p;<Alt>f:p;"), menu("_Templates", fills=[item("Survey form")])),
    menu("_Edit", item("_Copy", "c;<Alt>e:c;<Primary>c"), item("_Mend", "m;<Alt>e:m;")), beside=({"role": 43, "name": "Zoom", "keys": ""},),
)  # fmt: skip


@pytest.fixture
def address(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[str]:
    with private_bus(tmp_path) as found:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", found)
        monkeypatch.setenv("AT_SPI_BUS_ADDRESS", found)
        yield found


def ticked(room: Any) -> set[str]:
    return {room.importing.rows.differences[place].row.name for place in room.importing.rows.ticked}


def test_a_running_program_is_read_its_menus_opened_and_imported(
    tmp_path: Path, address: str, open_room: OpenRoom, hands: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch
) -> None:
    share = tmp_path / "share"
    (share / "applications").mkdir(parents=True)
    (share / "applications/wherry.desktop").write_text("[Desktop Entry]\nType=Application\nName=Wherry\nExec=wherry\nIcon=wherry\n")
    (share / "pixmaps").mkdir()
    (share / "pixmaps/wherry.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8"/></svg>')
    monkeypatch.setenv("XDG_DATA_DIRS", f"{share}:/usr/share")
    window = open_room(write_folio(tmp_path / "small"), "gather")
    room = window.room("gather")
    with running(address, WRIGHT):
        hands.ask(room, "r", "Wherry")
        settle(lambda: room.desk.reading is not None and not window.chooser().isVisible(), 20_000)
        assert ticked(room) == {"Save chart", "Plot", "Copy", "Mend"}  # a button waits
        hands.strike("g")
        settle(lambda: "Survey form" in ticked(room), 20_000)
        page = room.page()
        page.bring("Plot")
        assert "V adds them" in page.check.message.text()
        hands.strike("v")
        settle(lambda: room.importing.offer is not None)
        assert room.importing.rows.differences[room.importing.place_of("Plot")].row.triggers == ("Alt+F p",)
        hands.strike("equal")
        settle(lambda: room.importing.rows.differences[room.importing.place_of("Save chart")].row.triggers == ("Ctrl+S", "Alt+F s"))
        hands.strike("s")
        settle(lambda: "Zoom" in ticked(room))
        hands.strike("Return")
        settle(lambda: "wherry" in room.session.folio.programs)
    room.session.flush()
    made = open_folio(room.session.folder)
    commands = {command.name: command for command in made.folio.programs["wherry"].commands.values()}
    assert commands["Survey form"].slow_way == ("menu File", "menu Templates", "click Survey form") and "Zoom" in commands
    assert made.folio.programs["wherry"].picture == "icons/wherry.svg" and (made.folder / "icons/wherry.svg").exists()
    assert not [one for one in missing_pictures(made) if "wherry" in one.text]


def test_menus_that_are_watched_are_read_again_when_the_program_starts(
    tmp_path: Path, address: str, open_room: OpenRoom, hands: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("glimber.ui.gather.desk._PROGRAMS_EVERY_MS", 200)
    window = open_room(write_folio(tmp_path / "small"), "gather")
    room = window.room("gather")
    with running(address, WRIGHT):
        hands.ask(room, "r", "Wherry")
        settle(lambda: room.desk.reading is not None and not window.chooser().isVisible(), 20_000)
        hands.ask(room, "l", "The menus of Wherry")
        settle(lambda: "wherry" in room.session.folio.settings.sources)
        source = room.session.folio.settings.sources["wherry"]
        assert (source.running, source.watch, source.path) == ("Wherry", True, None)
        settle(lambda: "5 rows" in room.desk.states["wherry"].words(), 20_000)
    settle(lambda: room.desk.states["wherry"].absent, 20_000)
    assert room.desk.states["wherry"].words() == "read when Wherry is started"
    newer = program("Wherry", menu("_Edit", item("_Copy", "c;<Alt>e:c;<Primary>c"), item("_Tow", ";;F9")))
    with running(address, newer):
        settle(lambda: "2 rows" in room.desk.states["wherry"].words(), 20_000)
    room.session.flush()
    assert 'running = "Wherry"' in (room.session.folder / "folio.toml").read_text()


def test_the_bus_is_turned_on_where_it_is_off(
    tmp_path: Path, address: str, open_room: OpenRoom, hands: Any, settle: Settle, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.delenv("AT_SPI_BUS_ADDRESS")
    window = open_room(write_folio(tmp_path / "small"), "gather")
    told: list[str] = []
    window.session.notified.connect(told.append)
    hands.ask(window.room("gather"), "r", "Turn it on")
    settle(lambda: any("Install at-spi2-core" in words for words in told), 20_000)


def test_entries_chosen_in_menus_that_the_folio_lacks_are_offered(tmp_path: Path, open_room: OpenRoom, hands: Any, settle: Settle) -> None:
    folder = write_folio(tmp_path / "small")
    change_tally(folder, lambda tally: tally.with_choices([MenuChoice("", 3.0, "2026-11-27", entry=("shoalwright", "File", "Plot chart"))]))
    room = open_room(folder, "gather").room("gather")
    assert "1 entry you chose in menus is not in the folio" in room.bench.head.text()
    hands.strike("p")
    settle(lambda: room.desk.reading is not None and ticked(room) == {"Plot chart"}, 15_000)
    assert room.importing.program_id() == "shoalwright"
    hands.strike("Return")
    settle(lambda: any(one.name == "Plot chart" for one in room.session.folio.programs["shoalwright"].commands.values()))
    (made,) = (one for one in room.session.folio.programs["shoalwright"].commands.values() if one.name == "Plot chart")
    assert made.slow_way == ("menu File", "click Plot chart")
    hands.strike("Escape")
    settle(lambda: "you chose in menus" not in room.bench.head.text())
