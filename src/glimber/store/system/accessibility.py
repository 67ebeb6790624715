"""Running programs over the accessibility bus (AT-SPI 2 over D-Bus): which there are, and what their objects answer.

Every call has a time limit, and the whole has one: a program that does not answer is reported, not waited for. Source: the
interfaces of at-spi2-core (org.a11y.atspi.Accessible, Action, DeviceEventController; org.a11y.Status).
"""

from __future__ import annotations

import os
import re
import time
from collections import deque
from contextlib import AbstractContextManager, suppress
from typing import TYPE_CHECKING, Any, Final

from msgspec import Struct

from glimber.store.faults import StoreError

if TYPE_CHECKING:
    from jeepney import MatchRule, Message

CALL_S: Final = 2.0
WHOLE_S: Final = 60.0
_TOO_LONG: Final = "it took longer than {:g} s"
_REGISTRY: Final = "org.a11y.atspi.Registry"
_ROOT: Final = "/org/a11y/atspi/accessible/root"
REGISTRY_ROOT: Final = (_REGISTRY, _ROOT)
"""The object that is the parent of all programs on the bus."""
_NULL: Final = "/org/a11y/atspi/null"
_ACCESSIBLE: Final = "org.a11y.atspi.Accessible"
_ACTION: Final = "org.a11y.atspi.Action"
MENU_BAR, MENU, MENU_ITEM, CHECK_ITEM, RADIO_ITEM, SEPARATOR = 34, 33, 35, 8, 45, 50
POPUP: Final = 41
"""The role that some toolkits put between an entry that opens a menu and the menu's entries; its name is the window's."""
_ESCAPE, _BY_SYMBOL = 0xFF1B, 3
"""The keysym of Escape, and that it is one. Source: keysymdef.h; ATSPI_KEY_SYM of atspi-constants.h."""
_LETTER_BEHIND: Final = re.compile(r"\s?\([_&]\w\)(?=(?:…|\.\.\.)?\s*$)")
"""The mnemonic of an entry in a script without letters for it, as in "保存(_S)"."""
_STATUS: Final = ("org.a11y.Bus", "/org/a11y/bus")
OFF: Final = (
    "The accessibility bus is off, so running programs cannot be read. Turn it on with: "
    "gsettings set org.gnome.desktop.interface toolkit-accessibility true (package at-spi2-core), then start the program again"
)


class BusOffError(StoreError):
    """Nobody answers for the accessibility bus."""

    def __init__(self) -> None:
        super().__init__(OFF)


class NotRunningError(StoreError):
    """A program is not on the bus now."""


Ref = tuple[str, str]
"""A bus name and a path: an object of a program."""


class RunningProgram(Struct, frozen=True):
    """A program on the bus with the titles of its windows."""

    name: str
    windows: tuple[str, ...]
    ref: Ref


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

        left = self.until - time.monotonic()
        if left <= 0:
            raise StoreError(_TOO_LONG.format(WHOLE_S))
        message = new_method_call(DBusAddress(ref[1], ref[0], interface), method, signature or None, values)
        try:
            reply = self._connection.send_and_get_reply(message, timeout=min(CALL_S, left))
        except TimeoutError:
            raise StoreError(f"no answer within {CALL_S:g} s" if left > CALL_S else _TOO_LONG.format(WHOLE_S)) from None
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
        """Have a program send events of a kind; registries that know no programs are asked for all. Raises StoreError."""
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

    def act(self, ref: Ref) -> None:
        """Carry out an object's first action: a menu opens. Raises StoreError."""
        self.call(ref, _ACTION, "DoAction", "i", 0)

    def strike_escape(self) -> None:
        """Strike Escape on the display, as a person would. Raises StoreError."""
        controller = (_REGISTRY, "/org/a11y/atspi/registry/deviceeventcontroller")
        interface = "org.a11y.atspi.DeviceEventController"
        self.call(controller, interface, "GenerateKeyboardEvent", "isu", _ESCAPE, "", _BY_SYMBOL)

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
        raise BusOffError() from None
    finally:
        session.close()
    if reply.header.message_type is MessageType.error or not reply.body or not reply.body[0]:
        raise BusOffError()
    return str(reply.body[0])


def _connected(address: str) -> Any:
    from jeepney.io.blocking import open_dbus_connection

    try:
        return open_dbus_connection(bus=address)
    except (OSError, KeyError, ValueError, EOFError, RuntimeError):
        raise BusOffError() from None


def turn_on() -> None:
    """Turn the accessibility bus on for this session, and for later ones where the desktop keeps such settings; programs started
    from now on speak on it. Raises StoreError where it cannot be, such as without at-spi2-core."""
    from jeepney import DBusAddress, MessageType, new_method_call

    session = _connected("SESSION")
    address = DBusAddress(_STATUS[1], _STATUS[0], "org.freedesktop.DBus.Properties")
    message = new_method_call(address, "Set", "ssv", ("org.a11y.Status", "IsEnabled", ("b", True)))
    try:
        reply = session.send_and_get_reply(message, timeout=CALL_S)
    except (TimeoutError, OSError, EOFError) as error:
        raise StoreError(f"the accessibility bus could not be turned on: no answer ({error})") from None
    finally:
        session.close()
    if reply.header.message_type is MessageType.error:
        why = str(reply.body[0] if reply.body else "refused")
        raise StoreError(f"the accessibility bus could not be turned on: {why}. Install at-spi2-core")


# Programs


def running_programs(bus: Bus, titles: bool = True) -> list[RunningProgram]:
    """Return the programs on the bus that have a name, with the titles of their windows where they are wanted."""
    found = []
    for ref in bus.children(REGISTRY_ROOT):
        try:
            name, windows = bus.name(ref), bus.children(ref) if titles else []
        except StoreError:
            continue  # one that hangs or has just gone is no reason not to list the others
        shown: list[str] = []
        for window in windows:
            with suppress(StoreError):
                shown.append(bus.name(window))
        if name:
            found.append(RunningProgram(name, tuple(filter(None, shown)), ref))
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
    raise NotRunningError(f"{wanted} is not running, or does not speak on the accessibility bus; there are: {names}")


# Names and keys


def split_binding(text: str) -> tuple[str, str, str]:
    """Part a key binding of an action into its mnemonic, the keys that walk to it, and its accelerator."""
    parts = text.split(";")
    if len(parts) >= 3:
        return parts[0], parts[1], ";".join(parts[2:])
    return ("", "", text) if len(parts) == 1 else (parts[0], parts[1], "")


def clean_name(text: str) -> str:
    """Return an entry's text without its mnemonic and the dots that say that a dialog follows."""
    plain = _LETTER_BEHIND.sub("", text)
    plain = plain.replace("__", "\0").replace("_", "").replace("\0", "_").replace("&&", "\0").replace("&", "").replace("\0", "&")
    return " ".join(plain.strip().removesuffix("…").removesuffix("...").split())
