"""Calls and lines in editors' own scripts that bind keys: a call with texts in it, one of which is keys.

Nothing is run: a call is found by its shape, as a name with texts in quotes after it, in brackets of any kind.
"""

from __future__ import annotations

import re
from typing import Final

from glimber.core.notation.keywords import modifier_named
from glimber.core.notation.spelling import Ways
from glimber.readers.config import led
from glimber.readers.config import read as read_config
from glimber.readers.found import Found, Options, decoded, evidence
from glimber.readers.reader import Reader

_CALL: Final = re.compile(
    r"(?:map|bind|key|set|accel|shortcut|hotkey)[\w.:-]{0,40}\s{0,3}[({\[]|\(\s{0,3}[\w/:-]{0,40}?(?:key|bind|map|accel_path)[\w/:-]{0,40}\s",
    re.I,
)
_TEXT: Final = re.compile(r"\"((?:\\.|[^\"\\\n])*)\"|'((?:\\.|[^'\\\n])*)'|\[\[([^\]\n]*)\]\]")
_DESCRIPTION: Final = re.compile(r"(?:desc|description|label|title|help)\s*[:=]\s*$", re.I)
_SYMBOL: Final = re.compile(
    r"(?:#?'|:)([a-z][\w:/-]+)|(?:function|lambda|def)\b|([a-zA-Z_][\w.]*(?:\.[\w]+)+|[a-z_]\w{3,})\s*[,)}]"
)
_HELD: Final = re.compile(r"[(,]\s*[{\[]([\w\s,\"']*)[}\]]\s*,\s*(?=[\"'])")
_NAMED: Final = re.compile(r"^\s*(?:local\s+|let\s+|const\s+|var\s+)?(\w+)\s*=\s*[\"'](\w+)[\"']", re.M)
_GROUP: Final = re.compile(r"(?:group|category)\s*[:=]\s*[\"']([^\"']+)[\"']", re.I)
_MODES: Final = frozenset({"n", "i", "v", "x", "s", "o", "t", "c", "nv", "normal", "insert", "visual", "", "global"})
_CASED: Final = Ways("steps", True)
_LINE: Final = re.compile(r"^\s*(?:[nivxsotcl]?(?:nore)?map!?)\s", re.M)
_COMMENT: Final = re.compile(r"^\s*(?:--|//|;|#)")
_FLAGS: Final = re.compile(r"(?:Q?KeySequence)\(((?:\s*[|+]?\s*Qt\.(?:\w+\.)*\w+)+)\s*\)")
_ENTRY: Final = re.compile(r"""^\s*(?:"([^"]+)"|'([^']+)')\s*(?::|=>)\s*(?:"([^"]+)"|'([^']+)')\s*,?\s*$""")
_SETTER: Final = re.compile(r"\s*(?:\w+(?:\.|->))*?(\w+)(?:\.|->)(?:set|add)_?(?:shortcut|accel|key)\w*\s*\(", re.I)
"""A call that sets the keys of an object: "self.zoom_in.setShortcut("."""
_SELVES: Final = frozenset({"self", "this", "None", "null", "parent"})
LONGEST_CALL: Final = 12
LONGEST_LINE: Final = 600


def read(data: bytes, options: Options) -> Found:
    """Read the calls of a script."""
    text = decoded(data)
    if not text.strip():
        return Found(watch=options.watch).fail("the file is empty; expected calls or lines that bind keys")
    if len(_LINE.findall(text)) > text.count("(") / 2 and _LINE.search(text):
        return read_config(data, options)
    found = Found(watch=options.watch)
    lines = led(text).splitlines()
    named = {match[1]: name for match in _NAMED.finditer(text) if (name := modifier_named(match[2])) is not None}
    group: str | None = None
    number = 0
    while number < len(lines):
        line = lines[number]
        number += 1
        if len(line) > LONGEST_LINE:
            found.leave(line, number, "too long for a binding")
            continue
        if _COMMENT.match(line):
            title = line.strip().strip("-/;# ").strip()
            if title and len(title.split()) <= 5 and title[0].isupper():
                group = title
                found.head(title, number)
            continue
        line = lines[number - 1] = _FLAGS.sub(_spelt_flags, line)
        call = _CALL.search(line)
        if call is None:
            _entry(line, found, group, number)
            continue
        whole, last = _whole(lines, number - 1, call.start())
        if _take(whole, found, group, number, named, line):
            number = max(number, last)
        elif evidence(line.strip()) or "key" in line.lower():
            found.leave(line, number, "no call that binds keys")
    if not found.any:
        found.fail("no call in it binds keys")
    return found


