"""The characters printed by a layout, from the system's keyboard data (XKB), for any layout and variant."""

from __future__ import annotations

import os
import re
from functools import cache
from pathlib import Path
from typing import Any, Final

from glimber.core.notation.keycodes import EVDEV_NUMBERS, NAMES_OF_CODES, XKB_OFFSET
from glimber.core.notation.legend import US, Legend
from glimber.core.notation.nearest import did_you_mean

_NAME: Final = re.compile(r"([A-Za-z0-9_/+-]+)(?:\(([A-Za-z0-9_+-]+)\))?\Z")
_DEAD: Final = {
    "grave": "`", "acute": "´", "circumflex": "^", "tilde": "~", "diaeresis": "¨", "macron": "¯", "cedilla": "¸",
    "abovering": "°",
    "doubleacute": "˝", "caron": "ˇ", "breve": "˘", "ogonek": "˛", "abovedot": "˙", "iota": "ͅ", "stroke": "/", "belowdot": ".",
    "currency": "¤", "greek": "µ", "hook": "ˀ", "horn": "ʼ", "belowcomma": ",",
}  # fmt: skip
"""A dead key is printed as its accent alone."""


class UnknownLayoutError(ValueError):
    """The system's keyboard data has no such layout or variant; the message says which are near."""


@cache
def legend_of(name: str) -> Legend:
    """Return what a layout prints, such as ``us``, ``de`` or ``us(intl)``.

    Raises UnknownLayoutError, also where nothing is installed that could look it up.

    Levels are plain, with Shift, with AltGr and with both; a key that has no AltGr level has two.
    """
    if name == US.name:
        return US
    match = _NAME.match(name)
    if match is None:
        raise UnknownLayoutError(f"{name!r} is not a layout; expected one such as us, de or us(intl)")
    layout, variant = match.group(1), match.group(2) or ""
    try:
        from xkbcommon import xkb
    except ImportError as error:
        raise UnknownLayoutError(
            f"what {name} prints cannot be looked up here: xkbcommon is not installed (pip install 'glimber[legends]'); "
            f"{US.name} needs nothing"
        ) from error

    context = xkb.Context()
    context.set_log_fn(lambda *_: None)  # what is wrong is reported once, below
    try:
        keymap = context.keymap_new_from_names(rules="evdev", layout=layout, variant=variant)
    except xkb.XKBError as error:
        raise UnknownLayoutError(_unknown(name, layout, variant)) from error
    if variant and not _has_variant(layout, variant):
        raise UnknownLayoutError(_unknown(name, layout, variant))  # the rules take an unknown variant for none
    levels: dict[str, tuple[str, ...]] = {}
    for code, number in EVDEV_NUMBERS.items():
        if code not in NAMES_OF_CODES:
            characters = _levels(xkb, keymap, number + XKB_OFFSET)
            if characters:
                levels[code] = characters
    return Legend(name, levels)


def _levels(xkb: Any, keymap: Any, keycode: int) -> tuple[str, ...]:
    if not keymap.min_keycode() <= keycode <= keymap.max_keycode() or not keymap.num_layouts_for_key(keycode):
        return ()
    shift = 1 << keymap.mod_get_index("Shift")
    third = 1 << keymap.mod_get_index("Mod5")
    masks = [0, shift]
    if keymap.num_levels_for_key(keycode, 0) > 2:
        masks += [third, shift | third]
    found = []
    for mask in masks:
        state = keymap.state_new()
        state.update_mask(mask, 0, 0, 0, 0, 0)
        found.append(_character(xkb, state, keycode))
    while found and not found[-1]:
        found.pop()
    return tuple(found)


def _character(xkb: Any, state: Any, keycode: int) -> str:
    text: str = state.key_get_string(keycode)
    if len(text) == 1 and text.isprintable() and not text.isspace():
        return text
    name: str = xkb.keysym_get_name(state.key_get_one_sym(keycode)) or ""
    return _DEAD.get(name.removeprefix("dead_"), "") if name.startswith("dead_") else ""


@cache
def _listed() -> dict[str, list[str]]:
    """Layouts the system lists, each with its variants; empty where the list is not there."""
    root = Path(os.environ.get("XKB_CONFIG_ROOT", "/usr/share/X11/xkb"))
    try:
        text = (root / "rules" / "evdev.lst").read_text("utf-8", "replace")
    except OSError:
        return {}
    found: dict[str, list[str]] = {}
    section = ""
    for line in text.splitlines():
        if line.startswith("!"):
            section = line[1:].strip()
        elif section == "layout" and line.strip():
            found.setdefault(line.split()[0], [])
        elif section == "variant" and ":" in line:
            variant, layout = line.partition(":")[0].split()[:2]
            found.setdefault(layout, []).append(variant)
    return found


def _has_variant(layout: str, variant: str) -> bool:
    listed = _listed()
    return layout not in listed or variant in listed[layout]


def _unknown(name: str, layout: str, variant: str) -> str:
    listed = _listed()
    if not listed:
        return f"{name} cannot be looked up: the system's keyboard data is missing; install xkb-data"
    if layout in listed:
        return f"{variant} is not a variant of the layout {layout}{did_you_mean(variant, listed[layout])}"
    return f"{layout} is not a layout of this system{did_you_mean(layout, listed)}"
