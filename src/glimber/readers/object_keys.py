r"""Keys of menus and buttons in source code: labels that end in a tab and their keys, ``"&Save sheet\tCtrl+S"``, and properties
that are set, ``saveItem.ShortcutKeys = Keys.Control | Keys.S``."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Final

from glimber.core.notation.spelling import Ways
from glimber.readers.code import Group, Item, Name, Part, Text
from glimber.readers.constants import chord_of
from glimber.readers.evidence import evidence
from glimber.readers.found import Found
from glimber.readers.script_values import bare_label

_SETS_KEYS: Final = re.compile(r"(?:short_?cut(?:_?keys?)?|accelerator|key_?equivalent|key_?binding|hot_?key)s?$", re.I)
_SETS_TEXT: Final = re.compile(r"(?:text|title|label|caption|header)$", re.I)
_PLAIN: Final = Ways(None, False)


def take_object_keys(root: Group, found: Found, heading: Callable[[int], str | None]) -> None:
    """Add the keys of labels with tabs and of properties anywhere in a source; ``heading``: the one above a line."""
    items = [item for group in root.walk() for item in group.items]
    for text in (part for item in items for part in item.parts if isinstance(part, Text) and "\t" in part):
        label, _, keys = text.partition("\t")
        if label.strip() and evidence(keys.strip()) == 2:
            found.add(bare_label(Text(label, text.line)).strip(), keys.strip(), heading(text.line), text.line, _PLAIN)
    names = dict(_named(items))
    for item in items:
        owner = _owner(item.key or "", _SETS_KEYS)
        parts = list(_flat(item.parts)) if owner else []
        chord = chord_of([part for part in parts if not _is_cast(part)], {})
        if owner and chord and evidence(chord):
            line = parts[0].line if parts else 0
            found.add(names.get(owner) or owner.rsplit(".", 1)[-1], chord, heading(line), line, _PLAIN)


def _named(items: Sequence[Item]) -> Iterator[tuple[str, str]]:
    """Yield the objects whose label is set, with it."""
    for item in items:
        owner = _owner(item.key or "", _SETS_TEXT)
        texts = [part for part in item.parts if isinstance(part, Text)]
        if owner and len(texts) == len(item.parts) == 1:
            yield owner, bare_label(texts[0]).strip()


def _owner(key: str, setting: re.Pattern[str]) -> str:
    """Return the object of a property of a kind: "this.saveItem" of "this.saveItem.Text"; empty for anything else."""
    owner, dot, last = key.rpartition(".")
    return owner if dot and setting.match(last) else ""


def _flat(parts: Sequence[Part]) -> Iterator[Name | Text]:
    """Yield the names and texts of parts in order, those in brackets too."""
    for part in parts:
        if isinstance(part, Group):
            for item in part.items:
                yield from _flat(item.parts)
        else:
            yield part


def _is_cast(part: Name | Text) -> bool:
    """Return True for the name of a type in brackets before its value: "(Keys)"."""
    return isinstance(part, Name) and part.name.isalpha()
