"""Input from an X server: strikes on any keyboard, through the RECORD extension, and the window in front.

Source: "Record Extension Protocol Specification", X.Org; "Extended Window Manager Hints", _NET_ACTIVE_WINDOW, _NET_CLIENT_LIST.
"""

from __future__ import annotations

import os
import select
import struct
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any, Final

from msgspec import Struct, field

from glimber.core.notation.keycodes import EVDEV_CODES, MODIFIER_CODES, XKB_OFFSET
from glimber.core.notation.keys import Strike
from glimber.store.faults import StoreError
from glimber.store.system.wiped_buffer import WipedBuffer

NEEDS: Final = "counting on an X server needs python-xlib: pip install 'glimber[tally]'"
WAYLAND: Final = (
    "Under Wayland no program may see what is struck in another: nothing is counted, "
    "unless a keyboard is read as a device: glimber tally on --device /dev/input/event…"
)
_FROM_SERVER, _START = 0, 4
_KEY_DOWN, _KEY_UP = 2, 3
_EVENT: Final = struct.Struct("=BB2xI20xH2x")
"""A key's event on the wire: kind, keycode, time in ms, modifiers held. Source: "X Window System Protocol", appendix B."""
_REPLY: Final = struct.Struct("=BB2xIxB22x")
"""The head of what RECORD tells: reply, category, length in words, whether its bytes are in another order."""
_IS_ERROR, _IS_REPLY, _MAPPING_CHANGED = 0, 1, 34
TOGETHER_S: Final = 0.1
"""Events within it are read at once: being woken costs more than what is read."""
_REMEMBERED: Final = 8
"""Windows in front, for strikes that are read a moment after they were struck."""
_ENABLE: Final = struct.Struct("=BBHI")
_ENABLE_CONTEXT: Final = 5
_BUTTONS: Final = 0x1F00
"""The five mouse buttons in the state of the pointer."""
_LAMP_PX: Final = 9
_LAMP: Final = 0xF0B948
_EDGE: Final = 0x12151B


class Struck(Struct, frozen=True):
    """One strike and the moment of it, in ms of the server's clock; None for a key that is no step of any binding."""

    strike: Strike | None
    t_ms: float


_OTHER: Final = Struck(None, 0.0)


class Repeats(Struct):
    """Tells a held key's repeats from strikes: a repeat comes up and down again in the same moment.

    Only keys that ``is_repeat`` was asked about are remembered, and each only until it has been up for a moment.
    """

    down: set[int] = field(default_factory=set)
    up_at: dict[int, float] = field(default_factory=dict)

    def is_repeat(self, number: int, t_ms: float) -> bool:
        """Return True if a key that goes down is a repeat of itself."""
        repeat = number in self.down or t_ms - self.up_at.get(number, -1e9) < 1
        self.down.add(number)
        return repeat

    def went_up(self, number: int, t_ms: float) -> None:
        if number in self.down:
            self.down.discard(number)
            self.up_at = {number: t_ms}


def problem() -> str | None:
    """Return why nothing can be counted on this display; None where it can."""
    if os.environ.get("WAYLAND_DISPLAY") and os.environ.get("XDG_SESSION_TYPE") != "x11":
        return WAYLAND
    if not os.environ.get("DISPLAY"):
        return "There is no display: nothing can be counted, unless a keyboard is read as a device (--device)."
    try:
        display = connection()
    except StoreError as error:
        return str(error)
    try:
        if not display.has_extension("RECORD"):
            return "This X server has no RECORD extension: nothing can be counted on it."
    finally:
        display.close()
    return None


def connection() -> Any:
    """Return a connection to the X server. Raises StoreError."""
    try:
        from Xlib import display
        from Xlib.error import DisplayError, XError
    except ImportError as error:
        raise StoreError(NEEDS) from error
    try:
        return display.Display()
    except (DisplayError, XError, OSError, ValueError, OverflowError) as error:
        raise StoreError(f"the X server cannot be reached ({error})") from error


