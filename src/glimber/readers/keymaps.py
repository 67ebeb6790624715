"""Keymaps as JSON (with comments and trailing commas), YAML and TOML."""

from __future__ import annotations

import json
import re
import tomllib
from typing import Final

from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader
from glimber.readers.values import read_values, words_at

MOST_VALUES: Final = 500_000
_LONG_KEY: Final = re.compile(r"(?:[\w-]{1,200}\s?\.\s?){100}")
_DEEP: Final = re.compile(r"(?:[\[{]\s{0,40}){300}")
_LONG_NUMBER: Final = re.compile(r"\d{4000}")
_SLOW_ABOVE: Final = 12_000
"""Characters up to which a reader that allows for comments is tried: it is slow."""


def read_json(data: bytes, options: Options) -> Found:
    """Read a keymap in JSON."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if _DEEP.search(text):
        return found.fail("nested more deeply than a list of shortcuts")
    if _LONG_NUMBER.search(text):
        return found.fail("a number of thousands of digits; expected a list of shortcuts")
    try:
        value = json.loads(text, strict=False)
    except (ValueError, RecursionError):
        try:
            value = json.loads(without_comments(text), strict=False)
        except (ValueError, RecursionError) as error:
            if len(text) > _SLOW_ABOVE:
                return found.fail(f"not JSON that can be read: {str(error)[:200]}")
            value = _json5(text, found)
            if value is None:
                return found
    return _of(value, text, found)


def _json5(text: str, found: Found) -> object:
    import json5

    try:
        return json5.loads(text)
    except (ValueError, RecursionError) as error:
        found.fail(f"not JSON that can be read: {str(error)[:200]}")
        return None


def without_comments(text: str) -> str:
    """JSON without its comments and the commas before a closing bracket; line ends stay where they are."""
    out: list[str] = []
    at, end = 0, len(text)
    while at < end:
        char = text[at]
        if char == '"':
            close = at + 1
            while close < end and text[close] != '"':
                close += 2 if text[close] == "\\" else 1
            out.append(text[at : close + 1])
            at = close + 1
        elif text.startswith("//", at) or char == "#":
            at = _found(text, "\n", at)
        elif text.startswith("/*", at):
            close = _found(text, "*/", at)
            out.append("\n" * text.count("\n", at, close))
            at = close + 2
        elif char in "]}":
            last = len(out) - 1
            while last >= 0 and not out[last].strip():
                last -= 1
            if last >= 0 and out[last] == ",":
                out[last] = ""
            out.append(char)
            at += 1
        else:
            out.append(char)
            at += 1
    return "".join(out)


def _found(text: str, what: str, at: int) -> int:
    place = text.find(what, at)
    return len(text) if place < 0 else place


def read_yaml(data: bytes, options: Options) -> Found:
    """Read a keymap in YAML, by the safe loader."""
    import yaml

    found = Found(watch=options.watch)
    text = decoded(data)
    loader = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
    try:
        values = [value for value in yaml.load_all(text, Loader=loader) if value is not None]
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        return found.fail(f"not YAML that can be read: {' '.join(str(error).split())[:200]}")
    if _is_larger_than(MOST_VALUES, values):
        return found.fail("its aliases stand for more values than a list of shortcuts has")
    return _of(values, text, found)


def _is_larger_than(most: int, value: object) -> bool:
    """Return True if a value has more parts than ``most`` when every alias is written out, or contains itself."""
    waiting, count = [value], 0
    while waiting:
        one = waiting.pop()
        count += 1
        if count > most:
            return True
        if isinstance(one, dict):
            waiting += [*one.keys(), *one.values()]
        elif isinstance(one, list):
            waiting += one
    return False


def read_toml(data: bytes, options: Options) -> Found:
    """Read a keymap in TOML."""
    found = Found(watch=options.watch)
    text = decoded(data)
    if _LONG_KEY.search(text):
        return found.fail("a key with more parts than a table of shortcuts has levels")
    try:
        value = tomllib.loads(text)
    except (ValueError, RecursionError) as error:
        return found.fail(f"not TOML: {str(error)[:200]}")
    return _of(value, text, found)


def _of(value: object, text: str, found: Found) -> Found:
    read_values(value, found, words_at(text))
    if not found.any:
        found.fail("no keys with a command in it")
    return found


READERS = (
    Reader(
        "json",
        read_json,
        endings=(".json", ".jsonc", ".json5"),
        signs=((0.85, re.compile(r"\A\s*+(?>(?://[^\n]*+|/\*.*?\*/)\s*+)*+[\[{]\s*(?:[\]\[{}\"]|//|/\*)", re.S)),),
    ),
    Reader(
        "toml",
        read_toml,
        endings=(".toml",),
        signs=((0.55, re.compile(r"^\[[\w.\"-]+\]\s*$(?:\n.*)*?^[\w\"'+<>-]+ = [\"\[]", re.M)),),
    ),
    Reader(
        "yaml",
        read_yaml,
        endings=(".yaml", ".yml"),
        signs=((0.5, re.compile(r"^(?:- )?\s*[\w\"'+<>-]+:(?: |$)", re.M)),),
    ),
)
