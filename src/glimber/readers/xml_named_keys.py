"""XML whose elements are named after keys: ``<f8 mod="ctrl">RunSoundings</f8>``."""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.keywords import key_named
from glimber.readers.element import Element, name_of, own_text
from glimber.readers.found import Found

_HELD: Final = ("mod", "mods", "modifier", "modifiers")
_DIGITS: Final = {name: str(digit) for digit, name in
                  enumerate("zero one two three four five six seven eight nine".split())}  # fmt: skip
_PAD: Final = re.compile(r"(?:numpad|keypad|kp)_?(\w+)", re.I)
_LEAST: Final = 3
_SHARE: Final = 0.6


def add_named_keys(root: Element, found: Found) -> None:
    """Add a row for each element that is named after a key, where most of those beside it are, and some by more than a letter."""
    for parent in root.iter():
        keyed = [child for child in parent if len(child) == 0 and _key_of(name_of(child))]
        if len(keyed) < max(_LEAST, _SHARE * len(parent)) or not _by_names(keyed):
            continue
        for child in keyed:
            command = own_text(child)
            if command:
                held = next((str(child.get(name)) for name in _HELD if child.get(name)), "")
                keys = "+".join([*filter(None, re.split(r"[\s,+|]+", held)), _key_of(name_of(child))])
                found.add(command, keys, _group(parent), child.sourceline or 0)


def _by_names(keyed: list[Element]) -> bool:
    """Return whether some elements are named after keys of several letters: pages have "b", "i" and "p" for other ends."""
    return len({name_of(child) for child in keyed if len(name_of(child)) > 1}) > 1


def _key_of(name: str) -> str:
    """Return the key that an element is named after; "" where it is none."""
    pad = _PAD.fullmatch(name)
    if pad is not None:
        key = _DIGITS.get(pad[1].lower()) or key_named(pad[1], marked=True)
        return f"Num {key}" if key else ""
    if len(name) == 1:
        return name
    return _DIGITS.get(name.lower()) or key_named(name, marked=True) or ""


def _group(parent: Element) -> str | None:
    """Return the name of the element around those of keys, without one that only says that they are keys."""
    while parent is not None and name_of(parent).lower() in ("keyboard", "keys", "key", "bindings", "keybindings", "keymap"):
        parent = parent.getparent()
    return name_of(parent) if parent is not None else None
