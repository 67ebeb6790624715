"""Starting contents of a new layer: keys by their place, as far as the board has them."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

_RIGHT: Final = ("KeyU", "KeyI", "KeyO", "KeyJ", "KeyK", "KeyL", "KeyM", "Comma", "Period")
_FUNCTION: Final = ("KeyQ", "KeyW", "KeyE", "KeyR", "KeyA", "KeyS", "KeyD", "KeyF", "KeyZ", "KeyX", "KeyC", "KeyV")

STARTERS: Final[Mapping[str, Mapping[str, str]]] = MappingProxyType(
    {
        "blank": {},
        # As on a number pad, under the right hand.
        "digits": {**dict(zip(_RIGHT, "789456123", strict=True)), "Space": "0", "thumb-right-1": "0", "KeyN": "0",
                   "KeyH": "-", "KeyY": "+", "Semicolon": ".", "KeyP": "*", "Slash": "/"},
        # Up above down, left of right, the longer way beside the shorter.
        "movement": {"KeyI": "Up", "KeyK": "Down", "KeyJ": "Left", "KeyL": "Right", "KeyU": "Ctrl+Left", "KeyO": "Ctrl+Right",
                     "KeyH": "Home", "Semicolon": "End", "KeyY": "PageUp", "KeyN": "PageDown", "KeyM": "Backspace",
                     "Comma": "Delete"},
        # Keys that no board has and nothing else uses.
        "function keys": {key: f"F{number}" for number, key in enumerate(_FUNCTION, start=13)},
        "windows": {"KeyI": "Super+Up", "KeyK": "Super+Down", "KeyJ": "Super+Left", "KeyL": "Super+Right", "KeyO": "Alt+Tab",
                    "KeyU": "Alt+Shift+Tab", "KeyP": "Alt+F4", "KeyH": "Super+D", "KeyM": "Ctrl+Alt+Left",
                    "Comma": "Ctrl+Alt+Right"},
    }
)  # fmt: skip
