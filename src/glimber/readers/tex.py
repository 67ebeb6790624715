r"""TeX and LaTeX: rows of tables, items with their keys in brackets, and macros with a command and its keys as arguments.

A reference card often has a macro of its own: ``\key{save the chart}{C-x C-s}``. Which argument has the keys is decided by all
its uses together, not by its name. Nothing is run; a macro's own definition is not looked at.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Final
from unicodedata import normalize

from msgspec import Struct

from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_lines
from glimber.readers.reader import Reader
from glimber.readers.source_page import lines_of
from glimber.readers.table import Line, read_table

_COMMENT: Final = re.compile(r"(?<!\\)%.*")
_MACRO: Final = re.compile(r"\\([A-Za-z@]+)\*?\s{0,3}(?=\{)")
_HEADING: Final = re.compile(r"\\(?:\w{0,12}(?:section|chapter|paragraph|heading|head|title)|sec)\*?\s{0,3}(?=\{)", re.I)
_ITEM: Final = re.compile(r"\\item\s{0,3}\[")
_PLAIN_ITEM: Final = re.compile(r"\s*\\item\s+(?!\[)(\S.*)$")
_DEFINITION: Final = re.compile(r"\\(?:e?def|gdef|let|(?:re)?newcommand|providecommand|newenvironment|setlength|font)\b")
_TABLE: Final = re.compile(r"\\(begin|end)\s*\{(?:tabular[x*]?|long\w*|supertabular|tabu|array|tabbing|keys|shortcuts)\*?\}")
_RULE: Final = re.compile(
    r"\\(?:hline|toprule|midrule|bottomrule|cline\s*\{[^{}]*\}|endhead|endfirsthead|endfoot|noalign\s*\{[^{}]*\})"
)
_ROW_END: Final = re.compile(r"\\(?:\\(?:\[[^\]]*\])?|cr|tabularnewline)\s*$")
_FONT: Final = re.compile(
    r"\\(?:bf|it|tt|sl|sc|rm|em|sf|normalfont|bfseries|itshape|ttfamily|small|footnotesize|scriptsize|large|Large|null|kern"
    r"|quad|qquad|hfill|hfil|noindent|strut|space|relax|break|newline|par)(?![A-Za-z])\s?"
)
_SIGNS: Final = {
    "textbackslash": "\\", "backslash": "\\", "textasciitilde": "~", "textasciicircum": "^", "textless": "<", "textgreater": ">",
    "textbar": "|", "lbrace": "{", "rbrace": "}", "ldots": "…", "dots": "…", "leftarrow": "←", "rightarrow": "→", "uparrow": "↑",
    "downarrow": "↓", "Leftarrow": "←", "Rightarrow": "→", "Uparrow": "↑", "Downarrow": "↓", "textleftarrow": "←",
    "textrightarrow": "→", "textuparrow": "↑", "textdownarrow": "↓", "cmd": "⌘", "shift": "⇧", "ctrl": "Ctrl", "esc": "Esc",
    "return": "Enter", "enter": "Enter", "tab": "Tab", "spacebar": "Space", "backspace": "Backspace", "del": "Del",
    "lt": "<", "gt": ">", "TeX": "TeX", "LaTeX": "LaTeX",
    "ss": "ß", "ae": "æ", "oe": "œ", "o": "ø", "aa": "å", "i": "i", "l": "ł",
}  # fmt: skip
"""Macros that stand for a sign or a key."""
_WORD_MACRO: Final = re.compile(r"\\([A-Za-z@]+)\s?(?:\{\})?")
_ESCAPED: Final = re.compile(r"\\([\\{}&%#$_~^])(?:\{\})?")
_COMBINING: Final = {'"': "\u0308", "'": "\u0301", "`": "\u0300", "^": "\u0302", "~": "\u0303", "=": "\u0304", "c": "\u0327"}
_ACCENT: Final = re.compile(r"\\(?:([\"'`^~=])\{?([A-Za-z])\}?|(c)\{([A-Za-z])\})")
_LEAST_USES: Final = 3
_MOST_KEYS: Final = 60
_SHARE: Final = 0.6


class _Use(Struct, frozen=True):
    """A macro with its arguments, as words; and its line."""

    name: str
    arguments: tuple[str, ...]
    line: int


def read(data: bytes, options: Options) -> Found:
    """Read the tables, items and macros of a TeX document."""
    found = Found(watch=options.watch)
    text = decoded(data).replace("\r\n", "\n").replace("\0", "")
    if not text.strip():
        return found.fail("the file is empty; expected a document with a table or a list of keys")
    if options.page:
        found.page = lines_of(text)
    _Document(text, found, options).run()
    if not found.any:
        found.fail("no table, no item and no macro in it has keys")
    return found


class _Document:
    def __init__(self, text: str, found: Found, options: Options) -> None:
        self._text = "\n".join(_COMMENT.sub("", line) for line in text.split("\n"))
        self._found, self._options = found, options
        self._uses = list(self._macros())
        self._keys_at = _places_of_keys(self._uses)
        self._of_line = {use.line: use for use in self._uses}

    def run(self) -> None:
        group: str | None = None
        rows: list[Line] | None = None
        row, first = "", 0
        for number, line in enumerate(self._text.split("\n"), start=1):
            heading = _HEADING.search(line)
            environment = _TABLE.search(line)
            if heading is not None and _DEFINITION.search(line) is None:
                group = plain(_group_at(line, heading.end())[0]) or group
                self._found.head(group or line, number)
            elif environment is not None:
                if environment[1] == "end" and rows is not None:
                    read_table(rows, self._found, self._options, group)
                rows, row = ([] if environment[1] == "begin" else None), ""
            elif rows is not None:
                row, first = (f"{row} {line}", first) if row.strip() else (line, number)
                if _ROW_END.search(_RULE.sub("", line)) or not _RULE.sub("", line).strip():
                    rows += [Line(first, cells)] if any(cells := _cells(row)) else []
                    row = ""
            else:
                self._take(line, number, group)

    def _take(self, line: str, number: int, group: str | None) -> None:
        item = _ITEM.search(line)
        use = self._of_line.get(number)
        if item is not None and (end := line.find("]", item.end())) > 0:
            self._take_item(plain(line[item.end() : end]), plain(line[end + 1 :]), number, group)
        elif (plain_item := _PLAIN_ITEM.match(line)) is not None:
            read_lines([(number, plain(plain_item[1]))], self._found, group)
        elif use is not None:
            self._take_use(use, group)

    def _take_item(self, title: str, words: str, number: int, group: str | None) -> None:
        """An item with its title in brackets: keys and what they do, or the other way round."""
        if words and evidence(title):
            self._found.add(words, title, group, number)
        elif title and evidence(words):
            self._found.add(title, words, group, number)

    def _take_use(self, use: _Use, group: str | None) -> None:
        """A macro whose uses have keys, or one of two arguments that says by itself that it does."""
        places = self._keys_at.get(use.name, frozenset())
        alternates = [one for place, one in enumerate(use.arguments) if place in places and one]
        others = [one for place, one in enumerate(use.arguments) if place not in places and one]
        if others and alternates:
            self._found.add(others[0], " or ".join(alternates), group, use.line, note=" · ".join(others[1:]))
        elif not places and len(use.arguments) == 2 and not evidence(use.arguments[0]) and evidence(use.arguments[1]) == 2:
            self._found.add(*use.arguments, group, use.line)

    def _macros(self) -> Iterator[_Use]:
        """Yield the macros that stand first on a line with two arguments or more, which may go on on the next two lines."""
        lines = self._text.split("\n")
        for at, line in enumerate(lines):
            macro = _MACRO.match(line.lstrip())
            if macro is None or _DEFINITION.match(line.lstrip()):
                continue
            whole = " ".join([line.lstrip(), *lines[at + 1 : at + 3]])
            arguments, end = list[str](), macro.end()
            while whole[end : end + 1] == "{":
                argument, end = _group_at(whole, end)
                arguments.append(plain(argument))
                end += len(whole[end:]) - len(whole[end:].lstrip())
            if len(arguments) > 1:
                yield _Use(macro[1], tuple(arguments), at + 1)


def _places_of_keys(uses: Sequence[_Use]) -> dict[str, frozenset[int]]:
    """For each macro that binds, which of its arguments have keys: those that look like some in most of its uses."""
    by_name: dict[str, list[_Use]] = {}
    for use in uses:
        by_name.setdefault(use.name, []).append(use)
    found = {}
    for name, its in by_name.items():
        width = min(len(use.arguments) for use in its)
        filled = [[use.arguments[at] for use in its if use.arguments[at]] for at in range(width)]
        shares = [sum(map(_may_be_keys, some)) / max(1, len(some)) for some in filled]
        places = frozenset(at for at, share in enumerate(shares) if share >= _SHARE)
        strong = any(evidence(use.arguments[at]) == 2 for use in its for at in places)
        if strong and len(places) < width and len(its) >= _LEAST_USES:
            found[name] = places
    return found


def _may_be_keys(text: str) -> bool:
    return len(text) <= _MOST_KEYS and evidence(text) > 0


def _group_at(text: str, start: int) -> tuple[str, int]:
    """Return the text in the braces that open at ``start`` and the place after them; all the rest where they never close."""
    depth, at = 0, start
    while at < len(text):
        char = text[at]
        if char == "\\":
            at += 2
            continue
        depth += (char == "{") - (char == "}")
        at += 1
        if depth == 0:
            return text[start + 1 : at - 1], at
    return text[start + 1 :], len(text)


def _cells(row: str) -> tuple[str, ...]:
    body = _ROW_END.sub("", _RULE.sub("", row).strip())
    return tuple(plain(cell) for cell in re.split(r"(?<!\\)&", body))


def _accented(match: re.Match[str]) -> str:
    return normalize("NFC", (match[2] or match[4]) + _COMBINING[match[1] or match[3]])


def plain(text: str) -> str:
    """Return the words of a piece of TeX: without fonts and braces, signs and keys as they read."""
    escaped: list[str] = []
    text = _ACCENT.sub(_accented, text)

    def keep(match: re.Match[str]) -> str:
        escaped.append(match[1])
        return f"\x01{len(escaped) - 1}\x01"

    body = _ESCAPED.sub(keep, text.replace("``", '"').replace("''", '"'))
    body = re.sub(r"\\\+", "+", _FONT.sub("", body))
    body = _WORD_MACRO.sub(lambda match: _SIGNS.get(match[1], ""), body)
    body = re.sub(r"(?<=\s)-{2,3}(?=\s)", "–", body)
    body = re.sub(r"\$([^$]*)\$", r"\1", body).replace("~", " ")
    body = re.sub(r"\\[,;:! /-]|[{}]|(?<=\w)\\/", "", body)
    body = re.sub("\x01(\\d+)\x01", lambda match: escaped[int(match[1])], body)
    return " ".join(body.split())


READERS = (
    Reader(
        "tex",
        read,
        endings=(".tex", ".ltx", ".latex"),
        signs=((0.85, re.compile(r"\\documentclass|\\documentstyle|\\begin\{document\}|^\\(?:section|chapter)\{", re.M)),),
    ),
)
