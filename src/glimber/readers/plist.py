"""Property lists: maps from keys to selectors, and titles of menus with keys; modifiers are signs, "@$s".

Sources: the Cocoa text system's manual, "Key bindings"; NSEvent.h, function-key Unicodes.
"""

from __future__ import annotations

import plistlib
import re
from collections import defaultdict, deque
from collections.abc import Iterator
from html import unescape
from typing import Final
from xml.parsers.expat import ExpatError

from glimber.core.notation.spelling import Ways
from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader
from glimber.readers.values import read_values, words_at

_HELD: Final = {"^": "Ctrl", "~": "Alt", "$": "Shift", "@": "Super", "#": ""}
_SIGNED: Final = re.compile(r"([\^~$@#]*)(\\U?[0-9A-Fa-f]{4}|\\?.)$", re.S)
_PAIR: Final = re.compile(r"^[ \t]*\"((?:\\.|[^\"\\])+)\"\s*=\s*(?:\"((?:\\.|[^\"\\])*)\"|(\w+:)|(\{|\())\s*;?", re.M)
_NAME: Final = re.compile(r"<key>([^<]{1,80})</key>")
_NAMED: Final = {
    0x09: "Tab", 0x0A: "Enter", 0x0D: "Enter", 0x03: "NumEnter", 0x1B: "Escape", 0x20: "Space", 0x7F: "Backspace",
    0xF700: "Up", 0xF701: "Down", 0xF702: "Left", 0xF703: "Right", 0xF727: "Insert", 0xF728: "Delete", 0xF729: "Home",
    0xF72B: "End", 0xF72C: "PageUp", 0xF72D: "PageDown", 0xF72E: "PrintScreen", 0xF735: "Menu",
    **{0xF704 + number: f"F{number + 1}" for number in range(12)},
}  # fmt: skip
_PLAIN: Final = Ways(None, False)
_DEEPEST: Final = 6


def read(data: bytes, options: Options) -> Found:
    """Read a property list, as XML or in its older form in braces."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if text.lstrip().startswith(("<?xml", "<plist", "<!DOCTYPE")):
        try:
            value = plistlib.loads(text.encode(), fmt=plistlib.FMT_XML)
        except (ValueError, ExpatError, AttributeError, IndexError, RecursionError, OverflowError) as error:
            return found.fail(f"not a property list: {str(error)[:200] or type(error).__name__}")
        lines = _lines_of_names(text)
        pairs = [(name, what, lines[name].popleft() if lines.get(name) else 0) for name, what in _pairs(value)]
    else:
        value = None
        found_pairs = [(match, text.count("\n", 0, match.start(1)) + 1) for match in _PAIR.finditer(text)]
        pairs = [(match[1], match[2] or match[3] or "", line) for match, line in found_pairs]
    rows = list(_rows(pairs))
    for command, keys, line in rows:
        found.add(command, keys, None, line, _PLAIN)
    if not rows and isinstance(value, dict | list):
        read_values(value, found, words_at(text))
    if not found.any:
        found.fail("no entry of it binds keys")
    return found


def _lines_of_names(text: str) -> dict[str, deque[int]]:
    """Return at which lines each name of a map stands."""
    found: dict[str, deque[int]] = defaultdict(deque)
    for number, line in enumerate(text.splitlines(), start=1):
        for name in _NAME.findall(line):
            found[unescape(name)].append(number)
    return found


def _pairs(value: object, depth: int = 0) -> Iterator[tuple[str, str]]:
    """Yield the names of maps with the texts they have; a list of texts is one."""
    if depth > _DEEPEST or not isinstance(value, dict | list):
        return
    for name, inner in value.items() if isinstance(value, dict) else enumerate(value):
        if isinstance(name, str) and isinstance(inner, str):
            yield name, inner
        elif isinstance(name, str) and isinstance(inner, list) and inner and all(isinstance(one, str) for one in inner):
            yield name, ", ".join(inner)
        else:
            yield from _pairs(inner, depth + 1)


def _rows(pairs: list[tuple[str, str, int]]) -> Iterator[tuple[str, str, int]]:
    """Yield a command, its keys and its line of each pair: keys stand before selectors, which end in a colon, and after the
    titles of menus."""
    for name, what, line in pairs:
        if what.endswith(":") and (keys := chord_of_signs(name)) is not None:
            yield what, keys, line
        elif re.match(r"[\^~$@#]+.", what, re.S) and evidence(name) < 2 and (keys := chord_of_signs(what)) is not None:
            yield name, keys, line


def chord_of_signs(text: str) -> str | None:
    """Return the chord of a key with its modifiers as signs; None for another text.

    >>> chord_of_signs("@$s"), chord_of_signs("^\\uf700")
    ('Shift+Super+s', 'Ctrl+Up')
    """
    match = _SIGNED.match(text)
    if match is None:
        return None
    key = match[2]
    code = int(key.lstrip("\\U"), 16) if len(key) > 2 else ord(key[-1])
    named = _NAMED.get(code) or (chr(code) if chr(code).isprintable() else "")
    if not named:
        return None
    held = [_HELD[sign] for sign in match[1]] + ["Shift"] * (len(named) == 1 and named.isupper())
    order = ("Ctrl", "Alt", "Shift", "Super")
    return "+".join([*(name for name in order if name in held), named.lower() if len(named) == 1 else named])


READERS = (
    Reader(
        "plist",
        read,
        endings=(".plist",),
        signs=(
            (0.95, re.compile(r"<plist\b|<!DOCTYPE plist")),
            (0.9, re.compile(r"^[ \t]*\"[^\"\n]{1,80}\" = \"[\^~$@#]+[^\"\n]{1,8}\";", re.M)),
            (0.9, re.compile(r"^[ \t]*\"[\^~$@#]+[^\"\n]{1,8}\" = (?:\"[a-zA-Z]+:\"|[a-zA-Z]+:);?", re.M)),
        ),
    ),
)  # fmt: skip
