"""A line of text that has a command and its keys: which part is which."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.core.notation.cleaning import MODS
from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.evidence import alternates, evidence

_MEANT: Final = re.compile(
    r"(?:ctrl|control|strg|crtl|ctlr|cntrl|shfit|atl|alt|shift|super|cmd|command|meta|win|option)\s?\+\s?\S{0,20}"
    r"(?:\s?\+\s?\S{0,20}){0,3}$", re.I,
)  # fmt: skip
"""The beginning of a chord, whatever key it names."""
COLUMNS: Final = re.compile(r"\t+| {2,}")
"""The gap between columns."""
_SPLITS: Final = (
    COLUMNS,
    re.compile(r"\s+(?:—|–|-{1,3}|={1,2}|-{1,2}>|={1,2}>|→|::|~)\s+"),
    re.compile(r"(?<=\S)\s*:\s+"),
    re.compile(r"\s*\.{3,}\s*"),
    re.compile(r"\s*[|│]\s*"),
)
_NUMBER: Final = re.compile(r"\d{1,4}")
_MOST_WORDS: Final = 40
LONGEST_LINE: Final = 600
_DEFAULT: Final = re.compile(
    r"^(.*?)\s*\((?:by )?(?:default(?: keys?)?|keys?|shortcuts?|bound to)s?:?\s+(\S.*?)\)\s*\.?$", re.I
)
"""Such as "open (default key: ENTER)", "updir (default 'h' and '<left>')"."""
_IN_QUOTES: Final = re.compile(r"(?<![^\s,/])[\"'‘“](\S|\S[^\s\"'‘’“”]*)[\"'’”](?![^\s,/.)])")
_IN_BRACKETS: Final = re.compile(r"^([A-Z\u00c0-\uffff][^().:,;|\t]{1,48}?) ?\(([^()]{1,30})\)$")
"""The name of a command with its keys in brackets: "Save sheet (Ctrl+S)"."""
_BINDS: Final = re.compile(r"^(?:[nivxc]?(?:nore)?map|bind(?:sym|key|-key)?)\s+(\S+)\s+(\S.*)$")
_ASKS: Final = frozenset("press hit use type strike".split())
_KEY_AND_NAME: Final = re.compile(r"(F\d{1,2}|\^\S) (\S.*)$")
_SURE: Final = re.compile(
    r"[+⌘⇧⌃⌥]|\^\S|\bF\d|\b(?:ctrl|control|alt|shift|super|cmd|esc|pgup|pgdn|[CM]-\S)\b|\bmod[1-5]?-\S|<[A-Za-z-]+>", re.I
)
_CHORD: Final = re.compile(rf"(?:{MODS}|[CMS])[+-]\S", re.I)
_GOES_ON: Final = re.compile(
    r"(?:\b(?:the|a|an|for|with|press|pressing|or|and|to|by|is|of|in|on|using|via|hit|that)|[,(])$", re.I
)
_TAG: Final = re.compile(r"^\|\S+\|\s+(?=\S)|\s+(?:\|\S+\||\*\S+\*)$")
"""A help file's tags, before or after a line: |like-this|, *or-this*."""
NAME_OF_COMMAND: Final = re.compile(r"[^\W\d_]{3,}(?:[_-][^\W\d_]+)*")
_BEGINS_SENTENCE: Final = re.compile(r"(?:if|in|on|is|it|of|to|as|at|be|an|or|so|no|we|do|by|the|for|not|and)\b(?![+-])", re.I)
"""A word of sentences that letters struck one after the other would spell, too."""
_TITLE: Final = re.compile(r"[A-Z][\w'()/-]*[a-z][\w'()/-]*(?: [\w'()/,-]+){0,7}")
"""The name of a command as a menu has it."""
_MOST_IN_A_CELL: Final = 12
_BEFORE_ASSIGNED: Final = re.compile(r"[,;]\s+(?=[^\s=,;](?:[^=,;]{0,24}[^\s=,;])?\s+=\s)")
_ASSIGNED: Final = re.compile(r"([^\s=](?:[^=]{0,24}[^\s=])?)\s+=\s+(\S.*)")
"""Keys that are set to what they do, several on a line: "m = marker, Shift+m = next marker"."""
_LAST_DASH: Final = re.compile(r"(?<=[\w)]) [–—-]$")
"""The sign between a command in two columns and its keys."""
OPTION: Final = re.compile(r"^(?:--?|-/\+|\+/-)[A-Za-z]")


_KEYS_AND_BARS: Final = re.compile(r"\w\|[\w^+-]+|(?:[\w^+-]+\|){2,}[\w^+-]+")
_DOTS: Final = re.compile(r"…|\.{2,3}")


