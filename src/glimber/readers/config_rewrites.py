"""Binding lines of single programs' configurations, rewritten as ``bind "KEYS" COMMAND``; each stays on its line.

A shape counts where at least two lines have it: one alone may be anything.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Final
from urllib.parse import unquote

from glimber.core.notation.keywords import modifier_named
from glimber.readers.evidence import evidence

_LEAST: Final = 2
_TRANSLATION: Final = re.compile(
    r"^\s*(?:[\w.*-]*translations?\s*:\s*(?:#\w+)?\s*)?[!:]*((?:~?\w+\s+)*?(?:~?\w+)?)\s*<Key(?:Press|Down)?>\s*(\w+)\s*:"
    r"\s*([\w-]+)\s*\(([^()]*)\).*$", re.I,
)  # fmt: skip
"""A translation table of the X toolkit: "Shift Ctrl<Key>Z: redo() \\n\\"."""
_HELD_IN_TABLES: Final = {"meta": "Alt", "any": "", "none": "", "lock": "", "button1": ""}
_ACCELERATED: Final = re.compile(r"^\w*;((?:<\w+>)*[^\s;=<>]+)=([\w/.-]+)\s*(?:[;*].*)?$")
_OF_BLOCK: Final = re.compile(r"^\s*bind((?:\s+\"[^\"]+\")+)\s*\{\s*([^{}]*?)\s*;?\s*\}\s*$")
_OF_CONTROL: Final = re.compile(r"^\s*\w+ctl\s+map\s+(?:-\w+\s+)*\w+\s+(\w+(?:\+\w+)*)\s+(\S+)\s+(\S.*)$")
_OF_MODE: Final = re.compile(r"^[nvoicxtl!]{1,2}\s{1,2}(\S+)\s+[*&@ ]{1,3}\s*(\S.*)$")
_SECTION: Final = re.compile(r"^\s*\[([^\[\]]+?)(?:\.\d+)?\]\s*$")
_NAMES_IN_SECTIONS: Final = tuple("Name name Comment comment Description description Exec exec Command command".split())
_ENCODED: Final = re.compile(r"\\x([0-9a-fA-F]{2,4})(?![0-9a-fA-F])")
_QUOTED_COMMAND: Final = re.compile(r"^\"([^\"]+)\"\s*$")

Rewrite = Callable[[re.Match[str]], str]


def rewrite_known_shapes(lines: Sequence[str]) -> list[str]:
    """Return the lines, those of a known shape as ``bind`` lines."""
    found = _rewrite_sections_of_keys(_rewrite_keys_below_commands(lines))
    for shape, rewrite in _SHAPES:
        matches = [shape.match(line) for line in found]
        rewritten = [rewrite(match) if match is not None else "" for match in matches]
        if sum(map(bool, rewritten)) >= _LEAST:
            found = [new or line for new, line in zip(rewritten, found, strict=True)]
    return found


def _bind(keys: str, command: str) -> str:
    quote = "'" if '"' in keys else '"'
    return f"bind {quote}{keys}{quote} {command}"


def _rewrite_translation(match: re.Match[str]) -> str:
    held = [_HELD_IN_TABLES.get(word.lower(), word) for word in match[1].split() if not word.startswith("~")]
    arguments = " ".join(match[4].replace('"', "").split())
    key = match[2] if len(match[2]) == 1 or held else f"<{match[2]}>"
    return _bind("+".join([*filter(None, held), key]), f"{match[3]} {arguments}".strip())


def _rewrite_block(match: re.Match[str]) -> str:
    chords = (_chord(keys) for keys in re.findall(r"\"([^\"]+)\"", match[1]))
    return _bind(" or ".join(chords), match[2].replace('"', ""))


def _rewrite_control_command(match: re.Match[str]) -> str:
    held = [word for word in match[1].split("+") if word.lower() != "none"]
    if any(modifier_named(word) is None for word in held):
        return ""
    return _bind("+".join([*held, match[2]]), match[3])


def _rewrite_listing(match: re.Match[str]) -> str:
    return _bind(match[1], match[2]) if evidence(match[1]) or match[1].startswith("\\") else ""


def _chord(text: str) -> str:
    *held, key = text.split()
    return "+".join([*held, key]) if all(modifier_named(word) is not None for word in held) else text


def _rewrite_keys_below_commands(lines: Sequence[str]) -> list[str]:
    """Rewrite commands in quotes whose keys are indented on the next line."""
    found = list(lines)
    places = []
    for place, line in enumerate(lines[:-1]):
        keys = lines[place + 1]
        if _QUOTED_COMMAND.match(line) and keys[:1] in " \t" and evidence(_joined(keys)) == 2:
            places.append(place)
    for place in places if len(places) >= _LEAST else ():
        command = _QUOTED_COMMAND.match(lines[place])
        assert command is not None
        found[place], found[place + 1] = "", _bind(_joined(lines[place + 1]), command[1])
    return found


def _rewrite_sections_of_keys(lines: Sequence[str]) -> list[str]:
    """Rewrite sections named by their keys, which percent signs may encode: "[Control%2BAlt%2BT.1]" over "Exec=qterminal"."""
    heads = [(place, head[1]) for place, line in enumerate(lines) if (head := _SECTION.match(line))]
    keyed = [(place, unquote(keys)) for place, keys in heads if evidence(unquote(keys)) or "+" in unquote(keys)]
    found = list(lines)
    if len(keyed) < _LEAST or len(keyed) < 0.5 * len(heads):
        return found
    ends = [place for place, _ in heads[1:]] + [len(lines)]
    for (place, keys), end in zip(heads, ends, strict=True):
        values = dict(line.split("=", 1) for line in lines[place + 1 : end] if "=" in line)
        name = next((values[key] for key in _NAMES_IN_SECTIONS if values.get(key, "").strip()), "")
        if (place, unquote(keys)) in keyed and name:
            name = _ENCODED.sub(lambda match: chr(int(match[1], 16)), name.strip())
            found[place:end] = [_bind(unquote(keys), name), *[""] * (end - place - 1)]
    return found


def _joined(keys: str) -> str:
    return re.sub(r"\s*\+\s*", "+", keys.strip())


_SHAPES: Final[Sequence[tuple[re.Pattern[str], Rewrite]]] = (
    (_TRANSLATION, _rewrite_translation),
    (_ACCELERATED, lambda match: _bind(match[1], match[2]) if evidence(match[1]) else ""),
    (_OF_BLOCK, _rewrite_block),
    (_OF_CONTROL, _rewrite_control_command),
    (_OF_MODE, _rewrite_listing),
)
