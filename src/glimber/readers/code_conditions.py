"""Keys in conditions of source code: ``case KEY_F(5): replot();``, ``KeyCode::Char('q') => quit(),``.

A source of conditions has keys only where constants that name nothing else stand among them: ``case 'n':`` alone may be anything.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Final

from msgspec import Struct

from glimber.core.notation.spelling import Ways
from glimber.readers.code import Name
from glimber.readers.constants import chord_of
from glimber.readers.found import Found

_CASE: Final = re.compile(r"^\s*case\s+(.{1,80}?)\s*:(?!:)\s*(.*)$")
_ARM: Final = re.compile(r"^\s*((?:\w+::)*KeyCode::.{1,120}?|\w*Key::.{1,120}?)\s*=>\s*(.*)$")
_IF: Final = re.compile(
    r"^\s*(?:\}\s*)?(?:el(?:se\s+)?)?if\s*\(?\s*[\w.>()-]*(?:key|ch|code|sym)\w*(?:\(\))?\s*={2,3}\s*(.{1,60}?)"
    r"\s*[:{]?\s*(?:(?:/\*|//|#).*)?$",
    re.I,
)
_GUARD: Final = re.compile(r"\s+if\s+(.*)$")
_HELD_IN_GUARD: Final = re.compile(r"KeyModifiers::(\w+)")
_SURE: Final = re.compile(
    r"KEY_|KeyCode::|\bKey::|SDLK_|Key_|\bVK_|XK_|WXK_|(?:Keys|Keyboard)\.|\bCTRL\(|[\"']Arrow|[\"']Page|\bK_[A-Z]"
)
"""Names that only keys have."""
_CONTROL: Final = re.compile(r"^(?:\w*CTRL|\w*Ctrl|CONTROL)\(\s*'?(.)'?\s*\)$")
_CHAR: Final = re.compile(
    r"^(?:(?:\w+::)*(?:KeyCode|Key)::Char\(\s*)?b?(?:'(\\.|\\x[0-9a-f]{2}|\\0?33|[^'\\])'|\"(\\.|[^\"\\])\")\)?$"
)
_FUNCTION: Final = re.compile(r"^(?:(?:\w+::)*(?:KeyCode|Key)::)?(?:KEY_)?F\(\s*(\d{1,2})\s*\)$")
_ENUMERATED: Final = re.compile(r"^(?:\w+::)*(?:KeyCode|Key)::(\w+)$")
_QUOTED: Final = re.compile(r"^[\"'](\w+|.)[\"']$")
_ORD: Final = re.compile(r"^ord\(\s*(.*?)\s*\)$")
_ESCAPES: Final = {r"\t": "<Tab>", r"\n": "<Enter>", r"\r": "<Enter>", r"\b": "<Backspace>", r"\x1b": "<Escape>",
                   r"\033": "<Escape>", r"\33": "<Escape>", r"\e": "<Escape>", r"\\": "<backslash>", r"\'": "'", r'\"': '"',
                   " ": "<Space>"}  # fmt: skip
_COMMENT: Final = re.compile(r"(?:/\*+|//+|#)\s*(\S.*?)\s*(?:\*+/)?\s*$")
_CALLS: Final = re.compile(r"^(?:return\s+|await\s+)?((?:self\.|this\.|this->)?[A-Za-z_][\w.:>-]*)\s*[(;!]")
_EMPTY: Final = re.compile(r"^(?:break;?|return;?|continue;?|\{|\}|\);?|\},?|pass|)$")
_LEAST: Final = 3
_FURTHEST: Final = 3
_CAPITALS: Final = Ways(None, True)


class _Condition(Struct):
    keys: list[str]
    line: int
    sure: bool
    command: str


def read_conditions(text: str, found: Found) -> None:
    """Add the keys of conditions, where some of them are sure to be keys."""
    conditions = [one for one in _conditions(text.splitlines()) if one.command]
    if len(conditions) >= _LEAST and any(one.sure for one in conditions):
        for one in conditions:
            found.add(one.command, " or ".join(one.keys), None, one.line, _CAPITALS)


def _conditions(lines: Sequence[str]) -> Iterator[_Condition]:
    waiting: _Condition | None = None
    for number, line in enumerate(lines, start=1):
        match = (_CASE.match(line) or _ARM.match(line) or _IF.match(line)) if len(line) < 300 else None
        keys = _keys_of(_closed(match[1])) if match is not None else []
        if match is None or not keys:
            waiting = None if match is not None else waiting
            continue
        sure = _SURE.search(match[1]) is not None
        if waiting is not None and not waiting.command:  # several cases that do the same
            keys, sure, first = [*waiting.keys, *keys], sure or waiting.sure, waiting.line
        else:
            first = number
        rest = match[2] if match.lastindex and match.lastindex > 1 else ""
        waiting = _Condition(keys, first, sure, _command(line, rest, lines[number : number + _FURTHEST]))
        if waiting.command:
            yield waiting


def _closed(text: str) -> str:
    """Return a text without the brackets at its end that are opened before it."""
    while text.endswith(")") and text.count(")") > text.count("("):
        text = text[:-1].rstrip()
    return text


def _command(line: str, rest: str, below: Sequence[str]) -> str:
    """Return what is done: a comment beside the condition or below it, else what is called first."""
    comment = _COMMENT.search(rest) or (_COMMENT.search(line) if not rest else None)
    if comment is not None and not _CALLS.match(comment[1]):
        return comment[1]
    for text in (rest, *below):
        body = text.strip()
        if _CASE.match(body) or _ARM.match(body) or _IF.match(body):
            return ""
        comment = _COMMENT.match(body)
        if comment is not None:
            return comment[1]
        called = _CALLS.match(body.removeprefix("{").strip())
        if called is not None and not _EMPTY.match(body):
            return re.sub(r"^(?:self|this)(?:\.|->)", "", called[1]).rstrip("!")
    return ""


def _keys_of(text: str) -> list[str]:
    """Return the keys of a condition, alternates with bars between; none where one of them is no key."""
    guard = _GUARD.search(text)
    held = _HELD_IN_GUARD.findall(guard[1]) if guard is not None else []
    found = []
    for part in re.split(r"\s+\|\|?\s+", text[: guard.start()] if guard is not None else text):
        key = _key(part.strip())
        if key is None:
            return []
        found.append("+".join([*(name.capitalize() for name in held), key]))
    return found


def _key(text: str) -> str | None:
    ordinal = _ORD.match(text)
    text = ordinal[1] if ordinal is not None else text
    control, character, function = _CONTROL.match(text), _CHAR.match(text), _FUNCTION.match(text)
    if control is not None:
        return f"Ctrl+{control[1].lower()}"
    if character is not None:
        char = character[1] or character[2]
        return _ESCAPES.get(char) or (char if len(char) == 1 else None)
    if function is not None:
        return f"<F{function[1]}>"
    match = _ENUMERATED.match(text) or _QUOTED.match(text)
    named = f"KEY_{match[1].removeprefix('Arrow')}" if match is not None else text
    chord = chord_of([Name(re.sub(r"^.*(?:\.|::)", "", named) if "Key_" in named else named, 0)], {})
    if chord is None or len(chord) == 1:
        return chord.lower() if chord else None  # a constant's letter is its key, whatever its case
    return chord if "+" in chord else f"<{chord}>"
