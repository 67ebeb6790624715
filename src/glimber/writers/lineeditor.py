"""The line editor: a block of our own at the end of the person's inputrc, marked as such; nothing outside it is touched.

What comes later in an inputrc wins over what stands before it, so the block needs not change the person's lines.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from typing import Final

from glimber.core.notation import keys as notation
from glimber.readers.lineeditor import keys_of
from glimber.readers.registry import read
from glimber.writers.lines import rows_of
from glimber.writers.wanted import Rewritten, Wanted, pairs_of

BEGIN: Final = b"# >>> set by Glimber; this block is written anew, lines of your own belong above it"
END: Final = b"# <<< set by Glimber"
_FUNCTION: Final = re.compile(r"[a-z][a-z0-9-]*")
_LINE: Final = re.compile(r'^"((?:[^"\\]|\\.)*)": (.*)$')
_NOTHING: Final = '""'
"""An empty macro: the key does nothing."""
_ESCAPED: Final = {"\\": "\\\\", '"': '\\"', "'": "\\'"}
_PLAIN: Final = {"Escape": "\\e", "Tab": "\\t", "Enter": "\\r", "Backspace": "\\C-?", "Space": " "}
_TERMINAL: Final[Mapping[str, str]] = {
    "Up": "A", "Down": "B", "Right": "C", "Left": "D", "Home": "H", "End": "F",
    "Insert": "2~", "Delete": "3~", "PageUp": "5~", "PageDown": "6~", "F1": "P", "F2": "Q", "F3": "R", "F4": "S",
    **{f"F{n}": f"{n + 10}~" for n in (5,)}, **{f"F{n}": f"{n + 11}~" for n in range(6, 11)}, "F11": "23~", "F12": "24~",
}  # fmt: skip
"""The characters after the first two that a terminal sends for a key. Source: "XTerm Control Sequences", PC-style keys."""
_SENT_AS_OTHERS: Final[Mapping[tuple[str, ...], str]] = {("Ctrl",): "IM[", ("Alt", "Ctrl"): "IM[", ("Alt",): "[O"}
"""A terminal sends Ctrl+I as Tab, Ctrl+M as Enter, Ctrl+[ as Escape; and Alt+[ and Alt+O begin what it sends for other keys."""
_BITS: Final = {"Shift": 1, "Alt": 2, "Ctrl": 4}


def write(data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Set what is wanted in an inputrc."""
    before, block, after = _parts(data)
    lines = _lines_of(block)
    found = read("line-editor", data) if data.strip() else None
    done: list[Wanted] = []
    already: list[Wanted] = []
    left: list[tuple[Wanted, str]] = []
    for pair in pairs_of(wanted):
        try:
            steps = [(one, _step(one, lines, found)) for one in pair]
        except ValueError as error:
            left += [(one, str(error)) for one in pair]
            continue
        changed = {**lines}
        for one, (old, _, does) in steps:
            if old is not None and not one.old_works and lines.get(old) in (None, does, _NOTHING):
                changed[old] = _NOTHING
        for _, (_, new, does) in steps:
            if new is not None:
                changed[new] = does
        if changed == lines:
            already += pair
        else:
            lines = changed
            done += pair
    if not done:
        return Rewritten(data, (), tuple(already), tuple(left))
    return Rewritten(_joined(before, lines, after), tuple(done), tuple(already), tuple(left))


def _step(one: Wanted, lines: Mapping[str, str], found: object) -> tuple[str | None, str | None, str]:
    """Return the old and the new keys as an inputrc has them, and what is bound. Raises ValueError for what cannot be written
    there."""
    old = None if one.old is None else escaped(one.old)
    new = None if one.new is None else escaped(one.new)
    if one.new is not None and new is None:
        raise ValueError(f"a terminal does not send {one.new} as keys of its own")
    if old is None and new is None:
        raise ValueError(f"a terminal does not send {one.old} as keys of its own")
    does = one.names[0]
    if not _FUNCTION.fullmatch(does):
        macro = next((text for text in lines.values() if text.strip('"') == does), None)
        if macro is None and found is not None:
            rows = rows_of(found, one)  # type: ignore[arg-type]
            macro = f'"{does}"' if rows else None
        if macro is None:
            raise ValueError(f"{does} is no command of the line editor, nor a text it types now")
        does = macro
    return old, new, does


def escaped(trigger: notation.Sequence) -> str | None:
    """Return keys as an inputrc writes them; None for what a terminal sends as other keys, or not at all."""
    parts = [_chord(chord) for chord in trigger.chords]
    text = "".join(part for part in parts if part is not None)
    spelt = keys_of(text) if None not in parts else None
    try:
        return text if spelt is not None and notation.parse_trigger(spelt) == trigger else None
    except notation.NotationError:
        return None


def _chord(chord: notation.Chord) -> str | None:
    held = set(chord.modifiers)
    if chord.by_place or held - set(_BITS):
        return None
    if chord.key in _TERMINAL:
        return _terminal_sequence(chord.key, sum(_BITS[name] for name in held))
    if chord.key == "Tab" and held == {"Shift"}:
        return "\\e[Z"
    if "Shift" in held or not _can_be_sent(chord.key, held):
        return None
    key = _PLAIN.get(chord.key, _ESCAPED.get(chord.key, chord.key))
    if held and len(chord.key) == 1:
        key = key.lower()
    prefix = "\\e" if "Alt" in held else ""
    return prefix + (f"\\C-{key}" if "Ctrl" in held else key)


def _terminal_sequence(key: str, bits: int) -> str:
    """Return what a terminal sends for a key with a sequence of its own. ``bits``: the modifiers, as it counts them."""
    final = _TERMINAL[key]
    if final.endswith("~"):
        return f"\\e[{final[:-1]}{f';{bits + 1}' if bits else ''}~"
    if bits:
        return f"\\e[1;{bits + 1}{final}"
    return f"\\eO{final}" if key.startswith("F") else f"\\e[{final}"


def _can_be_sent(key: str, held: Collection[str]) -> bool:
    """Return whether a terminal tells a key with these modifiers from others."""
    if held and key.upper() in _SENT_AS_OTHERS.get(tuple(sorted(held)), ""):
        return False
    if len(key) > 1:
        return key in _PLAIN
    return "Ctrl" not in held or (key.isascii() and (key.isalpha() or key in "]\\_^@"))


def _parts(data: bytes) -> tuple[bytes, bytes, bytes]:
    """Return what stands before the block, in it, and after it."""
    start = data.find(BEGIN)
    if start < 0 or (start > 0 and data[start - 1 : start] != b"\n"):
        return data, b"", b""
    end = data.find(END, start)
    if end < 0:
        return data[:start], data[start:], b""
    return data[:start], data[start:end], data[end + len(END) :]


def _lines_of(block: bytes) -> dict[str, str]:
    """Return keys and what is bound to them in a block, in its order."""
    found: dict[str, str] = {}
    for line in block.decode("utf-8", "replace").splitlines():
        match = _LINE.match(line)
        if match is not None:
            found[match[1]] = match[2]
    return found


def _joined(before: bytes, lines: Mapping[str, str], after: bytes) -> bytes:
    end = b"\r\n" if b"\r\n" in before else b"\n"
    if before and not before.endswith(b"\n"):
        before += end
    closing = [b"$endif"] * _open_conditions(before)
    body = [f'"{keys}": {does}'.encode() for keys, does in lines.items()]
    return before + end.join([BEGIN, *closing, *body, END]) + (after or end)


def _open_conditions(before: bytes) -> int:
    """Return how many conditions of the person's lines are never ended: within them the block would hold for some programs
    only."""
    deep = 0
    for line in before.splitlines():
        word = line.strip().split(b" ")[0]
        deep += word == b"$if"
        deep -= word == b"$endif" and deep > 0
    return deep


WRITERS = {"line-editor": write}
