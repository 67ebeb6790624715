"""Plain text: aligned columns, lines such as "Ctrl+S — Save chart", and keys with what they do on the lines below them.

Where keys are mere letters a line alone does not tell: then the lines of its section are taken together. A section in which
nothing carries a modifier or a key's own name has no keys, but commands or options that look like them.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Final

from msgspec import Struct, field

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers import heads
from glimber.readers.found import Found, Options, decoded, evidence
from glimber.readers.pairs import COLUMNS, NAME_OF_COMMAND, OPTION, side_by_side, split_pair
from glimber.readers.prose import bindings_in
from glimber.readers.reader import Reader

_LETTER_BULLET: Final = re.compile(r"^(\s+)o\s(\s*\S.*)$")
_BULLETS: Final = 4
_DEFINES: Final = re.compile(
    r"\b(Mod|MOD|Modkey|Prefix|Leader)\b[^.\n]{0,40}?\b(?:defaults? to|stands for|means|is(?: set to)?(?: by default)?)\s+"
    r"(?:the\s+)?(\S{1,12}?)[\s.,;]"
)
_DASHED: Final = re.compile(r"(?<=\w)-(?=\S)")
_PARTED_WORD: Final = re.compile(r"(?<=[a-z])[\u2010\u00ad] (?=[a-z])")
_GOES_ON_IN_WORDS: Final = re.compile(r"[A-Z][a-z]+ (?!or\b|and\b)[a-z]+ ?[a-z]")
_BEGINS: Final = re.compile(r"(?!and\b|then\b)(?:[A-Z][a-z]+|[a-z]{3,})(?![\w+-])")
"""A word with which what keys do may begin; no key, and no "or" or "and" between two."""
_APART: Final = re.compile(r"^(\s*)(\S(?:.{0,14}?\S)?) {2,}(?=\S)")
_ALIKE: Final = 3
_COMMENTS: Final = 12
_COMMENT: Final = re.compile(r"\s*(#+:|##+|;+|%+|\"+)(?:\s|$)")
_OWN_NAME: Final = re.compile(r"(?<=\S)\s+\[[a-z][a-z0-9_-]+(?:, ?[a-z][a-z0-9_-]+)*\]$")
"""The name of an action in square brackets behind its keys: "q, Escape [quit]"."""
_HEADS_OF_KEYS: Final = heads.KEYS | frozenset("key keys shortcut shortcuts hotkey hotkeys binding bindings keystroke".split())
_HEADS: Final = _HEADS_OF_KEYS | heads.COMMANDS | heads.GROUPS | frozenset(
    "command commands action actions function description meaning effect name page no no. number group mode context menu".split()
)
_IN_WORDS: Final = Ways("steps", False)
"""In a sentence a capital is the cap of a key: "the M key"."""
_BULLET: Final = re.compile(r"^\s*(?:[*•·‣▪+-]|\d+[.)])\s{1,3}(?=\S)")
_NAME: Final = re.compile(r"^[A-Z][A-Z0-9 ,/&()'-]+$")
_ABOUT_KEYS: Final = re.compile(
    r"\b(?:keys?|key ?bindings?|bindings|short ?cuts?|hot ?keys|key ?strokes?|keyboard)\b", re.I
)
_ONLY_KEYS: Final = re.compile(r"^(?:defaults?|keys?|shortcuts?|bindings?)\s*:?$", re.I)
"""If only this stands beside the keys, the heading is the command."""
_SYNOPSIS: Final = "SYNOPSIS"
"""The chapter of a manual page with the options of a command line, whose brackets and bars are no keys."""
_MORE_KEYS: Final = 4
_LETTERS: Final = 8
_TURNED_AFTER: Final = 6
_NEARLY_ALL: Final = 0.85
_MOST_TURNED: Final = 24
ENOUGH: Final = 0.12
"""The part of a section's keys that must carry a modifier or a name for its bare letters to be keys, too."""


class _Pair(Struct):
    """A line that may be keys and what they do. ``look``: how much it is like keys."""

    number: int
    keys: str
    command: str
    look: int
    text: str


class _Section(Struct):
    """The lines under one heading."""

    group: str | None
    pairs: list[_Pair]
    top: str | None = None
    about_keys: bool = False
    """A sentence in it speaks of keys."""
    told: list[tuple[int, str, str]] = field(default_factory=list)
    """Number, command and keys of lines that are sentences."""


