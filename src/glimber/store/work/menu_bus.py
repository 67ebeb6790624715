"""Menus of the folio's programs, heard over the accessibility bus: which item has the selection, and nothing else.

Only programs of the folio are listened to, and of them only that an object got or lost the selection or the focus. Its role is
asked for once; what is no item of a menu is forgotten there and then. No text, no title and no value is ever asked for: of an
item of a menu the name is, and those of the menus above it. Source: org.a11y.atspi.Event.Object and Registry of at-spi2-core.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Final

from msgspec import Struct

from glimber.core.practice import menu_walk
from glimber.core.practice.menu_walk import Chosen, Item, Walk
from glimber.store.faults import StoreError
from glimber.store.system.accessibility import (
    CHECK_ITEM,
    MENU,
    MENU_BAR,
    MENU_ITEM,
    POPUP,
    RADIO_ITEM,
    REGISTRY_ROOT,
    Bus,
    Ref,
    clean_name,
)

if TYPE_CHECKING:
    from jeepney import Message

LOOKED_EVERY_S: Final = 5.0
WAIT_S: Final = 0.5
_LEAST_S: Final = 0.005
REMEMBERED: Final = 4_000
"""Objects whose role is remembered, for each program."""
_DEEPEST: Final = 12
_STATES: Final = ("focused", "selected")
_SELECTING: Final = ("gtk", "gail")
"""Toolkits that report each item of a menu as selected, and some as focused as well."""
_ROLES: Final = frozenset({MENU, MENU_ITEM, CHECK_ITEM, RADIO_ITEM})
_EVENTS: Final = "org.a11y.atspi.Event.Object"


class HeardChoice(Struct, frozen=True):
    """An entry chosen in a menu: the program's id, the names of the menus above it and its own, and how long it took."""

    program: str
    path: tuple[str, ...]
    name: str
    took_ms: float
    at_ms: float


class _Known(Struct):
    """An item of a menu: what it is called, below which menus, and whether it only opens another."""

    item: Item
    name: str
    path: tuple[str, ...]


class _Heard(Struct):
    """A program that is listened to: its id in the folio, its walk, and what is known of its objects (None: no menu item)."""

    id: str
    walk: Walk = Walk()
    known: dict[str, _Known | None] = {}


