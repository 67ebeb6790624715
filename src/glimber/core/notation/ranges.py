"""Ranges of keys as the world writes them: "Ctrl+1 … Ctrl+9", "F1-F12", "Alt+[0..9]", "1 2 … 0"."""

from __future__ import annotations

import re
from typing import Final

MOST_IN_A_RANGE: Final = 40
_RANGE: Final = re.compile(
    r"^(.*?)(?<![A-Za-z0-9])(F?\d{1,3}|[A-Za-z](?!-\S+\s+\S+\s+\S))\s*(?:…|\.{2,3}|–|—|\bto\b|\bthrough\b|~|-)\s*(.*?)(F?\d{1,3}|[A-Za-z])$"
)
_IN_BRACKETS: Final = re.compile(r"(?:\[(?=[A-Za-z]-)|[\[{(<](?=F?\d))(F?\w)(?:-|…|–|\.{2,3})(F?\w{1,2})[\]})>]$")
_BEGUN: Final = re.compile(r"(?<!\w)(\w),? +(\w),? *(?:…|\.{2,3}),? *(\w)$")
"""A range with its first two members, such as "1 2 ... 0"."""


def range_of(text: str) -> list[str]:
    """Return the members of a range such as "Ctrl+1 … Ctrl+9", "F1-F12", "A-Z"; the text itself where it is none."""
    begun = _BEGUN.search(text)
    if begun is not None and ord(begun[2]) == ord(begun[1]) + 1:
        text = f"{text[: begun.start()]}{begun[1]} … {begun[3]}"
    match = _RANGE.match(_IN_BRACKETS.sub(r"\1 to \2", text))
    if match is None:
        return [text]
    head, first, again, last = match.groups()
    if head and head[-1].isalnum():
        return [text]
    if again.strip() and re.sub(r"\s", "", again).lower() != re.sub(r"\s", "", head).lower():
        return [text]
    numbers = [one.lstrip("F") if first[0] == "F" and len(first) > 1 else one for one in (first, last)]
    if all(one.isdigit() for one in numbers):
        names = _range_of_numbers(int(numbers[0]), int(numbers[1]), "F" if numbers[0] != first else "")
    else:
        names = _range_of_letters(first, last, text[match.end(2) :].lstrip().startswith("-"))
    return [head + name for name in names] if 1 < len(names) <= MOST_IN_A_RANGE else [text]


def _range_of_numbers(low: int, high: int, letter: str) -> list[str]:
    if not letter and (low, high) == (1, 0):
        return list("1234567890")  # as they stand on the keyboard
    if not letter and high > 9:
        return []  # keys have one digit
    return [f"{letter}{number}" for number in range(low, min(high, low + MOST_IN_A_RANGE + 1) + 1)]


def _range_of_letters(first: str, last: str, plain_dash: bool) -> list[str]:
    if not (len(first) == len(last) == 1 and first.isalpha() and last.isalpha() and first.isupper() == last.isupper()):
        return []
    if plain_dash and (first + last).upper() not in ("AZ", "AF"):
        return []  # "C-x" is a chord
    return [chr(code) for code in range(ord(first), ord(last) + 1)]
