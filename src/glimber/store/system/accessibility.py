"""Running programs over the accessibility bus (AT-SPI 2 over D-Bus): which there are, and what is in their menus.

Every call has a time limit, and the whole has one: a program that does not answer is reported, not waited for. Menus are walked
without being opened. Source: the interfaces of at-spi2-core (org.a11y.atspi.Accessible, Action).
"""

from __future__ import annotations

import os
import time
from collections import deque
from collections.abc import Iterator
from contextlib import AbstractContextManager
from typing import TYPE_CHECKING, Any, Final

from msgspec import Struct, field

from glimber.store.faults import StoreError

if TYPE_CHECKING:
    from jeepney import MatchRule, Message

CALL_S: Final = 2.0
WHOLE_S: Final = 30.0
MOST_ITEMS: Final = 20_000
_DEEPEST: Final = 40
_REGISTRY: Final = "org.a11y.atspi.Registry"
_ROOT: Final = "/org/a11y/atspi/accessible/root"
_NULL: Final = "/org/a11y/atspi/null"
_ACCESSIBLE: Final = "org.a11y.atspi.Accessible"
_ACTION: Final = "org.a11y.atspi.Action"
MENU_BAR, MENU, MENU_ITEM, CHECK_ITEM, RADIO_ITEM, SEPARATOR = 34, 33, 35, 8, 45, 50
BUTTONS: Final = frozenset({43, 62})
WINDOWS: Final = frozenset({16, 23, 69})
_ITEMS: Final = frozenset({MENU_ITEM, CHECK_ITEM, RADIO_ITEM})
_HOW: Final = {CHECK_ITEM: "check", RADIO_ITEM: "radio", MENU_ITEM: "item"}
OFF: Final = (
    "The accessibility bus is off, so running programs cannot be read. Turn it on with: "
    "gsettings set org.gnome.desktop.interface toolkit-accessibility true (package at-spi2-core), then start the program again"
)

Ref = tuple[str, str]
"""A bus name and a path: an object of a program."""


class RunningProgram(Struct, frozen=True):
    """A program on the bus with the titles of its windows."""

    name: str
    windows: tuple[str, ...]
    ref: Ref


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


