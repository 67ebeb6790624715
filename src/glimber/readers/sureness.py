"""The sureness of a row: from its command, from how its keys were spelt, and from the other rows of its source.

Each doubt multiplies. The factors were set on the labelled references by the share of rows that were wrong with each sign.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator
from collections.abc import Sequence as SequenceOf
from itertools import groupby
from math import prod
from typing import Final

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.notation.keys import Chord, NotationError, Sequence, Trigger, parse_trigger
from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.evidence import evidence, is_strong
from glimber.readers.found import Row

SURE: Final = 0.5
"""Rows from here on are taken in without being asked about."""
_OTHER_SYSTEM: Final = re.compile(r"(?i)\b(?:mac|macos|os x|osx|windows|win|linux|unix|x11)\b")
_TITLE: Final = re.compile(r"[A-Z][a-z]+[.,:;]?$")
_INSTRUCTS: Final = re.compile(r"(?:press|hold|hit)(?: down)?(?: the key| the keys| to| or| and|,|$)", re.I)
"""A sentence with a hole where its keys stood: "Press the key or choose a sheet"."""
_NO_WORD: Final = re.compile(r"[^A-Za-zÀ-￿]*")
_TORN: Final = re.compile(r"[\"'(\[{]\W*$|^['\")\]}]\W?\w|[,=]$")
"""A command that was cut off within quotes, brackets or a list."""
_CHORD_WITHIN: Final = re.compile(r"(?i)(?<!\S)(?:ctrl|shift|alt|super|sh|cmd)[+-]\S+")
_LETTER_BEFORE: Final = re.compile(r"(?:[a-zB-HJ-Z0-9]|\^[A-Z]) [A-Z][a-z]")
"""The first of several keys, taken for a part of the command: "a Raise the gain"."""
_CODE_FIRST: Final = re.compile(r"\(?0x[0-9A-Fa-f]+\b")
"""A table of the codes of keys: "KEY_F2  0x213  /* F2 */"."""
_NUMBER: Final = re.compile(r"(?:0x)?\d[0-9A-Fa-f]+")
_OPEN: Final = {"'": "'", '"': '"', "`": "'", "‘": "’", "“": "”", "(": ")", "[": "]", "{": "}", "<": ">"}
_STROKES: Final = frozenset("|–—•·")
_SIGNS_BEFORE: Final = frozenset("#'\"(")
_IDENTIFIER: Final = re.compile(r"[a-z]+(?:[_-][a-z]+)+|[A-Z][a-z]+[A-Z][A-Za-z]+")
_POINTED: Final = re.compile(r": it is done with the mouse$")
_PLUS_OPTION: Final = re.compile(r"\+[a-z]{2,}")
_CHOICE: Final = re.compile(r"-? ?\d{1,2}")
_FEW: Final = 5
_MOSTLY: Final = 0.5
_LONG_COMMAND: Final = 140
_MANY_ALTERNATES: Final = 4


_Doubt = tuple[float, str]
"""The chance that a row is right in spite of a sign, and the sign in words."""


def with_sureness(rows: SequenceOf[Row]) -> list[Row]:
    """Return the rows of one source with ``sure`` set, and ``doubt`` where one is less than sure."""
    read = [_parsed(row) for row in rows]
    whole = _whole_of(rows, read)
    found = []
    for place, (row, triggers) in enumerate(zip(rows, read, strict=True)):
        own = (row.sure, row.remark or "its source is not sure of it")
        doubts = [own, _of_command(row), *_beside_others(row, triggers, whole)]
        if place in whole.numbers and whole.strong < _MOSTLY:
            doubts.append((0.45, "it stands in a list of numbers"))
        sure = round(prod(factor for factor, _ in doubts), 3)
        found.append(replace(row, sure=sure, doubt=min(doubts)[1] if sure < SURE else ""))
    return found


class _Whole(Struct, frozen=True):
    """A source as a whole, by which each of its rows is judged."""

    rows: int
    strong: float
    """The share of rows with keys that only keys look like."""
    likely: float
    claims: dict[tuple[str | None, str], set[str]]
    """The commands that have the same keys, by group and trigger."""
    times: Counter[tuple[str | None, str]]
    """Each name in its group, with the number of rows that have it: in another group, such as a window, it may stand again."""
    stems: Counter[Chord]
    numbers: frozenset[int]
    """The places of rows in lists of numbers."""


def _whole_of(rows: SequenceOf[Row], read: SequenceOf[SequenceOf[Trigger] | None]) -> _Whole:
    keyed = [_weight(row, triggers) for row, triggers in zip(rows, read, strict=True) if row.triggers]
    claims: defaultdict[tuple[str | None, str], set[str]] = defaultdict(set)
    for row in rows:
        for trigger in row.triggers:
            claims[row.group, trigger].add(row.command.casefold())
    stems = Counter(trigger.chords[0] for triggers in read for trigger in set(triggers or ())
                    if isinstance(trigger, Sequence) and len(trigger.chords) > 1)  # fmt: skip
    return _Whole(
        len(rows),
        sum(weight == 2 for weight in keyed) / len(keyed) if keyed else 0.0,
        sum(weight > 0 for weight in keyed) / len(keyed) if keyed else 0.0,
        claims,
        Counter((row.group, row.command.casefold()) for row in rows),
        stems,
        _numbered(rows),
    )


def _numbered(rows: SequenceOf[Row]) -> frozenset[int]:
    """Return the places of rows that stand together and have numbers for keys, one of them 0, 1 or -1: choices of an option."""
    found: set[int] = set()
    for is_number, run in groupby(range(len(rows)), key=lambda place: _CHOICE.fullmatch(rows[place].keys) is not None):
        places = list(run)
        if is_number and len(places) > 1 and any(rows[place].keys.strip("- ") in ("0", "1") for place in places):
            found.update(places)
    return frozenset(found)


def _beside_others(row: Row, triggers: SequenceOf[Trigger] | None, whole: _Whole) -> list[_Doubt]:
    """Return what speaks against a row by its keys and by the rows around it."""
    doubts: list[_Doubt] = []
    if row.triggers:
        doubts += _of_keys(row, triggers)
        doubts += _of_stems(triggers or (), whole.stems) if whole.rows > _FEW else []
        weight = _weight(row, triggers)
        if weight == 0:
            doubts.append((0.6 + 0.35 * (1.0 - whole.likely), "its keys are not spelt like the others here"))
        elif weight == 1:
            doubts.append((0.85 + 0.15 * whole.strong, "its keys are letters or signs alone"))
        if any(len(whole.claims[row.group, trigger]) > 2 for trigger in row.triggers):
            doubts.append((0.6, "several commands here have these keys"))
    times = whole.times[row.group, row.command.casefold()]
    if times > _MANY_ALTERNATES:
        doubts.append((0.5, f"this name stands here {times} times"))
    return doubts


def _of_command(row: Row) -> _Doubt:
    command = row.command
    if _NO_WORD.fullmatch(command) or _CODE_FIRST.match(command):
        return 0.15, "the command is a number or a sign"
    if len(command) == 1 or modifier_named(command) is not None or evidence(command) == 2:
        # An identifier such as page_up, or "escape" on Escape, is a name all the same.
        named = _IDENTIFIER.fullmatch(command) or key_named(command) in row.triggers
        return (0.8 if named and len(command) > 1 else 0.3), "the command is spelt like keys"
    if _TORN.search(command) or any(command.count(one) != command.count(other) for one, other in ("()", "[]")):
        return 0.4, "the command is cut off"
    if _CHORD_WITHIN.match(command) or _LETTER_BEFORE.match(command):
        return 0.4, "the command begins with keys"
    if _INSTRUCTS.match(command):
        return 0.4, "the command is a sentence around keys"
    if key_named(command) is not None:
        return 0.6, "the command is a key's name"  # "Pause", "Home" and "Delete" are commands as well
    return (0.7, "the command is very long") if len(command) > _LONG_COMMAND else (0.98, "")


def _of_stems(triggers: SequenceOf[Trigger], stems: Counter[Chord]) -> list[_Doubt]:
    """Return the doubts of sequences: others begin with the same keys, unless what was read as steps are alternates."""
    doubts: list[_Doubt] = []
    for trigger in triggers:
        if not isinstance(trigger, Sequence):
            continue
        first, *rest = trigger.chords
        if not rest:
            if first.modifiers and stems[first] >= _FEW:
                doubts.append((0.45, f"{stems[first]} sequences here begin with these keys"))
            continue
        letters = all(len(chord.key) == 1 and not chord.modifiers for chord in trigger.chords)
        if stems[first] == 1 and not letters and any(chord != first for chord in rest):
            doubts.append((0.45, "no other keys here begin so: they may be one or the other"))
    return doubts


def _parsed(row: Row) -> list[Trigger] | None:
    """Return a row's triggers as values; None where one of them is none of ours."""
    try:
        return [parse_trigger(trigger) for trigger in row.triggers]
    except NotationError:
        return None


