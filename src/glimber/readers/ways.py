"""Readings that the spellings of a source leave open, decided by all of its rows together: capitals, commas and blanks."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from typing import Final, Literal

from glimber.core.notation.spelling import WHOLE_CHORD, is_whole

_LETTER: Final = re.compile(r"(?<![\w+<-])[A-Za-z](?![\w+>-])|(?<=<)[A-Za-z](?=>)")
_WITH_ALT: Final = re.compile(r"(?<!\w)(?:[AaMm]-|(?:Alt|Meta)\s*[+-]\s*)([A-Za-z])(?!\w)")
_WITH_CTRL: Final = re.compile(r"(?<![\w-])(?:[Cc]|Ctrl|Control)-([A-Za-z])(?![\w-])")
"""With a dash alone: "Ctrl+S" and "Ctrl+s" are the same in pages that are not careful."""
_WITH_CTRL_AND_PLUS: Final = re.compile(r"(?<![\w-])(?:Ctrl|Control)\+([A-Za-z])(?![\w+-])", re.I)
_RARE: Final = 10
"""Letters for each capital from which on a source is careful about them: then one of them tells."""
_SEVERAL: Final = 3
_ROWS_THAT_TELL: Final = 6
_MOST_ALIKE: Final = 2
_COMMA: Final = re.compile(r"(?<![+,\s]),\s+|(?<=[A-Za-z0-9\]]),(?=[A-Za-z<])")
_HELD: Final = re.compile(
    r"\b(?:ctrl|control|alt|shift|super|cmd|command|meta|win|option)\b|[⌘⇧⌃⌥]|\^(?=\S)|\b[CMA]-", re.I
)


def capitals_of(seen: Iterable[str]) -> bool | None:
    """Return True if a bare capital is struck with Shift in a source: so it is where small letters stand alone as well, the
    same ones or several."""
    letters = {letter for keys in seen if len(keys) <= 40 and len(keys.split()) < 5 for letter in _LETTER.findall(keys)}
    small = {letter for letter in letters if letter.islower()}
    if len(small) == len(letters):
        return None
    return len(small) >= _SEVERAL or any(letter.upper() in letters for letter in small) or len(small) * 2 >= len(letters)


def held_capitals_of(seen: Iterable[str]) -> frozenset[str]:
    """Return the modifiers that make another chord with a capital than with the small letter in a source: "<a-o>" and "<a-O>".
    With Ctrl, which many write with capitals, two letters must tell, and capitals be the fewer: "Control-p" and "Control-P"."""
    short = [keys for keys in seen if len(keys) <= 40]
    with_alt, with_ctrl = ({letter for keys in short for letter in pattern.findall(keys)} for pattern in (_WITH_ALT, _WITH_CTRL))
    capitals = {letter for letter in with_ctrl if letter.isupper()}
    found = {"Alt"} if _in_both_cases(with_alt) else set[str]()
    told = _in_both_cases(with_ctrl) > 1 and 2 * len(capitals) < len(with_ctrl)
    with_plus = {letter for keys in short for letter in _WITH_CTRL_AND_PLUS.findall(keys)}
    rare = [letter for letter in with_plus if letter.isupper()]
    told |= _in_both_cases(with_plus) == 1 and len(with_plus) >= _RARE * len(rare)
    return frozenset(found | {"Ctrl"} if told else found)


def _in_both_cases(letters: Collection[str]) -> int:
    return sum(letter.isupper() and letter.lower() in letters for letter in letters)


def comma_of(seen: Iterable[str]) -> Literal["steps", "alternates"] | None:
    """Return what a comma stands between in a source, from the different keys in it; None where they do not tell.

    Between steps the same chord begins several rows; between alternates more than three keys stand in a row, or named keys and
    letters without any modifier, or nearly every row begins with another chord."""
    first, every, begun = Counter[str](), Counter[str](), Counter[str]()
    alternates = 0
    for keys in seen:
        if len(keys) > 120:
            continue
        pieces = _COMMA.split(keys)
        if len(pieces) < 2:
            continue
        begun[pieces[0].strip()] += 1
        if all(WHOLE_CHORD.fullmatch(piece) for piece in pieces):
            every[pieces[0].lower()] += 1
        if _HELD.search(pieces[0]):
            first[pieces[0].lower()] += 1
        alternates += len(pieces) > 3 or not any(_HELD.search(piece) for piece in pieces)
    if begun.total() >= _ROWS_THAT_TELL and max(begun.values()) <= _MOST_ALIKE:
        return "alternates"
    stems = sum(count for count in first.values() if count > 1)
    if not alternates and not stems:
        return "alternates" if len(every) > 1 and max(every.values()) == 1 else None
    return "steps" if stems > alternates else "alternates"


def blank_of(seen: Iterable[str]) -> Literal["alternates"] | None:
    """Return "alternates" where keys with a blank between are no steps in a source: three of them, a key of the pad or other
    modifiers in one row, and no chord that begins several rows of two, as a stem would."""
    first: Counter[str] = Counter()
    count = 0
    for keys in seen:
        words = keys.split() if len(keys) <= 120 else []
        if len(words) == 2 and WHOLE_CHORD.fullmatch(words[0]):
            first[words[0].lower()] += 1
        count += _has_several_names(words) or _has_chords_apart(words)
    return "alternates" if count and max(first.values(), default=0) <= 1 else None


def _has_several_names(words: Sequence[str]) -> bool:
    """Return True for two keys by their names and a third one: no sequence has so many."""
    named = [word for word in words if len(word) > 1]
    return len(words) > 2 and len(named) > 1 and all(is_whole(word) and not WHOLE_CHORD.fullmatch(word) for word in named)


def _has_chords_apart(words: Sequence[str]) -> bool:
    """Return True for chords that are no steps: three of them, with other modifiers each, or with a key of the pad."""
    if len(words) < 2 or not all(map(is_whole, words)) or not any(map(WHOLE_CHORD.fullmatch, words)):
        return False
    held = {word.rpartition("+")[0].lower() for word in words}
    return len(words) > 2 or len(held) > 1 or any("kp_" in word.lower() for word in words)
