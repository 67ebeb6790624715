"""Commands by name with their keys in brackets behind, as manuals of line editors list them: "beginning-of-line (C-a, Home)".

Several brackets are several modes. "(unbound)" is no key; where a manual says so, keys in one bracket stand beside each other.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Final

from glimber.core.notation.keywords import key_named
from glimber.readers.evidence import evidence

_LEAST: Final = 4
_MANY: Final = 8
_SHARE: Final = 0.5
"""Of the lines of this shape at least so many must have keys: otherwise what stands in brackets is something else."""
_LINE: Final = re.compile(r"\s*([a-z][\w+]*(?:-[\w+]+)*)\s+((?:\([^()\s](?:[^()]{0,60})\)\s*)+)$")
_WITH_TEXT: Final = re.compile(r"\s*([a-z][\w+]*(?:-[\w+]+)*)(?: [^()\s]+){0,4}\s+(\([^()\s][^()]{0,60}\))(?:\s+[A-Z].*)?$")
"""Arguments before the brackets, or what it does after them: "rotate degrees (C-t r)", "close   (C-t k) Close the sheet."."""
_TITLED: Final = re.compile(
    r"([A-Z][^()'\"]{1,50}?)\s+(\((?:'[^'\s]{1,12}'|\"[^\"\s]{1,12}\"|', ')(?:(?:, | or )(?:'[^'\s]{1,12}'|\"[^\"\s]{1,12}\"))*\)"
    r"(?: or [A-Z][^()'\"]{1,50} \((?:'[^'\s]{1,12}'|\"[^\"\s]{1,12}\")\))?)$"
)
LETTER_BEHIND: Final = re.compile(r"([A-Z][^()]{1,60}?) \(([^\s\d])\)")
"""A name with a letter or a sign in brackets behind it, which is its key where other names have sure keys there."""
_BEHIND: Final = re.compile(r"\s*(?:[-*•+]\s+)?([A-Z][^()'\"]{1,50}?)\s+\((\S[^()]{0,30})\)$")
_QUOTED: Final = re.compile(r"'[^'\s]{1,12}'|\"[^\"\s]{1,12}\"")
_LONGEST: Final = 200
_BRACKET: Final = re.compile(r"\(([^()]*)\)")
_UNBOUND: Final = re.compile(r"(?:unbound|not bound|unassigned|none)", re.I)


def keys_in_brackets(lines: Sequence[tuple[int, str]]) -> Mapping[int, tuple[str, str]]:
    """Return name and keys by the place of their line; nothing where too few lines are of this shape."""
    return {**_letters(lines), **_titled(lines), **_named(lines)}


def _letters(lines: Sequence[tuple[int, str]]) -> dict[int, tuple[str, str]]:
    """Return titles with a letter or a sign alone in brackets behind, where others have keys there that can be nothing else."""
    found = {place: match for place, (_, line) in enumerate(lines) if len(line) <= _LONGEST and (match := _BEHIND.match(line))}
    if sum(evidence(match[2]) == 2 for match in found.values()) < _LEAST:
        return {}
    return {place: (match[1], match[2]) for place, match in found.items() if len(match[2]) == 1 and not match[2].isdigit()}


def _titled(lines: Sequence[tuple[int, str]]) -> dict[int, tuple[str, str]]:
    """Return titles with their keys in quotes and brackets behind: "Raise the anchor ('r')", "Turn ('.') or Turn (',')"."""
    found = {place: match for place, (_, line) in enumerate(lines) if len(line) <= _LONGEST and (match := _TITLED.match(line))}
    if len(found) < _LEAST:
        return {}
    return {place: (match[1], " or ".join(map(_bare, _QUOTED.findall(match[2])))) for place, match in found.items()}


def _bare(quoted: str) -> str:
    return "<comma>" if quoted[1:-1] == "," else quoted[1:-1]


def _named(lines: Sequence[tuple[int, str]]) -> dict[int, tuple[str, str]]:
    found = {place: match for place, (_, line) in enumerate(lines) if (match := _LINE.match(line))}
    wider = {place: match for place, (_, line) in enumerate(lines)
             if (match := _WITH_TEXT.match(line)) and evidence(match[2][1:-1]) == 2}  # fmt: skip
    if len(wider) >= _MANY:
        found |= wider
    if len(found) < _LEAST:
        return {}
    beside = sum(_UNBOUND.search(match[2]) is not None for match in found.values()) >= _LEAST
    keys = {place: _keys(match[2], beside) for place, match in found.items()}
    bound = sum(bool(its) for its in keys.values())
    unbound = sum(_UNBOUND.search(match[2]) is not None and not keys[place] for place, match in found.items())
    if bound < _LEAST or bound + unbound < _SHARE * len(found):
        return {}
    return {place: (match[1], keys[place] or "none") for place, match in found.items()
            if keys[place] or _UNBOUND.search(match[2])}  # fmt: skip


def _keys(brackets: str, beside: bool) -> str:
    parts: list[str] = []
    for inner in _BRACKET.findall(brackets):
        if not _UNBOUND.fullmatch(inner.strip()):
            parts += [part for comma in re.split(r",\s+", inner) for part in (comma.split() if beside else [comma.strip()])]
    return " or ".join(part for part in dict.fromkeys(parts) if evidence(part) or len(part) == 1 or key_named(part))
