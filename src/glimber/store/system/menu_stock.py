"""The menus of a running program and its named buttons, over the accessibility bus.

Menus are walked without being opened on screen, but for those that fill on opening, where that is asked for.
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from contextlib import suppress
from typing import Final

from msgspec import Struct, field

from glimber.readers.menus import UNOPENED
from glimber.store.faults import StoreError
from glimber.store.system.accessibility import (
    CHECK_ITEM,
    MENU,
    MENU_BAR,
    MENU_ITEM,
    POPUP,
    RADIO_ITEM,
    SEPARATOR,
    Bus,
    Ref,
    RunningProgram,
    clean_name,
    split_binding,
)

MOST_ITEMS: Final = 20_000
FILLS_WITHIN_S: Final = 1.0
"""A menu that was opened has its entries within so long, or none."""
_SETTLES_WITHIN_S: Final = 0.15
"""A program has opened or closed a menu after so long: its events and ours go different ways."""
_LOOKED_EVERY_S: Final = 0.05
_DEEPEST: Final = 40
_WITH_ALT: Final = re.compile(r"Alt\+(\w)")
_BUTTONS: Final = frozenset({43, 62})
_WINDOWS: Final = frozenset({16, 23, 69})
_ITEMS: Final = frozenset({MENU_ITEM, CHECK_ITEM, RADIO_ITEM})
_HOW: Final = {CHECK_ITEM: "check", RADIO_ITEM: "radio", MENU_ITEM: "item"}


class MenuEntry(Struct, frozen=True):
    """One entry of a menu, or a button. ``path``: the menus above it, from the top; ``keys``: its accelerator as the program
    writes it; ``mnemonics``: the keys that walk to it; ``how``: item, check, radio or button."""

    path: tuple[str, ...]
    name: str
    keys: str = ""
    mnemonics: str = ""
    how: str = "item"
    enabled: bool = True


class Stock(Struct, frozen=True):
    """The entries of a program, and what could not be read of it."""

    program: str
    entries: tuple[MenuEntry, ...]
    problems: tuple[str, ...] = ()


class _Walk(Struct):
    """A walk through a program: the objects that may still be looked at, what went wrong, and what it is to do."""

    buttons: bool
    opening: bool
    left: int
    problems: list[str] = field(default_factory=list)

    def counted(self) -> bool:
        """Count one more object; False where there were too many."""
        self.left -= 1
        if self.left == 0:
            self.problems.append(f"more than {MOST_ITEMS:,} entries; the rest was not read")
        return self.left > 0


def stock_of(bus: Bus, program: RunningProgram, buttons: bool = True, opening: bool = False) -> Stock:
    """Return what is in a program's menus, and its named buttons.

    ``opening``: open menus that are empty until then, each once, with Escape after it; the program has to be in front.
    """
    walk = _Walk(buttons, opening, MOST_ITEMS)
    entries: list[MenuEntry] = []
    for window in _answered(bus, program.ref, walk, program.name):
        try:
            entries += _window(bus, window, walk)  # what came before an error is kept
        except StoreError as error:
            walk.problems.append(f"{program.name}: {error}")
    unique = {(one.path, one.name, one.keys): one for one in entries}
    in_menus = {one.name.casefold() for one in unique.values() if one.how != "button"}
    kept = [one for one in unique.values() if one.how != "button" or one.name.casefold() not in in_menus]
    return Stock(program.name, tuple(kept), tuple(walk.problems))


def _answered(bus: Bus, ref: Ref, walk: _Walk, name: str) -> list[Ref]:
    try:
        return bus.children(ref)
    except StoreError as error:
        walk.problems.append(f"{name}: {error}")
        return []


def _window(bus: Bus, window: Ref, walk: _Walk) -> Iterator[MenuEntry]:
    """Yield the entries of a window's menu bars, which are looked for above anything that holds a document's contents."""
    waiting = [(window, 0)]
    while waiting:
        ref, depth = waiting.pop(0)
        for child in bus.children(ref):
            if not walk.counted():
                return
            role = bus.role(child)
            if role == MENU_BAR:
                yield from _menu(bus, child, _Above(), walk)
            elif walk.buttons and role in _BUTTONS:
                name = clean_name(bus.name(child))
                if name:
                    _, mnemonics, keys = split_binding(bus.binding(child))
                    yield MenuEntry((), name, keys, mnemonics, "button")
            elif depth < 6 and role not in _WINDOWS:
                waiting.append((child, depth + 1))


class _Above(Struct, frozen=True):
    """The menus above an entry, from the top: their names, what opens each, and their letters as far as they are known."""

    names: tuple[str, ...] = ()
    opens: tuple[Ref, ...] = ()
    letters: tuple[str, ...] = ()

    def below(self, name: str, opens: Ref, letter: str) -> _Above:
        """Return them with one more menu."""
        return _Above((*self.names, name) if name else self.names, (*self.opens, opens), (*self.letters, letter))

    def mnemonics(self, letter: str) -> str:
        """Return the keys that walk to an entry, as "<Alt>f:s"; empty where one of its letters is not known."""
        steps = (*self.letters, letter)
        return f"<Alt>{':'.join(steps)}" if all(steps) else ""


def _menu(bus: Bus, menu: Ref, above: _Above, walk: _Walk) -> Iterator[MenuEntry]:
    path = above.names
    if len(path) > _DEEPEST:
        return
    children = bus.children(menu)
    opened = bool(path) and not children and walk.opening
    if opened:
        children = _filled(bus, menu, above.opens)
    if path and not children:
        walk.problems.append(f"menu {' > '.join(path)} " + ("is empty" if opened else UNOPENED))
    for child in children:
        if not walk.counted():
            break
        yield from _entry(bus, child, above, walk)
    if opened:
        _close(bus, len(above.opens))


def _entry(bus: Bus, child: Ref, above: _Above, walk: _Walk) -> Iterator[MenuEntry]:
    """Yield an item of a menu, or all entries of the menu that it opens."""
    role = bus.role(child)
    if role == SEPARATOR:
        return
    name = clean_name(bus.name(child))
    below = bus.children(child) if role in (MENU, MENU_ITEM) else []
    if role == MENU or below:
        # Some toolkits have the menu itself between an entry and its entries.
        inside = below[0] if role != MENU and len(below) == 1 and bus.role(below[0]) in (MENU, POPUP) else child
        yield from _menu(bus, inside, above.below(name, child, own_letter(bus.binding(child), name)), walk)
    elif role in _ITEMS and name:
        binding = bus.binding(child)
        letter = own_letter(binding, name)
        _, mnemonics, keys = split_binding(binding) if not letter else ("", above.mnemonics(letter), "")
        yield MenuEntry(above.names, name, keys, mnemonics, _HOW[role], bus.enabled(child))


def _close(bus: Bus, count: int) -> None:
    """Close so many menus that were opened to read them."""
    with suppress(StoreError):
        for _ in range(count):
            bus.strike_escape()
            time.sleep(_SETTLES_WITHIN_S)


def own_letter(binding: str, name: str) -> str:
    """Return the letter of an entry's own name that its key binding is Alt with; empty where it is other keys.

    Toolkits without a place for both give the mnemonic as if it were an accelerator.
    """
    match = _WITH_ALT.fullmatch(binding)
    return match[1].lower() if match is not None and match[1].casefold() in name.casefold() else ""


def _filled(bus: Bus, menu: Ref, opens: tuple[Ref, ...]) -> list[Ref]:
    """Open a menu and return its entries as soon as there are any; it stays open."""
    with suppress(StoreError):
        for one in opens:
            bus.act(one)
            time.sleep(_SETTLES_WITHIN_S)
        until = time.monotonic() + FILLS_WITHIN_S
        while not (children := bus.children(menu)) and time.monotonic() < until:
            time.sleep(_LOOKED_EVERY_S)
        return children
    return []
