"""Mutations of texts: what an editor, a disk, a careless hand or a hostile one makes of a file."""

from __future__ import annotations

import re
from random import Random

VALUES = (
    '""', '"x"', "0", "-1", "1", "true", "[]", "{}", "[[]]", "[1, 2]", '["x"]', "1e308", "-1e308", "nan", "inf", "-inf", "1e-300",
    "99999999999999999999", "9" * 5000, "0001-01-01", "9999-12-31T23:59:59Z", "07:32:00", '"' + "x" * 5000 + '"',
    '"<b>bold</b><img src=x>"', '"\\u0000"', '"\\u001b[2J"', '"\\u202e"', '"KeyS"', '"Ctrl+"', '"⌘+"', '"split-42:draw:KeyS:tap"',
    '"../../outside"', '"/etc/passwd"', '"postgresql+psycopg://u:p@nowhere/x"', '"F1 to F99999"', "[" * 300 + "]" * 300,
    '{ a = { b = { c = 1 } } }', '"Ctrl+K Ctrl+K Ctrl+K Ctrl+K Ctrl+K"', '"dead"', '"falls"',
    '"board"', '"A4"', "[{}]", '"\\ud7ff"',
)  # fmt: skip
_VALUE = re.compile(r"(?<== )[^\n]+")
_KEY = re.compile(r"^[\w-]+(?= = )", re.M)
_INNER = re.compile(r'"[^"\n]*"|\b\d+(?:\.\d+)?\b|\btrue\b|\bfalse\b')


def mutated(text: str, random: Random) -> str:
    """The text with one to three things changed."""
    for _ in range(random.randint(1, 3)):
        text = random.choice(_WAYS)(text, random)
    return text


def _replace(pattern: re.Pattern[str], text: str, random: Random, by: str) -> str:
    found = list(pattern.finditer(text))
    if not found:
        return text
    chosen = random.choice(found)
    return text[: chosen.start()] + by + text[chosen.end() :]


def _value(text: str, random: Random) -> str:
    return _replace(_VALUE, text, random, random.choice(VALUES))


def _inner(text: str, random: Random) -> str:
    return _replace(_INNER, text, random, random.choice(VALUES))


def _key(text: str, random: Random) -> str:
    return _replace(
        _KEY, text, random, random.choice(("name", "id", "x" * 200, '""', '"a b"', "unbound", "steps", "shortcut"))
    )


def _lines(text: str, random: Random) -> str:
    lines = text.split("\n")
    at, other = random.randrange(len(lines)), random.randrange(len(lines))
    way = random.randrange(4)
    if way == 0:
        del lines[at]
    elif way == 1:
        lines.insert(at, lines[other])
    elif way == 2:
        lines[at], lines[other] = lines[other], lines[at]
    else:
        del lines[at : at + random.randint(1, 8)]
    return "\n".join(lines)


def _letter(text: str, random: Random) -> str:
    if not text:
        return text
    at = random.randrange(len(text))
    return text[:at] + random.choice('"=[]{}.,#\\\n\r\t\x00é\u2028+ 0') + text[at + random.randint(0, 1) :]


def _cut(text: str, random: Random) -> str:
    return text[: random.randrange(len(text) + 1)]


def _swap_values(text: str, random: Random) -> str:
    found = list(_VALUE.finditer(text))
    return _replace(_VALUE, text, random, random.choice(found).group()) if found else text


_WAYS = (
    _value,
    _value,
    _value,
    _inner,
    _inner,
    _inner,
    _key,
    _lines,
    _lines,
    _letter,
    _swap_values,
    _swap_values,
    _cut,
)
