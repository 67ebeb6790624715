"""Markdown: tables and lists, with headings as groups."""

from __future__ import annotations

import html
import re
from itertools import pairwise
from typing import Final

from markdown_it import MarkdownIt
from markdown_it.token import Token

from glimber.core.notation.keywords import key_named
from glimber.readers.bracketed_keys import LETTER_BEHIND
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.labelled import records_in
from glimber.readers.pairs import COLUMNS, split_pair
from glimber.readers.plaintext import IN_WORDS, read_lines
from glimber.readers.prose import bindings_in
from glimber.readers.reader import Reader
from glimber.readers.source_page import Block, rows_of
from glimber.readers.table import Line, read_table

_CAP: Final = r"<kbd>(?:(?!</?kbd>).)+</kbd>"
_MARK: Final = rf"(?:\*\*[^*]+\*\*|``[^`]+``|`[^`]+`|{_CAP})"
_PRESS: Final = r"(?:press|hit|type|use|push)"
"""Verbs for keys. What is clicked or tapped may be a button that is called like a key: "Click **Home**"."""
_MARKED: Final = re.compile(
    rf"^(?:(?i:{_PRESS})\s+(?=.+\bto\b))?({_MARK}(?:\s*(?:/|,|\+|or|and|then)?\s*{_MARK})*)"
    r"\s*(?:to|for|[:,–—-])?\s+(?=\w)(.+)$", re.S,
)  # fmt: skip
_KEY: Final = rf"(?:{_CAP}|`[^`\s][^`]{{0,20}}`)"
_KEYS: Final = rf"({_KEY}(?:\s*(?:/|,|\+|or|and)\s*{_KEY})*)"
_SAID: Final = (
    (re.compile(rf"(?i:\b{_PRESS})\s+{_KEYS}\s+to\s+(\w[^.,;:<>\n]+)"), 1, 2),
    (re.compile(rf"(?i:\b(?:press|hitt|us|typ)ing)\s+{_KEYS}\s+(?:will|lets\s+you|allows\s+you\s+to)\s+(\w[^.,;:<>\n]+)"), 1, 2),
    (re.compile(rf"\bTo\s+(\w[^.,;:<>`\n]{{3,120}}?),?\s+{_PRESS}\s+{_KEYS}"), 2, 1),
)  # fmt: skip
"""Sentences that say what a marked key does, even one that is a sign, with the places of keys and command in them: "Press
<kbd>/</kbd> to find a sheet", "Pressing `D` will open the chest", "To fold the chart, press `F`"."""
_BETWEEN_KEYS: Final = re.compile(r"\s*(?:(?<=\S)/(?=\S)|, |\+| or | and )\s*")
_CODE: Final = re.compile(r"(`+)(.+?)\1")
_LINK: Final = re.compile(r"\[([^\[\]]+)\]\([^()\s]*\)")

_SLANTED: Final = re.compile(r"(?<![^\s(\[|/,*])([_*])(?=[^\s_*])([^_*\n]*?[^\s_*])\1(?![^\s)\]|.,:;/*])")
"""Emphasis by one sign, which keys such as "Ctrl+_" have no blank before."""
_MOST_OF: Final = 0.7
_PLAIN_BLOCKS: Final = frozenset({"", "text", "txt", "plain", "plaintext", "none"})
"""Languages of a block set as it is that is no source code."""
_LEAST_PAIRS: Final = 3


def read(data: bytes, options: Options) -> Found:
    """Read the tables, lists, sentences and plain blocks of a Markdown text."""
    found = Found(watch=options.watch, mod="Ctrl")
    text = decoded(data).replace("\0", "")
    if not text.strip():
        return found.fail("the file is empty; expected a table or a list")
    tokens = MarkdownIt("commonmark").enable("table").parse(text)
    if options.page:
        found.page = _page_of(tokens)
    walk = _Walk(tokens, found, options)
    walk.run()
    for record in records_in(walk.texts):
        found.add(record.command, record.keys, None, record.line)
        walk.has_candidates = True
    if not walk.has_candidates:
        found.fail("no table and no list in it")
    return found


