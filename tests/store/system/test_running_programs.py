"""Running programs over a real D-Bus with stand-ins for what programs do: slow, silent, broken, huge, in other scripts."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest

from glimber.readers.found import Options
from glimber.readers.menus import read
from glimber.store.faults import StoreError
from glimber.store.system import accessibility, menu_stock, running_menus
from glimber.store.system.accessibility import CHECK_ITEM, BusOffError, NotRunningError
from glimber.store.work.in_front import programs_by_front
from tests.programs import item, menu, private_bus, program, running

pytestmark = pytest.mark.skipif(shutil.which("dbus-daemon") is None, reason="dbus is not installed")
Start = Callable[..., "subprocess.Popen[str]"]


@pytest.fixture
def bus(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[str]:
    with private_bus(tmp_path) as address:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
        monkeypatch.setenv("AT_SPI_BUS_ADDRESS", address)
        yield address


@pytest.fixture
def start(bus: str) -> Iterator[Start]:
    """Start stand-in programs on the bus."""
    with ExitStack() as begun:
        yield lambda *programs: begun.enter_context(running(bus, *programs))


def rows_of(name: str, opening: bool = False) -> tuple[dict[str, Any], list[str]]:
    found = read(running_menus.menus_apart(name, opening)[1], Options())
    return {row.command: row for row in found.rows}, [problem.text for problem in found.problems]


def test_menus_buttons_letters_and_other_scripts(start: Start) -> None:
    button = {"role": 43, "name": "Zoom to chart", "keys": "z;;<Control>z"}
    twice = {"role": 62, "name": "Save chart", "keys": ""}
    start(
        program("Shoalwright", menu("_File", item("_Save chart", "s;<Alt>f:s;<Primary>s"), item("_Plot…", "p;<Alt>f:p;")), beside=(button, twice)),
        program("كاتب", menu("ملف", item("حفظ", ";;<Primary>s"), {"role": CHECK_ITEM, "name": "שבת", "keys": ""})),
        program("海図", menu("ファイル(_F)", item("保存(_S)", "s;;<Primary>s"))),
    )  # fmt: skip
    assert [one.name for one in running_menus.programs()] == ["Shoalwright", "كاتب", "海図"]
    rows, problems = rows_of("shoalwright")
    assert problems == [] and set(rows) == {"Save chart", "Plot", "Zoom to chart"}
    assert (rows["Save chart"].triggers, rows["Save chart"].offered) == (("Ctrl+S",), ("Alt+F s",))
    assert (rows["Plot"].triggers, rows["Plot"].offered, rows["Plot"].sure) == ((), ("Alt+F p",), 1.0)
    zoom = rows["Zoom to chart"]
    assert (zoom.triggers, zoom.remark, zoom.slow_way) == (("Ctrl+Z",), "a button", ("click Zoom to chart",)) and zoom.sure < 0.5
    assert {name: row.triggers for name, row in rows_of("كاتب")[0].items()} == {"حفظ": ("Ctrl+S",), "שבת": ()}
    assert rows_of("海図")[0]["保存"].group == "ファイル"


def test_the_program_that_was_in_front_comes_first(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    start(program("Shoalwright"), program("Wherry"), program("Glimber"), program("Anchor"))
    titles = [f"{name} – Chart 12" for name in ("Glimber", "Wherry", "Shoalwright")]
    monkeypatch.setattr("glimber.store.work.in_front.titles_by_front", lambda: titles)
    assert [one.name for one in programs_by_front()] == ["Wherry", "Shoalwright", "Anchor", "Glimber"]
    monkeypatch.setattr("glimber.store.work.in_front.titles_by_front", list)
    assert [one.name for one in programs_by_front()] == ["Anchor", "Shoalwright", "Wherry", "Glimber"]


def test_what_is_silent_or_broken_is_told_and_the_rest_is_read(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(accessibility, "CALL_S", 1.5)  # a busy machine pauses up to 0.4 s
    sound = program("Shoalwright", menu("File", item("Save", ";;<Primary>s")), menu("Scripts", silent=True))
    sound["inside"].append({"role": 23, "name": "gone", "broken": True, "inside": []})
    sound["inside"].append(program("x", menu("Survey", item("Add sounding", ";;F2")))["inside"][0])
    start(sound, {"role": 75, "name": "hangs", "silent": True}, program("Broken", menu("File", item("Open", broken=True))))
    assert [one.name for one in running_menus.programs()] == ["Broken", "Shoalwright"]
    _, data = running_menus.menus_of("Shoalwright")
    found = read(data, Options())
    assert {row.command for row in found.rows} == {"Save", "Add sounding"}
    problems = [problem.text for problem in found.problems]
    assert any("no answer within" in text for text in problems) and any("it is broken" in text for text in problems)


def test_a_program_that_answers_slowly_is_read_as_far_as_time_allows(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(accessibility, "WHOLE_S", 1.5)
    start(program("Slow", menu("File", *(item(f"Entry {place}", wait=0.1) for place in range(40)))))
    found = read(running_menus.menus_of("slow")[1], Options())
    assert 0 < len(found.rows) < 40 and any("it took longer than" in problem.text for problem in found.problems)


def test_a_program_that_falls_silent_at_the_end_of_the_time_there_is_took_too_long(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    """The last answer is waited for no longer than the rest of it, which is not the program's silence."""
    monkeypatch.setattr(accessibility, "WHOLE_S", 1.5)
    start(program("Slow", menu("File", item("Save", ";;F2"), item("Print", wait=3.0))))
    found = read(running_menus.menus_of("slow")[1], Options())
    assert any("it took longer than 1.5 s" in problem.text for problem in found.problems)
    assert not any("no answer" in problem.text for problem in found.problems)


def test_a_menu_of_twenty_thousand_entries_is_read_up_to_its_limit(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(menu_stock, "MOST_ITEMS", 400)
    start(program("Huge", *(menu(f"Menu {place}", *(item(f"Entry {place}.{at}") for at in range(1000))) for place in range(20))))
    found = read(running_menus.menus_of("huge")[1], Options())
    assert 300 < len(found.rows) <= 400 and any("the rest was not read" in problem.text for problem in found.problems)


def test_menus_that_fill_on_opening_are_opened_once_with_escape_after_each(start: Start) -> None:
    lines = start(program("Shoalwright", menu("File", item("Save"), menu("Templates", fills=[item("Survey form")]), menu("Empty"))))
    rows, problems = rows_of("shoalwright")
    assert set(rows) == {"Save"} and len([text for text in problems if "until it is opened" in text]) == 2
    rows, problems = rows_of("shoalwright", opening=True)
    assert rows["Survey form"].slow_way == ("menu File", "menu Templates", "click Survey form") and problems == ["menu File > Empty is empty"]
    assert lines.stdout is not None
    told = [lines.stdout.readline().strip() for _ in range(8)]
    assert told == ["opened File", "opened Templates", "struck ff1b", "struck ff1b", "opened File", "opened Empty", "struck ff1b", "struck ff1b"]


def test_a_program_that_does_not_run_and_a_bus_that_is_off(start: Start, monkeypatch: pytest.MonkeyPatch) -> None:
    start(program("Shoalwright"))
    with pytest.raises(NotRunningError, match="wherry is not running"):
        running_menus.menus_apart("wherry")
    monkeypatch.delenv("AT_SPI_BUS_ADDRESS")
    for call in (running_menus.programs, lambda: running_menus.menus_apart("Shoalwright")):
        with pytest.raises(BusOffError, match="Turn it on with"):
            call()
    with pytest.raises(StoreError, match="Install at-spi2-core"):
        accessibility.turn_on()
