"""Text before it is read line by line: what it defines, its comments, bullets and columns are brought into one form."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import islice, pairwise
from typing import Final

from glimber.core.notation.keys import NotationError
from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import NotKeysError, read_spelling
from glimber.readers.evidence import evidence
from glimber.readers.found import Found

_CURLY_QUOTES: Final = re.compile(r"^(\s*)‘([^’]{1,40})’")
_MODIFIERS_APART: Final = re.compile(r"^(?P<held>-|[A-Za-z]+(?:\+[A-Za-z]+)*)\s{2,}(?P<key>'[^']+'|'''|[A-Z]\w+|\S)(?=\s{2})")
_ROWS_OF_CHORDS: Final = 6
_LETTER_BULLET: Final = re.compile(r"^(\s+)o\s(\s*\S.*)$")
_BULLETS: Final = 4
_DEFINES: Final = re.compile(
    r"\b(Mod|MOD|Modkey|Prefix|Leader)\b"
    r"(?:[^.\n]{0,40}?\b(?:defaults? to|stands for|means|is(?: set to)?(?: by default)?)|\s+which\s+defaults\s+to)\s+"
    r"(?:the\s+)?(\S{1,12}?)[\s.,;]"
)
_SIGN_FOR: Final = re.compile(
    r"(?<!\w)[`'\"‘’“”]*([#~@!&%*§])[`'\"‘’“”]*\s+(?:denotes|stands for|means|represents)\s+(?:the\s+)?"
    r"<?([A-Z][a-z]+)>?(?=\s+(?:key|or\b|modifier))"
)
"""A sign that stands for a modifier in a text that says so: "# denotes the Meta key"."""
_STATED_PREFIX: Final = re.compile(
    r"(?=\S)(?:(?!\bprefix\b).){0,80}\bprefix(?: keys?)?\W+([^\s`'\"‘’“”,]{2,10})[`'\"‘’“”]?,?(?: \([^)]*\))?,? "
    r"(?:by default,? )?(?:and then|followed by|before)\b"
)
_SENTENCE: Final = 5
"""Lines that a sentence about a prefix takes, lines of macros among them."""
_DASHED: Final = re.compile(r"(?<=\w)-(?=\S)")
_GOES_ON_IN_WORDS: Final = re.compile(r"[A-Z][a-z]+ (?!or\b|and\b)[a-z]+ ?[a-z]")
_BEGINS: Final = re.compile(r"(?!and\b|then\b)(?:[A-Z][a-z]+|[a-z]{3,})(?![\w+-])")
"""A word with which what keys do may begin; no key, and no "or" or "and" between two."""
_COUNT: Final = re.compile(
    r"(^\s*|(?<=\S)(?: or|,) )(?:\[(?:count|num|number|[nN])\]|\{(?:count|num|number|[nN])\})(?=[^\s\w]|\w{1,2}(?:\W|$))"
)
_TYPED_AFTER: Final = re.compile(r"^(\s+\S{1,3}?)((?:\[[^\[\]\s]+\]|\{\w+\}){1,3})$")
_ARGUMENT_NAME: Final = re.compile(r"[\[{]([a-z]{2,})[\]}]")
_APART: Final = re.compile(r"^(\s*)(\S(?:.{0,14}?\S)?) {2,}(?=\S)")
_ALIKE: Final = 3
_RUN: Final = 5
_KEY_FIRST: Final = re.compile(r"^(\s*)(\S+) (?=[a-z]{2})(\S.*)$")
_CHUNK: Final = re.compile(r"\S+(?: \S+)*")
_STARRED: Final = re.compile(r"(\s+)((?:\S{1,12}\s{1,24}){1,8})\*\s{1,4}([A-Z].*)$")
_LONGEST: Final = 400
_MOST_CHUNKS: Final = 12
_COMMENTS: Final = 12
_COMMENT: Final = re.compile(r"\s*(#+:|##+|;+|%+|\"+)(?:\s|$)")


def with_defined_prefix(text: str) -> str:
    """Return a text with what it says that "Mod" or a sign stands for in its place: a modifier, or keys that are struck first."""
    for sign, held in _SIGN_FOR.findall(text):
        modifier = "Alt" if held == "Meta" else modifier_named(held)  # what terminals call Meta is Alt
        if modifier is not None:
            struck = rf"(?<![\w^])(\^?){re.escape(sign)}(?=\S(?:\s|$))"
            text = re.sub(rf"{struck}(?<=\^.)", f"Ctrl+{modifier}+", text)
            text = re.sub(struck, f"{modifier}+", text)
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


def prefix_of_section(lines: list[str]) -> tuple[range, str] | None:
    """Return the lines of the section in which a text says that its keys follow a prefix, and that prefix; None without one.

    "... a prefix key, C-b (Ctrl-b) by default, followed by a command key": the section ends at the next heading at the margin.
    """
    named = [at for at, line in enumerate(lines) if "prefix" in line]
    for at in sorted({max(0, at - back) for at in named for back in range(_SENTENCE)}):
        match = _STATED_PREFIX.match(" ".join(line.strip() for line in lines[at : at + _SENTENCE]))
        if match is None:
            continue
        try:
            (stem,) = read_spelling(match[1])
        except (NotKeysError, NotationError, ValueError):
            continue
        end = next((n for n in range(at + _SENTENCE, len(lines)) if lines[n][:1].strip()), len(lines))
        return range(at + 1, end + 1), str(stem)
    return None


def without_comments(lines: list[str], found: Found) -> list[str]:
    """Return lines without those that begin with a sign with which a good part of all lines begin: a configuration's comments.

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


