"""A program file of another folio: its commands with their shortcuts."""

from __future__ import annotations

import re
import tomllib
from typing import Any

from glimber.readers.found import Found, Options, decoded
from glimber.readers.reader import Reader


def read(data: bytes, options: Options) -> Found:
    """Read the commands of a Glimber program file."""
    found = Found(watch=options.watch)
    text = decoded(data)
    try:
        plain = tomllib.loads(text)
    except (ValueError, RecursionError) as error:  # a number of thousands of digits is a ValueError
        return found.fail(f"not TOML: {str(error)[:200]}")
    if not str(plain.get("format", "")).startswith("glimber-program/") or not isinstance(plain.get("commands"), dict):
        return found.fail('expected a file with format = "glimber-program/1" and commands', 1)
    add_program(plain, text, found)
    return found


def add_program(plain: dict[str, Any], text: str, found: Found) -> None:
    """Add every command of a program file to what was found; ``text`` is where lines are looked for."""
    groups = plain.get("groups", {})
    for slug, command in plain["commands"].items():
        if not isinstance(command, dict):
            found.fail(f"{slug} is not a command; expected a table")
            continue
        bindings = command.get("bindings", [])
        rows = bindings if isinstance(bindings, list) else []
        keys = [command.get("shortcut"), *(b.get("trigger") for b in rows if isinstance(b, dict))]
        group = groups.get(command.get("group"), {}) if isinstance(groups, dict) else {}
        line = next((n for n, row in enumerate(text.splitlines(), 1) if slug in row), 0)
        name = group.get("name") if isinstance(group, dict) else None
        group_name = name if isinstance(name, str) else None
        found.add(str(command.get("name", slug)), " or ".join(str(one) for one in keys if one), group_name, line)


READERS = (Reader("program", read, signs=((1.0, re.compile(r'^format = "glimber-program/', re.M)),)),)