class MenuBus:
    """Hears the menus of programs. ``programs``: the id in the folio by a program's name on the bus, in small letters, None where
    it is none of the folio's; ``pressed_at``: where on the screen the mouse is while a button is held."""

    def __init__(
        self,
        programs: Callable[[str], str | None],
        chosen: Callable[[HeardChoice], object],
        pressed_at: Callable[[], tuple[int, int] | None] = lambda: None,
        clock: Callable[[], float] = lambda: time.monotonic() * 1000,
    ) -> None:
        """Raise StoreError where the bus is off."""
        self._program_of, self._chosen, self._pressed_at, self._clock = programs, chosen, pressed_at, clock
        self._bus = Bus()
        self._events: deque[Message] = deque(maxlen=REMEMBERED)
        self._heard: dict[str, _Heard] = {}
        self._names: dict[str, str] = {}
        self._looked = -1e9
        self._lock = threading.Lock()

    @property
    def is_open(self) -> bool:
        """Return True while a menu of one of them is open."""
        return any(one.walk.is_open for one in list(self._heard.values()))

    def escape(self, at_ms: float | None = None) -> None:
        """Escape was struck while a menu was open."""
        with self._lock:
            for one in self._heard.values():
                one.walk = menu_walk.escape(one.walk, self._clock() if at_ms is None else at_ms)

    def listen(self, ended: Callable[[], bool]) -> None:
        """Hear until ``ended``. Raises StoreError where the bus goes."""
        from jeepney import MatchRule

        rule = MatchRule(type="signal", interface=_EVENTS, member="StateChanged")
        with self._bus, self._bus.signals(rule, self._events):
            while not ended():
                self._look_for_programs()
                self._bus.until = time.monotonic() + LOOKED_EVERY_S * 4
                self._bus.wait(self._may_wait_s())
                while self._events:
                    self._take(self._events.popleft())
                self._rest()

    def _look_for_programs(self) -> None:
        """Listen to programs of the folio that were started since, and no more to those that ended."""
        now = time.monotonic()
        if now - self._looked < LOOKED_EVERY_S:
            return
        self._looked = now
        self._bus.until = now + LOOKED_EVERY_S * 4
        there = {ref[0]: ref for ref in self._bus.children(REGISTRY_ROOT)}
        self._names = {name: self._names.get(name) or self._name_of(ref) for name, ref in there.items()}
        for name, called in self._names.items():
            id = self._program_of(called.casefold()) if called else None
            if id is not None and name not in self._heard:
                for state in self._states_of(there[name]):
                    self._bus.match(_EVENTS, "StateChanged", name, state)
                    self._bus.register(f"object:state-changed:{state}", name)
                self._heard[name] = _Heard(id, Walk(), {})
        for name in [name for name in self._heard if name not in self._names]:
            del self._heard[name]

    def _name_of(self, ref: Ref) -> str:
        try:
            return self._bus.name(ref)
        except StoreError:
            return ""  # it hangs, or has just gone; it is asked again

    def _states_of(self, program: Ref) -> tuple[str, ...]:
        """Return the states that a program's toolkit reports of items of menus: one of them is enough where it reports both."""
        try:
            toolkit = str(self._bus.prop(program, "org.a11y.atspi.Application", "ToolkitName"))
        except StoreError:
            return _STATES
        return ("selected",) if toolkit.casefold() in _SELECTING else _STATES

    def _may_wait_s(self) -> float:
        """Return how long nothing needs to be decided, in seconds, WAIT_S at most."""
        left = [one.walk.left_ms for one in self._heard.values() if one.walk.left is not None]
        until = min(left, default=float("inf")) + menu_walk.TOLD_WITHIN_MS - self._clock()
        return min(WAIT_S, max(_LEAST_S, until / 1000))

    # Events

    def _take(self, message: Message) -> None:
        from jeepney import HeaderFields

        fields, t_ms = message.header.fields, self._clock()
        sender, path = str(fields.get(HeaderFields.sender)), str(fields.get(HeaderFields.path))
        heard = self._heard.get(sender)
        if heard is None or not message.body or message.body[0] not in _STATES:
            return
        known = self._known(heard, (sender, path))
        if known is None:
            return
        with self._lock:
            if message.body[1]:
                heard.walk, chosen = menu_walk.light(heard.walk, known.item, t_ms)
                self._tell(heard, chosen)
            elif heard.walk.lit is not None and heard.walk.lit.id == path:
                outside = not known.item.is_menu and self._is_pressed_outside((sender, path))
                heard.walk = menu_walk.leave(heard.walk, path, t_ms, outside)

    def _rest(self) -> None:
        with self._lock:
            for heard in self._heard.values():
                heard.walk, chosen = menu_walk.rest(heard.walk, self._clock())
                self._tell(heard, chosen)

    def _tell(self, heard: _Heard, chosen: Chosen | None) -> None:
        known = heard.known.get(chosen.item) if chosen is not None else None
        if chosen is not None and known is not None:
            self._chosen(HeardChoice(heard.id, known.path, known.name, chosen.took_ms, chosen.at_ms))

    def _known(self, heard: _Heard, ref: Ref) -> _Known | None:
        """Return what is known of an object, asked for once; None for what is no item of a menu."""
        if ref[1] not in heard.known:
            if len(heard.known) >= REMEMBERED:
                heard.known.clear()
            try:
                heard.known[ref[1]] = self._ask(ref)
            except StoreError:
                return None  # gone already
        return heard.known[ref[1]]

    def _ask(self, ref: Ref) -> _Known | None:
        role = self._bus.role(ref)
        if role not in _ROLES:
            return None
        is_menu = role == MENU or (role == MENU_ITEM and bool(self._bus.children(ref)))
        path: list[str] = []
        above = ref
        for _ in range(_DEEPEST):
            above = self._bus.parent(above)
            role = self._bus.role(above)
            if role == MENU_BAR or role not in (*_ROLES, POPUP):
                break
            name = clean_name(self._bus.name(above)) if role != POPUP else ""
            if name and (not path or path[0] != name):  # some toolkits have the menu itself below its entry, of the same name
                path.insert(0, name)
        return _Known(Item(ref[1], is_menu), clean_name(self._bus.name(ref)), tuple(path))

    def _is_pressed_outside(self, ref: Ref) -> bool:
        """Return True if the mouse ended the walk, elsewhere than on an item."""
        at = self._pressed_at()
        if at is None:
            return False
        try:
            left, top, wide, high = map(int, self._bus.call(ref, "org.a11y.atspi.Component", "GetExtents", "u", 0)[0])
        except StoreError:
            return False
        return wide > 0 and not (left <= at[0] < left + wide and top <= at[1] < top + high)


def command_of(choice: HeardChoice, commands: Mapping[str, list[tuple[str, tuple[str, ...]]]]) -> str | None:
    """Return the command that an entry is, by its name in small letters; of several the one with its menus as slow way.

    ``commands``: by name, the commands (``program/command``) and the menus of their slow ways.
    """
    found = commands.get(choice.name.casefold(), [])
    if len(found) > 1:
        wanted = tuple(one.casefold() for one in choice.path)
        found = [one for one in found if one[1] == wanted] or found[:1]
    return found[0][0] if found else None