def read(data: bytes, options: Options) -> Found:
    """Read lines of text."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected lines with a command and its keys")
    read_text(text, found)
    return found


def read_lines(
    lines: Iterable[tuple[int, str]], found: Found, group: str | None = None, about: str | None = None
) -> None:
    """Add lines with their numbers; a line that is no pair is the heading of those after it.

    ``about``: what all of them are about; then their sections are taken together, and one of them may have letters alone.
    """
    _read([(number, line) for number, line in lines], found, group, about)


def read_text(text: str, found: Found) -> None:
    """Add the lines of a text."""
    plain = re.sub(r".\x08", "", text)  # what a terminal strikes over to make it bold
    plain = with_defined_prefix(plain.replace("⟨", "<").replace("⟩", ">"))
    lines = [line.expandtabs(8).rstrip() for line in plain.splitlines()]
    _read(list(enumerate(_parted(_bulleted(_without_comments(lines, found))), start=1)), found, None)


def with_defined_prefix(text: str) -> str:
    """Return a text with what it says that "Mod" stands for in its place: a modifier, or keys that are struck first."""
    match = _DEFINES.search(text)
    if match is None:
        return text
    word, meant = match[1], match[2].strip("\"'`‘’“”()")
    modifier = modifier_named(meant)
    if modifier is None and evidence(meant) != 2:
        return text
    stem = f"{modifier}+" if modifier is not None else f"{meant} "
    after = re.compile(rf"\b{re.escape(word)}[-+](\S+)")
    return after.sub(lambda one: stem + (one[1] if modifier is not None else _DASHED.sub(" ", one[1])), text)


def _without_comments(lines: list[str], found: Found) -> list[str]:
    """Lines without those that begin with a sign with which a good part of all lines begin: a configuration's comments.

    A single "#" with a blank after it is left: with it headings are written in plain text.
    """
    starts = Counter(match[1] for line in lines if (match := _COMMENT.match(line)) is not None)
    written = sum(bool(line.strip()) for line in lines)
    signs = {sign for sign, count in starts.items() if count >= max(_COMMENTS, 0.1 * written)}
    kept = []
    for number, line in enumerate(lines, start=1):
        match = _COMMENT.match(line)
        comment = match is not None and match[1] in signs
        if comment:
            found.head(line.strip(), number)
        kept.append("" if comment else line)
    return kept


def _bulleted(lines: list[str]) -> list[str]:
    """Lines with a dot for the letter o where several that stand at one place begin with it: so bullets are drawn in text."""
    places = Counter(len(match[1]) for line in lines if (match := _LETTER_BULLET.match(line)))
    return [f"{match[1]}• {match[2]}" if (match := _LETTER_BULLET.match(line)) and places[len(match[1])] >= _BULLETS else line
            for line in lines]  # fmt: skip


def _parted(lines: list[str]) -> list[str]:
    """Lines in which keys are parted from what they do where only their neighbours show that something else begins there.

    Keys may fill the space before the column in which the text of all others stands: "Return Switch to the next sheet".
    """
    columns: dict[int, Counter[int]] = {}
    for line in lines:
        apart = _APART.match(line)
        if apart is not None and evidence(apart[2]):
            columns.setdefault(len(apart[1]), Counter())[apart.end()] += 1
    for line, after in pairwise(lines):  # keys alone on their line, and their text below in its column
        indent, column = (len(one) - len(one.lstrip()) for one in (line, after))
        if after.strip() and column > indent and evidence(line) == 2:
            columns.setdefault(indent, Counter())[column] += 1
    parted = list(lines)
    for place, line in enumerate(lines):
        indent = len(line) - len(line.lstrip())
        known = {column for column, count in columns.get(indent, Counter()).items() if count >= _ALIKE}
        after = lines[place + 1] if place + 1 < len(lines) else ""
        known |= {len(after) - len(after.lstrip())} if after.strip() else set()
        for column in known:
            keys = line[indent:column].rstrip()
            alone = 2 <= column - indent <= 12 and len(keys.split()) == 1 and "  " not in line.strip()
            begins = _BEGINS.match(line, column)
            words = begins is not None and (key_named(begins[0]) is None or _GOES_ON_IN_WORDS.match(line, column) is not None)
            if alone and words and line[column - 1] == " " and (
                key_named(keys.strip("<>")) is not None or evidence(keys) == 2
            ):
                parted[place] = f"{line[:column]}  {line[column:]}"
    return parted


def _read(lines: Sequence[tuple[int, str]], found: Found, group: str | None, top: str | None = None) -> None:
    sections = [_Section(group, [], top)]
    first = next((line for _, line in lines if line.strip()), "")
    about_keys = top is None and _ABOUT_KEYS.search(first) is not None
    place = 0
    while place < len(lines):
        number, line = lines[place]
        body = _BULLET.sub("", line).strip()
        place += 1
        indent = len(line) - len(line.lstrip())
        rule = not re.search(r"[^\W_]|[^\s\w=*_~^.-]", body)
        if not body or (rule and (len(body) > 1 or not _below(lines, place, indent)[0])):
            continue  # a line drawn with signs; a single sign above an indented line is a key
        beside = side_by_side(body)
        if beside:
            sections[-1].pairs += [_Pair(number, keys, command, evidence(keys), body) for command, keys in beside]
            continue
        if _is_head(body):
            found.head(body, number)
            continue
        usage = sections[-1].top == _SYNOPSIS
        pair = split_pair(body) if not body.startswith(("##", "# ")) and not usage else None
        if pair is not None and not OPTION.match(pair[1]):
            command, keys = pair
            keys, command, place = _listed_on(lines, place, indent, keys, command)
            place, more = _continued(lines, place, indent, line)
            sections[-1].pairs.append(_Pair(number, keys, f"{command} {more}".strip(), evidence(keys), body))
            continue
        keys = _OWN_NAME.sub("", body)
        named = not indent and len(keys) > 3 and _NAME.match(keys) is not None and key_named(keys) is None
        look = 0 if named or usage or OPTION.match(keys) or len(keys) > 60 else evidence(keys)
        others, place_below = _more_keys(lines, place, indent) if look else ([], place)
        below, after = _below(lines, place_below, indent)
        if below and look:
            keys = " or ".join([keys, *others])
            sections[-1].pairs.append(_Pair(number, keys, below, look, body))
            place = after
            continue
        if _is_heading(body, line):
            title = body.strip("#:= \t*_-~")
            if _NAME.match(title) and not indent:
                top = title
                sections.append(_Section(None, [], top))
            else:
                sections.append(_Section(title or sections[-1].group, [], top))
            if title:
                found.head(body, number)
        elif told := bindings_in(body):
            sections[-1].told += [(number, command, keys) for command, keys in told]
        else:
            sections[-1].about_keys |= _ABOUT_KEYS.search(body) is not None
            found.leave(body, number, f"prose{f' of {top.lower()}' if top else ''}: no keys with a command")
    of_top: dict[str | None, list[_Pair]] = {}
    for section in sections:
        of_top.setdefault(section.top, []).extend(section.pairs)
    pairs = [pair for section in sections for pair in section.pairs]
    for together in of_top.values():
        _turn(together)
    alike = _mostly_keys(pairs)
    for section in sections:
        for number, command, keys in section.told:
            found.add(command, keys, section.group, number, _IN_WORDS)
        # The parts of a chapter of a manual are taken together: one of its modes may have letters alone.
        together = section.pairs if section.top is None else of_top[section.top]
        _take(section, found, together, about_keys or (alike and section.top is None))


def _turn(pairs: Sequence[_Pair]) -> None:
    """Turn pairs of which both sides could be keys as nearly all others stand: "Space  page down" among "F5  reload"."""
    firsts = [pair.text.startswith(pair.keys[:20]) for pair in pairs]
    sure = [first for pair, first in zip(pairs, firsts, strict=True) if pair.look and not evidence(pair.command)]
    if len(sure) < _TURNED_AFTER:
        return
    share = sum(sure) / len(sure)
    for pair, first in zip(pairs, firsts, strict=True):
        if (first and share < 1 - _NEARLY_ALL) or (not first and share > _NEARLY_ALL):
            look = evidence(pair.command)
            if look and len(pair.command) <= _MOST_TURNED:
                pair.keys, pair.command, pair.look = pair.command, pair.keys, look


def _mostly_keys(pairs: Sequence[_Pair]) -> bool:
    """True for a list that is one of keys all through: then a section with letters alone is no exception."""
    looks = [pair.look for pair in pairs if pair.look]
    return len(pairs) >= _LETTERS and len(looks) >= 0.8 * len(pairs) and looks.count(2) >= ENOUGH * len(pairs)


def _is_head(body: str) -> bool:
    """True for the heads of columns: "Key    Page    Command"."""
    words = [word.strip(" |:").casefold() for word in COLUMNS.split(body)]
    return len(words) > 1 and any(word in _HEADS_OF_KEYS for word in words) and all(word in _HEADS for word in words)


def _listed_on(
    lines: Sequence[tuple[int, str]], place: int, indent: int, keys: str, command: str
) -> tuple[str, str, int]:
    """Return keys that end with a comma with those of the next lines of their column, what they do, and the place after them."""
    found, told = [keys], [command]
    while found[-1].rstrip().endswith(",") and place < len(lines):
        _, line = lines[place]
        parts = re.split(r" {2,}", line.strip(), maxsplit=1)
        if len(line) - len(line.lstrip()) != indent or not evidence(parts[0].rstrip(" ,")):
            break
        found.append(parts[0])
        told += parts[1:]
        place += 1
    joined = " or ".join(one.rstrip(" ,") or one for one in found)
    return joined, _joined(told), place


def _continued(lines: Sequence[tuple[int, str]], place: int, indent: int, first: str) -> tuple[int, str]:
    """Return what goes on on the next lines, far more to the right than the keys; below a column of ``first`` whatever it is."""
    more: list[str] = []
    while place < len(lines) and len(more) < 4:
        _, line = lines[place]
        text, column = line.strip(), len(line) - len(line.lstrip())
        in_column = first[column - 2 : column] == "  " and first[column : column + 1].strip() != "" and column >= indent + 12
        if not text or column < indent + 4 or (not in_column and (split_pair(text) is not None or evidence(text))):
            break
        more.append(text)
        place += 1
    return place, _joined(more)


def _below(lines: Sequence[tuple[int, str]], place: int, indent: int) -> tuple[str, int]:
    """The lines right below that are more to the right: what keys on a line of their own do."""
    told: list[str] = []
    while place < len(lines):
        _, line = lines[place]
        if not line.strip() or len(line) - len(line.lstrip()) <= indent:
            break
        told.append(line.strip())
        place += 1
    return _joined(told[:4]), place


def _joined(lines: Sequence[str]) -> str:
    """One text of several lines; a word that was parted at a line's end is whole again."""
    return _PARTED_WORD.sub("", " ".join(lines))


