"""Lines of window managers' configurations rewritten as ``bind "KEYS" COMMAND``; each stays on its line."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from glimber.core.notation.keywords import modifier_named
from glimber.readers.config_rewrites import rewrite_known_shapes

_LEAST: Final = 3
"""So many lines of a shape are one; fewer may be anything."""
_WITH_CONTEXT: Final = re.compile(
    r"^\s*(?:silent\s+)?(?:pointer)?key\s+(\S+)\s+(?:\([^)]*\)\s+)?([A-Z0-9_<>^|\[\]-]+)\s+([ANSCMLP1-5]+)\s+(\S.*)$", re.I
)
_CODED: Final = re.compile(r"^\s*(?:key|bind)\s+([a-z][\w-]*)\s*=\s*((?:(?:'[^']'|0x[0-9a-f]+|\d{1,3})\s*,?\s*)+)$", re.I)
_VALUE: Final = re.compile(r"'([^'])'|0x([0-9a-f]+)|(\d+)", re.I)
_CODES: Final = {
    9: "Tab", 10: "Enter", 13: "Enter", 27: "Escape", 32: "Space", 127: "Backspace", 258: "Down", 259: "Up", 260: "Left",
    261: "Right", 262: "Home", 263: "Backspace", 330: "Delete", 331: "Insert", 338: "PageDown", 339: "PageUp", 353: "Shift+Tab",
    360: "End",
}  # fmt: skip
"""Source: ncurses, curses.h (there in octal); 264 and what follows are the function keys."""
_LETTERS: Final = {"S": "Shift", "C": "Ctrl", "M": "Alt", "1": "Alt", "4": "Super", "5": "AltGr"}
"""Modifiers by letter; A is any and N none."""
_BLOCK: Final = re.compile(r"^\s*(\w+)\s*=\s*\"([^\"]+)\"\s*\{\s*(?:\w+\s*=\s*\"([^\"]*)\"\s*;?\s*)?(\})?\s*(?:#.*)?$")
_OPENS: Final = re.compile(r"\{\s*(?:#.*)?$")
_SHUTS: Final = re.compile(r"^\s*\}\s*(?:#.*)?$")
_OF_KEYS: Final = re.compile(r"key|press|bind|chord|chain", re.I)


def as_bind_lines(lines: Sequence[str]) -> list[str]:
    """Return the lines with those of the shapes known here rewritten as ``bind`` lines."""
    return _with_codes(_of_blocks(_with_contexts(rewrite_known_shapes(lines))))


def _with_codes(lines: Sequence[str]) -> list[str]:
    """Return lines such as "key quit = 'q', 'Q', 3": a command, then characters in quotes and codes of the curses library."""
    found = [_CODED.match(line) for line in lines]
    if sum(match is not None and "'" in match[2] for match in found) < _LEAST:
        return list(lines)
    return [line if match is None or not (keys := _keys_of_codes(match[2])) else f'bind "{" or ".join(keys)}" {match[1]}'
            for line, match in zip(lines, found, strict=True)]  # fmt: skip


def _keys_of_codes(values: str) -> list[str]:
    keys = []
    for character, hexadecimal, decimal in _VALUE.findall(values):
        code = ord(character) if character else int(hexadecimal or decimal, 16 if hexadecimal else 10)
        keys.append(_CODES.get(code) or (f"F{code - 264}" if 264 < code <= 276 else _character(code)))
    return [key for key in keys if key]


def _character(code: int) -> str:
    if code < 32:
        return f"^{chr(code + 64)}"
    return {'"': "<quotedbl>", "\\": "<backslash>"}.get(chr(code), chr(code)) if code < 127 else ""


def _with_contexts(lines: Sequence[str]) -> list[str]:
    """Return lines such as "Key F1 A M Menu Root": a key, where the pointer is, modifiers by letters, and the command."""
    found = [_WITH_CONTEXT.match(line) for line in lines]
    if sum(match is not None for match in found) < _LEAST:
        return list(lines)
    return [line if match is None else f'bind "{_held(match[3], match[1])}" {match[4]}'
            for line, match in zip(lines, found, strict=True)]  # fmt: skip


def _held(letters: str, key: str) -> str:
    return "+".join([*dict.fromkeys(_LETTERS[one] for one in letters.upper() if one in _LETTERS), key])


def _of_blocks(lines: Sequence[str]) -> list[str]:
    """Return lines such as ``KeyPress = "Mod4 Z" { Actions = "Toggle Marked" }``: keys with blanks between, and what they do in
    braces.

    What stands within the braces of other keys is struck after them.
    """
    if sum(_is_binding(line) for line in lines) < _LEAST:
        return list(lines)
    usual, open_keys = list[str](), list[str]()
    for line in lines:
        match = _BLOCK.match(line)
        if match is not None and _OF_KEYS.search(match[1]) and match[3] and match[4]:
            keys = " ".join([*filter(None, open_keys), _chord(match[2])])
            usual.append(f'bind "{keys}" {match[3]}')
            continue
        if match is not None and match[4] is None and match[3] is None:
            open_keys.append(_chord(match[2]) if _OF_KEYS.search(match[1]) else "")
            usual.append("")
        elif _OPENS.search(line):
            open_keys.append("")
            usual.append(f"[{line.split('{')[0].strip()}]" if line.split("{")[0].strip() else "")
        elif _SHUTS.match(line):
            open_keys[-1:] = []
            usual.append("")
        else:
            usual.append(line)
    return usual


def _is_binding(line: str) -> bool:
    match = _BLOCK.match(line)
    return match is not None and bool(_OF_KEYS.search(match[1]) and match[3] and match[4])


def _chord(text: str) -> str:
    """Return keys with blanks between as a chord: all but the last are modifiers."""
    *held, key = text.split()
    if not all(modifier_named(one) is not None for one in held):
        return text
    return "+".join([*held, key.lower() if len(key) == 1 else key])  # a letter is its key, whatever its case
