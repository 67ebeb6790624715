"""Menus of running programs: walked over a stand-in bus, and read as a source."""

from __future__ import annotations

import json
from typing import Any

import pytest

from glimber.readers.registry import choose
from glimber.store.faults import StoreError
from glimber.store.system.accessibility import (
    CHECK_ITEM,
    MENU,
    MENU_BAR,
    MENU_ITEM,
    SEPARATOR,
    RunningProgram,
    clean_name,
    program_named,
    split_binding,
)
from glimber.store.system.menu_stock import MOST_ITEMS, own_letter, stock_of
from glimber.store.system.running_menus import as_source


class StandInBus:
    """Answers for a tree of (role, name, key binding, children); a node named ``hangs`` never answers."""

    def __init__(self, *windows: Any) -> None:
        self.nodes: dict[tuple[str, str], Any] = {}
        self.root = self._put((23, "app", "", list(windows)))

    def _put(self, node: Any) -> tuple[str, str]:
        ref = ("app", str(len(self.nodes)))
        self.nodes[ref] = None
        role, name, keys, children = node
        self.nodes[ref] = (role, name, keys, [self._put(child) for child in children])
        return ref

    def children(self, ref: tuple[str, str]) -> list[tuple[str, str]]:
        if self.nodes[ref][1] == "hangs":
            raise StoreError("no answer within 2 s")
        return list(self.nodes[ref][3])

    def role(self, ref: tuple[str, str]) -> int:
        return int(self.nodes[ref][0])

    def name(self, ref: tuple[str, str]) -> str:
        return str(self.nodes[ref][1])

    def binding(self, ref: tuple[str, str]) -> str:
        return str(self.nodes[ref][2])

    def enabled(self, ref: tuple[str, str]) -> bool:
        return True


def item(name: str, keys: str = "", role: int = MENU_ITEM) -> Any:
    return (role, name, keys, [])


def menu(name: str, *children: Any) -> Any:
    return (MENU, name, "", list(children))


def window(*menus: Any) -> Any:
    return (23, "Chart 12", "", [(MENU_BAR, "", "", list(menus))])


def rows_of(*windows: Any) -> tuple[dict[str, Any], list[str]]:
    bus = StandInBus(*windows)
    stock = stock_of(bus, RunningProgram("Shoalwright", (), bus.root))  # type: ignore[arg-type]
    chosen = choose("menus", as_source(stock))
    assert chosen.kind == "menus"
    return {row.command: row for row in chosen.found.rows}, [problem.text for problem in chosen.found.problems]


def test_entries_have_their_path_their_keys_and_their_slow_way() -> None:
    rows, problems = rows_of(window(
        menu("_File", item("_Save chart", "s;<Alt>f:s;<Primary>s"), item("", role=SEPARATOR), menu("_Export", item("As _PDF…", "p;<Alt>f:e:p;"))),
        menu("_View", item("Show _graticule", "g;<Alt>v:g;<Shift><Control>g", CHECK_ITEM)),
    ))  # fmt: skip
    assert {name: (row.triggers, row.group, row.slow_way) for name, row in rows.items()} == {
        "Save chart": (("Ctrl+S",), "File", ("menu File", "click Save chart")),
        "As PDF": ((), "File", ("menu File", "menu Export", "click As PDF")),
        "Show graticule": (("Ctrl+Shift+G",), "View", ("menu View", "click Show graticule")),
    }
    assert problems == [] and all(row.sure > 0.5 for row in rows.values())


def test_lists_of_documents_and_windows_are_doubtful() -> None:
    rows, _ = rows_of(window(menu("File", menu("Open recent", item("north.chart"), item("/srv/charts/south"))),
                             menu("Windows", item("Tile", "t;;<Control>t"))))  # fmt: skip
    assert all(rows[name].sure < 0.5 and rows[name].remark == "a list" for name in ("north.chart", "/srv/charts/south"))
    assert rows["Tile"].sure > 0.5


def test_what_hangs_or_is_empty_is_reported_and_the_rest_is_read() -> None:
    rows, problems = rows_of(window(menu("File", item("Save", "s;;<Control>s")), menu("Scripts")), (23, "hangs", "", []))
    assert set(rows) == {"Save"}
    assert problems == ["menu Scripts is empty until it is opened", "Shoalwright: no answer within 2 s"]


def test_no_more_entries_are_read_than_any_program_has() -> None:
    bus = StandInBus(window(menu("File", *[item(f"Entry {at}") for at in range(MOST_ITEMS + 10)])))
    stock = stock_of(bus, RunningProgram("Shoalwright", (), bus.root))  # type: ignore[arg-type]
    assert len(stock.entries) <= MOST_ITEMS and "more than 20,000 entries" in stock.problems[0]


@pytest.mark.parametrize(("text", "name"), [
    ("_Save", "Save"), ("Save _As…", "Save As"), ("&Open...", "Open"), ("Cut && paste", "Cut & paste"), ("snake__case", "snake_case"),
    ("  Print...  ", "Print"), ("ملف", "ملف"),
])  # fmt: skip
def test_names_are_as_the_program_has_them_without_mnemonics(text: str, name: str) -> None:
    assert clean_name(text) == name


@pytest.mark.parametrize(("text", "parts"), [
    ("h;<Alt>h:h;F1", ("h", "<Alt>h:h", "F1")), ("w;<Alt>t:w;", ("w", "<Alt>t:w", "")), ("Ctrl+S", ("", "", "Ctrl+S")), ("", ("", "", "")),
    ("a;b;<Control>semicolon;", ("a", "b", "<Control>semicolon;")),
])  # fmt: skip
def test_a_key_binding_is_parted(text: str, parts: tuple[str, str, str]) -> None:
    assert split_binding(text) == parts


@pytest.mark.parametrize(("binding", "name", "letter"), [
    ("Alt+S", "Save", "s"), ("Alt+S", "Plot", ""), ("Alt+F4", "F4", ""), ("Ctrl+S", "Save", ""), ("Alt+Ö", "Öffnen", "ö"), ("", "Save", ""),
])  # fmt: skip
def test_a_mnemonic_is_no_accelerator(binding: str, name: str, letter: str) -> None:
    assert own_letter(binding, name) == letter


@pytest.mark.parametrize(("wanted", "error"), [("gone", "gone is not running"), ("wright", "2 programs are called so")])
def test_a_program_is_named_or_refused(wanted: str, error: str) -> None:
    programs = [RunningProgram(name, (title,), ("app", name)) for name, title in (("Shoalwright", "North"), ("Wrightwell", "Names"))]
    assert program_named(programs, "shoalwright").name == "Shoalwright" and program_named(programs, "names").name == "Wrightwell"
    with pytest.raises(StoreError, match=error):
        program_named(programs, wanted)


@pytest.mark.parametrize(("text", "error"), [
    ('{"format": "glimber-menus/1"', "not a listing of menus"), ('{"format": "glimber-menus/1"}', "expected"),
    ('{"format": "glimber-menus/1", "entries": [{"name": " "}]}', "an entry without a name"),
    ('{"format": "glimber-menus/1", "entries": [{"name": "Save", "keys": "Ctrl+Nowhere"}]}', "Save: "),
])  # fmt: skip
def test_a_bad_listing_says_what_is_wrong(text: str, error: str) -> None:
    from glimber.readers.found import Options
    from glimber.readers.menus import read

    found = read(text.encode(), Options())
    assert any(error in problem.text for problem in found.problems)
    assert json.dumps(text)
