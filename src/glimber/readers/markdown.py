"""Markdown: tables and lists, with headings as groups."""

from __future__ import annotations

import html
import re

from markdown_it import MarkdownIt
from markdown_it.token import Token

from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_lines
from glimber.readers.reader import Reader
from glimber.readers.table import Line, read_table


def read(data: bytes, options: Options) -> Found:
    """Read the tables and lists of a Markdown text."""
    found = Found(watch=options.watch)
    text = decoded(data).replace("\0", "")
    if not text.strip():
        return found.fail("the file is empty; expected a table or a list")
    tokens = MarkdownIt("commonmark").enable("table").parse(text)
    group: str | None = None
    candidates = False
    at = 0
    while at < len(tokens):
        token = tokens[at]
        if token.type == "heading_open":
            group = tokens[at + 1].content
        elif token.type == "table_open":
            end = next(place for place in range(at, len(tokens)) if tokens[place].type == "table_close")
            read_table(_table(tokens[at:end]), found, options, group)
            candidates, at = True, end
        elif token.type == "list_item_open":
            inline = tokens[at + 2] if at + 2 < len(tokens) and tokens[at + 2].type == "inline" else None
            if inline is not None:
                first = inline.content.splitlines()[0] if inline.content else ""
                read_lines([((inline.map or [0])[0] + 1, _plain(first))], found, group)
                candidates = True
        at += 1
    if not candidates:
        found.fail("no table and no list in it", 1)
    return found


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
            cells.append(_plain(token.content))
        elif token.type == "tr_close":
            lines.append(Line(number, tuple(cells), heading))
    return lines


def _plain(content: str) -> str:
    """The words of a cell, without emphasis; key caps and code count as they read."""
    for mark in ("<kbd>", "</kbd>", "**", "__", "`"):
        content = content.replace(mark, "")
    content = html.unescape(content) if "&" in content else content
    return content.replace("<br>", "\n").replace("<br/>", "\n").replace("\\|", "|").replace("&nbsp;", " ")


READERS = (
    Reader(
        "markdown",
        read,
        endings=(".md", ".markdown"),
        signs=(
            (0.85, re.compile(r"^\s*\|?\s*:?-{3,}:?\s*\|", re.M)),
            (0.5, re.compile(r"^\s*[-*] +\S.*(?:`| — | - |: )|^#{1,6} \S", re.M)),
        ),
    ),
)
