"""The result of a reader: rows, lines that are no key binding, lines that could not be read, and headings.

A reader only gathers candidates. When it is done they are read together: whether a comma stands between steps or alternates,
whether a capital is struck with Shift, and whether a dash is a key or says that there is none, is decided by all rows together.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import Final, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from glimber.core.notation.keys import NotationError
from glimber.core.notation.spelling import NotKeysError, Ways, spell
from glimber.readers.evidence import evidence, other_systems, split_mac_alternates, systems_named
from glimber.readers.source_page import Block
from glimber.readers.ways import blank_of, capitals_of, comma_of, held_capitals_of

WATCHED_EVERY: Final = 200
MOST_CANDIDATES: Final = 200_000
LONGEST_KEYS: Final = 400
LONGEST_COMMAND: Final = 1_000
PROSE: Final = "prose"
"""The reason for leaving out a line of running text begins so."""


class StoppedError(Exception):
    """The reading was stopped by whoever watches it."""


class TooManyError(Exception):
    """More candidates than any list of shortcuts has; ``found`` is what there was up to then."""

    def __init__(self, found: Found) -> None:
        self.found = found
        super().__init__(f"more than {MOST_CANDIDATES:,} rows; expected a list of shortcuts. The rest was not read")


class Options(Struct, frozen=True):
    """``column``: which column has the keys, by its heading, where there are several; ``comma`` and ``capitals``: how they are
    read, where the person has chosen. ``page``: note the source as it can be shown, too.

    ``watch`` is called with the number of candidates so far, every 200; it may raise StoppedError, which ends the reading.
    """

    column: str | None = None
    watch: Callable[[int], None] | None = None
    comma: Literal["steps", "alternates"] | None = None
    capitals: bool | None = None
    page: bool = False
    system: str = "linux"
    """The system whose keys are the rows' own, where a source has those of several."""
    bundles: Mapping[str, tuple[str, ...]] = {}
    """Names that stand for several modifiers, as the folio has them."""


class Row(Struct, frozen=True):
    """A command with its triggers in our notation; without any where the source says it has none. ``keys`` is what stood there,
    ``remark`` what was left out of it, ``note`` what the source says of the command after its name, ``sure`` how likely the
    row is right (0 to 1) and ``doubt`` what speaks most against it, ``system`` the operating system its keys are for, where the
    source has several, ``slow_way`` how the command is reached without keys, where the source says, ``offered`` keys that reach
    it as well and are imported where they are asked for, ``words`` other names of the command, such as the one in English,
    ``keys_of`` its keys on other systems."""

    command: str
    triggers: tuple[str, ...]
    group: str | None
    line: int
    keys: str = ""
    remark: str = ""
    note: str = ""
    sure: float = 1.0
    doubt: str = ""
    system: str | None = None
    slow_way: tuple[str, ...] = ()
    offered: tuple[str, ...] = ()
    words: tuple[str, ...] = ()
    keys_of: tuple[tuple[str, tuple[str, ...]], ...] = ()


class NotBinding(Struct, frozen=True):
    """A row that is about the mouse, the wheel or touch, or no command's keys at all."""

    text: str
    line: int
    why: str
    command: str = ""
    """The command beside it, where there is one: it may be given keys all the same."""


class Problem(Struct, frozen=True):
    """A row that could not be read, and what was expected; line 0 for the whole source. ``command`` and ``keys``: its parts."""

    line: int
    text: str
    command: str = ""
    keys: str = ""


class Heading(Struct, frozen=True):
    """A line that only says what the lines after it are about."""

    text: str
    line: int


class _Candidate(Struct, frozen=True):
    command: str
    keys: str
    group: str | None
    line: int
    ways: Ways | None
    system: str | None = None
    note: str = ""
    elsewhere: tuple[tuple[str, str], ...] = ()


