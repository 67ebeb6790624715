"""Tables of cells, whatever they come from: which row is the heading, which column has the keys, what is a group."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.notation.keywords import modifier_named
from glimber.readers import heads
from glimber.readers.evidence import evidence, systems_named
from glimber.readers.found import Found, Options
from glimber.readers.table_modifiers import with_headed_modifier, with_ticked_modifiers

_KEYS: Final = re.compile(
    r"^(?:default |keyboard |shortcut )?(?:short ?-?cuts?|hot ?keys?|keys?|key ?strokes?|key ?bindings?|bindings?|accelerators?|"
    r"press|defaults?|keyboard|key (?:combinations?|combos?|sequences?)|combinations?|alternatives?|alternate|key ?combos?|"
    r"to press)"
    r"(?: keys?)?(?: ?\(s\))?(?: \(.*\)| \d)?$", re.I,
)  # fmt: skip
_SYSTEMS: Final = ("linux", "gnu/linux", "unix", "x11", "windows", "win", "windows/linux", "linux/windows", "windows & linux",
                   "windows / linux", "linux / windows", "windows and linux", "linux and windows", "pc", "mac", "macos", "mac os",
                   "mac os x", "os x", "osx", "macos / ipados", "chromeos")  # fmt: skip
_OF_SYSTEM: Final = re.compile(
    r"^(?:(?P<before>.+?)[ (/:–-]+)?(?P<system>(?:gnu/)?linux|windows|mac ?os(?: x)?|mac|os ?x|pc)"
    r"(?: ?(?:/|&|and|or|,) ?(?:linux|windows|mac ?os(?: x)?|mac|os ?x))*\)?(?:[ :–-]+(?P<after>.+))?$", re.I,
)  # fmt: skip
"""A heading of keys that names the system they are for: "Shortcut (macOS)", "Windows / Linux keys"."""
_COMMANDS: Final = re.compile(r"^(?:commands?|actions?|functions?|descriptions?|operations?|names?|what(?: it does)?|tasks?|"
                              r"features?|effect|result|to do this|does|purpose|meaning|explanation|definition|behaviou?r|"
                              r"command name|function name|(?:menu|toolbar) ?(?:option|item|entry|command|choice)s?|"
                              r"options?)$", re.I)  # fmt: skip
_LONG: Final = re.compile(
    r"^(?:descriptions?|explanation|meaning|what(?: it does)?|help|summary|does|effect|definition)$", re.I
)
_GROUPS: Final = re.compile(
    r"^(?:groups?|categor(?:y|ies)|sections?|menus?|contexts?|areas?|keymaps?|modes?|when|scope)$", re.I
)
_OTHER_SCRIPT: Final = re.compile(r"[^\W\d_\u0000-\u036f]")
"""A letter of another script than Latin."""
_LETTERS: Final = re.compile(r"\S(?: \S){1,2}")
MOST_COLUMNS: Final = 200
_SOME: Final = 0.3
"""The share of its cells that may be keys from which on a column that is headed so has them."""
_PLAIN: Final = frozenset({"", "alone", "plain", "none", "no modifier", "unmodified", "key alone", "key"})


class Line(Struct, frozen=True):
    """One row of cells; ``heading`` where the source itself marks it as one."""

    number: int
    cells: tuple[str, ...]
    heading: bool = False
    keyed: frozenset[int] = frozenset()
    """The cells that are nothing but key caps by the marks of the source."""

    def part(self, at: int, end: int) -> Line:
        """Return the cells from one place to before another."""
        keyed = frozenset(place - at for place in self.keyed if at <= place < end)
        return Line(self.number, self.cells[at:end], self.heading, keyed)


class _Columns(Struct, frozen=True):
    command: int
    keys: tuple[int, ...]
    group: int | None = None
    system: str | None = None
    note: int | None = None
    others: tuple[tuple[str, int], ...] = ()
    """Columns of keys for other systems, with the headings that name them."""
    at: int = 0
    """The column of the whole table that the first one here is."""


def read_table(lines: Sequence[Line], found: Found, options: Options, group: str | None = None) -> None:
    """Add every row of a table to what was found; a table without keys is noted as such."""
    lines = list(filter(_has_text, lines))
    if not lines:
        return
    width = max(len(line.cells) for line in lines)
    if width > MOST_COLUMNS:
        found.fail(f"{width:,} columns; expected a command and its keys", lines[0].number)
        return
    lines = [replace(line, cells=line.cells + ("",) * (width - len(line.cells))) for line in lines]
    if width == 1:
        for line in lines:
            found.fail(f"{line.cells[0].strip()}: only one column; expected a command and its keys", line.number)
        return
    head = next((line for line in lines[:4] if _is_head(line)), None)
    head = head or _unknown_head(lines, width)
    body = [line for line in lines if line is not head]
    if head is not None and _matrix(head, body, found, group):
        return
    ticked = None if head is None else with_ticked_modifiers(head.cells, [line.cells for line in body], names_keys)
    if ticked is not None:
        body = [replace(line, cells=cells) for line, cells in zip(body, ticked, strict=True)]
    headed = None if head is None else with_headed_modifier(head.cells, [line.cells for line in body])
    if head is not None and headed is not None:
        head = replace(head, cells=headed[0])
        body = [replace(line, cells=cells) for line, cells in zip(body, headed[1], strict=True)]
    pairs = _pairs(head, width)
    for at, end in pairs:
        part = [line.part(at, end) for line in body]
        first = head.part(at, end) if head is not None else None
        _read_part(first, list(filter(_has_text, part)), found, options, group, at)


def _has_text(line: Line) -> bool:
    return any(cell.strip() for cell in line.cells)


def _read_part(
    head: Line | None, body: Sequence[Line], found: Found, options: Options, group: str | None, at: int
) -> None:
    if head is not None:
        found.head(" | ".join(cell.strip() for cell in head.cells if cell.strip()), head.number)
    columns = _columns(head, body, found, options)
    if columns is None or not body:
        return
    columns = replace(columns, at=at)
    plain_head = _plain(head) if head is not None else None
    alone = [place for place, line in enumerate(body)
             if line.cells[columns.command].strip() and not _says_keys(line, columns.keys)]  # fmt: skip
    # Groups stand above what they hold, the first of them above everything, and are called by a word: a phrase among the
    # others is a command without keys.
    in_groups = len(alone) > 1 and alone[0] == 0
    for place, line in enumerate(body):
        if plain_head is not None and _plain(line) == plain_head:
            found.head(" | ".join(line.cells), line.number)
            continue
        after = body[place + 1] if place + 1 < len(body) else None
        title = _title_in(line, after, columns, in_groups or place == 0)
        if title is not None:
            group = title
            found.head(group, line.number)
        else:
            _add_row(line, columns, group, found)


def _title_in(line: Line, after: Line | None, columns: _Columns, may_be_phrase: bool) -> str | None:
    """Return the name of the group that a line of a table is, such as one cell over all columns; None for a row."""
    filled = [cell.strip() for cell in line.cells if cell.strip()]
    if len(set(filled)) != 1:
        return None
    command = line.cells[columns.command]
    lone = command.strip() and not _says_keys(line, columns.keys) and after is not None and _says_keys(after, columns.keys)
    # "Delete" beside "Delete" is a command with its key, and no heading over two columns.
    twice = len(filled) == 2 and not line.heading and evidence(filled[0]) > 0
    is_title = line.heading or len(filled) > 1 or (lone and (may_be_phrase or len(command.split()) == 1))
    above_all = bool(command.strip()) and names_keys(command.strip().lower()) and not _says_keys(line, columns.keys)
    return filled[0] if (is_title or above_all) and not twice else None


def _add_row(line: Line, columns: _Columns, group: str | None, found: Found) -> None:
    text = " or ".join(dict.fromkeys(line.cells[at].strip() for at in columns.keys if line.cells[at].strip()))
    own = line.cells[columns.group].strip() if columns.group is not None else ""
    note = " ".join(line.cells[columns.note].split()) if columns.note is not None else ""
    elsewhere = [(system, line.cells[place]) for system, place in columns.others if line.cells[place].strip()]
    found.elsewhere += [(line.number, columns.at + place) for _, place in columns.others if line.cells[place].strip()]
    found.add(line.cells[columns.command], text, own or group, line.number, None, columns.system, note, elsewhere)


def _unknown_head(lines: Sequence[Line], width: int) -> Line | None:
    """Return the first row, where it is no keys itself and what stands under it is: a heading in words that are not known
    here."""
    if len(lines) < 2 or _Looks(lines, width).keyed():
        return None
    below = _Looks(lines[1:], width).keyed()
    return lines[0] if below and not evidence(lines[0].cells[below[0]]) else None


def _plain(line: Line) -> tuple[str, ...]:
    return tuple(" ".join(cell.lower().rstrip(":").split()) for cell in line.cells)


def _is_head(line: Line) -> bool:
    words = [word for word in _plain(line) if word]
    named = sum(names_keys(word) or names_commands(word) or word in _SYSTEMS or _names_keys_of_system(word) for word in words)
    modifiers = sum(modifier_named(word) is not None for word in words)
    return len(words) > 1 and (
        named >= 2 or (line.heading and named >= 1) or (line.heading and modifiers >= 2 and modifiers >= len(words) - 2)
    )


def names_keys(word: str) -> bool:
    """Return True if a heading, in small letters, is one of keys."""
    return bool(_KEYS.match(word)) or word in heads.OTHER_KEYS or heads.names_keys(word)


def _names_keys_of_system(word: str) -> bool:
    """Return True if a heading is one of keys, of a system that it names."""
    match = _OF_SYSTEM.match(word)
    rest = [part for part in (match["before"], match["after"]) if part] if match is not None else []
    return bool(rest) and all(names_keys(part.strip(" ()")) for part in rest)


def names_commands(word: str) -> bool:
    """Return True if a heading, in small letters, is one of commands or of what they do."""
    return bool(_COMMANDS.match(word)) or word in heads.COMMANDS


def _says_keys(line: Line, keys: Sequence[int]) -> bool:
    return any(line.cells[place].strip() for place in keys)


def _pairs(head: Line | None, width: int) -> list[tuple[int, int]]:
    """Return the parts of a table that stands beside itself: key, action, key, action."""
    words = _plain(head) if head is not None else ()
    for size in range(2, width // 2 + 1):
        if width % size == 0 and words and all(words[at] == words[at % size] for at in range(width)):
            return [(at, at + size) for at in range(0, width, size)]
    return [(0, width)]


def _matrix(head: Line, body: Sequence[Line], found: Found, group: str | None) -> bool:
    """Return keys down, modifiers across, commands in the cells: a row for each cell. Whether the table was one."""
    words = _plain(head)
    held = [modifier_named(word) if "+" not in word else word for word in words[1:]]
    held = [name or ("" if word in _PLAIN else None) for name, word in zip(held, words[1:], strict=True)]
    if len(held) < 2 or any(name is None for name in held) or not any(held):
        return False
    if sum(evidence(line.cells[0]) > 0 for line in body) < 0.6 * len(body):
        return False
    for line in body:
        key = line.cells[0].strip()
        for name, cell in zip(held, line.cells[1:], strict=True):
            if cell.strip() and cell.strip() not in ("-", "–", "—"):
                found.add(cell, f"{name}+{key}" if name else key, group, line.number)
    return True


def _columns(head: Line | None, body: Sequence[Line], found: Found, options: Options) -> _Columns | None:
    """Return the command's column, those of the keys, and the group's; None after it was noted why there is none."""
    lines = body or ([head] if head is not None else [])
    words = _plain(head) if head is not None else ("",) * len(lines[0].cells)
    systems = _systems_in(words)
    looks = _Looks(body, len(words))
    keys = _columns_of_keys(head, words, systems, looks, found, options)
    if keys is None:
        there = ", ".join(_filled(head)) if head else ""
        found.fail(f"no column is called {options.column}; the table has {there or 'no headings'}", lines[0].number)
        return None
    if not keys:
        for line in body:
            found.leave(" | ".join(_filled(line)), line.number, "no column of keys")
        return None
    grouped = next((place for place, word in enumerate(words) if _GROUPS.match(word) or word in heads.GROUPS), None)
    beside = [place for place in range(len(words)) if place not in (*keys, *systems)]
    grouped = None if beside == [grouped] else grouped  # "Menu" alone beside the keys is what they do
    rest = [place for place in beside if place != grouped]
    command, note = _command_columns(words, rest, looks)
    if command is None:
        found.fail("no column beside the keys says what they do", lines[0].number)
        return None
    system = words[keys[0]] if keys[0] in systems else None
    others = [(words[place], place) for place in systems if place not in keys and looks.share(place) >= _SOME]
    return _Columns(command, tuple(keys), grouped, system, note, tuple(others))


def _columns_of_keys(
    head: Line | None, words: Sequence[str], systems: Sequence[int], looks: _Looks, found: Found, options: Options
) -> list[int] | None:
    """Return the columns of the keys, by their heads or by their look; None where the one that is asked for is not there."""
    named = [place for place, word in enumerate(words) if names_keys(word) and place not in systems]
    asked = _called(words, options.column) if options.column is not None else None
    if asked == []:
        return None
    by_head = asked or _keys_by_head(words, named, looks) or _of_this_system(words, systems, looks, options.system)
    keys = looks.without_parts(by_head or [place for place in looks.keyed() if place not in systems])
    if head is not None and keys:
        _note_choices(head, [place for place in dict.fromkeys((*keys, *named, *systems)) if place in (*named, *systems)], found)
    return keys


def _note_choices(head: Line, places: Sequence[int], found: Found) -> None:
    """Note the headings of the columns that could have the keys."""
    choices = [head.cells[place].strip() for place in places]
    found.columns += [name for name in choices if name not in found.columns]


def _filled(line: Line) -> list[str]:
    return [cell.strip() for cell in line.cells if cell.strip()]


def _systems_in(words: Sequence[str]) -> list[int]:
    """Return the columns of keys that name the system they are for: several, or a Mac's beside one for all others."""
    systems = [place for place, word in enumerate(words) if word in _SYSTEMS or _names_keys_of_system(word)]
    rest = [word for place, word in enumerate(words) if place not in systems]
    beside = all("mac" in systems_named(words[place]) for place in systems) and any(map(names_keys, rest))
    return systems if len(systems) > 1 or beside or all(words[place] in _SYSTEMS for place in systems) else []


