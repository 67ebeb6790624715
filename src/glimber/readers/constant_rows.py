"""Rows of tables in source code with modifiers and a key by their constants: ``{ MODKEY|ShiftMask, XK_b, togglebar, {0} }``,
``((modm .|. shiftMask, xK_b), sendMessage Toggle)``; and events by name: ``("sheet.save", {"type": 'S', "ctrl": True})``.
"""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.found import Found

_ROW: Final = re.compile(
    r"[({]\s*(?P<held>[\w .|]*?)\s*,\s*[xX]K_(?P<key>\w+)\s*\)?\s*,\s*(?P<command>\S[^\n]*?)\s*[,)}\]]*\s*"
    r"(?:(?:--|//|/\*)\s*(?P<remark>.*))?$"
)
_DEFINED: Final = re.compile(r"\b(?:MODKEY|modm|modMask|myModMask)\b\s*(?:=\s*)?(mod[1-5]Mask)\b", re.I)
_TEXT: Final = re.compile(r"\"([^\"\n]+)\"")
_FIELD: Final = re.compile(r"\{\s*\.\w+\s*=\s*(\w+)\s*\}|\{\s*0\s*\}")
_OF_MASK: Final = {"modkey": "", "modm": "", "modmask": "", "mymodmask": ""}
_EVENT: Final = re.compile(
    r"\(\s*[\"'](?P<command>[\w.]+)[\"']\s*,\s*\{(?P<event>[^{}]*[\"']type[\"']\s*:\s*[\"'](?P<key>\w+)[\"'][^{}]*)\}"
)
_HELD: Final = re.compile(r"[\"'](ctrl|shift|alt|oskey|any)[\"']\s*:\s*(?:True|1)\b")
_DIGITS: Final = {name: str(at) for at, name in enumerate("ZERO ONE TWO THREE FOUR FIVE SIX SEVEN EIGHT NINE".split())}
_CASED: Final = Ways(None, False)
_LEAST: Final = 2


def read_constant_rows(text: str, found: Found) -> bool:
    """Add the rows of the tables in a source; whether it has such tables, which two lines make."""
    lines = list(enumerate(text.splitlines(), start=1))
    rows = [(number, match) for number, line in lines if (match := _ROW.search(line)) is not None]
    events = [(number, match) for number, line in lines if (match := _EVENT.search(line)) is not None]
    defined = _DEFINED.search(text)
    own = (modifier_named(defined[1].lower().removesuffix("mask")) if defined is not None else None) or "Super"
    for number, match in rows if len(rows) >= _LEAST else ():
        _take_row(match, number, own, found)
    for number, match in events if len(events) >= _LEAST else ():
        _take_event(match, number, found)
    return len(rows) >= _LEAST or len(events) >= _LEAST


def _take_row(match: re.Match[str], number: int, own: str, found: Found) -> None:
    """Add a row of modifiers, a key and what is done. ``own``: the modifier that the source calls its own."""
    held = [_modifier(word, own) for word in re.findall(r"\w+", match["held"]) if word != "0"]
    key = _key(match["key"])
    command = (match["remark"] or "").strip(" */") or _command(match["command"])
    if None in held or key is None or not command:
        found.leave(match[0].strip(), number, "keys that are not known here")
    else:
        found.add(command, "+".join([*filter(None, held), key]), None, number, _CASED)


def _take_event(match: re.Match[str], number: int, found: Found) -> None:
    """Add an event by its name with the modifiers that are set in it."""
    key = _DIGITS.get(match["key"]) or _key(match["key"])
    held = ["Super" if one == "oskey" else one for one in _HELD.findall(match["event"]) if one != "any"]
    if key is None:
        found.leave(match[0], number, "the mouse, or a key that is not known here")
    else:
        found.add(match["command"], "+".join([*held, key]), None, number, _CASED)


def _key(name: str) -> str | None:
    return name if len(name) == 1 else key_named(name, marked=True)


def _modifier(word: str, own: str) -> str | None:
    if word.lower() in _OF_MASK:
        return own
    return modifier_named(re.sub(r"Mask$", "", word))


def _command(code: str) -> str:
    """Return what is done: the text in quotes, else the words of the code without its brackets."""
    text = _TEXT.search(code)
    first = re.match(r"[\w.]+", code)
    if text is not None and first is not None:
        return f"{first[0]} {text[1]}"
    code = _FIELD.sub(lambda match: match[1] or "", code)
    return " ".join(re.sub(r"[$(){},\[\]]", " ", code).split())
