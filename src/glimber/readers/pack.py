"""A Glimber pack, or a folio's folder packed: the shortcuts of every program in it."""

from __future__ import annotations

import tomllib

from glimber.readers.found import Found, NotBinding, Options, decoded
from glimber.readers.program import add_program
from glimber.readers.reader import Reader
from glimber.readers.zipped import ZippedError, parts_of


def read(data: bytes, options: Options) -> Found:
    """Read the programs of a pack; spots belong to a layout and are named as what is no shortcut of a program."""
    found = Found(watch=options.watch)
    try:
        parts = parts_of(data)
    except ZippedError as error:
        return found.fail(f"not a pack that can be read: {error}")
    if "folio.toml" not in parts:
        return found.fail("not a pack: it has no folio.toml")
    wanted = (options.column or "").casefold()
    programs = [name for name in sorted(parts) if name.startswith("programs/") and name.endswith(".toml")]
    for name in programs:
        plain = _plain(name, parts[name], found)
        if plain is None:
            continue
        title = str(plain.get("name", name))
        # A pack has no columns; of several programs one can be chosen in the same way.
        found.columns.append(title)
        if not wanted or wanted == title.casefold():
            add_program(plain, decoded(parts[name]), found)
    for name in sorted(parts):
        if name.startswith("layouts/") and name.endswith(".toml"):
            found.not_bindings.append(NotBinding(name, 0, "spots belong to a layout, not to a program's shortcuts"))
    if not programs:
        found.fail("the pack has no programs")
    return found


def _plain(name: str, data: bytes, found: Found) -> dict[str, object] | None:
    try:
        plain = tomllib.loads(decoded(data))
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        found.fail(f"{name}: not TOML: {error}")
        return None
    if not isinstance(plain.get("commands"), dict):
        found.fail(f"{name}: it has no commands")
        return None
    return plain


READERS = (Reader("pack", read, endings=(".glimber",), unpacks=True),)