def _called(words: Sequence[str], column: str) -> list[int]:
    """Return the columns of a name, or whose name has it."""
    wanted = column.strip().lower()
    return [place for place, word in enumerate(words) if word == wanted] or [
        place for place, word in enumerate(words) if wanted in word and word]  # fmt: skip


def _keys_by_head(words: Sequence[str], named: Sequence[int], looks: _Looks) -> list[int]:
    """Return the columns whose heads say that they have keys, and that look so; none where there are only second ones. Where no
    column looks so, what is called keys is meant to be some: each line then says what is wrong with them."""
    keys = [place for place in named if looks.share(place) >= _SOME or words[place] in heads.OTHER_KEYS]
    keys = keys or ([] if looks.keyed() else list(named))
    return keys if any(words[place] not in heads.OTHER_KEYS for place in keys) else []


def _of_this_system(words: Sequence[str], systems: Sequence[int], looks: _Looks, own: str) -> list[int]:
    """Return the column of keys for a system: its own, then any that is no Mac's, then the first."""
    keyed = [place for place in systems if looks.share(place) >= _SOME]
    best = next((place for place in keyed if own in systems_named(words[place])), None)
    other = next((place for place in keyed if "mac" not in systems_named(words[place])), None)
    return [place for place in (best, other, *keyed) if place is not None][:1]