class Bus:
    """A connection to the accessibility bus. Use as a context manager."""

    def __init__(self) -> None:
        """Raise StoreError where the bus is off."""
        self.until = time.monotonic() + WHOLE_S
        self._connection = _connected(_address())

    def __enter__(self) -> Bus:
        return self

    def __exit__(self, *_: object) -> None:
        self._connection.close()

    def call(self, ref: Ref, interface: str, method: str, signature: str = "", *values: object) -> Any:
        """Return the body of a reply. Raises StoreError where none comes in time or the call is refused."""
        from jeepney import DBusAddress, MessageType, new_method_call

        left = min(CALL_S, self.until - time.monotonic())
        if left <= 0:
            raise StoreError(f"it took longer than {WHOLE_S:.0f} s")
        message = new_method_call(DBusAddress(ref[1], ref[0], interface), method, signature or None, values)
        try:
            reply = self._connection.send_and_get_reply(message, timeout=left)
        except TimeoutError:
            raise StoreError(f"no answer within {left:.0f} s") from None
        except (OSError, EOFError) as error:
            raise StoreError(f"the accessibility bus is gone ({error})") from error
        if reply.header.message_type is MessageType.error:
            raise StoreError(str(reply.body[0] if reply.body else "refused"))
        return reply.body

    def prop(self, ref: Ref, interface: str, name: str) -> Any:
        """Return a property's value."""
        return self.call(ref, "org.freedesktop.DBus.Properties", "Get", "ss", interface, name)[0][1]

    def children(self, ref: Ref) -> list[Ref]:
        found = self.call(ref, _ACCESSIBLE, "GetChildren")[0]
        return [(str(name), str(path)) for name, path in found if path != _NULL]

    def parent(self, ref: Ref) -> Ref:
        """Return the object that one is in."""
        name, path = self.prop(ref, _ACCESSIBLE, "Parent")
        return str(name), str(path)

    def match(self, interface: str, member: str, sender: str, detail: str) -> None:
        """Have signals of one program delivered, of one kind and with one detail. Raises StoreError."""
        rule = f"type='signal',interface='{interface}',member='{member}',sender='{sender}',arg0='{detail}'"
        self.call(("org.freedesktop.DBus", "/org/freedesktop/DBus"), "org.freedesktop.DBus", "AddMatch", "s", rule)

    def register(self, event: str, program: str) -> None:
        """Have a program send events of a kind; registries that know no programs are told for all. Raises StoreError."""
        registry = (_REGISTRY, "/org/a11y/atspi/registry")
        try:
            self.call(registry, _REGISTRY, "RegisterEvent", "sass", event, [], program)
        except StoreError:
            self.call(registry, _REGISTRY, "RegisterEvent", "s", event)

    def signals(self, rule: MatchRule, queue: deque[Message]) -> AbstractContextManager[object]:
        """Return a context in which signals that fit a rule are put into a queue."""
        context: AbstractContextManager[object] = self._connection.filter(rule, queue=queue)
        return context

    def wait(self, seconds: float) -> None:
        """Let messages come in for a while, or until the first. Raises StoreError where the bus goes."""
        try:
            self._connection.recv_messages(timeout=seconds)
        except TimeoutError:
            return
        except (OSError, EOFError) as error:
            raise StoreError(f"the accessibility bus is gone ({error})") from error

    def role(self, ref: Ref) -> int:
        return int(self.call(ref, _ACCESSIBLE, "GetRole")[0])

    def name(self, ref: Ref) -> str:
        return str(self.prop(ref, _ACCESSIBLE, "Name"))

    def binding(self, ref: Ref) -> str:
        """Return the key binding of an object's first action; empty where it has none."""
        try:
            return str(self.call(ref, _ACTION, "GetKeyBinding", "i", 0)[0])
        except StoreError:
            return ""

    def enabled(self, ref: Ref) -> bool:
        low = self.call(ref, _ACCESSIBLE, "GetState")[0][0]
        return bool(int(low) & (1 << 8))  # ATSPI_STATE_ENABLED