class Found(Struct):
    """Gathers the rows of one source."""

    rows: list[Row] = field(default_factory=list)
    not_bindings: list[NotBinding] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    headings: list[Heading] = field(default_factory=list)
    columns: list[str] = field(default_factory=list)
    """Headings of the columns that could have the keys, the one that was read first."""
    ways: Ways = Ways()
    title: str = ""
    """The source's own title, where it says so."""
    watch: Callable[[int], None] | None = None
    own_system: str = "linux"
    """The system whose keys are the rows' own."""
    mod: str | None = None
    """The modifier that "Mod" stands for: editors' libraries call the one of shortcuts so, Ctrl or Cmd by the system."""
    candidates: int = 0
    joined: set[int] = field(default_factory=set)
    """Lines whose content is part of another line's row."""
    elsewhere: list[tuple[int, int]] = field(default_factory=list)
    """Line and column of cells with the keys of other systems."""
    page: list[Block] = field(default_factory=list)
    """The source as it can be shown, where that was asked for; empty where it cannot be."""
    section_prefix: tuple[range, str] | None = None
    """Lines whose chords are all struck after another one, and that one: a prefix that a text names once."""
    _waiting: list[_Candidate] = field(default_factory=list)

    def add(
        self,
        command: str,
        keys: str,
        group: str | None,
        line: int,
        ways: Ways | None = None,
        system: str | None = None,
        note: str = "",
        elsewhere: Sequence[tuple[str, str]] = (),
    ) -> None:
        """Take one candidate; ``ways`` where the format itself says how keys are written; ``note``: what a column of its own says
        of the command; ``elsewhere``: other systems and the keys there. Raises TooManyError."""
        self._count()
        if self.watch is not None and self.candidates % WATCHED_EVERY == 0:
            self.watch(self.candidates)
        call = _CALL_BELOW.fullmatch(command.strip())
        if call is not None:
            command, note = call[1], note or call[2]
        command, keys = _unquoted(" ".join(command.split())), keys.strip()
        also = _OR_KEYS.match(command)
        if also is not None and evidence(also[1]):
            command, keys = also[2], f"{keys} or {also[1]}"
        if self.mod is not None:
            keys = _MOD.sub(self.mod, keys)
        if ways is None:
            command, keys, others = other_systems(command, keys)
            for name, its in others:
                self._waiting.append(_Candidate(command, its, group or None, line, ways, name, note))
            if others and not keys:
                return
        if system is None and not elsewhere:
            keys, of_mac = split_mac_alternates(keys)
            if of_mac:
                self._waiting.append(_Candidate(command, of_mac, group or None, line, ways, "mac", note))
        if len(keys) > LONGEST_KEYS or len(command) > LONGEST_COMMAND:
            text = f"{command[:40]}: {len(keys)} characters of keys and {len(command)} of a command; too long to be a shortcut"
            self.problems.append(Problem(line, text))
        elif command and (keys or elsewhere):
            self._waiting.append(_Candidate(command, keys, group or None, line, ways, system, note, tuple(elsewhere)))
        elif command:
            self.rows.append(Row(command, (), group or None, line, note=note, system=system))
        elif keys:
            self.problems.append(Problem(line, f"{keys}: no command beside these keys"))

    def settle(self, options: Options = Options()) -> Found:
        """Read what was gathered, all of it in the same way; the same object."""
        self.own_system = options.system
        waiting, self._waiting = self._waiting, []
        if waiting:
            self._read_all(waiting, options)
        self.rows = _of_mac(_with_notes(self.rows))
        self.rows.sort(key=lambda row: row.line)
        return self

    def _read_all(self, waiting: list[_Candidate], options: Options) -> None:
        seen = [one.keys for one in waiting if one.ways is None]
        comma = options.comma or comma_of({one.keys for one in waiting if one.ways is None or one.ways.comma is None})
        capitals = capitals_of(seen) if options.capitals is None else options.capitals
        self.ways = Ways(comma, capitals, blank_of(seen), held_capitals_of(seen))
        no_dash = (sum(keys in ("-", "--") for keys in seen) > 1 and "+" not in seen) or (
            len(seen) > 1 and all(len(k) > 1 for k in seen if k != "-")
        )
        for one in waiting:
            if one.ways is not None and one.ways.comma is None:
                one = replace(one, ways=replace(one.ways, comma=comma))
            self._read(one, no_dash)

    def _read(self, one: _Candidate, no_dash: bool) -> None:
        """Read one candidate into a row, or note why it is none."""
        keys_of, unread = self._keys_of(one)
        if not one.keys:
            self.rows.append(Row(one.command, (), one.group, one.line, "", unread, one.note, system=one.system, keys_of=keys_of))
            return
        if no_dash and one.ways is None and one.keys in ("-", "--"):
            self.rows.append(Row(one.command, (), one.group, one.line, note=one.note, system=one.system))
            return
        meant = one.keys
        try:
            try:
                spelt = spell(one.keys, one.ways or self.ways)
            except NotationError:
                meant = _MISTYPED.sub(lambda match: _MEANT[match[0].lower()], one.keys)
                if meant == one.keys:
                    raise
                spelt = spell(meant, one.ways or self.ways)
        except NotKeysError as error:
            text = f"{one.command}: {' '.join(one.keys.split())}"
            self.not_bindings.append(NotBinding(text, one.line, str(error), one.command))
            return
        except NotationError as error:
            self.problems.append(Problem(one.line, f"{one.command}: {error}", one.command, one.keys))
            return
        remarks = [*spelt.remarks, *([f"read as {meant}"] if meant != one.keys else []), *filter(None, [unread])]
        triggers = tuple(map(str, spelt.triggers))
        if self.section_prefix is not None and one.line in self.section_prefix[0]:
            stem = f"{self.section_prefix[1]} "
            triggers = tuple(its if its.startswith(stem) else stem + its for its in triggers)
        names = _names_beside(one.command, one.keys, len(triggers))
        if names:
            self.rows += [Row(name, (its,), one.group, one.line, one.keys, system=one.system)
                          for name, its in zip(names, triggers, strict=True)]  # fmt: skip
            return
        self.rows.append(
            Row(one.command, triggers, one.group, one.line, one.keys, "; ".join(remarks), one.note, system=one.system,
                keys_of=tuple((system, keys) for system, keys in keys_of if keys != triggers))
        )

    def _keys_of(self, one: _Candidate) -> tuple[tuple[tuple[str, tuple[str, ...]], ...], str]:
        """Return the keys on other systems, and what of them could not be read."""
        found, unread = dict[str, tuple[str, ...]](), list[str]()
        for system, keys in one.elsewhere:
            try:
                triggers = tuple(map(str, spell(keys, one.ways or self.ways).triggers))
            except (NotKeysError, NotationError):
                unread.append(f"{system}: {' '.join(keys.split())} is not read")
                continue
            found |= {id: triggers for id in systems_named(system) if triggers}
        return tuple(found.items()), "; ".join(unread)

    def _count(self) -> None:
        self.candidates += 1
        if self.candidates > MOST_CANDIDATES:
            raise TooManyError(self)

    def fail(self, text: str, line: int = 0) -> Found:
        """Note a problem of the source; the same object, so that a reader can end with it. Raises TooManyError."""
        self._count()
        self.problems.append(Problem(line, text))
        return self

    def leave(self, text: str, line: int, why: str) -> None:
        """Note a line that is no binding. Raises TooManyError."""
        self._count()
        self.not_bindings.append(NotBinding(" ".join(text.split())[:200], line, why))

    def head(self, text: str, line: int) -> None:
        """Note a heading."""
        self.headings.append(Heading(" ".join(text.split())[:200], line))

    def join(self, before: Sequence[str], after: Sequence[str]) -> None:
        """Note the lines that rewriting emptied: what they say is in another one."""
        pairs = enumerate(zip(before, after, strict=True), start=1)
        self.joined |= {number for number, (was, its) in pairs if was.strip() and not its.strip()}

    @property
    def has_rows(self) -> bool:
        """Return True if a command was found, with keys or without."""
        return bool(self.rows or self._waiting)

    @property
    def any(self) -> bool:
        """Return True if there is anything at all."""
        return bool(self.rows or self._waiting or self.not_bindings or self.problems)

    @property
    def sound(self) -> int:
        """Return how many rows have triggers, once it is settled."""
        return sum(bool(row.triggers) for row in self.rows)