class _Walk:
    """The tokens of a text, one after another: each kind of block is read in its own way, below the heading named last."""

    def __init__(self, tokens: list[Token], found: Found, options: Options) -> None:
        self._tokens, self._found, self._options = tokens, found, options
        self._group: str | None = None
        self.texts: list[tuple[int, str]] = []
        """Lines of paragraphs, with their numbers."""
        self.has_candidates = False
        self._lines: list[tuple[int, str]] = []
        """Lines of paragraphs below the last heading that tell nothing in a sentence."""
        self._items: list[tuple[int, str]] = []
        """Entries of the list so far that are a command and keys: letters among them are told from words by all of them."""

    def run(self) -> None:
        at = 0
        while at < len(self._tokens):
            token = self._tokens[at]
            if token.level == 0 and token.nesting >= 0:
                self._take_items()
            if token.type == "heading_open":
                self._take_lines()
                self._group = self._tokens[at + 1].content
                self._found.head(self._group, _line(token))
            elif token.type == "fence" and token.info.strip().lower() in _PLAIN_BLOCKS:
                self._block(token)
            elif token.type == "paragraph_open" and (token.level == 0 or self._tokens[at - 1].type != "list_item_open"):
                self._paragraph(_line(token), self._tokens[at + 1].content)
            elif token.type == "table_open":
                end = next(place for place in range(at, len(self._tokens)) if self._tokens[place].type == "table_close")
                read_table(_table(self._tokens[at:end]), self._found, self._options, self._group)
                self.has_candidates, at = True, end
            elif token.type == "list_item_open" and at + 2 < len(self._tokens) and self._tokens[at + 2].type == "inline":
                self._item(self._tokens[at + 2])
            at += 1
        self._take_items()
        self._take_lines()

    def _take_lines(self) -> None:
        """Read the lines of the paragraphs below a heading where nearly all of them are a command and keys."""
        lines, self._lines = self._lines, []
        # Columns are those of plain text, and names set to keys those of a configuration.
        pairs = [None if COLUMNS.search(line.strip()) else split_pair(line) for _, line in lines]
        pairs = [pair if pair is not None and " " in pair[0].strip() and pair[1][0] not in "\"'" else None for pair in pairs]
        sure = sum(pair is not None and evidence(pair[1]) == 2 for pair in pairs)
        if sure >= _LEAST_PAIRS and sum(pair is not None for pair in pairs) >= _MOST_OF * len(lines):
            read_lines([line for line, pair in zip(lines, pairs, strict=True) if pair is not None], self._found, self._group)
            self.has_candidates = True

    def _take_items(self) -> None:
        if self._items:
            read_lines(self._items, self._found, self._group)
            self._items = []

    def _block(self, token: Token) -> None:
        first = _line(token) + 1
        lines = [(first + place, line) for place, line in enumerate(token.content.splitlines())]
        if sum(split_pair(line) is not None for _, line in lines) >= _LEAST_PAIRS:
            read_lines(lines, self._found, self._group)
            self.has_candidates = True

    def _paragraph(self, number: int, content: str) -> None:
        lines = [plain_text(line) for line in content.splitlines()]
        self.texts += [(number + place, line) for place, line in enumerate(lines)]
        for place, (line, after) in enumerate(pairwise(lines)):  # a term, and what it means behind a colon
            if after.startswith(": ") and (evidence(line) or evidence(after[2:]) == 2):
                command, keys = (after[2:], line) if evidence(line) else (line, after[2:])
                self._found.add(command, keys, self._group, number + place)
                self.has_candidates = True
        sentences = [*bindings_in(plain_text(content), self._group)]
        known = {keys for _, keys in sentences}
        sentences += [(command, keys) for command, keys in _said_of_keys(content) if keys not in known]
        for command, keys in sentences:
            self._found.add(command, keys, self._group, number, IN_WORDS)
            self.has_candidates = True
        if not sentences and not any(line.startswith(": ") for line in lines):
            self._lines += [(number + place, line) for place, line in enumerate(lines)]

    def _item(self, inline: Token) -> None:
        content = _joined(inline.content)
        keyed = _marked_keys(content)
        if keyed is not None:
            self._found.add(*keyed, self._group, _line(inline))
        elif split_pair(plain_text(content)) is not None or LETTER_BEHIND.fullmatch(plain_text(content)):
            self._items.append((_line(inline), plain_text(content)))
        elif said := _said_of_keys(content):
            for command, keys in said:
                self._found.add(command, keys, self._group, _line(inline), IN_WORDS)
        else:
            read_lines([(_line(inline), plain_text(content))], self._found, self._group)
        self.has_candidates = True