def _address() -> str:
    given = os.environ.get("AT_SPI_BUS_ADDRESS")
    if given:
        return given
    session = _connected("SESSION")
    try:
        from jeepney import DBusAddress, MessageType, new_method_call

        message = new_method_call(DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus"), "GetAddress")
        reply = session.send_and_get_reply(message, timeout=CALL_S)
    except (TimeoutError, OSError, EOFError):
        raise StoreError(OFF) from None
    finally:
        session.close()
    if reply.header.message_type is MessageType.error or not reply.body or not reply.body[0]:
        raise StoreError(OFF)
    return str(reply.body[0])


def _connected(address: str) -> Any:
    from jeepney.io.blocking import open_dbus_connection

    try:
        return open_dbus_connection(bus=address)
    except (OSError, KeyError, ValueError, EOFError, RuntimeError):
        raise StoreError(OFF) from None


# Programs


def running_programs(bus: Bus) -> list[RunningProgram]:
    """Return the programs on the bus that have a name, with the titles of their windows."""
    found = []
    for ref in bus.children((_REGISTRY, _ROOT)):
        try:
            name = bus.name(ref)
            windows = [bus.name(child) for child in bus.children(ref)]
        except StoreError:
            continue  # one that hangs or has just gone is no reason not to list the others
        if name:
            found.append(RunningProgram(name, tuple(title for title in windows if title), ref))
    return sorted(found, key=lambda one: one.name.casefold())


def program_named(programs: list[RunningProgram], wanted: str) -> RunningProgram:
    """Return the program of a name, or with a window of that title. Raises StoreError."""
    text = wanted.casefold()
    for matches in (
        [one for one in programs if one.name.casefold() == text],
        [one for one in programs if text in one.name.casefold()],
        [one for one in programs if any(text in title.casefold() for title in one.windows)],
    ):
        if len(matches) == 1:
            return matches[0]
        if matches:
            names = ", ".join(one.name for one in matches)
            raise StoreError(f"{wanted}: {len(matches)} programs are called so; say which: {names}")
    names = ", ".join(one.name for one in programs) or "none"
    raise StoreError(f"{wanted} is not running, or does not speak on the accessibility bus; there are: {names}")


# Menus


class _Left(Struct):
    """The objects that may still be looked at, and what went wrong."""

    items: int = MOST_ITEMS
    problems: list[str] = field(default_factory=list)


def stock_of(bus: Bus, program: RunningProgram, buttons: bool = False) -> Stock:
    """Return what is in a program's menus, and its named buttons if asked for."""
    left = _Left()
    entries: list[MenuEntry] = []
    try:
        for window in bus.children(program.ref):
            entries += _window(bus, window, left, buttons)
    except StoreError as error:
        left.problems.append(f"{program.name}: {error}")
    unique = {(one.path, one.name, one.keys): one for one in entries}
    return Stock(program.name, tuple(unique.values()), tuple(left.problems))


def _window(bus: Bus, window: Ref, left: _Left, buttons: bool) -> Iterator[MenuEntry]:
    """The entries of a window's menu bars, which are looked for above anything that holds a document's contents."""
    waiting = [(window, 0)]
    while waiting:
        ref, depth = waiting.pop(0)
        for child in bus.children(ref):
            if not _counted(left):
                return
            role = bus.role(child)
            if role == MENU_BAR:
                yield from _menu(bus, child, (), left)
            elif buttons and role in BUTTONS:
                name = clean_name(bus.name(child))
                if name:
                    _, mnemonics, keys = split_binding(bus.binding(child))
                    yield MenuEntry((), name, keys, mnemonics, "button")
            elif depth < 6 and role not in WINDOWS:
                waiting.append((child, depth + 1))


def _counted(left: _Left) -> bool:
    left.items -= 1
    if left.items == 0:
        left.problems.append(f"more than {MOST_ITEMS:,} entries; the rest was not read")
    return left.items > 0


def _menu(bus: Bus, menu: Ref, path: tuple[str, ...], left: _Left) -> Iterator[MenuEntry]:
    if len(path) > _DEEPEST:
        return
    children = bus.children(menu)
    if path and not children:
        left.problems.append(f"menu {' > '.join(path)} is empty until it is opened")
    for child in children:
        if not _counted(left):
            return
        role = bus.role(child)
        if role == SEPARATOR:
            continue
        name = clean_name(bus.name(child))
        below = bus.children(child) if role in (MENU, MENU_ITEM) else []
        if role == MENU or below:
            inner = (*path, name) if name else path
            # Some toolkits have the menu itself between an entry and its entries.
            inside = below[0] if role != MENU and len(below) == 1 and bus.role(below[0]) == MENU else child
            yield from _menu(bus, inside, inner, left)
        elif role in _ITEMS and name:
            _, mnemonics, keys = split_binding(bus.binding(child))
            yield MenuEntry(path, name, keys, mnemonics, _HOW[role], bus.enabled(child))


def split_binding(text: str) -> tuple[str, str, str]:
    """Part a key binding of an action into its mnemonic, the keys that walk to it, and its accelerator."""
    parts = text.split(";")
    if len(parts) >= 3:
        return parts[0], parts[1], ";".join(parts[2:])
    return ("", "", text) if len(parts) == 1 else (parts[0], parts[1], "")


def clean_name(text: str) -> str:
    """An entry's text without its mnemonic and the dots that say that a dialog follows."""
    plain = text.replace("__", "\0").replace("_", "").replace("\0", "_").replace("&&", "\0").replace("&", "").replace("\0", "&")
    return " ".join(plain.strip().removesuffix("…").removesuffix("...").split())
