"""A board read as a device of its own: the kernel's key events, told from those of a twin, without going through the desktop."""

from __future__ import annotations

import os
import select
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from msgspec import Struct

from glimber.core.engine.events import Event
from glimber.core.notation.keycodes import EVDEV_CODES
from glimber.store.faults import StoreError
from glimber.store.system.wiped_buffer import WipedBuffer

RECORD: Final = struct.Struct("@llHHi")
"""``struct input_event`` of the kernel (linux/input.h): seconds, microseconds, type, code, value."""
_KEY: Final = 1
_STATES: Final = {0: "up", 1: "down"}
_NOTHING: Final = (0, 0, None, 0)
INPUT: Final = Path("/dev/input")


class Device(Struct, frozen=True):
    """A keyboard the kernel knows. ``where`` is the port it is on: two boards of one make differ in it."""

    path: Path
    name: str
    where: str

    @property
    def words(self) -> str:
        return f"{self.name}, {self.where or self.path.name}"


def devices(listing: Path = Path("/proc/bus/input/devices"), folder: Path = INPUT) -> list[Device]:
    """Return the keyboards of this computer, by the kernel's own list; none where it has none."""
    try:
        text = listing.read_text("utf-8", "replace")
    except OSError:
        return []
    found = []
    for block in text.split("\n\n"):
        lines = dict(line[3:].partition("=")[::2] for line in block.splitlines() if line[:3] in ("N: ", "P: ", "H: "))
        handlers = lines.get("Handlers", "").split()
        event = next((one for one in handlers if one.startswith("event")), None)
        if "kbd" in handlers and event is not None:
            found.append(Device(folder / event, lines.get("Name", "").strip('" '), lines.get("Phys", "").strip()))
    return found


def open_device(path: Path) -> int:
    """Return a file descriptor of a device. Raises StoreError where it may not be read."""
    try:
        return os.open(path, os.O_RDONLY | os.O_NONBLOCK)
    except PermissionError as error:
        raise StoreError(
            f"{path}: this user may not read it; add the user to the group input, then log in again"
        ) from error
    except OSError as error:
        raise StoreError(f"{path}: cannot be read ({error.strerror})") from error


def key_events(descriptor: int, wait_s: float = 0.1) -> Iterator[Event | None]:
    """Yield the key events of a device, repeats left out, times in ms of the kernel's clock; None whenever nothing came for a
    while.

    Ends when the device is gone. Records that come in pieces are put together; keys without a place are left out.
    """
    for seconds, micros, code, value in key_records(descriptor, wait_s):
        yield None if code is None else Event(seconds * 1000 + micros / 1000, _STATES[value], code)  # type: ignore[arg-type]


def key_records(descriptor: int, wait_s: float) -> Iterator[tuple[int, int, str | None, int]]:
    """Yield the seconds, microseconds, place and value (0 up, 1 down) of each key event; no place whenever nothing came for a
    while. Each record is wiped from memory once the next is asked for."""
    buffer = WipedBuffer(RECORD.size * 64)
    while True:
        ready, _, _ = select.select([descriptor], [], [], wait_s)
        if not ready:
            yield _NOTHING
            continue
        try:
            if not buffer.read_from(descriptor):
                return
        except BlockingIOError:
            continue
        except OSError:
            return  # unplugged
        while len(buffer.waiting) >= RECORD.size:
            seconds, micros, kind, number, value = RECORD.unpack_from(buffer.waiting)
            if kind == _KEY and value in _STATES and number in EVDEV_CODES:
                yield seconds, micros, EVDEV_CODES[number], value
            buffer.drop(RECORD.size)
