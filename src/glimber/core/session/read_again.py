"""The sentence about files that somebody else changed while the folio was open: which ones, and what is bound differently."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.session.changes import Difference, differences

_MOST: Final = 2


def read_again_words(names: Sequence[str], before: Folio, after: Folio) -> str:
    """Return what was read again and what that changed: "Read programs/tide.toml again: Export curve is Ctrl+E now."

    ``names``: the files, at least one. Up to two bindings are named, further ones counted.
    """
    which = names[0] if len(names) == 1 else f"{len(names)} files"
    differing = differences(before, after)
    if not differing:
        return f"Read {which} again."
    described = [_describe(one, before, after) for one in differing[:_MOST]]
    described += [f"{len(differing) - _MOST} more"] if len(differing) > _MOST else []
    return f"Read {which} again: {'; '.join(described)}."


def _describe(one: Difference, before: Folio, after: Folio) -> str:
    commands = before.commands if one.after is None else after.commands
    command = commands.get(one.command or "")
    name = command.name if command is not None else one.command
    if one.after is None:
        return f"{name} is no longer on {place_words(before, one.before)}"
    return f"{name} is {'also ' if one.before is None else ''}{place_words(after, one.after)}{' now' if one.before else ''}"
