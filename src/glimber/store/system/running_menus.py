"""The menus of a running program as a source: read over the accessibility bus, written as JSON for the reader of menus."""

from __future__ import annotations

import json

from glimber.readers.menus import FORMAT
from glimber.store.system.accessibility import Bus, RunningProgram, Stock, program_named, running_programs, stock_of


def programs() -> list[RunningProgram]:
    """Return the programs that run. Raises StoreError where the bus is off."""
    with Bus() as bus:
        return running_programs(bus)


def menus_of(name: str, buttons: bool = False) -> tuple[str, bytes]:
    """Return a running program's own name, and its menus as a source. Raises StoreError."""
    with Bus() as bus:
        program = program_named(running_programs(bus), name)
        stock = stock_of(bus, program, buttons)
    return stock.program, as_source(stock)


def as_source(stock: Stock) -> bytes:
    """Write a stock as the reader of menus reads it."""
    entries = [{"path": list(one.path), "name": one.name, "keys": one.keys, "mnemonics": one.mnemonics, "how": one.how,
                "enabled": one.enabled} for one in stock.entries]  # fmt: skip
    listing = {"format": FORMAT, "program": stock.program, "entries": entries, "problems": list(stock.problems)}
    return json.dumps(listing, ensure_ascii=False, indent=1).encode()
