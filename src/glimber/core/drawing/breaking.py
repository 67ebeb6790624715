"""Places where a word may be broken between lines: at joints inside it, and between syllables of its language."""

from __future__ import annotations

import re
from functools import cache
from typing import Any, Final

from msgspec import Struct

_JOINTS: Final = re.compile(r"(?<=[a-z])(?=[A-Z])|(?<=[_\-/.:;,&])(?=\w)|(?<=[^\W\d_])(?=\d)")
_SCRIPTS: Final = (
    ("el_GR", re.compile(r"[\u0370-\u03ff]")),
    ("ru_RU", re.compile(r"[\u0400-\u04ff]")),
    ("de_DE", re.compile(r"[äöüßÄÖÜ]")),
    ("fr", re.compile(r"[éèêëàâçîïôûœÉÈÊÀÂÇ]")),
)
_LATIN: Final = "en_US"
_LEAST_SYLLABLES: Final = 5
"""Letters of a word at least before it is parted between syllables."""


class Piece(Struct, frozen=True):
    """A part of a word; ``hyphen``: one is drawn where the line ends after it."""

    text: str
    hyphen: bool


@cache
def pieces(word: str) -> tuple[Piece, ...]:
    """Return the parts of a word between which a line may end."""
    found: list[Piece] = []
    for part in _JOINTS.split(word):
        syllables = _syllables(part)
        found += [Piece(syllable, True) for syllable in syllables[:-1]]
        found.append(Piece(syllables[-1], False))
    return tuple(found)


def _syllables(word: str) -> list[str]:
    if len(word) < _LEAST_SYLLABLES or not word.isalpha():
        return [word]
    language = next((language for language, letters in _SCRIPTS if letters.search(word)), _LATIN)
    if language == _LATIN and not word.isascii():
        return [word]
    positions = [int(at) for at in _dictionary(language).positions(word)]
    return [word[start:end] for start, end in zip([0, *positions], [*positions, len(word)], strict=True)]


@cache
def _dictionary(language: str) -> Any:
    # Loaded when a word has to be broken: its table takes a fifth of a second to read.
    import pyphen

    return pyphen.Pyphen(lang=language)
