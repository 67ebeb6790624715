"""The menus of a running program as a source: read over the accessibility bus, written as JSON for the reader of menus.

``python -m glimber.store.system.running_menus NAME [--open]`` writes them to standard output: the window has it done in a process
of its own, so that nothing a program answers, or does not, can hold it up.
"""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Mapping
from typing import Final

from glimber.readers.menus import FORMAT
from glimber.store.faults import StoreError
from glimber.store.system.accessibility import (
    WHOLE_S,
    Bus,
    BusOffError,
    NotRunningError,
    RunningProgram,
    clean_name,
    program_named,
    running_programs,
)
from glimber.store.system.menu_stock import Stock, stock_of

_BUS_OFF: Final = 3
_NOT_RUNNING: Final = 4
_FAILED: Final = 5
"""Exit statuses of the process that reads."""
_LONGEST_S: Final = WHOLE_S + 15.0


def programs(titles: bool = True) -> list[RunningProgram]:
    """Return the programs that run, without the titles of their windows if not wanted. Raises StoreError where the bus is off."""
    with Bus() as bus:
        return running_programs(bus, titles)


def menus_of(name: str, opening: bool = False) -> tuple[str, bytes]:
    """Return a running program's own name, and its menus as a source; ``opening``: menus that are empty until they are opened
    are opened. Raises StoreError."""
    with Bus() as bus:
        program = program_named(running_programs(bus), name)
        stock = stock_of(bus, program, opening=opening)
    return stock.program, as_source(stock, _english(stock.program))


def menus_apart(name: str, opening: bool = False) -> tuple[str, bytes]:
    """Do the same in a process of its own. Raises StoreError."""
    command = [sys.executable, "-m", __name__, name, *(["--open"] if opening else [])]
    try:
        done = subprocess.run(command, capture_output=True, timeout=_LONGEST_S, check=False, stdin=subprocess.DEVNULL)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise StoreError(f"{name}: its menus could not be read ({error})") from error
    text = done.stderr.decode("utf-8", "replace").strip()
    if done.returncode == _BUS_OFF:
        raise BusOffError
    if done.returncode == _NOT_RUNNING:
        raise NotRunningError(text)
    if done.returncode:
        raise StoreError(text.splitlines()[-1] if text else f"{name}: its menus could not be read")
    return str(json.loads(done.stdout)["program"]), done.stdout


def _english(program: str) -> Mapping[str, str]:
    """Return the English names of a program's entries by those it shows, where it is translated."""
    from glimber.store.system.installed_programs import english_of, entry_named

    entry = entry_named(program)
    names = (program, program.casefold(), *((entry.command, entry.id) if entry is not None else ()))
    return {clean_name(shown): clean_name(english) for shown, english in english_of(tuple(dict.fromkeys(names))).items()}


def as_source(stock: Stock, english: Mapping[str, str] | None = None) -> bytes:
    """Write a stock as the reader of menus reads it, with the ``english`` names of what is shown in another language."""
    other = english or {}
    entries = [{"path": list(one.path), "name": one.name, "keys": one.keys, "mnemonics": one.mnemonics, "how": one.how,
                "enabled": one.enabled, "words": [other[one.name]] if one.name in other else []}
               for one in stock.entries]  # fmt: skip
    listing = {"format": FORMAT, "program": stock.program, "entries": entries, "problems": list(stock.problems)}
    return json.dumps(listing, ensure_ascii=False, indent=1).encode()


def _main(arguments: list[str]) -> int:
    try:
        _, menus = menus_of(arguments[0], "--open" in arguments[1:])
    except StoreError as error:
        print(error, file=sys.stderr)
        return _BUS_OFF if isinstance(error, BusOffError) else _NOT_RUNNING if isinstance(error, NotRunningError) else _FAILED
    sys.stdout.buffer.write(menus)
    return 0


if __name__ == "__main__":
    sys.exit(_main(sys.argv[1:]))