def _weight(row: Row, triggers: SequenceOf[Trigger] | None) -> int:
    """Return how much the text of the keys looks like keys, as ``evidence`` does; most rows need not be spelt again for that."""
    if not row.keys:
        return 0
    return 2 if triggers and not row.remark and any(map(is_strong, triggers)) else evidence(row.keys)


def _of_keys(row: Row, triggers: SequenceOf[Trigger] | None) -> list[_Doubt]:
    if triggers is None:
        return [(0.3, "the keys are none that Glimber can name")]
    doubts: list[_Doubt] = []
    if row.remark and not _OTHER_SYSTEM.search(row.remark):
        # What is done with the mouse is left out of keys that were read well.
        doubts.append((0.8 if _POINTED.search(row.remark) else 0.45, row.remark))
    if len(row.triggers) > _MANY_ALTERNATES:
        doubts.append((0.6, f"it has {len(row.triggers)} keys"))
    for trigger in triggers:
        if isinstance(trigger, Sequence):
            doubts += _of_sequence(row, trigger)
    return doubts


def _of_sequence(row: Row, trigger: Sequence) -> Iterator[_Doubt]:
    if all(modifier_named(chord.key) is not None for chord in trigger.chords):
        yield 0.45, "its key is a modifier alone"
    first, *rest = trigger.chords
    if first.key in _SIGNS_BEFORE and not first.modifiers and any(chord.modifiers or len(chord.key) > 1 for chord in rest):
        yield 0.4, f"{first.key} may stand before its keys"
    if rest and _PLUS_OPTION.fullmatch(row.keys):
        yield 0.45, "it may be an option of a command line"
    if rest and _NUMBER.fullmatch(row.keys):
        yield 0.4, "its keys may be a number"
    if rest and first.key in _OPEN and trigger.chords[-1].key == _OPEN[first.key]:
        yield 0.3, "its keys stand in quotes or brackets"
    elif rest and first.key in _STROKES and not first.modifiers:
        yield 0.4, f"{first.key} may stand between keys"
    bare = [chord for chord in trigger.chords
            if chord.modifiers in ((), ("Shift",)) and len(chord.key) == 1 and chord.key.isalpha()]  # fmt: skip
    if len(bare) >= 3 or (len(bare) > 1 and _TITLE.match(row.keys)):
        yield 0.3, "the keys may be a word"
    elif len(trigger.chords) > 2:
        yield 0.7, f"the keys are {len(trigger.chords)} steps"