def _spelt_flags(match: re.Match[str]) -> str:
    """A key sequence of flags as one of text: ``QKeySequence(Qt.CTRL | Qt.Key_S)`` as "CTRL+S"."""
    words = [word.rpartition(".")[2] for word in re.split(r"\s*[|+]\s*", match[1].strip())]
    return '"' + "+".join(re.sub(r"^Key_|Modifier$", "", word) for word in words) + '"'


def _entry(line: str, found: Found, group: str | None, number: int) -> None:
    """An entry of a dictionary that has a command and its keys, whichever comes first."""
    entry = _ENTRY.match(line)
    if entry is None:
        return
    left, right = entry[1] or entry[2], entry[3] or entry[4]
    looks = evidence(left), evidence(right)
    if max(looks) == 2 and looks[0] != looks[1]:
        command, keys = (left, right) if looks[1] > looks[0] else (right, left)
        found.add(command, keys, group, number, _CASED)


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


def _modifiers(text: str, named: dict[str, str]) -> tuple[list[str] | None, int]:
    """The modifiers that stand as a list before the key, and where it ends; None where one of them is not known."""
    match = _HELD.search(text)
    if match is None:
        return [], 0
    held = []
    for part in filter(None, (part.strip() for part in match[1].split(","))):
        name = modifier_named(part.strip("\"'")) or named.get(part)
        if name is None:
            return (
                (None, 0)
                if part.isidentifier() and match.end() < len(text) and "key" in text[: match.start()].lower()
                else ([], 0)
            )
        held.append(name)
    return held, match.end()


def _take(
    text: str, found: Found, group: str | None, number: int, named: dict[str, str], line: str = ""
) -> bool:
    """Add what a call binds; whether it does. ``line``: the whole line of the call."""
    held, end = _modifiers(text, named)
    if held is None:
        found.fail(f"{' '.join(text.split())[:80]}: modifiers that are not known here", number)
        return True
    texts = [(match.start(), match[1] or match[2] or match[3] or "") for match in _TEXT.finditer(text, end)]
    if held and texts:
        texts[0] = (texts[0][0], "+".join([*held, texts[0][1]]))
    keys = next((place for place, (_, one) in enumerate(texts) if one.lower() not in _MODES and _is_keys(one)), None)
    if keys is None:
        one = next((place for place, (_, one) in enumerate(texts) if len(one) == 1 and place > 0), None)
        if one is None:
            return False
        keys = one
    told = next((one for at, one in texts if _DESCRIPTION.search(text[:at][-24:])), None)
    after = [one for _, one in texts[keys + 1 :] if one.strip()]
    path = texts[0][1] if keys else ""
    symbol = next(
        (name for match in _SYMBOL.finditer(text, texts[keys][0]) if (name := match[1] or match[2]) and name not in _SELVES), None
    )
    command = (
        told or (after[-1] if "desc" not in text and after else None) or symbol or (path if len(path) > 2 else None)
    )
    setter = _SETTER.match(line)
    command = command or (setter[1] if setter is not None else None)
    if command is None:
        return False
    own = _GROUP.search(text)
    group = own[1] if own is not None else group
    spelt = texts[keys][1].replace("\\\\", "\\")
    found.add(
        re.sub(r"(?i)<cmd>|<cr>$|^:", "", command.rsplit("/", 1)[-1] if command.startswith("<") else command),
        spelt,
        group,
        number,
        _CASED,
    )
    return True


def _is_keys(text: str) -> bool:
    return evidence(text) > 0 or bool(re.fullmatch(r"(?:<[^<>]+>)+\S{0,3}", text))


READERS = (
    Reader(
        "script",
        read,
        endings=(".lua", ".el", ".vim", ".scm", ".lisp", ".js", ".py"),
        signs=(
            (
                0.75,
                re.compile(
                    r"\b(?:map|bind|set_?key|key)\w*\s*\(\s*[\"'{\[]|\((?:global-set-key|define-key|keymap-set|"
                    r"gtk_accel_path|bind-key)\b|keymap\.set\(",
                    re.I,
                ),
            ),
        ),
    ),
)
