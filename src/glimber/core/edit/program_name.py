"""Guess the program a source is about from what the source calls itself."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Final

from glimber.core.model.folio import Program
from glimber.core.notation.ids import free_id, slug_of

_LONGEST: Final = 40
_PARTS: Final = re.compile(r"\s+[-–—|·•:]+\s+|[|:]\s+")
_OF_A_LIST: Final = frozenset(
    "a accelerators all and binding bindings by chapter command commands common complete config configuration conf "
    "default defaults documentation document for full guide help hotkey hotkeys in index key keybinding keybindings "
    "keyboard keymap keymaps keys keystrokes linux list manual map mapping mappings of on page pdf print quick rc "
    "readme reference settings sheet shortcut shortcuts table the to use useful user users using windows with your".split()
)


def program_named(*texts: str) -> str:
    """Return the program's name in what a source calls itself, the first that has one: words that only say that there are keys, a
    manual or a list are left out. Empty where nothing is left.

    >>> program_named("Keyboard shortcuts - Shoalwright manual")
    'Shoalwright'
    """
    for text in texts:
        for part in _PARTS.split(" ".join(text.replace("_", " ").split())):
            words = part.split() if " " in part else part.replace("-", " ").split()
            kept = [
                word
                for word in words
                if word.strip("()[],.'\"").casefold() not in _OF_A_LIST and re.search(r"\w", word)
            ]
            name = " ".join(kept).strip(" ,.:;()[]'\"")
            if name and len(name) <= _LONGEST and not name.replace(".", "").replace(" ", "").isdigit():
                return name if any(letter.isupper() for letter in name) else name[0].upper() + name[1:]
    return ""


def program_id_of(name: str, programs: Mapping[str, Program]) -> str:
    """Return the id of the program of this name, in any case, or of this id; a free one for a program that is not there yet."""
    called = {program.name.casefold(): id for id, program in programs.items()}
    slug = slug_of(name)
    # A name without a plain letter has no id of its own: what has the id by chance is another program.
    spelt = re.search("[a-z0-9]", name, re.IGNORECASE | re.ASCII) is not None
    return called.get(name.casefold()) or (slug if spelt else free_id(slug, programs))