def split_pair(body: str) -> tuple[str, str] | None:
    """Return a line's command and keys, whichever comes first; None for a line that is no pair."""
    if len(body) > LONGEST_LINE:
        return None
    body = _TAG.sub("", body)
    if (_DOTS.search(body) or _KEYS_AND_BARS.fullmatch(body)) and evidence(body) == 2:
        return None  # the dots are those of a range, the bars those between alternates: they lead to no keys
    default = _DEFAULT.match(body)
    if default is not None and evidence(bare := _IN_QUOTES.sub(r"\1", default[2])):
        return default[1].strip(" :-–—"), bare
    binds = _BINDS.match(body)
    if binds is not None and evidence(binds[1]):
        return binds[2], binds[1]
    noted = _IN_BRACKETS.match(body)
    if noted is not None and not re.search(r" {2}| [–—-] ", noted[1]) and evidence(noted[2]) == 2 and not evidence(noted[1]):
        return noted[1], noted[2]
    for split in _SPLITS:
        pair = _of_parts(_parts(split, body), body, is_leader=split is _SPLITS[3])
        if pair is not None:
            return pair
    return _blank_between(body)


def _parts(split: re.Pattern[str], body: str) -> list[str]:
    parts = [
        re.sub(r"^(?:[=:–—]|-{1,3})\s+(?=\S)", "", part.strip(" |│") or part)
        for part in split.split(body)
        if part.strip(" |│=:") or part == ":" or (split is COLUMNS and part in ("|", "="))
    ]
    if len(parts) > 1 and len(parts[0]) > 2 and parts[0].endswith(":") and evidence(bare := parts[0][:-1].rstrip()):
        parts[0] = bare
    if len(parts) > 2 and evidence(parts[0]) == 2:
        return [parts[0], *(part for part in parts[1:] if not _NUMBER.fullmatch(part))]  # a page, or how often
    return parts


def _of_parts(parts: list[str], body: str, is_leader: bool) -> tuple[str, str] | None:
    """Return the command and the keys of a line in parts. ``is_leader``: dots lead from a name to its keys."""
    if len(parts) < 2:
        return None
    if len(parts) > 2 and parts[-2].endswith(",") and evidence(parts[-2][:-1]) and evidence(parts[-1]):
        parts = [*parts[:-2], f"{parts[-2]} {parts[-1]}"]  # alternates with more than a blank between
    if len(parts) > 2 and all(len(one) <= _MOST_IN_A_CELL and evidence(one) for one in parts[1:]):
        return parts[0], " or ".join(parts[1:])  # a column for each of its keys
    if len(parts) == 3 and len(parts[0]) == len(parts[1]) == 1 and parts[0] not in _MARKS and " " in parts[2]:
        return parts[2], f"{parts[0]} or {parts[1]}"  # two keys, each in a column
    first, last = (parts[0], " ".join(parts[1:])), (parts[-1], " ".join(parts[:-1]))
    looks = evidence(first[0]), evidence(last[0])
    if len(parts) > 2 and (parts[0] == parts[1] or evidence(parts[1]) > max(looks)):  # a tag, the keys, what they do
        return None if _goes_on_in_words(parts[1], parts[2]) else (" ".join(parts[2:]), parts[1])
    if not any(looks):
        return _meant_as_keys(first, last) if len(parts) == 2 else None
    keys, command = last if looks[1] > looks[0] or (is_leader and looks[1] > 0) else first
    if all(looks) and (_is_name(keys) or (_ASSIGNED_WORD.match(body) and len(command.split()) > 1)) and _are_single_keys(command):
        keys, command = command, keys
    if re.search(rf"\s=\s+{re.escape(keys)}$", body):
        keys = alternates(keys)
    return None if _is_prose(keys, command) else (_LAST_DASH.sub("", command), keys)


_MARKS: Final = frozenset("N#*|-•–—·0123456789")
"""Signs before keys that are none: that a count may be given, or a bullet."""
_ASSIGNED_WORD: Final = re.compile(r"[a-z]{3,}\s+=\s")
"""A word in small letters that is set to something; a key of the same name would be written as such: PAUSE, <pause>."""


def _is_prose(keys: str, command: str) -> bool:
    """Return True where what was taken for keys and command is a sentence, or an option of a command line."""
    long = len(command.split()) > _MOST_WORDS
    return not command or long or OPTION.match(keys) is not None or _goes_on_in_words(keys, command)


def _meant_as_keys(*sides: tuple[str, str]) -> tuple[str, str] | None:
    """Return the command and keys of a line whose keys cannot be read: they are reported, and are no heading."""
    meant = [(other, keys) for keys, other in sides if _MEANT.match(keys) and other and not _MEANT.match(other)]
    return meant[0] if meant else None


def with_description(body: str) -> tuple[str, str, str] | None:
    """Return a command, its keys and its description, which are in three columns in this order; None for another line."""
    parts = [part for part in COLUMNS.split(body) if part]
    if len(parts) != 3 or len(body) > LONGEST_LINE or not _TITLE.fullmatch(parts[0]) or evidence(parts[0]):
        return None
    named = key_named(parts[1]) is not None and len(parts[1]) > 1
    return (parts[0], parts[1], parts[2]) if (named or evidence(parts[1]) == 2) and not evidence(parts[2]) else None


