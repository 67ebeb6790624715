"""Keys that source code declares beside what they do: with their help, behind a button, or as objects.

Each is a form of its own: ``WithKeys("k"), WithHelp("k", "buoy above")``, ``Button("Save sheet") { … }.keyboardShortcut("s")``,
``SingleActivator(LogicalKeyboardKey.keyS, control: true): Save()``, ``Shortcut { sequence: "Ctrl+B"; onActivated: nextBuoy() }``.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from msgspec import Struct

from glimber.core.notation.spelling import Ways
from glimber.readers.constants import STANDARD
from glimber.readers.found import Found
from glimber.readers.mnemonics import without_mnemonic

_CAPITALS: Final = Ways(None, True)
_HELP: Final = re.compile(r"WithKeys\(([^()]*)\)\s*,\s*(?:\w+\.)?WithHelp\(\s*\"[^\"]*\"\s*,\s*\"([^\"]*)\"\s*,?\s*\)")
_TEXT: Final = re.compile(r"\"([^\"]+)\"")
_AFTER_BUTTON: Final = re.compile(
    r"\.keyboardShortcut\(\s*(?:\"(.)\"|\.(\w+)|KeyEquivalent\(\"(.)\"\))\s*(?:,\s*modifiers:\s*(\[[^\]]*\]|\.\w+))?"
)
_BUTTON: Final = re.compile(r"\b(?:Button|Toggle|Label|Menu|Picker|NavigationLink|CommandMenu)\(\s*\"([^\"]+)\"")
_ACTIONS: Final = {"defaultAction": ("<Enter>", ""), "cancelAction": ("<Escape>", "")}
_NAMES: Final = {"upArrow": "Up", "downArrow": "Down", "leftArrow": "Left", "rightArrow": "Right", "pageUp": "PageUp",
                 "pageDown": "PageDown", "deleteForward": "Delete", "delete": "Backspace", "return": "Enter"}  # fmt: skip
_ACTIVATOR: Final = re.compile(
    r"(SingleActivator|LogicalKeySet)\(\s*([^()]{1,200}?)\s*,?\s*\)\s*:\s*(?:const\s+)?(?:\(\)\s*=>\s*)?([A-Za-z_][\w.]*)"
)
_LOGICAL: Final = re.compile(r"LogicalKeyboardKey\.(\w+)")
_DECLARED: Final = re.compile(r"\b(?:Shortcut|Action|MenuItem|ToolButton|Button)\s*\{((?:[^{}]|\{[^{}]*\}){1,1200})\}")
_DECLARED_KEYS: Final = re.compile(r"\b(?:shortcut|sequences?)\s*:\s*(?:StandardKey\.(\w+)|(\[[^\]]*\]|\"[^\"]+\"))")
_DECLARED_TEXT: Final = re.compile(r"\btext\s*:\s*(?:\w+\(\s*)?\"([^\"]+)\"")
_DECLARED_CALL: Final = re.compile(r"\bon(?:Activated|Triggered|Clicked)\s*:\s*\{?\s*([A-Za-z_][\w.]*)")
_DECLARED_ID: Final = re.compile(r"\bid\s*:\s*(\w+)")


class _Declared(Struct):
    keys: list[str]
    line: int
    command: str
    ways: Ways | None = None


def read_declared_keys(text: str, found: Found) -> None:
    """Add the keys that a source declares in one of the forms known here."""
    for one in [*_helps(text), *_buttons(text), *_activators(text), *_objects(text)]:
        found.add(one.command, " or ".join(one.keys), None, one.line, one.ways)


def _helps(text: str) -> Iterator[_Declared]:
    """Yield keys and their help in calls that are given both: ``WithKeys("k", "up"), WithHelp("↑/k", "move up")``."""
    for match in _HELP.finditer(text):
        keys = _TEXT.findall(match[1])
        if keys and match[2]:
            spelt = [one if len(one) == 1 or "+" in one else f"<{one}>" for one in keys]
            yield _Declared(spelt, _line(text, match.start()), match[2], _CAPITALS)


def _buttons(text: str) -> Iterator[_Declared]:
    """Yield the keys behind buttons: ``Button("Save sheet") { … }.keyboardShortcut("s", modifiers: .command)``."""
    for match in _AFTER_BUTTON.finditer(text):
        before = text[max(0, match.start() - 600) : match.start()]
        labels = _BUTTON.findall(before[before.rfind("keyboardShortcut") + 1 :])
        key, held = match[1] or match[3], match[4] or ".command"
        if not key:
            key, held = _ACTIONS.get(match[2], (f"<{_NAMES.get(match[2], match[2])}>", held))
        if labels:
            names = [name.capitalize() for name in re.findall(r"\w+", held)]
            yield _Declared(["+".join([*names, key])], _line(text, match.start()), labels[-1])


def _activators(text: str) -> Iterator[_Declared]:
    """Yield keys that are objects before what they do: ``SingleActivator(LogicalKeyboardKey.keyS, control: true): Save()``."""
    for match in _ACTIVATOR.finditer(text):
        named = _LOGICAL.findall(match[2])
        held = [name.capitalize() for name in re.findall(r"(control|shift|alt|meta):\s*true", match[2])]
        if named and match[1] == "LogicalKeySet":
            held, named = [*map(str.capitalize, named[:-1]), *held], named[-1:]
        if named:
            letter = re.fullmatch(r"(?:key|digit)([A-Z0-9])", named[0])
            key = letter[1].lower() if letter is not None else f"<{_NAMES.get(named[0], named[0].removeprefix('arrow'))}>"
            yield _Declared(["+".join([*held, key])], _line(text, match.start()), match[3])


def _objects(text: str) -> Iterator[_Declared]:
    """Yield objects of a declarative language with their keys: ``Shortcut { sequence: "Ctrl+B"; onActivated: nextBuoy() }``."""
    for match in _DECLARED.finditer(text):
        body, keys = match[1], _DECLARED_KEYS.search(match[1])
        if keys is None:
            continue
        standard = STANDARD.get((keys[1] or "").lower())
        its = [standard] if standard else _TEXT.findall(keys[2] or "")
        said = _DECLARED_TEXT.search(body) or _DECLARED_CALL.search(body) or _DECLARED_ID.search(body)
        if its and said is not None:
            yield _Declared(its, _line(text, match.start()), without_mnemonic(said[1]).rstrip(".…"))


def _line(text: str, at: int) -> int:
    return text.count("\n", 0, at) + 1
