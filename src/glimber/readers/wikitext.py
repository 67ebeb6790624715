"""Tables of wikis and of outlines: ``{| … |}`` with keys as templates, and rows between bars under a rule with plus signs or
under a row of headings with signs of its own: ``^ Keys ^``, ``|_. Keys |``, ``|= Keys |``, ``|| Keys ||``."""

from __future__ import annotations

import html
import re
from typing import Final

from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_lines
from glimber.readers.reader import Reader
from glimber.readers.source_page import lines_of
from glimber.readers.table import Line, read_table

_TEMPLATE: Final = re.compile(r"\{\{\s*(?:key(?:s| press|stroke)?|kbd|button)\s*\|([^{}]+)\}\}", re.I)
_LINK: Final = re.compile(r"\[\[(?:[^\[\]|]*\|)?([^\[\]|]*)\]\]")
_MARK: Final = re.compile(r"'{2,}|</?(?:kbd|key|code|tt|nowiki|small|b|i|big|sup)\s*>|``|\{\{\{|\}\}\}", re.I)
_VERBATIM: Final = re.compile(r"(?<!\w)([=~])([^\s=~](?:[^=~]*[^\s=~])?)\1(?!\w)")
"""Text set as it is in an outline: "=C-x=", "~C-x~"."""
_CODE: Final = re.compile(r"(?<![\w@])@([^@\s][^@]*)@(?![\w@])")
"""Code in text: "@Ctrl+S@"."""
_ATTRIBUTES: Final = re.compile(r"^\s*(?:\w+=\"[^\"]*\"\s*)+\|(?!\|)")
_HEADING: Final = re.compile(r"^(?:(={1,6})\s*([^=]+?)\s*\1|(?:\*+ (?=[A-Z])|h[1-6]\. |={1,6} )(\S.*))\s*$")
_HEAD_ROW: Final = re.compile(r"^\s*(?:\^(.*)\^|\|_\.(.*)\||\|=(.*?)\|?|\|\|(.*)\|\|)\s*$")
_NEXT_HEAD: Final = re.compile(r"\^|\|[_=]\.?|\|+")
_RULE: Final = re.compile(r"^\s*\|[-+]+\|\s*$")
_ROW: Final = re.compile(r"^\s*\|(.*)\|\s*$")


def read(data: bytes, options: Options) -> Found:
    """Read the tables of a wiki's or an outline's text, and its lists."""
    found = Found(watch=options.watch)
    text = decoded(data).replace("\0", "")
    if not text.strip():
        return found.fail("the file is empty; expected a table")
    if options.page:
        found.page = lines_of(text)
    _Walk(found, options).run(text)
    if not found.any:
        found.fail("no table and no list in it has keys")
    return found


class _Walk:
    def __init__(self, found: Found, options: Options) -> None:
        self._found, self._options = found, options
        self._group: str | None = None
        self._rows: list[Line] = []
        self._cells: list[str] = []
        self._first, self._is_head, self._in_table = 0, False, False
        self._others: list[tuple[int, str]] = []

    def run(self, text: str) -> None:
        for number, line in enumerate(text.splitlines(), start=1):
            heading, row = _HEADING.match(line), _ROW.match(line)
            heads = _HEAD_ROW.match(line) if not self._rows else None
            if line.lstrip().startswith("{|"):
                self._close()
                self._in_table = True
            elif self._in_table:
                self._of_wiki(line.strip(), number)
            elif heading is not None:
                self._close()
                self._group = _plain(heading[2] or heading[3])
                self._found.head(self._group, number)
            elif _RULE.match(line):
                if len(self._rows) == 1:
                    self._rows = [Line(self._rows[0].number, self._rows[0].cells, True)]
            elif heads is not None and any(heads.groups()):
                words = next(filter(None, heads.groups()))
                self._rows.append(Line(number, tuple(map(_plain, _NEXT_HEAD.split(words))), True))
            elif row is not None:
                self._rows.append(Line(number, tuple(map(_plain, row[1].split("|")))))
            else:
                self._end_table()
                self._others.append((number, _plain(line)))
        self._close()

    def _of_wiki(self, line: str, number: int) -> None:
        if line.startswith("|}"):
            self._end_row()
            self._end_table()
            self._in_table = False
        elif line.startswith("|-"):
            self._end_row()
        elif line[:1] in ("|", "!") and not line.startswith("|+"):
            self._first = self._first or number
            self._is_head |= line[0] == "!"
            parts = re.split(r"\|\||!!", _TEMPLATE.sub(_keys, line[1:]))
            self._cells += [_plain(_ATTRIBUTES.sub("", part)) for part in parts]
        elif line and self._cells:
            self._cells[-1] = f"{self._cells[-1]} {_plain(line)}"

    def _end_row(self) -> None:
        if self._cells:
            self._rows.append(Line(self._first, tuple(self._cells), self._is_head))
        self._cells, self._first, self._is_head = [], 0, False

    def _end_table(self) -> None:
        if self._rows:
            read_table(self._rows, self._found, self._options, self._group)
        self._rows = []

    def _close(self) -> None:
        self._end_table()
        if any(line for _, line in self._others):
            read_lines(self._others, self._found, self._group)
        self._others = []


def _keys(match: re.Match[str]) -> str:
    """Return the keys of a template: its parts are held together."""
    return "+".join(part.strip() for part in match[1].split("|") if part.strip() and "=" not in part)


def _plain(text: str) -> str:
    words = _MARK.sub("", _LINK.sub(r"\1", _TEMPLATE.sub(_keys, text)))
    return _VERBATIM.sub(r"\2", _CODE.sub(r"\1", html.unescape(words))).strip()


READERS = (
    Reader(
        "wiki",
        read,
        endings=(".wiki", ".mediawiki", ".org", ".textile", ".creole", ".dokuwiki", ".t2t"),
        signs=(
            (0.85, re.compile(r"^\s*\{\|.*\n(?:.*\n){0,4}\s*(?:\|-|!)", re.M)),
            (0.8, re.compile(r"^\s*\|-+\+-+.*\|\s*$", re.M)),
            (
                0.8,
                re.compile(
                    r"^(?:\^[^\n^|]+\^[^\n]*\^|\|_\.[^\n]+\||\|=[^\n|]+\|=[^\n]*|\|\|[^\n|]+\|[^\n]+\|\|)\s*\n\s*\|", re.M
                ),
            ),
        ),
    ),
)
