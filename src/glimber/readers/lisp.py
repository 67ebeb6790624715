"""Forms of Lisp that bind keys: a form with texts in it, one of which is keys.

A form is found by its shape, as a name that binds with texts in quotes after it. Nothing is run.
"""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.spelling import Ways
from glimber.readers.evidence import evidence
from glimber.readers.found import Found

_FORM: Final = re.compile(r"\(\s{0,3}[\w/:-]{0,40}?(?:key|bind|map|accel_path)[\w/:-]{0,40}\s", re.I)
_TEXT: Final = re.compile(r"\"((?:\\.|[^\"\\\n])*)\"")
_DESCRIPTION: Final = re.compile(r":(?:desc|description|label|title|doc)\s*$", re.I)
_SYMBOL: Final = re.compile(r"(?:#?'|:)&?([a-z][\w:/-]+)")
_CASED: Final = Ways("steps", True)
_CAPS: Final = Ways("steps", False)
_SPELLS_SHIFT: Final = re.compile(r"\"[^\"\n]{0,20}(?:<Shift>|Shift[+-])[A-Z]\b[^\"\n]{0,20}\"")
_SMALL_KEY: Final = re.compile(r"\"(?:[^\"\n]{0,20}[ >+-])?[a-z]\"")
_COMMENT: Final = re.compile(r"^\s*;")
LONGEST_CALL: Final = 12
LONGEST_LINE: Final = 600


def is_lisp(text: str) -> bool:
    """Return True if most lines that are not further in begin with a bracket or a comment of Lisp."""
    starts = [line[0] for line in text.splitlines() if line[:1].strip()]
    return bool(starts) and "(" in starts and sum(start in "(;)" for start in starts) >= 0.8 * len(starts)


def read_lisp(text: str, found: Found) -> None:
    """Add what the forms of a text bind."""
    lines = text.splitlines()
    ways = _CAPS if _SPELLS_SHIFT.search(text) and not _SMALL_KEY.search(text) else _CASED
    group: str | None = None
    number = 0
    while number < len(lines):
        line = lines[number]
        number += 1
        if len(line) > LONGEST_LINE:
            found.leave(line, number, "too long for a binding")
            continue
        if _COMMENT.match(line):
            title = line.strip().strip("; ").strip()
            if title and len(title.split()) <= 5 and title[0].isupper():
                group = title
                found.head(title, number)
            continue
        call = _FORM.search(line)
        if call is None:
            continue
        whole, last = _whole(lines, number - 1, call.start())
        if _take(whole, found, group, number, ways):
            number = max(number, last)
        elif evidence(line.strip()) or "key" in line.lower():
            found.leave(line, number, "no call that binds keys")


def _whole(lines: list[str], place: int, start: int) -> tuple[str, int]:
    """A call up to where its brackets are closed, over at most 12 lines, and the line after it."""
    text = lines[place][start:]
    end = place + 1
    while end < len(lines) and end - place < LONGEST_CALL and _open(text) > 0:
        text += "\n" + lines[end]
        end += 1
    return text, end


def _open(text: str) -> int:
    bare = _TEXT.sub("", text)
    return sum(bare.count(sign) for sign in "([{") - sum(bare.count(sign) for sign in ")]}")


def _take(text: str, found: Found, group: str | None, number: int, ways: Ways) -> bool:
    """Add what a form binds; whether it does."""
    texts = [(match.start(), match[1]) for match in _TEXT.finditer(text)]
    keys = next((place for place, (_, one) in enumerate(texts) if _is_keys(one)), None)
    if keys is None:
        keys = next((place for place, (_, one) in enumerate(texts) if len(one) == 1 and place > 0), None)
    if keys is None:
        return False
    told = next((one for at, one in texts if _DESCRIPTION.search(text[:at][-24:])), None)
    after = [one for _, one in texts[keys + 1 :] if one.strip()]
    path = texts[0][1] if keys else ""
    symbol = _SYMBOL.search(text, texts[keys][0])
    command = told or (after[-1] if after else "") or (symbol[1] if symbol is not None else "") or (path if len(path) > 2 else "")
    if not command:
        return False
    found.add(command.rsplit("/", 1)[-1] if command.startswith("<") else command, texts[keys][1].replace("\\\\", "\\"), group,
              number, ways)  # fmt: skip
    return True


def _is_keys(text: str) -> bool:
    return evidence(text) > 0 or bool(re.fullmatch(r"(?:<[^<>]+>)+\S{0,3}", text))
