"""Tables of cells, whatever they come from: which row is the heading, which column has the keys, what is a group."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from glimber.readers.found import Found, Options, looks_like_keys

_KEYS: Final = re.compile(r"^(?:default |keyboard )?(?:short ?-?cuts?|hot ?keys?|keys?|key ?strokes?|key ?bindings?|bindings?|"
                          r"accelerators?|press|key combinations?|alternatives?|alternate)(?: \(.*\)| \d)?$", re.I)  # fmt: skip
_SYSTEMS: Final = ("linux", "gnu/linux", "unix", "windows", "win", "windows/linux", "linux/windows", "windows & linux", "mac",
                   "macos", "mac os", "mac os x", "os x")  # fmt: skip
_COMMANDS: Final = re.compile(r"^(?:commands?|actions?|functions?|descriptions?|operations?|names?|what(?: it does)?|tasks?|"
                              r"features?|effect|result|to do this|does)$", re.I)  # fmt: skip
_GROUPS: Final = re.compile(r"^(?:groups?|categor(?:y|ies)|sections?|menus?|contexts?|areas?)$", re.I)


@dataclass(frozen=True)
class Line:
    """One row of cells; ``heading`` where the source itself marks it as one."""

    number: int
    cells: tuple[str, ...]
    heading: bool = False


def read_table(lines: Sequence[Line], found: Found, options: Options, group: str | None = None) -> None:
    """Add every row of a table to what was found."""
    lines = [line for line in lines if any(cell.strip() for cell in line.cells)]
    if not lines:
        return
    width = max(len(line.cells) for line in lines)
    lines = [Line(line.number, line.cells + ("",) * (width - len(line.cells)), line.heading) for line in lines]
    if width == 1:
        for line in lines:
            found.fail(f"{line.cells[0].strip()}: only one column; expected a command and its keys", line.number)
        return
    head = next((line for line in lines[:4] if _is_head(line)), None)
    columns = _columns(head, lines, found, options)
    if columns is None:
        return
    command, keys, grouped = columns
    for line in lines:
        if line is head or (head is not None and _plain(line) == _plain(head)):
            continue
        filled = [cell.strip() for cell in line.cells if cell.strip()]
        lone = line.cells[command].strip() and not _says_keys(line, keys) and not _belongs(line, lines, keys)
        if len(set(filled)) == 1 and (line.heading or len(filled) > 1 or lone):
            group = filled[0]
            continue
        told = " or ".join(dict.fromkeys(line.cells[place].strip() for place in keys if line.cells[place].strip()))
        own = line.cells[grouped].strip() if grouped is not None else ""
        found.add(line.cells[command], told, own or group, line.number)


def _plain(line: Line) -> tuple[str, ...]:
    return tuple(cell.strip().lower() for cell in line.cells)


def _is_head(line: Line) -> bool:
    words = [word for word in _plain(line) if word]
    named = sum(bool(_KEYS.match(word) or _COMMANDS.match(word) or word in _SYSTEMS) for word in words)
    return len(words) > 1 and (named >= 2 or (line.heading and named >= 1))


def _says_keys(line: Line, keys: Sequence[int]) -> bool:
    return any(line.cells[place].strip() for place in keys)


def _belongs(line: Line, lines: Sequence[Line], keys: Sequence[int]) -> bool:
    """Whether a lone cell is a command without keys: so it is where other commands of the table have none either."""
    place = lines.index(line)
    after = lines[place + 1] if place + 1 < len(lines) else None
    return after is None or not _says_keys(after, keys)


def _columns(head: Line | None, lines: Sequence[Line], found: Found, options: Options
             ) -> tuple[int, list[int], int | None] | None:  # fmt: skip
    """The command's column, those of the keys, and the group's; None after a problem was noted."""
    width = len(lines[0].cells)
    words = _plain(head) if head is not None else ("",) * width
    keys = [place for place, word in enumerate(words) if _KEYS.match(word)]
    systems = [place for place, word in enumerate(words) if word in _SYSTEMS]
    grouped = next((place for place, word in enumerate(words) if _GROUPS.match(word)), None)
    if options.column is not None:
        wanted = options.column.strip().lower()
        keys = [place for place, word in enumerate(words) if word == wanted] or [
            place for place, word in enumerate(words) if wanted in word and word]  # fmt: skip
        if not keys:
            told = ", ".join(cell.strip() for cell in head.cells if cell.strip()) if head else "no headings"
            found.fail(f"no column is called {options.column}; the table has {told}", lines[0].number)
            return None
    elif systems:
        keys = [next((place for place in systems if "linux" in words[place]), systems[0])]
    if head is not None:
        choices = [head.cells[place].strip() for place in dict.fromkeys((*keys, *systems))]
        found.columns += [name for name in choices if name not in found.columns]
    if not keys:
        body = [line for line in lines if line is not head]
        scores = [sum(looks_like_keys(line.cells[place]) for line in body) for place in range(width)]
        keys = [scores.index(max(scores))]
        if max(scores) == 0:
            for line in body:
                found.fail(f"{' | '.join(filter(None, map(str.strip, line.cells)))}: no column of keys", line.number)
            return None
    named = [place for place, word in enumerate(words) if _COMMANDS.match(word) and place not in keys]
    rest = [place for place in range(width) if place not in (*keys, *systems, grouped)]
    if not named and not rest:
        found.fail("no column beside the keys says what they do", lines[0].number)
        return None
    return (named or rest)[0], keys, grouped