_QUOTED: Final = re.compile(r"([\"'`])([^\"'`]{2,})\1")


def _unquoted(command: str) -> str:
    """Return a command without the quotation marks that the whole of it stands in."""
    match = _QUOTED.fullmatch(command)
    return match[2] if match is not None else command


_OR_KEYS: Final = re.compile(r"\(or ([^()]{1,30})\)\s+(\S.*)$")
"""Another way to strike a command, before its name: "(or F1) shows the page"."""
_CALL_BELOW: Final = re.compile(r"(\S[^\n]*?)\s*\n\s*([A-Za-z_]\w*\([^\n]*)")
"""A name, and on a line of its own below it what the program calls for it: "Center cursor", "Center()"."""
_MOD: Final = re.compile(r"\b[Mm]od(?=[-+]\S)")
_SLASH: Final = re.compile(r"\s+/\s+")
_MOST_BESIDE: Final = 4
_SEVERAL: Final = 3
"""So many keys and names with strokes between belong together, however many words a name has."""


def _names_beside(command: str, keys: str, count: int) -> list[str]:
    """Return the names of several commands that stand beside as many keys, "F5 / F6" and "save / render"; none otherwise."""
    names = _SLASH.split(command)
    if not 1 < len(names) == count <= _MOST_BESIDE or len(_SLASH.split(keys)) != count:
        return []
    alike = count >= _SEVERAL or len({len(name.split()) for name in names}) == 1
    return names if alike and len(set(names)) == count else []


_MEANT: Final = {"crtl": "Ctrl", "ctlr": "Ctrl", "cntrl": "Ctrl", "cotrl": "Ctrl", "ctr": "Ctrl", "shfit": "Shift",
                 "shif": "Shift", "shitf": "Shift", "sift": "Shift", "atl": "Alt", "supper": "Super"}  # fmt: skip
