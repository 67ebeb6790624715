"""The keys themselves: places, the names people give them, and what the system's key numbers mean.

A *place* is a W3C UI Events ``code`` ("KeyJ", "Numpad4"). On Linux the number of a key event is the evdev code, and an
X or Wayland client sees that number plus 8 (the XKB keycode). The table follows "UI Events KeyboardEvent code Values",
W3C, with the Linux column.
"""

from __future__ import annotations

from types import MappingProxyType
from typing import Final

XKB_OFFSET: Final = 8

_EVDEV_ROWS: Final = """
1 Escape|2 Digit1|3 Digit2|4 Digit3|5 Digit4|6 Digit5|7 Digit6|8 Digit7|9 Digit8|10 Digit9|11 Digit0|12 Minus|13 Equal
14 Backspace|15 Tab|16 KeyQ|17 KeyW|18 KeyE|19 KeyR|20 KeyT|21 KeyY|22 KeyU|23 KeyI|24 KeyO|25 KeyP|26 BracketLeft
27 BracketRight|28 Enter|29 ControlLeft|30 KeyA|31 KeyS|32 KeyD|33 KeyF|34 KeyG|35 KeyH|36 KeyJ|37 KeyK|38 KeyL
39 Semicolon|40 Quote|41 Backquote|42 ShiftLeft|43 Backslash|44 KeyZ|45 KeyX|46 KeyC|47 KeyV|48 KeyB|49 KeyN|50 KeyM
51 Comma|52 Period|53 Slash|54 ShiftRight|55 NumpadMultiply|56 AltLeft|57 Space|58 CapsLock|59 F1|60 F2|61 F3|62 F4
63 F5|64 F6|65 F7|66 F8|67 F9|68 F10|69 NumLock|70 ScrollLock|71 Numpad7|72 Numpad8|73 Numpad9|74 NumpadSubtract
75 Numpad4|76 Numpad5|77 Numpad6|78 NumpadAdd|79 Numpad1|80 Numpad2|81 Numpad3|82 Numpad0|83 NumpadDecimal
85 Lang5|86 IntlBackslash|87 F11|88 F12|89 IntlRo|90 Lang3|91 Lang4|92 Convert|93 KanaMode|94 NonConvert|96 NumpadEnter
97 ControlRight|98 NumpadDivide|99 PrintScreen|100 AltRight|102 Home|103 ArrowUp|104 PageUp|105 ArrowLeft
106 ArrowRight|107 End|108 ArrowDown|109 PageDown|110 Insert|111 Delete|113 AudioVolumeMute|114 AudioVolumeDown
115 AudioVolumeUp|116 Power|117 NumpadEqual|119 Pause|121 NumpadComma|122 Lang1|123 Lang2|124 IntlYen|125 MetaLeft
126 MetaRight|127 ContextMenu|128 BrowserStop|129 Again|130 Props|131 Undo|132 Select|133 Copy|134 Open|135 Paste
136 Find|137 Cut|138 Help|140 LaunchApp2|142 Sleep|143 WakeUp|150 LaunchBrowser|155 LaunchMail|156 BrowserFavorites
157 LaunchApp1|158 BrowserBack|159 BrowserForward|161 Eject|163 MediaTrackNext|164 MediaPlayPause
165 MediaTrackPrevious|166 MediaStop|167 MediaRecord|168 MediaRewind|172 BrowserHome|173 BrowserRefresh
179 NumpadParenLeft|180 NumpadParenRight|183 F13|184 F14|185 F15|186 F16|187 F17|188 F18|189 F19|190 F20|191 F21
192 F22|193 F23|194 F24|208 MediaFastForward|217 BrowserSearch|224 BrightnessDown|225 BrightnessUp|226 MediaSelect
"""

EVDEV_CODES: Final = MappingProxyType(
    {
        int(number): code
        for row in _EVDEV_ROWS.split("\n")
        for number, _, code in (cell.partition(" ") for cell in row.split("|") if cell)
    }
)
EVDEV_NUMBERS: Final = MappingProxyType({code: number for number, code in EVDEV_CODES.items()})
CODES: Final = frozenset(EVDEV_CODES.values())

MODIFIERS: Final = ("Ctrl", "Alt", "AltGr", "Shift", "Super", "Hyper")
"""Canonical order of modifiers in a chord."""

MODIFIER_CODES: Final = MappingProxyType(
    {
        "ControlLeft": "Ctrl",
        "ControlRight": "Ctrl",
        "AltLeft": "Alt",
        "AltRight": "AltGr",
        "ShiftLeft": "Shift",
        "ShiftRight": "Shift",
        "MetaLeft": "Super",
        "MetaRight": "Super",
    }
)
MODIFIER_PLACES: Final = MappingProxyType(
    {modifier: tuple(code for code, name in MODIFIER_CODES.items() if name == modifier) for modifier in MODIFIERS}
)

