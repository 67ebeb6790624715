"""Line-editor bindings: an inputrc file, or what ``bind -p`` and ``bind -s`` print."""

from __future__ import annotations

import re
from typing import Final

from glimber.readers.found import Found, Options, decoded

_BOUND: Final = re.compile(r'^\s*"((?:[^"\\]|\\.)*)"\s*:\s*(.+?)\s*$')
_NAMED: Final = re.compile(r"^\s*([A-Za-z0-9_-]+)\s*:\s*(.+?)\s*$")
_UNBOUND: Final = re.compile(r"^#\s*([a-z][a-z0-9-]*) \(not bound\)\s*$")
_ESCAPES: Final = {
    "\\e[A": "Up", "\\e[B": "Down", "\\e[C": "Right", "\\e[D": "Left", "\\eOA": "Up", "\\eOB": "Down", "\\eOC": "Right",
    "\\eOD": "Left", "\\e[H": "Home", "\\e[F": "End", "\\eOH": "Home", "\\eOF": "End", "\\e[1~": "Home", "\\e[4~": "End",
    "\\e[2~": "Insert", "\\e[3~": "Delete", "\\e[5~": "PageUp", "\\e[6~": "PageDown", "\\e[1;5C": "Ctrl+Right",
    "\\e[1;5D": "Ctrl+Left", "\\e[1;3C": "Alt+Right", "\\e[1;3D": "Alt+Left", "\\e[Z": "Shift+Tab",
}  # fmt: skip
_CHARACTERS: Final = {"\\\\": "\\", '\\"': '"', "\\'": "'", " ": "Space", "\\t": "Tab", "\\r": "Enter", "\\n": "Enter",
                      "\\d": "Delete", "\\b": "Backspace", "\\C-?": "Backspace", "\\e": "Escape"}  # fmt: skip
_STEP: Final = re.compile(r"\\e(?!\[|O)|(?:\\[CM]-)+(?:\\.|.)|\\e\[[0-9;]*[A-Za-z~]|\\eO[A-Z]|\\.|.", re.S)


def read(data: bytes, options: Options) -> Found:
    """Read the lines of a line editor's bindings."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail('the file is empty; expected lines such as "\\C-a": beginning-of-line')
    rows: dict[str, tuple[list[str], int]] = {}
    for number, line in enumerate(text.splitlines(), start=1):
        body = line.strip()
        unbound = _UNBOUND.match(body)
        if unbound is not None:
            rows.setdefault(unbound.group(1), ([], number))
        elif not body or body.startswith(("#", "set ", "$")):
            continue
        elif (match := _BOUND.match(body)) is not None:
            keys, command = _keys(match.group(1)), match.group(2)
            if command in ("self-insert", "do-lowercase-version", "digit-argument"):
                continue  # a character that types itself is no shortcut
            if keys is None:
                found.fail(f"{command}: {match.group(1)} is no key of a keyboard that is known here", number)
            else:
                rows.setdefault(command.strip('"'), ([], number))[0].append(keys)
        elif (match := _NAMED.match(body)) is not None:
            rows.setdefault(match.group(2).strip('"'), ([], number))[0].append(_named(match.group(1)))
        else:
            found.fail(f'{body}: expected "keys": command', number)
    for command, (keys_of, number) in rows.items():
        found.add(command, " or ".join(dict.fromkeys(keys_of)), None, number)
    return found


def _named(name: str) -> str:
    """Such as ``Control-x`` or ``Meta-Rubout``: Meta is the Alt key of a terminal."""
    name = re.sub(r"\bMeta-|\bM-", "Alt-", name, flags=re.I)
    return re.sub(r"Rubout|DEL", "Backspace", re.sub(r"LFD|NEWLINE|RET", "Enter", re.sub(r"SPC", "Space", name)))


def _keys(escaped: str) -> str | None:
    """A key sequence of the line editor in our notation; None for bytes that no key sends."""
    steps: list[str] = []
    prefix = ""
    for part in _STEP.findall(escaped):
        if part == "\\e":
            prefix = "Alt+"  # Escape first is what Alt sends
            continue
        if part in _ESCAPES:
            step = _ESCAPES[part]
        elif part in _CHARACTERS:
            step = _CHARACTERS[part]
        elif part.startswith(("\\C-", "\\M-")):
            match = re.fullmatch(r"((?:\\[CM]-)+)(.+)", part, re.S)
            assert match is not None
            key = _CHARACTERS.get(match.group(2), match.group(2))
            held = ["Ctrl" if mark == "C" else "Alt" for mark in match.group(1)[1::3]]
            step = "+".join([*dict.fromkeys(held), key.upper() if len(key) == 1 else key])
        elif len(part) == 1 and part.isprintable():
            step = part
        else:
            return None
        if prefix and not step.startswith("Alt+"):
            step = prefix + (step.upper() if len(step) == 1 else step)
        steps.append(step)
        prefix = ""
    if prefix:
        steps.append("Escape")
    return " ".join(steps) or None