def _more_keys(lines: Sequence[tuple[int, str]], place: int, indent: int) -> tuple[list[str], int]:
    """Return keys on the next lines that stand at the same place, and the place after them: one text is below all of them."""
    more: list[str] = []
    while place < len(lines) and len(more) < _MORE_KEYS:
        _, line = lines[place]
        text = line.strip()
        if not text or len(line) - len(line.lstrip()) != indent or len(text) > 60 or evidence(text) != 2:
            break
        more.append(text)
        place += 1
    return (more, place) if more and _below(lines, place, indent)[0] else ([], place - len(more))


def _is_heading(body: str, line: str) -> bool:
    if body.startswith(("#", "=", "**")) or body.endswith(":") or _NAME.match(body):
        return True
    return len(body.split()) <= 5 and not body.endswith((".", ",", ";", ")")) and not body[0].islower()


def _take(section: _Section, found: Found, together: Sequence[_Pair], about_keys: bool) -> None:
    """Add the pairs of a section. ``about_keys``: the first line says that all of it is about keys."""
    strong = sum(pair.look == 2 for pair in together)
    told = about_keys or section.about_keys or _ABOUT_KEYS.search(f"{section.top or ''} {section.group or ''}") is not None
    looks = [pair for pair in together if pair.look > 0]
    enough = strong >= max(1.0, ENOUGH * len(together)) or (told and len(looks) >= 0.6 * len(together))
    # A list of names, each with a key of its own: what else would nearly every one have another letter for?
    single = {pair.keys for pair in looks if len(pair.keys) == 1 and NAME_OF_COMMAND.search(pair.command)}
    enough = enough or len(single) >= max(_LETTERS, 0.6 * len(together))
    for pair in section.pairs:
        if pair.look == 2 or (pair.look and enough):
            only = _ONLY_KEYS.match(pair.command) is not None and section.group is not None
            found.add(
                section.group or "" if only else pair.command, pair.keys, None if only else section.group, pair.number
            )
        elif enough and len(pair.keys) < 40 and "+" in pair.keys:
            found.add(pair.command, pair.keys, section.group, pair.number)  # it tells what is wrong with these keys
        else:
            found.leave(pair.text, pair.number, "no keys with a command")


READERS = (Reader("text", read),)
