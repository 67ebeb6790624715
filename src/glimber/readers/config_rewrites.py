"""Binding lines of single programs' configurations, rewritten as ``bind "KEYS" COMMAND``; each stays on its line.

A shape counts where at least two lines have it: one alone may be anything.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Final
from urllib.parse import unquote

from glimber.core.notation.keywords import modifier_named
from glimber.readers.evidence import evidence
from glimber.readers.mnemonics import without_mnemonic

_LEAST: Final = 2
_LONGEST: Final = 500
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
_RESOURCE: Final = re.compile(
    r"^\s*(?:\"(\^?[^\"])\"|VK_(\w+))\s*,\s*(\w+)\s*,\s*((?:VIRTKEY|ASCII|CONTROL|SHIFT|ALT|NOINVERT)(?:\s*,\s*[A-Z]+)*)\s*$"
)
"""An accelerator of a resource script: a key, what it does, and flags. Source: the Windows API, "ACCELERATORS resource"."""
_HOTKEY: Final = re.compile(r"^\s*([#^!+<>*~$]*)(\w+|[^\s\w:])::\s*(.*?)\s*$")
"""A hotkey with modifiers as signs: "^!s::SaveSheet()"."""
_FLAGGED: Final = re.compile(
    r"^\s*(?=\S*(?:key|bind|map|short))[\w-]+\s+(?=.*\s?-{1,2}(?:key|keys|chord|keyShortcut|shortcut|k)\s+(\"[^\"]+\"|'[^']+'|\S+))"
    r"(?=.*\s-{1,2}(?:function|command|name|action|n|c|script\w*)\s+(\(?\"[^\"]+\"\)?|'[^']+'|\S+))(.*)$", re.I,
)  # fmt: skip
"""A command with flags for the keys and for what they do: "set-keys -Key Ctrl+D -Function DeleteSheet"."""
_OF_MENU: Final = re.compile(
    r"^(?=.*\s-accelerator\s+(\{[^{}]+\}|\"[^\"]+\"|\S+))(?=.*\s-label\s+(\{[^{}]+\}|\"[^\"]+\"|\S+)).*$"
)
"""An entry of a menu with flags for its label and its keys."""
_FLAGS_HELD: Final = re.compile(r"-(ctl|ctrl|alt|sht|shift|cmd|command)(?:Modifier)?\b(?!\s+\")", re.I)
_KEYS_IN_VALUE: Final = re.compile(r"^\s*(?:key_?)?bind(?:ing)?\s*=\s*\"?([^=\s\"]+|[^=\s\"]*=)=([a-z_]\S*)\"?\s*$", re.I)
"""Keys and a command in one value: "keybind = ctrl+shift+c=copy"."""
_KEYS_AND_BLOCK: Final = re.compile(r"^\s*([^\s{}\"]+)(?:\s+[\w-]+=(?:\"[^\"]*\"|\S+))*\s*\{\s*([^{}]+?)\s*;?\s*\}\s*$")
"""Keys before what they do in braces: "Mod+T { open-sheet; }"."""
_KEYED_OBJECT: Final = re.compile(
    r"^\s*\(\s*modifiers:\s*\[([\w, ]*)\]\s*,\s*key:\s*\"([^\"]+)\"[^)]*\)\s*:\s*(\S.*?)\s*,?\s*$"
)
_IN_COMMENT: Final = re.compile(r"^[A-Z]+[\s\d.-]+#\s*[^:#]+?\s*:\s*(\S.*?)\s+:\s+(\S.*)$")
"""Numbers, and in the comment the part of the window, the keys and the command."""
_ACTION: Final = re.compile(r"^\s*[+-]?\w*Mappings?=\(\w+Name=\"?([^\",()]+)\"?,([^()]*?)\bKey=([\w.]+)[^()]*\)\s*$", re.I)
"""A mapping of an action to a key with modifiers that are true or false: "(ActionName="Plot",bCtrl=True,Key=P)"."""
_TRUE_OF: Final = re.compile(r"\bb?(ctrl|control|shift|alt|cmd|command)=true", re.I)
_QUOTED_STROKES: Final = re.compile(r"^\s*\"((?:\^.|\\[eC][\w-]*|\\.|.){1,12})\"\s+([a-z][\w-]+)\s*$")
"""A listing of a shell: ""^X^E" edit-command-line"."""
_FOUND_ON: Final = re.compile(r"^([a-z][\w-]+) can be found on (\"[^\"]+\"(?:, \"[^\"]+\")*)\.?$")
_PROPERTY: Final = re.compile(r"^\s*([\w.-]+)\s*[=:]\s*(\S.*?)\s*$")
_OF_OWNER: Final = re.compile(r"([\w.-]+)[._-](?:accelerator|accel|short_?cut|keystroke|hot_?key)$", re.I)
_LABELS: Final = ("", ".label", ".text", ".title", ".name", "_label", "_text", "-label")
_SIGNS_HELD: Final = {"^": "Ctrl", "!": "Alt", "#": "Super", "+": "Shift"}
_STROKE: Final = re.compile(r"\^\[(?=.)|\^.|\\C-.|\\M-.|\\e|\\.|.")
_HELD_BY_FLAG: Final = {"ctl": "Ctrl", "ctrl": "Ctrl", "alt": "Alt", "sht": "Shift", "shift": "Shift", "cmd": "Super",
                        "command": "Super"}  # fmt: skip
_ANSWER: Final = re.compile(r"^\s*(?:return|\{|\}|;.*)?\s*$", re.I)
_SECTION: Final = re.compile(r"^\s*\[([^\[\]]+?)(?:\.\d+)?\]\s*$")
_NAMES_IN_SECTIONS: Final = tuple("Name name Comment comment Description description Exec exec Command command".split())
_OWN_KEYS: Final = ("binding", "keybinding", "key", "keys", "shortcut", "accelerator", "accel", "hotkey")
_MOST_IN_SECTION: Final = 8
_ENCODED: Final = re.compile(r"\\x([0-9a-fA-F]{2,4})(?![0-9a-fA-F])")
_QUOTED_COMMAND: Final = re.compile(r"^\"([^\"]+)\"\s*$")

Rewrite = Callable[[re.Match[str]], str]


def rewrite_known_shapes(lines: Sequence[str]) -> list[str]:
    """Return the lines, those of a known shape as ``bind`` lines."""
    found = _rewrite_named_bindings(_rewrite_sections_of_keys(_rewrite_keys_below_commands(lines)))
    found = _rewrite_labelled(_rewrite_hotkeys(found))
    for shape, rewrite in _SHAPES:
        matches = [_matched(shape, line) for line in found]
        rewritten = [rewrite(match) if match is not None else "" for match in matches]
        if sum(map(bool, rewritten)) >= _LEAST:
            found = [new or line for new, line in zip(rewritten, found, strict=True)]
    return found


def _matched(shape: re.Pattern[str], line: str) -> re.Match[str] | None:
    """Return the match of a line; None for one that is too long for a binding, on which a pattern would take long."""
    return shape.match(line) if len(line) <= _LONGEST else None


def _bind(keys: str, command: str) -> str:
    quote = "'" if '"' in keys else '"'
    return f"bind {quote}{keys}{quote} {command}"


def _rewrite_translation(match: re.Match[str]) -> str:
    held = [_HELD_IN_TABLES.get(word.lower(), word) for word in match[1].split() if not word.startswith("~")]
    arguments = " ".join(match[4].replace('"', "").split())
    key = match[2] if len(match[2]) == 1 or held else f"<{match[2]}>"
    return _bind("+".join([*filter(None, held), key]), f"{match[3]} {arguments}".strip())


def _rewrite_resource(match: re.Match[str]) -> str:
    flags = {flag.strip() for flag in match[4].split(",")}
    held = [name for flag, name in (("CONTROL", "Ctrl"), ("ALT", "Alt"), ("SHIFT", "Shift")) if flag in flags]
    key = f"<{match[2]}>" if match[2] and not held else match[2] or match[1]
    if key[0] == "^" and len(key) == 2:
        held, key = [*held, "Ctrl"], key[1]
    return _bind("+".join([*held, key if len(key) > 1 or "VIRTKEY" not in flags else key.lower()]), match[3])


def _rewrite_flagged(match: re.Match[str]) -> str:
    keys = match[1].strip("\"'")
    held = [_HELD_BY_FLAG[flag.lower()] for flag in _FLAGS_HELD.findall(match[3])]
    keys = "+".join([*held, keys])
    return _bind(keys.replace(",", " then "), match[2].strip("\"'()")) if evidence(keys) or len(keys) == 1 else ""


def _rewrite_value(match: re.Match[str]) -> str:
    keys = match[1].replace(">", " then ") if len(match[1]) > 1 else match[1]
    return _bind(keys, match[2]) if evidence(keys) else ""


def _rewrite_object(match: re.Match[str]) -> str:
    held = [word.strip() for word in match[1].split(",") if word.strip()]
    return _bind("+".join([*held, match[2]]), match[3]) if all(modifier_named(word) is not None for word in held) else ""


def _rewrite_action(match: re.Match[str]) -> str:
    held = [_HELD_BY_FLAG.get(word.lower(), word.capitalize()) for word in _TRUE_OF.findall(match[2])]
    key = match[3].lower() if len(match[3]) == 1 else f"<{match[3]}>" if not held else match[3]
    return _bind("+".join([*held, key]), match[1])


def _strokes(text: str) -> str:
    """Return the strokes that are sent as these characters; Escape before a plain one is Alt, as terminals send it."""
    return re.sub(r"(?:\^\[|\\e) ([a-zA-Z0-9.<>_-])(?=$| )", r"M-\1", " ".join(_STROKE.findall(text)))


def _rewrite_found_on(match: re.Match[str]) -> str:
    chords = [_strokes(one) for one in re.findall(r"\"([^\"]+)\"", match[2])]
    return _bind(" or ".join(chords), match[1])


def _rewrite_labelled(lines: Sequence[str]) -> list[str]:
    """Rewrite properties with keys whose label another line has: "menu.save.accelerator=control S" beside "menu.save=Save"."""
    pairs = [_matched(_PROPERTY, line) for line in lines]
    values = {match[1]: match[2] for match in pairs if match is not None}
    found = list(lines)
    for place, match in enumerate(pairs):
        owner = _OF_OWNER.match(match[1]) if match is not None else None
        if match is None or owner is None or not (evidence(match[2]) or len(match[2]) == 1):
            continue
        label = next((values[name] for one in _LABELS if (name := f"{owner[1]}{one}") in values), "")
        if label and not evidence(label):
            found[place] = _bind(match[2], without_mnemonic(label))
    return found


def _rewrite_hotkeys(lines: Sequence[str]) -> list[str]:
    """Rewrite hotkeys whose modifiers are signs; what one does may be on the lines below."""
    matches = [_matched(_HOTKEY, line) for line in lines]
    if sum(match is not None and bool(match[1]) for match in matches) < _LEAST:
        return list(lines)
    found = list(lines)
    for place, match in enumerate(matches):
        if match is None:
            continue
        does, below = match[3], place + 1
        while not does.strip("{") and below < min(len(lines), place + 4) and matches[below] is None:
            does = "" if _ANSWER.match(lines[below]) else lines[below].strip()
            found[below] = "" if does else found[below]
            below += 1
        held = [_SIGNS_HELD[sign] for sign in match[1] if sign in _SIGNS_HELD]
        found[place] = _bind("+".join([*held, match[2]]), does) if does else lines[place]
    return found


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


def _rewrite_named_bindings(lines: Sequence[str]) -> list[str]:
    """Rewrite sections with keys, a name and a command of their own: "binding='<Super>t'" beside "name='Terminal'"."""
    heads = [place for place, line in enumerate(lines) if _SECTION.match(line)]
    found = list(lines)
    for place, end in pairwise([*heads, len(lines)]):
        pairs = (line.split("=", 1) for line in lines[place + 1 : end] if "=" in line)
        values = {name.strip().lower(): value.strip().strip("'\"") for name, value in pairs}
        keys = next((values[name] for name in _OWN_KEYS if values.get(name)), "")
        name = next((values[key.lower()] for key in _NAMES_IN_SECTIONS if values.get(key.lower())), "")
        if end - place <= _MOST_IN_SECTION and name and evidence(keys) == 2:
            found[place:end] = ["", _bind(keys, name), *[""] * (end - place - 2)]
    return found


def _joined(keys: str) -> str:
    return re.sub(r"\s*\+\s*", "+", keys.strip())


_SHAPES: Final[Sequence[tuple[re.Pattern[str], Rewrite]]] = (
    (_TRANSLATION, _rewrite_translation),
    (_RESOURCE, _rewrite_resource),
    (_FLAGGED, _rewrite_flagged),
    (_OF_MENU, lambda match: _bind(match[1].strip('{}"'), match[2].strip('{}"')) if evidence(match[1].strip('{}"')) else ""),
    (_KEYS_IN_VALUE, _rewrite_value),
    (_KEYS_AND_BLOCK, lambda match: _bind(match[1], match[2].replace('"', "")) if evidence(match[1]) == 2 else ""),
    (_KEYED_OBJECT, _rewrite_object),
    (_ACTION, _rewrite_action),
    (_QUOTED_STROKES, lambda match: _bind(_strokes(match[1]), match[2]) if match[2] != "self-insert" else ""),
    (_FOUND_ON, _rewrite_found_on),
    (_IN_COMMENT, lambda match: _bind(match[1], match[2]) if evidence(match[1]) else ""),
    (_ACCELERATED, lambda match: _bind(match[1], match[2]) if evidence(match[1]) else ""),
    (_OF_BLOCK, _rewrite_block),
    (_OF_CONTROL, _rewrite_control_command),
    (_OF_MODE, _rewrite_listing),
)
