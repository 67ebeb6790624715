"""Texinfo: tables whose items are keys, with what they do below or beside them, and sentences about keys."""

from __future__ import annotations

import re
from typing import Final

from glimber.readers.evidence import evidence
from glimber.readers.found import PROSE, Found, Options, decoded
from glimber.readers.plaintext import IN_WORDS
from glimber.readers.prose import bindings_in
from glimber.readers.reader import Reader
from glimber.readers.source_page import lines_of

_HEADING: Final = re.compile(
    r"@(?:unnumbered|appendix|top|chapter|section|subsection|subsubsection|heading|subheading)\w*\s+(\S.*)$"
)
_ITEM: Final = re.compile(r"@itemx?\s+(\S.*)$")
_INDEX: Final = re.compile(r"@(?:[a-z]{1,2}index|anchor|c|comment|node|page|noindent|need)\b")
_MARKED: Final = re.compile(r"@(?:kbd|key|code|samp|command|var|file|dfn|emph|strong|r|t|b|i|w|asis|option)\{([^{}]*)\}")
_SIGN: Final = re.compile(r"@([@{}])")
_TABLE: Final = re.compile(r"@(end\s+)?(?:[fv]?table|itemize|enumerate)\b")


def read(data: bytes, options: Options) -> Found:
    """Read the tables and sentences of a Texinfo document."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected a document with tables of keys")
    if options.page:
        found.page = lines_of(text)
    _Document(found).run(text)
    if not found.any:
        found.fail("no item and no sentence in it has keys")
    return found


class _Document:
    """Lines in order: the items that wait for their descriptions, and the sentences of paragraphs."""

    def __init__(self, found: Found) -> None:
        self._found = found
        self._group: str | None = None
        self._items: list[tuple[int, str]] = []
        self._texts: list[tuple[int, str]] = []
        self._used: set[int] = set()

    def run(self, text: str) -> None:
        for number, line in enumerate(text.splitlines(), start=1):
            heading, item = _HEADING.match(line), _ITEM.match(line)
            if heading is not None:
                self._close()
                self._group = _plain(heading[1])
                self._found.head(self._group, number)
                self._used.add(number)
            elif item is not None and " @tab " in f"{item[1]} ":
                self._close()
                self._cells(number, [_plain(cell) for cell in item[1].split("@tab")])
            elif item is not None:
                if self._texts:
                    self._close()
                self._items.append((number, _plain(item[1])))
            elif _TABLE.match(line) or (not line.strip() and self._texts):
                self._close()
            elif line.strip() and not _INDEX.match(line) and not line.startswith("\\input"):
                self._texts.append((number, _plain(line)))
        self._close()
        for number, line in enumerate(text.splitlines(), start=1):
            if line.strip() and number not in self._used:
                self._found.leave(line, number, f"{PROSE}: no keys with a command")

    def _cells(self, number: int, cells: list[str]) -> None:
        """Add a row of a table with columns: keys beside a command, in either order."""
        first, last = cells[0], cells[-1]
        keys, command = (first, last) if evidence(first) >= evidence(last) else (last, first)
        if evidence(keys) and command:
            self._found.add(command, keys, self._group, number)
            self._used.add(number)

    def _close(self) -> None:
        """Add what the items and the lines below them say."""
        words = " ".join(line for _, line in self._texts)
        keys = [keys for _, keys in self._items if evidence(keys) or len(keys) == 1]
        if keys and words:
            self._found.add(words, " or ".join(keys), self._group, self._items[0][0])
            self._used.update(number for number, _ in [*self._items, *self._texts])
        elif words:
            for command, its in bindings_in(words, self._group):
                self._found.add(command, its, self._group, self._texts[0][0], IN_WORDS)
                self._used.update(number for number, _ in self._texts)
        self._items, self._texts = [], []


def _plain(text: str) -> str:
    while (inner := _MARKED.sub(r"\1", text)) != text:
        text = inner
    return " ".join(_SIGN.sub(r"\1", text).split())


READERS = (
    Reader(
        "texinfo",
        read,
        endings=(".texi", ".texinfo", ".txi"),
        signs=((0.85, re.compile(r"^\\input texinfo|^@(?:table|ftable|vtable|node|setfilename)\b", re.M)),),
    ),
)
