"""Bundles by their names in a source: "Crown+P", where Crown stands for several modifiers of the folio, or as the source says.

Each name before a plus is written out before the source is read, on the same line: a reader knows modifiers only.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Final

from glimber.core.notation.keywords import key_named, modifier_named

_MODIFIER: Final = rb"(?:Ctrl|Control|Alt|AltGr|Option|Shift|Super|Win|Cmd|Command|Meta|Hyper)"
_DEFINED: Final = re.compile(
    rb"\b([A-Z][A-Za-z]{2,15})[`'\"*_]{0,3}\s*(?:=|:|->|\xe2\x86\x92|\b(?:is|means|stands for|holds?))\s*"
    rb"(?:the keys?\s+)?[`'\"*_(]{0,3}(" + _MODIFIER + rb"(?:\s?[+-]\s?" + _MODIFIER + rb"){1,4})(?![\w+-])"
)
"""A text that says what a name stands for: "Crown = Ctrl+Alt+Shift"."""


def with_bundles_written_out(data: bytes, bundles: Mapping[str, Sequence[str]] = {}) -> bytes:
    """Return a source with the modifiers in place of each bundle's name before a plus or a dash; lines stay where they are.

    ``bundles``: those of the folio; what the source itself defines comes first.
    """
    known = {name.encode(): "+".join(held).encode() for name, held in bundles.items()}
    known |= {match[1]: re.sub(rb"\s", b"", match[2]) for match in _DEFINED.finditer(data) if _is_free(match[1].decode())}
    for name, held in known.items():
        data = re.sub(rb"(?<![\w+-])" + re.escape(name) + rb"(\s?[+-]\s?)(?=[^\s+])", held + rb"\1", data)
    return data


def _is_free(name: str) -> bool:
    return modifier_named(name) is None and key_named(name) is None
