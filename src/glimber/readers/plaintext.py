"""Plain text: aligned columns, or lines such as "Ctrl+S — Save chart"."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

from glimber.readers.found import Found, Options, decoded, looks_like_keys

_SPLITS: Final = (
    re.compile(r"\t+| {2,}"),
    re.compile(r"\s+(?:—|–|-|=|->|→)\s+"),
    re.compile(r"\s*:\s+"),
    re.compile(r"\.{3,}"),
)
_BULLET: Final = re.compile(r"^\s*(?:[*•·+-]|\d+[.)])\s+")


def read(data: bytes, options: Options) -> Found:
    """Read lines of text."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the file is empty; expected lines with a command and its keys")
    read_lines(enumerate(text.splitlines(), start=1), found)
    return found


def read_lines(lines: Iterable[tuple[int, str]], found: Found, group: str | None = None) -> None:
    """Add lines with their numbers; a line that is no pair is the heading of those after it."""
    for number, line in lines:
        body = _BULLET.sub("", line).strip()
        if not body or not re.search(r"\w", body):
            continue
        pair = split_pair(body)
        if pair is None and (body.startswith("#") or body.endswith(":") or len(body.split()) <= 5):
            group = body.strip("#:= \t")
        elif pair is None:
            found.fail(f"{body}: expected a command and its keys, apart by a dash or two blanks", number)
        else:
            found.add(*pair, group, number)


def split_pair(body: str) -> tuple[str, str] | None:
    """A line's command and keys, whichever comes first; None for a line that is no pair."""
    for split in _SPLITS:
        parts = [part.strip() for part in split.split(body) if part.strip()]
        if len(parts) < 2:
            continue
        for keys, command in ((parts[0], " ".join(parts[1:])), (parts[-1], " ".join(parts[:-1]))):
            if looks_like_keys(keys) and command:
                return command, keys
    return None
