"""The writers there are."""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from functools import cache
from importlib import import_module
from importlib.metadata import entry_points
from pkgutil import iter_modules
from typing import Final

import glimber.writers
from glimber.writers.wanted import Rewritten, Wanted, Writer

_LOG: Final = logging.getLogger("glimber.writers")
GROUP: Final = "glimber.writers"


@cache
def writers() -> Mapping[str, Writer]:
    """Return all writers by kind: those that modules of this package declare, and those of installed packages."""
    found: dict[str, Writer] = {}
    for module in iter_modules(glimber.writers.__path__, "glimber.writers."):
        found |= getattr(import_module(module.name), "WRITERS", {})
    for point in entry_points(group=GROUP):
        found |= point.load()
    return dict(sorted(found.items()))


def kinds() -> list[str]:
    """Return the kinds of place that something can be set in."""
    return list(writers())


def write(kind: str, data: bytes, wanted: Sequence[Wanted]) -> Rewritten:
    """Return what sets the edits in a place of a kind; whatever goes wrong in a writer leaves everything as it is, with why.

    Raises KeyError for a kind there is no writer for.
    """
    writer = writers()[kind]
    try:
        return writer(data, wanted)
    except Exception as error:  # a fault of a writer is a reason to set it by hand, never the end of Glimber
        _LOG.error("the writer of %s failed", kind, exc_info=error)
        why = f"it could not be worked out ({type(error).__name__}: {str(error)[:200]})"
        return Rewritten(data, left=tuple((one, why) for one in wanted))
