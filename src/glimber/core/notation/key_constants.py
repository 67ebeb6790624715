"""Keys by the constants of programs: ``KEY_LEFT`` of the kernel's input events and of curses, ``<NAK>`` of ASCII.

Sources: linux/input-event-codes.h; curses(3), getch; ascii(7); the Windows API, "Virtual-key codes".
"""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named

_CONSTANT: Final = re.compile(r"<?\bKEY_(?:F\((\d{1,2})\)|([A-Z0-9]+(?:_[A-Z]+)?))(?![A-Za-z0-9_])>?")
_CONTROL: Final = re.compile(r"<(NUL|SOH|STX|ETX|EOT|ENQ|ACK|BEL|HT|VT|FF|SO|SI|DLE|DC[1-4]|NAK|SYN|ETB|CAN|EM|SUB|FS|GS|RS|US)>")
_CONTROLS: Final = (
    "NUL SOH STX ETX EOT ENQ ACK BEL BS HT LF VT FF CR SO SI DLE DC1 DC2 DC3 DC4 NAK SYN ETB CAN EM SUB ESC FS GS RS US".split()
)
"""The control characters in their order; each is sent by Ctrl and the character 64 places further on."""
_OTHERWISE_NAMED: Final = {
    "LEFTBRACE": "[", "RIGHTBRACE": "]", "DOT": ".", "GRAVE": "`", "COMPOSE": "<Menu>",
    "PREVIOUSSONG": "<PreviousTrack>", "NEXTSONG": "<NextTrack>", "STOPCD": "<Stop>", "PLAYCD": "<PlayPause>",
    "KPDOT": "<NumDecimal>", "SLEFT": "<S-Left>", "SRIGHT": "<S-Right>", "SHOME": "<S-Home>", "SEND": "<S-End>",
    "SDC": "<S-Delete>", "SIC": "<S-Insert>", "SF": "<S-Down>", "SR": "<S-Up>", "SNEXT": "<S-PageDown>",
    "SPREVIOUS": "<S-PageUp>", "BTAB": "<S-Tab>", "LL": "<End>", "BREAK": "<Pause>", "BRIGHTNESSUP": "<BrightnessUp>",
    "BRIGHTNESSDOWN": "<BrightnessDown>",
}  # fmt: skip

_VIRTUAL: Final = {
    8: "Backspace", 9: "Tab", 13: "Enter", 19: "Pause", 20: "CapsLock", 27: "Escape", 32: "Space", 33: "PageUp", 34: "PageDown",
    35: "End", 36: "Home", 37: "Left", 38: "Up", 39: "Right", 40: "Down", 45: "Insert", 46: "Delete", 106: "NumMultiply",
    107: "NumAdd", 109: "NumSubtract", 110: "NumDecimal", 111: "NumDivide", 186: ";", 187: "=", 188: ",", 189: "-", 190: ".",
    191: "/", 192: "`", 219: "[", 220: "\\", 221: "]", 222: "'",
    **{code: chr(code) for code in range(48, 58)}, **{code: chr(code).lower() for code in range(65, 91)},
    **{96 + digit: f"Num{digit}" for digit in range(10)}, **{111 + number: f"F{number}" for number in range(1, 13)},
}  # fmt: skip


def key_of_virtual_code(code: int) -> str | None:
    """Return the key of a virtual-key code; None for one that names no key of ours."""
    return _VIRTUAL.get(code)


def with_key_names(text: str) -> str:
    """Return a text in which constants of keys are the keys' names, in angle brackets; other words stay.

    >>> with_key_names("<super> KEY_LEFT | KEY_Q")
    '<super> <Left> | q'
    """
    if "KEY_" in text:
        text = _CONSTANT.sub(_name_of, text)
    return _CONTROL.sub(_control_of, text) if "<" in text else text


def _name_of(match: re.Match[str]) -> str:
    if match[1]:
        return f"F{int(match[1])}"
    name = match[2]
    if len(name) == 1:
        return name.lower()
    if name in _OTHERWISE_NAMED:
        return _OTHERWISE_NAMED[name]
    if modifier_named(name) is not None:
        return f"<{modifier_named(name)}>"
    key = key_named(name, marked=True)
    if key is None:
        return match[0]
    return key if len(key) == 1 else f"<{key}>"


def _control_of(match: re.Match[str]) -> str:
    place = _CONTROLS.index(match[1])
    return "<Tab>" if match[1] == "HT" else f"^{chr(64 + place)}"