def _command_columns(words: Sequence[str], rest: Sequence[int], looks: _Looks) -> tuple[int | None, int | None]:
    """Of the columns that are left the one that names what the keys do, which is headed so or says most, and the one that
    describes it."""
    named = [place for place in rest if names_commands(words[place])]
    described = next((place for place in rest if _LONG.match(words[place])), None)
    command = next((place for place in named if place != described), None)
    if command is not None:  # a heading over several columns is one of menus too: the command is what tells rows apart
        command = max((place for place in named if words[place] == words[command]), key=looks.variety)
    if command is not None:
        if described is not None and words[described].isascii() and _OTHER_SCRIPT.search(words[command]):
            return described, command  # a page in two languages: English names the commands, as on screen
        return command, described
    if named:
        return named[0], None
    fullest = max(map(looks.filled, rest), default=0)
    return max((place for place in rest if looks.filled(place) >= 0.5 * fullest), key=looks.length, default=None), None


class _Looks:
    """The evidence that each column is keys, from at most the first 400 rows of a table."""

    def __init__(self, body: Sequence[Line], width: int) -> None:
        self._body = body[:400]
        filled = [[line for line in self._body if line.cells[place].strip()] for place in range(width)]
        self._cells = [[line.cells[place].strip() for line in lines] for place, lines in enumerate(filled)]
        self._evidence = [
            [2 if place in line.keyed else evidence(line.cells[place].strip()) for line in lines]
            for place, lines in enumerate(filled)
        ]

    def variety(self, place: int) -> int:
        """Return how many different cells a column has."""
        return len(set(self._cells[place]))

    def share(self, place: int) -> float:
        """Return which part of the cells may be keys."""
        seen = self._evidence[place]
        return sum(one > 0 for one in seen) / len(seen) if seen else 0.0

    def keyed(self) -> list[int]:
        """Return the column without a heading for keys that has them: most cells are like keys, and several surely are."""
        found = []
        for place, seen in enumerate(self._evidence):
            strong = sum(one == 2 for one in seen)
            if seen and self.share(place) >= 0.6 and (strong >= max(1.0, 0.2 * len(seen)) or self._share_first_letter(place)):
                found.append(place)
        best = max(found, key=lambda place: (self.share(place), sum(self._evidence[place])), default=None)
        return [] if best is None else [best]

    def _share_first_letter(self, place: int) -> bool:
        """Return True for a column of letters with a blank between, most of which begin with the same one: "W a", "W b"."""
        stems = [cell[0] for cell in self._cells[place] if _LETTERS.fullmatch(cell)]
        most = max(map(stems.count, set(stems)), default=0)
        return most >= 3 and most >= 0.6 * len(self._cells[place])

    def without_parts(self, places: Sequence[int]) -> list[int]:
        """Return the columns without those that only repeat the end of another's keys: the last key beside the whole sequence."""
        found = list(places)
        for place in places:
            for other in found:
                pairs = [(part, whole) for part, whole in self._pairs(place, other) if part and whole]
                longer = sum(len(whole) > len(part) for part, whole in pairs)
                if place != other and longer and sum(whole.endswith(part) for part, whole in pairs) >= 0.9 * len(pairs):
                    found.remove(place)
                    break
        return found

    def _pairs(self, one: int, other: int) -> list[tuple[str, str]]:
        return [(line.cells[one].strip(), line.cells[other].strip()) for line in self._body]

    def filled(self, place: int) -> int:
        """Return how many cells of a column have a text."""
        return len(self._cells[place])

    def length(self, place: int) -> float:
        cells = self._cells[place]
        return sum(map(len, cells)) / len(cells) if cells else 0.0