class Pointer:
    """A connection that is asked where the mouse is. Raises StoreError."""

    def __init__(self) -> None:
        self._display = connection()
        self._root = self._display.screen().root

    def pressed_at(self) -> tuple[int, int] | None:
        """Return where the mouse is on the screen while a button is held; None while none is, and where nobody knows."""
        from Xlib.error import ConnectionClosedError, XError

        try:
            at = self._root.query_pointer()
        except (XError, ConnectionClosedError, OSError):
            return None
        return (at.root_x, at.root_y) if at.mask & _BUTTONS else None

    def close(self) -> None:
        """End the connection."""
        with suppress(Exception):  # the server is gone: there is nothing to close
            self._display.close()


class XServer:
    """Two connections: one that gets every strike, one that is asked for the window in front. Raises StoreError."""

    def __init__(self, lamp: bool = True) -> None:
        from Xlib import X
        from Xlib.ext import record

        self._requests, self._events = connection(), connection()
        self._root = self._requests.screen().root
        self._active = self._requests.intern_atom("_NET_ACTIVE_WINDOW")
        self._root.change_attributes(event_mask=X.PropertyChangeMask)
        self._fronts: list[tuple[float, tuple[str, ...]]] = [(0.0, self._front_now())]
        self._bits = self._modifier_bits()
        self._repeats = Repeats()
        self._lamp = self._light() if lamp else None
        every = [{"core_requests": (0, 0), "core_replies": (0, 0), "ext_requests": (0, 0, 0, 0), "ext_replies": (0, 0, 0, 0),
                  "delivered_events": (0, 0), "device_events": (X.KeyPress, X.KeyRelease), "errors": (0, 0),
                  "client_started": False, "client_died": False}]  # fmt: skip
        self._context = self._requests.record_create_context(0, [record.AllClients], every)
        self._requests.sync()

    def strikes(
        self, ended: Callable[[], bool], is_step: Callable[[Strike], bool], every_s: float = 0.5
    ) -> Iterator[Struck | None]:
        """Yield every strike on any keyboard; None when recording has begun and whenever nothing came for a while. Until
        ``ended``, or until the server goes.

        Of a key for which ``is_step`` is False nothing is kept but that some key was struck. The recorded events are read from
        the connection as they come: through the library each would cost a hundred times more, and stay in memory.
        """
        opcode = self._events.query_extension("RECORD").major_opcode
        self._events.sync()
        end = self._events.fileno()
        os.write(end, _ENABLE.pack(opcode, _ENABLE_CONTEXT, _ENABLE.size // 4, self._context))
        buffer = WipedBuffer()
        while not ended():
            if not select.select([end], [], [], every_s)[0]:
                self._look_front()
                yield None
                continue
            time.sleep(TOGETHER_S)
            try:
                if not buffer.read_from(end):
                    return
            except OSError:
                return  # the server is gone
            while len(buffer.waiting) >= _REPLY.size:
                kind, category, length, swapped = _REPLY.unpack_from(buffer.waiting)
                if kind == _IS_ERROR:
                    return  # the server will not record
                whole = _REPLY.size + 4 * length * (kind == _IS_REPLY)
                if len(buffer.waiting) < whole:
                    break
                if kind == _MAPPING_CHANGED:  # sent to every program, such as when a second keyboard is struck first
                    self._learn_bits()
                elif kind == _IS_REPLY and category == _START:
                    yield None
                elif kind == _IS_REPLY and category == _FROM_SERVER and not swapped:
                    yield from self._struck(buffer.waiting[_REPLY.size : whole], is_step)
                buffer.drop(whole)

    def _struck(self, events: memoryview, is_step: Callable[[Strike], bool]) -> Iterator[Struck]:
        for kind, number, t_ms, state in _EVENT.iter_unpack(events[: len(events) // _EVENT.size * _EVENT.size]):
            if kind == _KEY_UP:
                self._repeats.went_up(number, t_ms)
            elif kind == _KEY_DOWN:
                code = EVDEV_CODES.get(number - XKB_OFFSET)
                if code is None or code in MODIFIER_CODES:
                    continue
                strike = frozenset(name for bit, name in self._bits if state & bit), code
                if not is_step(strike):
                    yield _OTHER
                elif not self._repeats.is_repeat(number, t_ms):
                    yield Struck(strike, float(t_ms))

    def _learn_bits(self) -> None:
        from Xlib.error import ConnectionClosedError

        with suppress(ConnectionClosedError, OSError):
            self._bits = self._modifier_bits()

    def _modifier_bits(self) -> list[tuple[int, str]]:
        """Return which bit of a strike's state is which modifier, by the keys the server has mapped to each."""
        found: dict[str, int] = {"Shift": 1, "Ctrl": 4}
        for place, keycodes in enumerate(self._requests.get_modifier_mapping()):
            for keycode in keycodes:
                name = MODIFIER_CODES.get(EVDEV_CODES.get(keycode - XKB_OFFSET, ""))
                if name is not None and place >= 3:
                    found.setdefault(name, 1 << place)
        if found.get("AltGr") == found.get("Alt"):
            found.pop("AltGr", None)  # both Alt keys are the same one here
        return [(bit, name) for name, bit in found.items()]

    # The window in front

    def front(self, t_ms: float) -> tuple[str, ...]:
        """Return the classes of the window that was in front at a moment of the server's clock; none where there was none."""
        self._look_front()
        return next((classes for since, classes in reversed(self._fronts) if since <= t_ms), self._fronts[0][1])

    def _look_front(self) -> None:
        """Read what the server sent about the focused window; where the window is gone, the last answer stays."""
        from Xlib.error import ConnectionClosedError

        with suppress(ConnectionClosedError, OSError):
            while self._requests.pending_events():
                event = self._requests.next_event()
                if getattr(event, "atom", None) == self._active:
                    self._fronts = [*self._fronts[-_REMEMBERED:], (float(event.time), self._front_now())]

    def _front_now(self) -> tuple[str, ...]:
        value = self._root.get_full_property(self._active, 0)
        if value is not None and len(value.value):
            return _classes_of(self._requests.create_resource_object("window", int(value.value[0])))
        focus = self._requests.get_input_focus().focus
        return () if isinstance(focus, int) else _classes_of(focus)

    def _light(self) -> Any:
        """Return a small lamp in the corner of the screen, as long as it counts; clicks go through it."""
        from Xlib import X
        from Xlib.ext import shape

        screen = self._requests.screen()
        x, y = screen.width_in_pixels - _LAMP_PX - 4, screen.height_in_pixels - _LAMP_PX - 4
        lamp = screen.root.create_window(x, y, _LAMP_PX, _LAMP_PX, 1, screen.root_depth, override_redirect=1,
                                         background_pixel=_LAMP, border_pixel=_EDGE)  # fmt: skip
        lamp.set_wm_name("Glimber counts")
        lamp.set_wm_class("glimber-tally", "Glimber-tally")
        if self._requests.has_extension("SHAPE"):
            lamp.shape_rectangles(shape.SO.Set, shape.SK.Input, X.Unsorted, 0, 0, [])
        lamp.map()
        self._requests.flush()
        return lamp

    def close(self) -> None:
        """End both connections."""
        with suppress(Exception):  # the server is gone: there is nothing to close
            self._requests.record_disable_context(self._context)
            self._requests.record_free_context(self._context)
            self._requests.close()
        with suppress(OSError):
            os.close(self._events.fileno())


def _classes_of(window: Any) -> tuple[str, ...]:
    """Return the classes of a window, or of the nearest around it that has any."""
    from Xlib.error import XError

    try:
        for _ in range(8):
            found = window.get_wm_class()
            if found:
                return tuple(found)
            above = window.query_tree().parent
            if not above or isinstance(above, int):
                return ()
            window = above
    except XError:
        pass
    return ()


def open_windows() -> list[str]:
    """Return the classes of what is open on the desktop, each once; none where nobody can say. Raises StoreError."""
    display = connection()
    try:
        root = display.screen().root
        value = root.get_full_property(display.intern_atom("_NET_CLIENT_LIST"), 0)
        ids = value.value if value is not None else []
        found = [_classes_of(display.create_resource_object("window", int(id))) for id in ids]
        return sorted({classes[-1] for classes in found if classes and not classes[-1].startswith("Glimber")})
    finally:
        display.close()