def without_counts(lines: list[str]) -> list[str]:
    """Return lines without the placeholder of a count before their keys, and with that of what is typed after them in angle
    brackets, as help texts of editors have them: "[count]G or [count]gg", "{n}gt", "[count]f[character]"."""
    if sum(_COUNT.match(line) is not None for line in lines) < _ALIKE:
        return lines
    bare = [_COUNT.sub(r"\1", line) if len(line) <= _LONGEST else line for line in lines]
    return [_TYPED_AFTER.sub(_with_argument, line) for line in bare]


def _with_argument(match: re.Match[str]) -> str:
    """Return keys with the name of what is typed after them; a class such as "[a-z]" has none."""
    named = _ARGUMENT_NAME.fullmatch(match[2])
    return f"{match[1]} <{named[1] if named is not None else 'character'}>"


def straightened(lines: list[str]) -> list[str]:
    """Return lines with straight quotes around what stands in curly ones at their beginning, as manuals set keys."""
    return [_CURLY_QUOTES.sub(r"\1'\2'", line) for line in lines]


def chorded(lines: list[str]) -> list[str]:
    """Return lines with a column of modifiers before one of keys as lines that begin with chords: "ctrl   'a'   Select all"; a
    dash there is none."""
    found = [_with_modifiers_apart(line) for line in lines]
    if sum(match is not None and match["held"] != "-" for match in found) < _ROWS_OF_CHORDS:
        return lines
    chords = []
    for line, match in zip(lines, found, strict=True):
        if match is not None:
            key = without_quotes(match["key"])
            key = "Space" if key == " " else key.lower() if len(key) == 1 else key  # the capital is Shift, which is named
            chord = key if match["held"] == "-" else f"{match['held']}+{key}"
            line = f"{chord:<{match.end('key')}}{line[match.end('key'):]}"
        chords.append(line)
    return chords


def _with_modifiers_apart(line: str) -> re.Match[str] | None:
    match = _MODIFIERS_APART.match(line)
    return match if match is not None and all(one == "-" or modifier_named(one) for one in match["held"].split("+")) else None


def bulleted(lines: list[str]) -> list[str]:
    """Return lines with a dot for the letter o where several that stand at one place begin with it: so bullets are drawn in
    text."""
    places = Counter(len(match[1]) for line in lines if (match := _LETTER_BULLET.match(line)))
    return [f"{match[1]}• {match[2]}" if (match := _LETTER_BULLET.match(line)) and places[len(match[1])] >= _BULLETS else line
            for line in lines]  # fmt: skip


def without_mail_quotes(lines: list[str]) -> list[str]:
    """Return the lines of a quoted message without the ">" before each; other lines as they are."""
    filled = [line for line in lines if line.strip()]
    quoted = len(filled) > 2 and all(line.startswith(">") and not line.startswith(">>>") for line in filled)
    return [line[1:].removeprefix(" ") for line in lines] if quoted else lines