_OWN_NAMES: Final = {
    "Left": "ArrowLeft", "Right": "ArrowRight", "Up": "ArrowUp", "Down": "ArrowDown",
    "PageUp": "PageUp", "PageDown": "PageDown", "Home": "Home", "End": "End", "Insert": "Insert", "Delete": "Delete",
    "Backspace": "Backspace", "Tab": "Tab", "Enter": "Enter", "Escape": "Escape", "Space": "Space",
    "Menu": "ContextMenu", "PrintScreen": "PrintScreen", "Pause": "Pause", "ScrollLock": "ScrollLock",
    "CapsLock": "CapsLock", "NumLock": "NumLock",
    "NumAdd": "NumpadAdd", "NumSubtract": "NumpadSubtract", "NumMultiply": "NumpadMultiply",
    "NumDivide": "NumpadDivide", "NumDecimal": "NumpadDecimal", "NumEnter": "NumpadEnter",
    "NumEqual": "NumpadEqual", "NumComma": "NumpadComma",
    "VolumeUp": "AudioVolumeUp", "VolumeDown": "AudioVolumeDown", "Mute": "AudioVolumeMute",
    "PlayPause": "MediaPlayPause", "Stop": "MediaStop", "NextTrack": "MediaTrackNext",
    "PreviousTrack": "MediaTrackPrevious", "Record": "MediaRecord",
    "BrightnessUp": "BrightnessUp", "BrightnessDown": "BrightnessDown",
    **{f"Num{digit}": f"Numpad{digit}" for digit in range(10)},
    **{f"F{number}": f"F{number}" for number in range(1, 25)},
    "Ctrl": "ControlLeft", "Alt": "AltLeft", "AltGr": "AltRight", "Shift": "ShiftLeft", "Super": "MetaLeft",
    "Hyper": "Hyper",
}  # fmt: skip
_SAME_NAMES: Final = (
    "Again BrowserBack BrowserFavorites BrowserForward BrowserHome BrowserRefresh BrowserSearch BrowserStop Convert "
    "Copy Cut Eject Find Help KanaMode Lang1 Lang2 Lang3 Lang4 Lang5 LaunchApp1 LaunchApp2 LaunchBrowser LaunchMail "
    "MediaFastForward MediaRewind MediaSelect NonConvert Open Paste Power Props Select Sleep Undo WakeUp"
).split()
NAMED_KEYS: Final = MappingProxyType({**_OWN_NAMES, **{name: name for name in _SAME_NAMES}})
"""Key name in the notation -> its place."""

NAMES_OF_CODES: Final = MappingProxyType(
    {
        **{code: name for name, code in NAMED_KEYS.items()},
        **MODIFIER_CODES,
    }
)

_MODIFIER_SPELLINGS: Final = {
    "Ctrl": ("control", "ctrl", "ctl", "⌃", "strg", "primary"),
    "Alt": ("alt", "opt", "option", "⌥"),
    "AltGr": ("altgr", "altgraph", "altgraphics"),
    "Shift": ("shift", "shft", "⇧"),
    "Super": ("super", "win", "windows", "meta", "cmd", "command", "⌘", "❖"),
    "Hyper": ("hyper", "✦"),
}
_KEY_SPELLINGS: Final = {
    "Escape": ("esc",), "Delete": ("del", "⌦"), "Insert": ("ins",), "Enter": ("return", "⏎", "↵", "⌤"),
    "Backspace": ("bksp", "bkspc", "backspc", "⌫"), "Tab": ("⇥",), "Space": ("spacebar", "spc", "␣"),
    "PageUp": ("pgup", "prior", "⇞"), "PageDown": ("pgdn", "pgdown", "next", "⇟"),
    "Left": ("arrowleft", "leftarrow", "←"), "Right": ("arrowright", "rightarrow", "→"),
    "Up": ("arrowup", "uparrow", "↑"), "Down": ("arrowdown", "downarrow", "↓"), "Home": ("↖",), "End": ("↘",),
    "PrintScreen": ("prtsc", "prtscn", "print", "sysrq"), "Pause": ("break",), "ScrollLock": ("scrlk", "scroll"),
    "CapsLock": ("caps", "⇪"), "Menu": ("contextmenu", "apps"), "NumLock": ("numlk",),
    "NumAdd": ("numplus", "kp_add"), "NumSubtract": ("numminus", "kp_subtract"), "NumMultiply": ("kp_multiply",),
    "NumDivide": ("kp_divide",), "NumDecimal": ("kp_decimal",), "NumEnter": ("kp_enter", "keypadenter"),
    "VolumeUp": ("audiovolumeup", "audioraisevolume"), "VolumeDown": ("audiovolumedown", "audiolowervolume"),
    "Mute": ("audiovolumemute", "audiomute"), "PlayPause": ("mediaplaypause", "audioplay"),
    "Stop": ("mediastop", "audiostop"), "NextTrack": ("mediatracknext", "audionext"),
    "PreviousTrack": ("mediatrackprevious", "audioprev"), "Record": ("mediarecord",),
    **{f"Num{digit}": (f"kp_{digit}", f"numpad{digit}") for digit in range(10)},
}  # fmt: skip
MODIFIER_ALIASES: Final = MappingProxyType(
    {spelling: name for name, spellings in _MODIFIER_SPELLINGS.items() for spelling in spellings}
)
KEY_ALIASES: Final = MappingProxyType(
    {
        **{name.lower(): name for name in NAMED_KEYS if name not in MODIFIERS},
        **{spelling: name for name, spellings in _KEY_SPELLINGS.items() for spelling in spellings},
    }
)