_MISTYPED: Final = re.compile(rf"(?i)\b(?:{'|'.join(_MEANT)})\b(?=\s*[+-])")
_KEY_OF_MAC: Final = re.compile(r"\b(?:cmd|command)\b\s*[+-]|⌘", re.I)
_SHORT_NAME: Final = 60
_FULL_STOP: Final = re.compile(r"(?<!\betc)(?<=[^\W\d_]{2}|\w[)\]])\.$")
_END_OF_NAME: Final = re.compile(r"(?<=[^\W\d]{2}[.;:])\s+(?=\S)|\s+[–—]\s+|(?<=[a-z]{2})\.(?=[A-Z][a-z])")


def name_and_note(command: str) -> tuple[str, str]:
    """Split what stands for a command into its name, the first phrase, and the description after that.

    A name of up to 60 characters is taken whole: short ones with a full stop in them are names.
    """
    if len(command) <= _SHORT_NAME:
        return command, ""
    end = _END_OF_NAME.search(command)
    if end is None or end.start() < 4:
        return command, ""
    return command[: end.start()].rstrip(" .;:"), command[end.end() :].strip()


def _of_mac(rows: list[Row]) -> list[Row]:
    """Return the rows, of which those with a Mac's key are a Mac's where the same command has a row without one."""
    without = {row.command.casefold() for row in rows if row.triggers and not _KEY_OF_MAC.search(row.keys)}
    return [
        replace(row, system="mac")
        if row.system is None and row.command.casefold() in without and _KEY_OF_MAC.search(row.keys)
        else row
        for row in rows
    ]


def _with_notes(rows: list[Row]) -> list[Row]:
    """Return the rows with the description after a command's name as its note; a first phrase that several commands share is no
    name. The full stop of a sentence is none of its name."""
    parts = {row.command: name_and_note(row.command) for row in rows if not row.note}
    times = Counter(name.casefold() for name, _ in parts.values())
    sentences = 2 * sum(row.command.endswith(".") for row in rows) > len(rows)
    named = []
    for row in rows:
        name, note = parts.get(row.command, ("", ""))
        if note and times[name.casefold()] == 1:
            named.append(replace(row, command=name, note=note))
        elif sentences or len(row.command.split()) > 2:
            named.append(replace(row, command=_FULL_STOP.sub("", row.command)))
        else:
            named.append(row)
    return named


def decoded(data: bytes) -> str:
    """Return the text of a source: UTF-8 or UTF-16 by its mark, UTF-8 where it is valid, otherwise Windows-1252. Vertical tabs
    are left out: Python takes them for the end of a line, and help files have them for the end of bold type."""
    return _text_of(data).replace("\v", "")


def _text_of(data: bytes) -> str:
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(name, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def for_this_system(found: Found) -> list[Row]:
    """Return the rows without those for other systems where the same command has keys for this one; those are its ``keys_of``."""
    kept = places_for_this_system(found)
    own = set(kept)
    others: dict[str, dict[str, tuple[str, ...]]] = {}
    for place, row in enumerate(found.rows):
        if place not in own and row.triggers:
            for system in systems_named(row.system or ""):
                by_system = others.setdefault(row.command.casefold(), {})
                by_system[system] = tuple(dict.fromkeys((*by_system.get(system, ()), *row.triggers)))
    rows = [found.rows[place] for place in kept]
    same: dict[str, set[str]] = {}
    for row in rows:
        same.setdefault(row.command.casefold(), set()).update(row.triggers)
    for place, row in enumerate(rows):
        by_system = {**others.get(row.command.casefold(), {}), **dict(row.keys_of)}
        keys_of = tuple((system, keys) for system, keys in by_system.items() if set(keys) != same[row.command.casefold()])
        rows[place] = replace(row, keys_of=keys_of) if keys_of != row.keys_of else row
    return rows


def places_for_this_system(found: Found) -> list[int]:
    """Return the places of the rows that ``for_this_system`` keeps: of each command those for its own system, else those for any,
    else those of the system that is nearest to it."""
    best: dict[str, int] = {}
    for row in found.rows:
        key = row.command.casefold()
        best[key] = min(best.get(key, 9), _foreign(row, found.own_system))
    return [place for place, row in enumerate(found.rows) if _foreign(row, found.own_system) == best[row.command.casefold()]]


def _foreign(row: Row, own: str) -> int:
    systems = systems_named(row.system or "")
    if own in systems:
        return 0
    if not systems:
        return 1
    return 3 if own == "mac" or "mac" in systems else 2
