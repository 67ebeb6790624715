"""Plain text: aligned columns, lines such as "Ctrl+S — Save chart", and keys with what they do on the lines below them.

Where keys are mere letters a line alone does not tell: then the lines of its section are taken together. A section in which
nothing carries a modifier or a key's own name has no keys, but commands or options that look like them.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import groupby
from typing import Final

from msgspec import Struct, field

from glimber.core.notation.keywords import key_named
from glimber.core.notation.spelling import Ways
from glimber.readers.bracketed_keys import keys_in_brackets
from glimber.readers.evidence import evidence
from glimber.readers.found import PROSE, Found, Options, decoded
from glimber.readers.pairs import COLUMNS, NAME_OF_COMMAND, OPTION, side_by_side, split_pair, with_description
from glimber.readers.prose import bindings_in
from glimber.readers.reader import Reader
from glimber.readers.text_columns import columns_in_turn, with_stacked_keys, with_whole_chords
from glimber.readers.text_entries import keys_listed_on, more_keys, text_below, text_continued
from glimber.readers.text_headings import CHAPTER, is_head, is_heading
from glimber.readers.text_layout import (
    bulleted,
    cells_at,
    chorded,
    key_columns,
    parted,
    parted_lists,
    prefix_of_section,
    starred,
    straightened,
    with_defined_prefix,
    without_comments,
    without_counts,
    without_mail_quotes,
    without_quotes,
)

_OWN_NAME: Final = re.compile(r"(?<=\S)\s+\[[a-z][a-z0-9_-]+(?:, ?[a-z][a-z0-9_-]+)*\]$")
"""The name of an action in square brackets behind its keys: "q, Escape [quit]"."""
_IDENTIFIER: Final = re.compile(r"[a-z][\w.]*(?:-[\w.]+)+|[a-z]{3,}[A-Z]\w+|[a-z]+(?:_\w+)+|[a-z]{4,24}")
_OPTION_NAME: Final = re.compile(r"[a-z]\w*(?:[-_]\w+)+")
_DEFAULT: Final = re.compile(r"\bDefaults?(?: is| to|:)\s+(\S.{0,80}?)(?:\s\([^()]*\))?\.?$")
"""The keys of a command that is described by name: "fold-chart", and below "Folds the chart. Default: Control+k."."""
_MOST_LINES: Final = 60
"""Lines that may describe a command before its keys."""
_CONTROLS: Final = re.compile("[\x00-\x08\x0e-\x1a\x7f]")
"""Control characters by which a help viewer marks links and bold type."""
_OVERSTRUCK: Final = re.compile(r"[_+]\x08|(.)\x08(?=\1)")
"""A character under the one that a terminal strikes over it: underlined, a bullet, or the same one again for bold."""
_WHOLE_LINE_BOLD: Final = re.compile(r"^([ \t]*)\*\*([^*\n]+)\*\*[ \t]*$", re.M)
IN_WORDS: Final = Ways("steps", False)
"""In a sentence a capital is the cap of a key: "the M key"."""
_BULLET: Final = re.compile(r"^\s*(?:[*•·‣▪+-]|\d+[.)])\s{1,3}(?=\S)(?!(?:and|or|/|,) +\S{1,12}(?: {2}|$))")
_HEADING_OR_COMMENT: Final = re.compile(r"##|# ")
_KEY_OF_ITS_OWN: Final = re.compile(r"#  +\S")
"""The sign as a key, which hardly any line of a source begins with."""
_MOST_FILLED: Final = 3
"""Blanks at most where a line of a paragraph is filled to its width."""
_LONG: Final = 52
"""The least length of a line that fills the width of a paragraph."""
_ABOUT_KEYS: Final = re.compile(
    r"\b(?:keys?|key ?bindings?|bindings|short ?cuts?|hot ?keys|key ?strokes?|keyboard|key ?(?:maps?|mappings?))\b|"
    r"\b(?:maps|mappings)(?: ~$|\*)", re.I
)
_WITH_ITS_NAME: Final = re.compile(r"['‘`](\S[^’]{0,30}|’)['’]\s+\(['‘`]([A-Za-z][\w:+*/-]+)['’]\)")
"""Keys and the name of a command, with what it does below: "'g'   ('chart-redraw')"."""
_NAMED_BEHIND: Final = re.compile(r"(\S.{0,40}?)\s+:([A-Z]\S.{0,80})")
_ONLY_KEYS: Final = re.compile(r"^(?:defaults?|keys?|shortcuts?|bindings?)\s*:?$", re.I)
"""If only this stands beside the keys, the heading is the command."""
_SYNOPSIS: Final = "SYNOPSIS"
"""The chapter of a manual page with the options of a command line, whose brackets and bars are no keys."""
_MOST_HASH_KEYS: Final = 4
_LETTERS: Final = 8
_ESCAPE_SEQUENCE: Final = re.compile(r"(?:.*\s)?(?P<escape>escape|esc) (?:sequences?|codes?|characters?)\b", re.I | re.S)
_ANCHORS: Final = re.compile(r"(?:\*[^\s*]{2,}\*\s*)+|\*\S{2,40}\*")
"""Anchors of a help text, which stand at the right above what they lead to: "*chart_s*"."""
_FAR_RIGHT: Final = 16
_NOT_A_KEY: Final = "an escape sequence, not a key"
_PAGE: Final = re.compile(r"\s*(?:<!doctype html|<html[\s>])", re.I)
_SEVERAL: Final = 3
_NAMED_AMONG_LETTERS: Final = 2
_TURNED_AFTER: Final = 6
_NEARLY_ALL: Final = 0.85
_NEARLY_ONLY: Final = 0.95
_BULLETS: Final = 3
_MARK_OF: Final = 8
_MOST_AFTER_MARK: Final = 24
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
    note: str = ""


class _Section(Struct):
    """The lines under one heading."""

    group: str | None
    pairs: list[_Pair]
    top: str | None = None
    about_keys: bool = False
    """A sentence in it speaks of keys."""
    sentences: list[tuple[int, str, str]] = field(default_factory=list)
    """Number, command and keys of lines that are sentences."""
    named: str = ""
    """The name of a command that stands right above the heading, which then says what it does."""


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
    """Add the lines of a text; nothing of a page, whose marks are no words."""
    if _PAGE.match(text):
        return
    plain = _WHOLE_LINE_BOLD.sub(r"\1\2", _CONTROLS.sub("", _OVERSTRUCK.sub("", text)))
    plain = with_defined_prefix(plain.replace("⟨", "<").replace("⟩", ">"))
    written = without_mail_quotes([line.expandtabs(8).rstrip() for line in plain.splitlines()])
    lines = with_stacked_keys(with_whole_chords(written))
    found.join(written, lines)
    found.section_prefix = prefix_of_section(lines)
    lines = starred(chorded(straightened(without_comments(without_counts(lines), found))))
    _read(columns_in_turn(list(enumerate(parted_lists(parted(bulleted(lines))), start=1))), found, None)


def _read(lines: Sequence[tuple[int, str]], found: Found, group: str | None, top: str | None = None) -> None:
    _Reading(lines, found, group, top).run()


class _Reading:
    """Lines as they are gone through, from ``place`` on: each is what the first of the attempts takes it for."""

    def __init__(self, lines: Sequence[tuple[int, str]], found: Found, group: str | None, top: str | None) -> None:
        self._lines, self._found, self._top = lines, found, top
        self._sections = [_Section(group, [], top)]
        first = next((line for _, line in lines if line.strip()), "")
        self._about_keys = top is None and _ABOUT_KEYS.search(first) is not None
        self._named = keys_in_brackets(lines)
        self._has_hash_key = sum(_KEY_OF_ITS_OWN.match(line.strip()) is not None for _, line in lines) <= _MOST_HASH_KEYS
        self._key_columns = key_columns(line for _, line in lines)
        self._place = 0

    @property
    def _section(self) -> _Section:
        return self._sections[-1]

    def run(self) -> None:
        # A command may be called "backspace": what is described with its keys comes before a key with what it does.
        attempts = (self._keys_in_brackets, self._with_its_name, self._named_behind, self._nothing, self._side_by_side,
                    self._head, self._pair, self._described, self._keys_above_text, self._heading, self._sentences)  # fmt: skip
        while self._place < len(self._lines):
            number, line = self._lines[self._place]
            self._place += 1
            body, indent = _BULLET.sub("", line).strip(), len(line) - len(line.lstrip())
            if not any(attempt(number, line, body, indent) for attempt in attempts):
                self._section.about_keys |= _ABOUT_KEYS.search(body) is not None
                of = f" of {self._top.lower()}" if self._top else ""
                self._found.leave(body, number, f"{PROSE}{of}: no keys with a command")
        self._take_all()

    # What a line may be

    def _with_its_name(self, number: int, line: str, body: str, indent: int) -> bool:
        match = _WITH_ITS_NAME.fullmatch(body)
        if match is None or not evidence(match[1]):
            return False
        below, self._place = text_below(self._lines, self._place, indent)
        self._found.add(match[2], match[1], self._section.group, number, note=below)
        return True

    def _named_behind(self, number: int, line: str, body: str, indent: int) -> bool:
        """Return whether a line has keys and, behind a colon, the name of their command: "d | s  :Change-Scale"."""
        match = _NAMED_BEHIND.fullmatch(body)
        keys = match[1].replace(" | ", " or ") if match is not None else ""
        look = evidence(keys) if keys else 0
        below, after = text_below(self._lines, self._place, indent) if look else ("", self._place)
        if match is None or not (below or look == 2):
            return False
        name, *rest = re.split(r"\s{2,}", match[2].strip(), maxsplit=1)
        self._section.pairs.append(_Pair(number, keys, name, look, body, " ".join([*rest, below]).strip()))
        self._place = after
        return True

    def _keys_in_brackets(self, number: int, line: str, body: str, indent: int) -> bool:
        if self._place - 1 not in self._named:
            return False
        command, keys = self._named[self._place - 1]
        # They say what they are: what else a manual has of lines with letters is no more likely keys for it.
        self._found.add(command, keys, self._section.group, number)
        _, self._place = text_below(self._lines, self._place, indent)
        return True

    def _nothing(self, number: int, line: str, body: str, indent: int) -> bool:
        """Return a line drawn with signs, or an empty one; a single sign above an indented line is a key."""
        rule = not re.search(r"[^\W_]|[^\s\w=*_~^.-]", body)
        if indent >= _FAR_RIGHT and _ANCHORS.fullmatch(body):
            return True
        return not body or (rule and (len(body) > 1 or not text_below(self._lines, self._place, indent)[0]))

    def _side_by_side(self, number: int, line: str, body: str, indent: int) -> bool:
        beside = side_by_side(body) or cells_at(line, self._key_columns)
        self._section.pairs += [_Pair(number, keys, command, evidence(keys), body) for command, keys in beside]
        return bool(beside)

    def _head(self, number: int, line: str, body: str, indent: int) -> bool:
        if not is_head(body):
            return False
        self._found.head(body, number)
        return True

    @property
    def _is_usage(self) -> bool:
        return self._section.top == _SYNOPSIS

    def _pair(self, number: int, line: str, body: str, indent: int) -> bool:
        described = with_description(body)
        if described is not None and not self._is_usage:
            self._place, more = text_continued(self._lines, self._place, indent, line)
            note = f"{described[2]} {more}".strip()
            self._section.pairs.append(_Pair(number, described[1], described[0], 2, body, note))
            return True
        marked = _HEADING_OR_COMMENT.match(body) is not None and not (self._has_hash_key and _KEY_OF_ITS_OWN.match(body))
        pair = split_pair(body) if not marked and not self._is_usage else None
        if pair is None or OPTION.match(pair[1]):
            return False
        command, keys = pair[0], without_quotes(pair[1])
        if evidence(keys) < 2 and self._is_in_paragraph(line, indent):
            return False
        keys, command, self._place = keys_listed_on(self._lines, self._place, indent, keys, command)
        self._place, more = text_continued(self._lines, self._place, indent, line)
        self._section.pairs.append(_Pair(number, keys, f"{command} {more}".strip(), evidence(keys), body))
        return True

    def _is_in_paragraph(self, line: str, indent: int) -> bool:
        """Return True for a long line between others that begin where it does: its gaps only fill the line."""
        gap = COLUMNS.search(line.rstrip(), indent)
        if gap is None or len(gap[0]) > _MOST_FILLED or len(line) - indent < _LONG:
            return False
        beside = [one for one in (self._line_at(self._place), self._line_at(self._place - 2))
                  if one.strip() and len(one) - len(one.lstrip()) == indent]  # fmt: skip
        aligned = any(one[gap.end() - 2 : gap.end()] == "  " and one[gap.end() : gap.end() + 1].strip() for one in beside)
        return any(len(one) - indent >= _LONG for one in beside) and not aligned

    def _line_at(self, place: int) -> str:
        return self._lines[place][1] if 0 <= place < len(self._lines) else ""

    def _keys_above_text(self, number: int, line: str, body: str, indent: int) -> bool:
        """Return keys on a line of their own, with what they do below."""
        keys = without_quotes(_OWN_NAME.sub("", body))
        named = not indent and len(keys) > 3 and CHAPTER.match(keys) is not None and key_named(keys) is None
        look = 0 if named or self._is_usage or OPTION.match(keys) or len(keys) > 60 else evidence(keys)
        if not look:
            return False
        others, place = more_keys(self._lines, self._place, indent)
        below, after = text_below(self._lines, place, indent)
        if not below:
            return False
        self._section.pairs.append(_Pair(number, " or ".join([keys, *others]), below, look, body))
        self._place = after
        return True

    def _described(self, number: int, line: str, body: str, indent: int) -> bool:
        """Return the name of a command, with its keys at the end of its description below."""
        if _IDENTIFIER.fullmatch(body) is None:
            return False
        text, after = text_below(self._lines, self._place, indent, most=_MOST_LINES)
        default = _DEFAULT.search(text)
        if default is None or evidence(default[1]) < 2:
            return False
        self._section.pairs.append(_Pair(number, default[1], body, 2, default[1]))
        self._place = after
        return True

    def _heading(self, number: int, line: str, body: str, indent: int) -> bool:
        if not is_heading(body):
            return False
        title = body.strip("#:= \t*_-~")
        if CHAPTER.match(title) and not indent:
            self._top = title
            self._sections.append(_Section(None, [], title))
        else:
            above = self._section.group or ""
            named = above if not self._section.pairs and _OPTION_NAME.fullmatch(above) else ""
            about = _ABOUT_KEYS.search(body) is not None
            self._sections.append(_Section(title or self._section.group, [], self._top, about, named=named))
        if title:
            self._found.head(body, number)
        return True

    def _sentences(self, number: int, line: str, body: str, indent: int) -> bool:
        sentences = bindings_in(body, self._section.group)
        self._section.sentences += [(number, command, keys) for command, keys in sentences]
        return bool(sentences)

    # All of them together

    def _take_all(self) -> None:
        of_top: dict[str | None, list[_Pair]] = {}
        for section in self._sections:
            of_top.setdefault(section.top, []).extend(section.pairs)
        for together in of_top.values():
            _split_markers(together)
            _turn(together)
        for section in self._sections:
            _drop_bullets(section.pairs)
        pairs = [pair for section in self._sections for pair in section.pairs]
        alike, only_keys = _mostly_keys(pairs), _mostly_keys(pairs, _NEARLY_ONLY)
        for section in self._sections:
            for number, command, keys in section.sentences:
                if _is_escape_sequence(keys, command):
                    self._found.leave(f"{keys} {command}", number, _NOT_A_KEY)
                    continue
                self._found.add(command, keys, section.group if command != section.group else None, number, IN_WORDS)
            # The parts of a chapter of a manual are taken together: one of its modes may have letters alone.
            together = section.pairs if section.top is None else of_top[section.top]
            listed = alike if section.top is None else only_keys and _has_letters(section)
            _take(section, self._found, together, self._about_keys or listed)


def _is_escape_sequence(keys: str, command: str) -> bool:
    """Return whether "Escape" and the words after it are about an escape sequence: "Escape", "sequences to the host"."""
    match = _ESCAPE_SEQUENCE.match(f"{keys[-20:]} {command[:20]}")
    return match is not None and match.start("escape") < len(keys[-20:])


def _split_markers(pairs: Sequence[_Pair]) -> None:
    """Split off a marker before the keys of many commands, such as "N" for a count: one key cannot bind them all."""
    of_keys = Counter(pair.keys for pair in pairs)
    marks = {keys for keys, count in of_keys.items() if count >= _MARK_OF and len(keys) == 1}
    for pair in pairs:
        _, mark, rest = pair.text.partition(f"{pair.keys} ") if pair.keys in marks else ("", "", "")
        keys, _, words = rest.strip().partition("  ")
        if mark and words and len(keys) <= _MOST_AFTER_MARK and (evidence(keys) or not any(map(str.isalnum, keys))):
            more = pair.command[len(" ".join(rest.split())) :]
            pair.keys, pair.command, pair.look = keys, f"{' '.join(words.split())}{more}", max(1, evidence(keys))


def _drop_bullets(pairs: Sequence[_Pair]) -> None:
    """Take a sign that begins several lines one after the other for a bullet: one key does not do so many things."""
    for keys, run in groupby(pairs, key=lambda pair: pair.keys):
        alike = list(run) if len(keys) == 1 and not keys.isalnum() else []
        for pair in alike if len(alike) >= _BULLETS else ():
            pair.look = 0


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


def _has_letters(section: _Section) -> bool:
    """Return True for letters and signs of which no two are alike, each before a phrase."""
    keys = {pair.keys for pair in section.pairs if len(pair.keys) == 1}
    return len(keys) == len(section.pairs) and all(NAME_OF_COMMAND.search(pair.command) for pair in section.pairs)


def _mostly_keys(pairs: Sequence[_Pair], share: float = 0.8) -> bool:
    """Return True for a list that is one of keys all through, a share of its pairs at least: then a section with letters alone
    is no exception."""
    looks = [pair.look for pair in pairs if pair.look]
    return len(pairs) >= _LETTERS and len(looks) >= share * len(pairs) and looks.count(2) >= ENOUGH * len(pairs)


def _take(section: _Section, found: Found, together: Sequence[_Pair], about_keys: bool) -> None:
    """Add the pairs of a section. ``about_keys``: the first line says that all of it is about keys."""
    enough = _is_about_keys(section, together, about_keys)
    for pair in section.pairs:
        if _is_escape_sequence(pair.keys, pair.command):
            found.leave(pair.text, pair.number, _NOT_A_KEY)
        elif pair.look == 2 or (pair.look and enough):
            if _ONLY_KEYS.match(pair.command) and section.group is not None:
                named, note = (section.named, section.group) if section.named else (section.group, pair.note)
                found.add(named, pair.keys, None, pair.number, note=note)
            else:
                found.add(pair.command, pair.keys, section.group, pair.number, note=pair.note)
        elif enough and len(pair.keys) < 40 and "+" in pair.keys:
            found.add(pair.command, pair.keys, section.group, pair.number)  # it tells what is wrong with these keys
        else:
            found.leave(pair.text, pair.number, "no keys with a command")


def _is_about_keys(section: _Section, together: Sequence[_Pair], about: bool) -> bool:
    """Return whether so much of a section looks like keys that all that may be keys are some."""
    strong = sum(pair.look == 2 for pair in together)
    own = sum(pair.look == 2 for pair in section.pairs)
    if strong >= max(1.0, ENOUGH * len(together)) or own >= max(_SEVERAL, ENOUGH * len(section.pairs)):
        return True
    looks = [pair for pair in together if pair.look > 0]
    about = about or section.about_keys or _ABOUT_KEYS.search(f"{section.top or ''} {section.group or ''}") is not None
    if about and len(looks) >= 0.6 * len(together):
        return True
    # A list of names, each with a key of its own: what else would nearly every one have another letter for?
    single = {pair.keys for pair in looks if len(pair.keys) == 1 and NAME_OF_COMMAND.search(pair.command)}
    if len(single) >= max(_LETTERS, 0.6 * len(together)):
        return True
    # Letters of which no two are alike, each before a phrase, and some keys with names among them.
    letters = [pair.keys for pair in looks if len(pair.keys) == 1]
    nearly_all = len(looks) >= _NEARLY_ALL * len(together) and len(set(letters)) == len(letters)
    return nearly_all and strong >= _NAMED_AMONG_LETTERS and len(letters) >= _LETTERS


READERS = (Reader("text", read, signs=((0.95, re.compile(r"^File: \S+,\s+Node: ", re.M)),)),)
