"""POD, the documentation in Perl's programs: items that are keys, with what they do below, under headings.

Source: perlpod(1).
"""

from __future__ import annotations

import re
from typing import Final

from glimber.readers.found import Found, Options, decoded
from glimber.readers.plaintext import read_text
from glimber.readers.reader import Reader
from glimber.readers.source_page import lines_of

_COMMAND: Final = re.compile(r"^=([a-z]+\d?)\s*(.*)$")
_FORMATTED: Final = re.compile(r"[BCFIKS](?:<<+ (.*?) >>+|<([^<>]*)>)")
_ESCAPE: Final = re.compile(r"E<(\w+)>")
_LINK: Final = re.compile(r"L<(?:([^<>|]*)\|)?([^<>]*)>")
_HIDDEN: Final = re.compile(r"[XZ]<[^<>]*>")
_ESCAPES: Final = {"lt": "\x01", "gt": "\x02", "verbar": "|", "sol": "/"}
_BULLET: Final = re.compile(r"[*o+-]|\d+\.?")


def read(data: bytes, options: Options) -> Found:
    """Read the documentation of a program; its code is left alone."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected documentation with items of keys")
    lines = rendered(text)
    if options.page:
        found.page = lines_of("\n".join(lines))
    read_text("\n".join(lines), found)
    return found


def rendered(text: str) -> list[str]:
    """Return a document as lines, one for each of the source: headings at the margin, items further in, their text further."""
    found: list[str] = []
    indent, in_pod = 0, False
    items = owed = 0  # items before their text, and empty lines between that come after it instead
    for line in text.splitlines():
        command = _COMMAND.match(line)
        if items and not line.strip():
            owed += 1
            continue
        if owed and (not line.strip() or (command is not None and command[1] != "item")):
            found += [""] * owed
            owed = 0
        name, words = (command[1], _plain(command[2])) if command is not None else ("", "")
        in_pod = name != "cut" and (in_pod or bool(name))
        if not in_pod:
            found.append("")
        elif name == "head1":
            found.append(words.upper())
            indent = 0
        elif name.startswith("head"):
            found.append(f"  {words}:")
            indent = 0
        elif name == "item" and not _BULLET.fullmatch(words):
            found.append(f"    {words}")
            indent, items = 8, items + 1
            continue
        elif name:
            indent = 4 if name == "back" else indent
            found.append("")
        else:
            found.append(f"{' ' * indent}{_plain(line)}" if line.strip() else "")
        items = 0
    return found


def _plain(text: str) -> str:
    text = _ESCAPE.sub(lambda match: _ESCAPES.get(match[1], match[0]), text)
    while (inner := _FORMATTED.sub(lambda match: match[1] or match[2] or "", text)) != text:
        text = inner
    text = _LINK.sub(lambda match: match[1] or match[2], _HIDDEN.sub("", text))
    return text.replace("\x01", "<").replace("\x02", ">").strip()


READERS = (
    Reader(
        "pod",
        read,
        endings=(".pod",),
        signs=((0.9, re.compile(r"^=(?:head[1-4]|over|item|pod)\b", re.M)),),
    ),
)
