"""Menus of a running program, as the accessibility bus gives them: entries with their path and accelerator, in JSON."""

from __future__ import annotations

import json
import re
from collections import Counter
from typing import Any, Final, TypeAlias

from glimber.core.notation.keys import NotationError
from glimber.core.notation.spelling import NotKeysError, Ways, spell
from glimber.readers.found import Found, Options, Row, decoded
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block

FORMAT: Final = "glimber-menus/1"
UNOPENED: Final = "is empty until it is opened"
"""The end of the problem of a menu that its program fills on opening, and that was not opened."""
_LISTS: Final = re.compile(
    r"recent|history|\bwindows?\b|documents?|\bfonts?\b|encodings?|file ?types?|languages?|bookmarks|colou?r schemes?", re.I
)
_FILE: Final = re.compile(r"^~?/|\.\w{1,5}$|^\d+[.:)] ")
_LONG: Final = 14
A_LIST: Final = "a list"
A_BUTTON: Final = "a button"
NOT_DOUBTS: Final = (A_LIST, A_BUTTON)
"""Remarks on entries that were read correctly and still wait to be ticked."""
_LIST_SURE: Final = 0.3


def read(data: bytes, options: Options) -> Found:
    """Read a listing of menus."""
    found = Found(watch=options.watch)
    try:
        value = json.loads(decoded(data))
    except ValueError as error:
        return found.fail(f"not a listing of menus: {error}")
    entries = value.get("entries") if isinstance(value, dict) else None
    if not isinstance(entries, list):
        return found.fail('not a listing of menus; expected {"format": "glimber-menus/1", "entries": […]}')
    found.title = str(value.get("program", ""))
    alike = Counter(_menu(entry) for entry in entries if isinstance(entry, dict) and not entry.get("keys"))
    for number, entry in enumerate(entries, start=1):
        if not isinstance(entry, dict) or not str(entry.get("name", "")).strip():
            found.fail("an entry without a name", number)
            continue
        _add(found, entry, number, alike[_menu(entry)])
    problems = list(map(str, value.get("problems", [])))
    if options.page:
        found.page = _page_of(found.rows) + [Block("text", (text,), 0) for text in problems]
    for text in problems:
        found.fail(text)
    return found


def _page_of(rows: list[Row]) -> list[Block]:
    """Return the menus as a page: each top menu a heading, each entry a row with its way and its keys."""
    blocks: list[Block] = []
    menu: str | None = None
    for row in rows:
        if row.group != menu:
            menu = row.group
            blocks.append(Block("heading", (menu or "Elsewhere in the window",), 0, 3))
        way = " → ".join(step.removeprefix("menu ") for step in row.slow_way[1:-1])
        blocks.append(Block("row", (row.command, row.keys, way or row.remark), row.line))
    return blocks


Entry: TypeAlias = dict[str, Any]
"""An entry as the recorder writes it."""


def _menu(entry: Entry) -> tuple[str, ...]:
    return tuple(str(part) for part in entry.get("path", ()))


def _add(found: Found, entry: Entry, number: int, alike: int) -> None:
    path, name, keys = _menu(entry), str(entry["name"]).strip(), str(entry.get("keys", "")).strip()
    is_button = entry.get("how") == "button"
    ways = [f"menu {part}" for part in path]
    slow_way = (*ways, f"click {name}") if path or is_button else ()
    inner = path[-1] if len(path) > 1 else ""
    listed = bool(not keys and (_LISTS.search(inner) or _FILE.search(name) or (alike > _LONG and len(path) > 1)))
    # What is chosen from (files, windows, fonts) is no command: such entries wait to be ticked.
    remark, sure = (A_LIST, _LIST_SURE) if listed else (A_BUTTON, _LIST_SURE) if is_button else ("", 1.0)
    triggers: tuple[str, ...] = ()
    if keys:
        try:
            triggers = tuple(map(str, spell(keys, Ways()).triggers))
            keys = " or ".join(triggers)  # as a person writes it, not as its toolkit does
        except (NotationError, NotKeysError) as error:
            found.fail(f"{name}: {error}", number)
    group = path[0] if path else None
    offered = _by_letters(str(entry.get("mnemonics", "")))
    words = tuple(str(word) for word in entry.get("words", ()) if str(word).casefold() != name.casefold())
    found.rows.append(Row(name, triggers, group, number, keys, remark, sure=sure, slow_way=slow_way,
                          offered=() if offered in triggers else (offered,) if offered else (), words=words))  # fmt: skip


def _by_letters(mnemonics: str) -> str:
    """Return the letters that walk to an entry as a sequence: "<Alt>f:s" is Alt+F S; empty where they are no keys."""
    steps = mnemonics.split(":")
    if len(steps) < 2 or not all(steps):
        return ""
    try:
        spelt = [spell(step, Ways()).triggers for step in steps]
    except (NotationError, NotKeysError):
        return ""
    return " ".join(str(one[0]) for one in spelt)


READERS: Final = (
    Reader("menus", read, (".menus",), ((1.0, re.compile(r'"format"\s*:\s*"glimber-menus/')),)),
)