def _said_of_keys(content: str) -> list[tuple[str, str]]:
    """Return commands and keys of the sentences that press a marked key."""
    found = []
    for shape, keys, command in _SAID:
        found += [(match.start(), plain_text(match[command]), plain_text(match[keys])) for match in shape.finditer(content)]
    return [(command, keys) for _, command, keys in sorted(found) if all(_is_key(one) for one in _BETWEEN_KEYS.split(keys))]


def _is_key(text: str) -> bool:
    return len(text) == 1 or evidence(text) == 2 or key_named(text, marked=True) is not None


def _line(token: Token) -> int:
    return (token.map or [0])[0] + 1


def _page_of(tokens: list[Token]) -> list[Block]:
    """Return the headings, paragraphs, items and tables of a text, and code as it is written."""
    blocks: list[Block] = []
    in_item = 0
    at = 0
    while at < len(tokens):
        token = tokens[at]
        number = (token.map or [0])[0] + 1
        in_item += {"list_item_open": 1, "list_item_close": -1}.get(token.type, 0)
        if token.type == "heading_open":
            blocks.append(Block("heading", (plain_text(tokens[at + 1].content),), number, int(token.tag[1:])))
            at += 1
        elif token.type == "table_open":
            end = next(place for place in range(at, len(tokens)) if tokens[place].type == "table_close")
            blocks += rows_of((line.number, line.cells, line.heading) for line in _table(tokens[at:end]))
            at = end
        elif token.type == "inline":
            blocks += [Block("item" if in_item and not place else "text", (plain_text(line),), number + place)
                       for place, line in enumerate(token.content.splitlines())]  # fmt: skip
        elif token.type in ("fence", "code_block"):
            first = number + (token.type == "fence")
            blocks += [Block("line", (line,), first + place) for place, line in enumerate(token.content.splitlines())]
        at += 1
    return blocks


def _marked_keys(content: str) -> tuple[str, str] | None:
    """Return command and keys of an entry that begins with marked keys and goes on in words: "**Enter** to split the entry"."""
    match = _MARKED.match(content)
    if match is None:
        return None
    keys, command = plain_text(match[1]).strip(), plain_text(match[2]).strip()
    like = evidence(keys) > 0 or key_named(keys, marked=True) is not None
    return (command, keys) if like and command and not evidence(command) else None


def _joined(content: str) -> str:
    """Return an entry as one line, up to a line that has keys of its own."""
    lines = content.splitlines()
    end = next((place for place, line in enumerate(lines[1:], start=1) if split_pair(plain_text(line)) is not None), len(lines))
    return " ".join(lines[:end])


def _table(tokens: list[Token]) -> list[Line]:
    lines: list[Line] = []
    cells: list[str] = []
    number, heading = 0, False
    for token in tokens:
        if token.type == "tr_open":
            cells, number, heading = [], (token.map or [0])[0] + 1, False
        elif token.type == "th_open":
            heading = True
        elif token.type == "inline":
            cells.append(plain_text(token.content))
        elif token.type == "tr_close":
            lines.append(Line(number, tuple(cells), heading))
    return lines


def plain_text(content: str) -> str:
    """Return the words of a cell, without emphasis; key caps and code count as they read."""
    for mark in ("<kbd>", "</kbd>", "**", "__"):
        content = content.replace(mark, "")
    content = _CODE.sub(r"\2", _SLANTED.sub(r"\2", content))
    content = _LINK.sub(r"\1", content)
    content = html.unescape(content) if "&" in content else content
    return content.replace("<br>", "\n").replace("<br/>", "\n").replace("\\|", "|").replace("&nbsp;", " ")


READERS = (
    Reader(
        "markdown",
        read,
        endings=(".md", ".markdown"),
        signs=(
            (0.85, re.compile(r"^[ \t]*\|?[ \t]*:?-{3,}:?[ \t]*\|", re.M)),
            # Headings and a list, whatever tags stand among them.
            (0.9, re.compile(r"\A(?>(?:.*\n)*?#{2,6} \S.*\n)(?:.*\n)*?(?:[-*] +\S|```)")),
            (0.5, re.compile(r"^\s*[-*] +\S.*(?:`| — | - |: )|^#{1,6} \S", re.M)),
        ),
    ),
)
