"""A board read as a device: records of the kernel through a pipe, and its list of keyboards."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from glimber.core.engine.events import Event
from glimber.core.notation.keycodes import EVDEV_NUMBERS
from glimber.store.faults import StoreError
from glimber.store.system.device import RECORD, Device, devices, key_events, open_device


def record(ms: int, kind: int, code: int, value: int) -> bytes:
    return RECORD.pack(ms // 1000, ms % 1000 * 1000, kind, code, value)


def test_records_become_key_events_without_repeats_even_in_pieces() -> None:
    s = EVDEV_NUMBERS["KeyS"]
    data = b"".join([
        record(1000, 4, 4, 458774), record(1000, 1, s, 1), record(1000, 0, 0, 0), record(1250, 1, s, 2), record(1300, 1, s, 0),
        record(1400, 1, 0x2FF, 1), record(1500, 1, EVDEV_NUMBERS["Numpad4"], 1),
    ])  # fmt: skip
    read, write = os.pipe()
    os.set_blocking(read, False)
    os.write(write, data[:37])
    found: list[Event | None] = []
    source = key_events(read, 0.01)
    found.append(next(source))
    os.write(write, data[37:])
    os.close(write)
    found += list(source)
    os.close(read)
    told = [event for event in found if event is not None]
    assert told == [Event(1000, "down", "KeyS"), Event(1300, "up", "KeyS"), Event(1500, "down", "Numpad4")]
    assert found[0] in (None, told[0])


def test_silence_gives_nothing_and_does_not_end() -> None:
    read, write = os.pipe()
    source = key_events(read, 0.01)
    assert [next(source), next(source)] == [None, None]
    os.close(write)
    assert list(source) == []
    os.close(read)


def test_twins_are_told_apart_by_where_they_are(tmp_path: Path) -> None:
    block = (
        'I: Bus=0003 Vendor=1 Product=2\nN: Name="Side pad"\nP: Phys=usb-{port}/input0\nH: Handlers=sysrq kbd event{n} leds\nB: EV=120013\n'
    )
    mouse = 'N: Name="Mouse"\nP: Phys=usb-9\nH: Handlers=mouse0 event9\n'
    (tmp_path / "devices").write_text("\n".join([block.format(port=1, n=3), block.format(port=2, n=4), mouse]))
    found = devices(tmp_path / "devices", tmp_path)
    assert found == [Device(tmp_path / "event3", "Side pad", "usb-1/input0"), Device(tmp_path / "event4", "Side pad", "usb-2/input0")]
    assert found[0].words == "Side pad, usb-1/input0" and devices(tmp_path / "none") == []


def test_a_device_that_is_not_there() -> None:
    with pytest.raises(StoreError, match="cannot be read"):
        open_device(Path("/nonexistent/event0"))
