"""Forms of Lisp that bind keys: a form with texts in it, one of which is keys; or a keymap, with pairs of keys and commands.

A form is found by its shape, as a name that binds with texts in quotes after it. Nothing is run. The keys of a
keymap that another one opens are read as following the key that opens it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
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


_LONG_TEXT: Final = re.compile(r"\"(?:\\.|[^\"\\])*\"")
_KEYS: Final = r"(?:\(kbd\s+\"((?:\\.|[^\"\\\n])+)\"\s*\)|(\*[\w-]+\*))"
_PAIR: Final = re.compile(rf"{_KEYS}\s+(?:\"((?:\\.|[^\"\\\n])+)\"|#?'([\w*+:/-]+))")
_MAP: Final = re.compile(r"\(\s{0,3}[\w/:-]{0,40}keymap[\w/:-]{0,40}\s+([\w*+:/-]+)\s*$", re.I)
_DOTTED: Final = re.compile(r"\(\s?\"((?:\\.|[^\"\\\n])+)\"\s+\.\s+#?'?([\w*+:/-]+)\s?\)")
"""A pair of keys and a command in a list of several."""
_EVENT_PREFIXES: Final = {"control": "C", "meta": "M", "shift": "S", "super": "s", "hyper": "H", "alt": "A"}
_VECTOR: Final = re.compile(
    r"(?<=\s)\[(?:\(\s?((?:(?:control|meta|shift|super|hyper|alt)\s){0,4})([\w-]{1,20})\s?\)|([A-Za-z][\w-]{1,20})|\?((?:\\[CMS]-){0,3}\S))\]"
)
"""Keys as a vector of one event. Source: the Emacs Lisp manual, "Key Sequences"."""
_EVENT: Final = re.compile(r"((?:\\[CMSHsA]-)*)(\\.|[^\\])")
_ESCAPED: Final = {"\\e": "ESC", "\\t": "TAB", "\\r": "RET", "\\n": "C-j", "\\d": "DEL", "\\\\": "\\"}
_NAMED_KEY: Final = re.compile(
    r"\(\s{0,3}(?:defvar|defparameter|defconst|setq|setf)\s+([\w*+:/-]+)\s+\(kbd\s+\"([^\"\n]+)\"\s*\)"
)


def is_lisp(text: str) -> bool:
    """Return True if most lines that are not further in begin with a bracket or a comment of Lisp."""
    starts = [line[0] for line in _LONG_TEXT.sub('""', text).splitlines() if line[:1].strip()]
    return bool(starts) and "(" in starts and sum(start in "(;)" for start in starts) >= 0.8 * len(starts)


def read_lisp(text: str, found: Found) -> None:
    """Add what the forms of a text bind."""
    text = _VECTOR.sub(_as_text, text)
    lines = text.splitlines()
    ways = _CAPS if _SPELLS_SHIFT.search(text) and not _SMALL_KEY.search(text) else _CASED
    group: str | None = None
    keymaps = _Keymaps(text)
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
        if keymaps.take(line, number, found, ways):
            continue
        dotted = [(keys, command) for keys, command in _DOTTED.findall(line) if _is_keys(keys)]
        for keys, command in dotted:
            found.add(command, _events(keys), group, number, ways)
        if dotted:
            continue
        call = _FORM.search(line)
        if call is None:
            continue
        whole, last = _whole(lines, number - 1, call.start())
        if _take(whole, found, group, number, ways):
            number = max(number, last)
        elif evidence(line.strip()) or "key" in line.lower():
            found.leave(line, number, "no call that binds keys")


def _as_text(match: re.Match[str]) -> str:
    """Return a vector with one event as keys in a text: [f5], [(control f5)], [?\\C-x]."""
    held = "".join(f"{_EVENT_PREFIXES[word]}-" for word in (match[1] or "").split())
    key = match[2] or match[3] or match[4].replace("\\", "")
    return f'(kbd "{held}<{key}>")' if len(key) > 1 and "-" not in key else f'(kbd "{held}{key}")'


class _Keymaps:
    """The keymaps of a text, line by line: what each key of one opens or does.

    ``openings``: the keys that open each keymap, once they were read; ``named``: keys that the text gives a name.
    """

    def __init__(self, text: str) -> None:
        self.named = {match[1]: match[2] for match in _NAMED_KEY.finditer(text)}
        self.openings: dict[str, str] = {}
        self.name: str | None = None

    def take(self, line: str, number: int, found: Found, ways: Ways) -> bool:
        """Add the pairs of a line; False where it is no part of a keymap."""
        opened = _MAP.search(line)
        if opened is not None:
            self.name = opened[1]
            return True
        pairs = list(_PAIR.finditer(line)) if self.name is not None else []
        if line.startswith("(") and not pairs:
            self.name = None
        for pair in pairs:
            keys = pair[1] or self.named.get(pair[2], "")
            before = self.openings.get(self.name or "", "")
            keys = f"{before} {keys}".strip() if keys else ""
            command = pair[3] or pair[4]
            if pair[4] is not None and command.strip("*").endswith("map"):
                if keys:
                    self.openings[command] = keys
                found.leave(line, number, "opens a keymap")
            elif keys:
                found.add(command, _events(keys), None, number, ways)
            else:
                found.leave(line, number, "no key is known by this name")
        return bool(pairs)


def _whole(lines: list[str], place: int, start: int) -> tuple[str, int]:
    """Return a call up to where its brackets are closed, over at most 12 lines, and the line after it."""
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
    keys = _place_of_keys([one for _, one in texts])
    if keys is None:
        return False
    described = next((one for at, one in texts if _DESCRIPTION.search(text[:at][-24:])), None)
    after = [one for _, one in texts[keys + 1 :] if one.strip()]
    path = texts[0][1] if keys else ""
    symbol = _SYMBOL.search(text, texts[keys][0])
    symbol_name = symbol[1] if symbol is not None else ""
    command = described or (after[-1] if after else "") or symbol_name or (path if len(path) > 2 else "")
    if not command:
        return False
    found.add(command.rsplit("/", 1)[-1] if command.startswith("<") else command, _events(texts[keys][1]), group, number, ways)
    return True


def _events(text: str) -> str:
    """Return the keys of a text: where it has escapes, each event apart: "\\C-x\\M-f" is "C-x M-f".

    Source: the Emacs Lisp manual, "Key Sequences".
    """
    if "\\" not in text or " " in text:
        return re.sub(r"\\(?=[CMSA]-|\")", "", text).replace("\\\\", "\\")
    events = ["".join(match) for match in _EVENT.findall(text)]
    return " ".join(_ESCAPED.get(event) or event.replace("\\", "") or "\\" for event in events)


def _place_of_keys(texts: Sequence[str]) -> int | None:
    """Return which text is the keys: the first that looks like them, else the first single character after another text."""
    keys = next((place for place, one in enumerate(texts) if _is_keys(one)), None)
    return keys if keys is not None else next((place for place, one in enumerate(texts) if len(one) == 1 and place > 0), None)


def _is_keys(text: str) -> bool:
    return evidence(_events(text)) > 0 or bool(re.fullmatch(r"(?:<[^<>]+>)+\S{0,3}", text))