def parted(lines: list[str]) -> list[str]:
    """Return lines in which keys are parted from what they do where only their neighbours show that something else begins there.

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
            if _text_begins_at(line, indent, column):
                parted[place] = f"{line[:column]}  {line[column:]}"
    return parted


def _text_begins_at(line: str, indent: int, column: int) -> bool:
    """Return True where a key fills the space before a column, and words begin there."""
    keys = line[indent:column].rstrip()
    begins = _BEGINS.match(line, column)
    if begins is None or line[column - 1] != " " or not 2 <= column - indent <= 12:
        return False
    if len(keys.split()) != 1 or "  " in line[indent:column]:
        return False
    words = key_named(begins[0]) is None or _GOES_ON_IN_WORDS.match(line, column) is not None
    return words and (key_named(keys.strip("<>")) is not None or evidence(keys) == 2)


def parted_lists(lines: list[str]) -> list[str]:
    """Return lines with keys parted from commands in runs of lines that all begin with a key and one blank: "shift+h
    move-left"."""
    parted = list(lines)
    run: list[int] = []
    for place, line in enumerate([*lines, ""]):
        match = _KEY_FIRST.match(line)
        if match is not None and (len(match[2]) == 1 or evidence(match[2])):
            run.append(place)
            continue
        if len(run) >= _RUN and sum(len(lines[at].split()[0]) > 1 for at in run) >= _ALIKE:
            for at in run:
                parted[at] = _KEY_FIRST.sub(r"\1\2  \3", lines[at])
        run = []
    return parted


_QUOTED: Final = re.compile(r"[`‘']([^`‘’']+|[`'])['’]")


def without_quotes(text: str) -> str:
    """Return what a whole text has in the single quotes of manuals: "`Ctrl-u'"; any other text as it is."""
    quoted = _QUOTED.fullmatch(text)
    return quoted[1] if quoted is not None else text


def starred(lines: Sequence[str]) -> list[str]:
    """Return lines such as "  e  ^E  CR  *  Forward one line": keys, a star and what they do, with the keys as alternates."""
    matches = [_STARRED.match(line) if len(line) <= _LONGEST else None for line in lines]
    if sum(match is not None for match in matches) < _ALIKE:
        return list(lines)
    return [line if match is None else f"{match[1]}{' or '.join(match[2].split())}    {' '.join(match[3].split())}"
            for line, match in zip(lines, matches, strict=True)]  # fmt: skip


def key_columns(lines: Iterable[str]) -> frozenset[int]:
    """Return where the keys begin in a text that has several columns of keys and commands beside each other, in characters from
    the left; empty for any other."""
    cells: dict[int, list[int]] = {}
    for line in lines:
        chunks = list(islice(_CHUNK.finditer(line), _MOST_CHUNKS + 1)) if len(line) <= _LONGEST else []
        for chunk, after in pairwise(chunks) if len(chunks) <= _MOST_CHUNKS else ():
            look = 1 if len(chunk[0]) == 1 else evidence(chunk[0])
            cells.setdefault(chunk.start(), []).append(look if evidence(after[0]) < 2 else 0)
    found = [start for start, looks in cells.items()
             if len(looks) >= _ALIKE and 2 in looks and sum(look > 0 for look in looks) >= 0.75 * len(looks)]  # fmt: skip
    return frozenset(found) if len(found) > 1 else frozenset()


def cells_at(line: str, columns: frozenset[int]) -> list[tuple[str, str]]:
    """Return commands and keys of a line, its keys beginning at these columns, at least two; none for any other line."""
    chunks = [(chunk.start(), chunk[0]) for chunk in _CHUNK.finditer(line)] if columns and len(line) <= _LONGEST else []
    pairs = list(zip(chunks[::2], chunks[1::2], strict=False))
    keyed = [at in columns and beside not in columns and bool(len(keys) == 1 or evidence(keys))
             for (at, keys), (beside, _) in pairs]  # fmt: skip
    several = len(pairs) > 1 and len(chunks) % 2 == 0
    return [(command, keys) for (_, keys), (_, command) in pairs] if several and all(keyed) else []
