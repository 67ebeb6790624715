"""Line-editor bindings: an inputrc file, or what ``bind -p`` and ``bind -s`` print."""

from __future__ import annotations

import re
from typing import Final

from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader

_BOUND: Final = re.compile(r'^\s*"((?:[^"\\]|\\.)*)"\s*:\s*(.+?)\s*$')
_NAMED: Final = re.compile(r"^\s*([A-Za-z0-9_-]+)\s*:\s*(.+?)\s*$")
_UNBOUND: Final = re.compile(r"^#\s*([a-z][a-z0-9-]*) \(not bound\)\s*$")
_ESCAPE: Final = re.compile(r"\\e(?:\[|O)(?:(\d+)?(?:;(\d+))?)([A-Za-z~])")
_FINAL: Final = {"A": "Up", "B": "Down", "C": "Right", "D": "Left", "H": "Home", "F": "End", "P": "F1", "Q": "F2", "R": "F3",
                 "S": "F4", "E": "Num5", "M": "NumEnter"}  # fmt: skip
_NUMBERED: Final = {
    1: "Home", 2: "Insert", 3: "Delete", 4: "End", 5: "PageUp", 6: "PageDown", 7: "Home", 8: "End",
    **{11 + n: f"F{n + 1}" for n in range(5)}, **{17 + n: f"F{n + 6}" for n in range(5)}, 23: "F11", 24: "F12",
}  # fmt: skip
_MODIFIER_BITS: Final = ((4, "Ctrl"), (2, "Alt"), (1, "Shift"))
"""The bits a terminal adds one to and sends as the second number. Source: "XTerm Control Sequences", PC-style function keys."""
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
        elif not body:
            continue
        elif body.startswith(("#", "set ", "$")):
            found.head(body, number)
        elif (match := _BOUND.match(body)) is not None:
            keys, command = keys_of(match.group(1)), match.group(2)
            if command in ("self-insert", "do-lowercase-version", "digit-argument"):
                found.leave(body, number, "a character that types itself is no shortcut")
                continue
            if keys is None and command == "bracketed-paste-begin":
                found.leave(body, number, "it is sent by the terminal, not by a key")
            elif keys is None:
                found.fail(f"{command}: {match.group(1)} is no key of a keyboard that is known here", number)
            else:
                rows.setdefault(command.strip('"'), ([], number))[0].append(keys)
        elif (match := _NAMED.match(body)) is not None:
            rows.setdefault(match.group(2).strip('"'), ([], number))[0].append(_named(match.group(1)))
        else:
            found.fail(f'{body}: expected "keys": command', number)
    for command, (spelt, number) in rows.items():
        found.add(command, " or ".join(dict.fromkeys(spelt)), None, number)
    return found


def _named(name: str) -> str:
    """Such as ``Control-x`` or ``Meta-Rubout``: Meta is the Alt key of a terminal."""
    name = re.sub(r"\bMeta-|\bM-", "Alt-", name, flags=re.I)
    return re.sub(r"Rubout|DEL", "Backspace", re.sub(r"LFD|NEWLINE|RET", "Enter", re.sub(r"SPC", "Space", name)))


def keys_of(escaped: str) -> str | None:
    """Return a key sequence of the line editor in our notation; None for bytes that no key sends."""
    steps: list[str] = []
    prefix = ""
    for part in _STEP.findall(escaped):
        if part == "\\e":
            prefix = "Alt+"  # Escape first is what Alt sends
            continue
        escape = _ESCAPE.fullmatch(part)
        if escape is not None:
            named = _named_escape(escape)
            if named is None:
                return None
            step = named
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


def _named_escape(match: re.Match[str]) -> str | None:
    """Return the key of what a terminal sends for it; None for what is no key's."""
    number, bits, final = match[1], match[2], match[3]
    if final == "Z":
        return "Shift+Tab"
    key = _NUMBERED.get(int(number or 0)) if final == "~" else _FINAL.get(final)
    if key is None:
        return None
    if bits is None and final != "~" and number == "5":
        bits = "5"  # an old spelling of Ctrl
    held = int(bits) - 1 if bits else 0
    return "+".join([*(name for bit, name in _MODIFIER_BITS if held & bit), key])


READERS = (
    Reader(
        "line-editor",
        read,
        endings=(".inputrc",),
        signs=((0.95, re.compile(r'^\s*"\\[CMe][^"]*"\s*:\s*["a-z]|^# [a-z-]+ \(not bound\)', re.M)),),
    ),
)
