"""Keys that toolkits spell as constants: ``Qt.CTRL | Qt.Key_S``, ``KeyEvent.VK_F5``, ``KeyMod.CtrlCmd | KeyCode.KeyK``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named
from glimber.readers.code import Name, Part, Text

_KEY: Final = re.compile(
    r"(?:Key_|VK_|GDK_KEY_|GDK_|KEY_|XK_|K_|SDLK_|WXK_)(\w+)$|(?:Keys?|KeyCode|LogicalKeyboardKey)\.(?:key)?(\w+)$"
)
_SCOPE: Final = re.compile(r"^.*\bKey(?:\.|::)(?=Key_)")
"""The name of the enumeration before a constant that says it again: "Qt.Key.Key_G"."""
_LETTER: Final = re.compile(r"(?i)key([a-z])$|(?:digit|key)?([0-9])$")
_HELD: Final = re.compile(r"(?:_?(?:DOWN_)?MASK|_?Modifier|_MOD)$", re.I)
_LEAD: Final = re.compile(r"^(?:ACCEL_|MOD_|KMOD_|GDK_)")
_JOINS: Final = frozenset(("+", "|", ".."))

STANDARD: Final = {
    "new": "Ctrl+N", "open": "Ctrl+O", "close": "Ctrl+W", "save": "Ctrl+S", "saveas": "Ctrl+Shift+S", "quit": "Ctrl+Q",
    "print": "Ctrl+P", "undo": "Ctrl+Z", "redo": "Ctrl+Shift+Z", "cut": "Ctrl+X", "copy": "Ctrl+C", "paste": "Ctrl+V",
    "selectall": "Ctrl+A", "delete": "Delete", "find": "Ctrl+F", "findnext": "F3 or Ctrl+G",
    "findprevious": "Shift+F3 or Ctrl+Shift+G", "replace": "Ctrl+R", "refresh": "F5", "helpcontents": "F1",
    "whatsthis": "Shift+F1",
    "fullscreen": "F11", "zoomin": "Ctrl++", "zoomout": "Ctrl+-", "addtab": "Ctrl+T", "nextchild": "Ctrl+Tab",
    "previouschild": "Ctrl+Shift+Tab", "back": "Alt+Left", "forward": "Alt+Right", "bold": "Ctrl+B", "italic": "Ctrl+I",
    "underline": "Ctrl+U", "cancel": "Escape", "backspace": "Backspace",
}  # fmt: skip
"""Standard key sequences on Linux, KDE's where desktops differ. Source: Qt documentation, QKeySequence, "Standard Shortcuts"."""
_STANDARD: Final = re.compile(r"(?:KeySequence|StandardKey)(?:\.|::)(?:StandardKey(?:\.|::))?(\w+)$")


def chord_of(parts: Sequence[Part], held: dict[str, str]) -> str | None:
    """Return the chord that constants joined by signs name; None where one of them is no key and no modifier.

    ``held``: variables that hold the name of a modifier, by their name.
    """
    modifiers: list[str] = []
    keys: list[str] = []
    for part in parts:
        if isinstance(part, Text):
            keys.append(part)
        elif not isinstance(part, Name):
            return None
        elif part.name in _JOINS:
            continue
        elif (standard := _STANDARD.search(part.name)) is not None:
            return STANDARD.get(standard[1].lower())
        elif (modifier := _modifier(part.name, held)) is not None:
            modifiers.append(modifier)
        elif (key := _key(part.name)) is not None:
            keys.append(key)
        else:
            return None
    return "+".join([*dict.fromkeys(modifiers), keys[0]]) if len(keys) == 1 else None


def modifiers_of(parts: Sequence[Part], held: dict[str, str]) -> list[str]:
    """Return the modifiers that constants or variables joined by signs name; none where one of them is anything else."""
    names = [part.name for part in parts if isinstance(part, Name) and part.name not in _JOINS]
    found = [_modifier(name, held) for name in names]
    whole = len(names) == sum(not isinstance(part, Name) or part.name not in _JOINS for part in parts)
    return [one for one in found if one is not None] if whole and all(found) else []


def _modifier(name: str, held: dict[str, str]) -> str | None:
    if name in held:
        return held[name]
    last = re.split(r"\.|::", name)[-1]
    bare = _HELD.sub("", _LEAD.sub("", last))
    if name == last and bare == last and not last.isupper():
        return None  # a word of the program: "shift", "control"
    return modifier_named(bare)


def _key(name: str) -> str | None:
    match = _KEY.search(_SCOPE.sub("", name))
    if match is None:
        return None
    word = match[1] or match[2]
    letter = _LETTER.match(word)
    if letter is not None:
        return letter[1] or letter[2]
    return word if len(word) == 1 else key_named(word, marked=True)
