"""Shortcuts of the desktop: what ``gsettings list-recursively`` prints. They belong to Everywhere."""

from __future__ import annotations

import ast
import re
from typing import Final

from glimber.readers.evidence import evidence
from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader

_OWN: Final = re.compile(r"^(\S+\.custom-keybindings?:\S+)\s+(name|binding)\s+(.+)$")
_LINE: Final = re.compile(r"^(\S+)\s+(\S+)\s+(.+)$")
_KEYS: Final = re.compile(r"keybindings|media-keys|keyboard-shortcuts")
_ACCELERATOR: Final = re.compile(r"^(?:<[A-Za-z0-9_]+>)+\S|^(?:F\d{1,2}|XF86\w+|Print|Menu|Pause)$|^Super_[LR]$")


def read(data: bytes, options: Options) -> Found:
    """Read the lines of a settings listing: schema, key, value."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if not text.strip():
        return found.fail("the listing is empty; expected lines such as: SCHEMA KEY ['<Super>d']")
    lines = text.splitlines()
    own = [match for line in lines if (match := _OWN.match(line)) is not None]
    names = {match[1]: (_strings(match[3]) or [""])[0] for match in own if match[2] == "name"}
    for number, line in enumerate(lines, start=1):
        match = _OWN.match(line)
        if match is not None:
            if match[2] == "binding" and names.get(match[1]):
                keys = " or ".join(_plain(one) for one in _strings(match[3]) or [] if one and one != "disabled")
                found.add(names[match[1]], keys, "Own shortcuts", number)
            continue
        match = _LINE.match(line)
        if match is not None:
            add_setting(found, match.group(1), match.group(2), match.group(3), number)
        elif line.strip():
            found.fail(f"{line.strip()}: expected a schema, a key and a value", number)
    if not found.any:
        found.fail("no setting in it is a shortcut")
    return found


def add_setting(found: Found, schema: str, key: str, value: str, line: int, summary: str = "") -> None:
    """Take a setting where it is a shortcut: by its schema's name, or by the shape of its value."""
    values = _strings(value)
    if values is None:
        return
    spelt = [one for one in values if one and one != "disabled"]
    if not _KEYS.search(schema) and not (spelt and all(_ACCELERATOR.match(one) for one in spelt)):
        return
    if (
        spelt
        and not any(_ACCELERATOR.match(one) for one in spelt)
        and not all(len(one) < 24 and "/" not in one for one in spelt)
    ):
        return  # a list of paths under a schema of keys
    if spelt and not any(evidence(_plain(one)) for one in spelt):
        return  # a word: a colour, a way of working
    command = summary or key.replace("-", " ").replace("_", " ").capitalize()
    keys = " or ".join(_plain(one) for one in spelt)
    found.add(command, keys, schema.rsplit(".", 1)[-1].replace("-", " ").capitalize(), line)


def _plain(keys: str) -> str:
    """Return names that only the desktop's settings use."""
    keys = re.sub(r"XF86Audio(RaiseVolume|LowerVolume|Mute|Play|Stop|Next|Prev)", r"audio\1", keys)
    keys = keys.replace("Above_Tab", "[Backquote]").replace("Super_L", "Super").replace("Super_R", "Super")
    return re.sub(r"XF86MonBrightness(Up|Down)", r"Brightness\1", keys)


def _strings(value: str) -> list[str] | None:
    """Return the texts of a GVariant that is a text or a list of texts; None for anything else."""
    body = re.sub(r"^@\w+\s+", "", value.strip())
    if not body or body[0] not in "['\"" or len(body) > 4000:
        return None
    try:
        parsed = ast.literal_eval(body)
    except (ValueError, SyntaxError, MemoryError, RecursionError):
        return None
    parsed = [parsed] if isinstance(parsed, str) else parsed
    return parsed if isinstance(parsed, list) and all(isinstance(one, str) for one in parsed) else None


READERS = (
    Reader(
        "gsettings", read, signs=((0.9, re.compile(r"^[a-z][\w-]*(?:\.[\w-]+)+ [a-z0-9-]+ (?:@as )?['\"\[]", re.M)),)
    ),
)