def _goes_on_in_words(keys: str, command: str) -> bool:
    """Return True for the beginning of a sentence, parted from its rest by the gap of a justified line: "If  the sheet"."""
    return (command[:1].islower() or command.endswith(".")) and _BEGINS_SENTENCE.match(keys) is not None


_KEY_THEN_NAME: Final = re.compile(r"(\^\S|F\d{1,2}|M-\S|C-\S|Alt[+-]\S|Ctrl[+-]\S) ([A-Z][a-z].*)$")


def side_by_side(body: str) -> list[tuple[str, str]]:
    """Return commands and keys of a line that has several, with a wide gap between them: "Ctrl+C copy    Ctrl+V paste"."""
    if len(body) > LONGEST_LINE:
        return []
    assigned = [_ASSIGNED.fullmatch(part) for part in _BEFORE_ASSIGNED.split(body)]
    keys = [evidence(match[1]) if match is not None else 0 for match in assigned]
    if len(keys) > 1 and all(keys) and 2 in keys:
        return [(match[2], match[1]) for match in assigned if match is not None]
    parts = [part for part in COLUMNS.split(body) if part]
    if len(parts) < 2:
        return []
    bar = [_KEY_THEN_NAME.match(part) for part in parts]
    if all(match is not None and (evidence(match[1]) or match[1][0] == "^") for match in bar):
        return [(match[2], match[1]) for match in bar if match is not None]  # "^G Help   ^X Exit"
    if len(parts) % 2:  # a key that just fills its column: "F3  View     F10 Quit"
        matches = [_KEY_AND_NAME.match(part) for part in parts]
        parts = [one for part, match in zip(parts, matches, strict=True) for one in (match.groups() if match else (part,))]
    cells = _cells_in_turn(parts)
    if cells:
        return cells
    found = [_blank_between(part) for part in parts]
    return [one for one in found if one is not None] if all(one is not None for one in found) else []


def _cells_in_turn(parts: Sequence[str]) -> list[tuple[str, str]]:
    """Return commands and keys of parts that are keys and a command in turn, at least two of each; none of others."""
    if len(parts) < 4 or len(parts) % 2:
        return []
    cells = list(zip(parts[::2], parts[1::2], strict=True))
    alike = all(evidence(keys) == 2 and _SURE.search(keys) and evidence(command) < 2 for keys, command in cells)
    return [(command, keys) for keys, command in cells] if alike else []


def _is_name(text: str) -> bool:
    """Return True for a word that is no key, which letters one after the other would be."""
    return NAME_OF_COMMAND.fullmatch(text) is not None and key_named(text) is None


def _are_single_keys(text: str) -> bool:
    return all(len(word) == 1 or key_named(word, marked=True) is not None for word in text.split())


def _may_begin_keys(words: Sequence[str]) -> bool:
    first = words[0]
    if not (first.isalpha() and len(first) > 2):
        return True
    names = (first, "".join(words[:2]))  # "Page Up"
    return modifier_named(first) is not None or any(key_named(name, marked=True) is not None for name in names)


def _goes_on_in_words_after_chord(words: Sequence[str]) -> bool:
    """Return True for a chord with a word behind it that could be a key, too: "Ctrl+O Open a" begins what the chord does."""
    return len(words) > 1 and _CHORD.match(words[0]) is not None and any(word.isalpha() and len(word) > 2 and word[0].isupper()
                                                                        and modifier_named(word) is None for word in words[1:])


def _blank_between(body: str) -> tuple[str, str] | None:
    """Keys with a modifier or a name of their own at the beginning or the end, with one blank between."""
    words = body.split()
    if not 2 <= len(words) <= 14 or evidence(body) or words[0].lower() in _ASKS:
        return None  # nothing but keys, such as "Ctrl-C or Escape", or a sentence
    for count in range(min(5, len(words) - 1), 0, -1):
        head = " ".join(words[:count])
        if (
            _SURE.search(head)
            and evidence(head) == 2
            and (not evidence(" ".join(words[: count + 1])) or _goes_on_in_words_after_chord(words[: count + 1]))
            and words[count][0].isalpha()
            and not _goes_on_in_words_after_chord(words[:count])
        ):
            return " ".join(words[count:]), head
    for count in range(min(5, len(words) - 1), 0, -1):
        tail, before = " ".join(words[-count:]), " ".join(words[:-count])
        if not _may_begin_keys(words[-count:]):
            continue  # "New Page <Ctrl><N>": a word of the name, and no P, a, g, e
        if _SURE.search(tail) and evidence(tail) == 2 and len(words) - count <= 6 and not _GOES_ON.search(before):
            return before, tail
    return None
