"""Sources that a folio is linked to: added, watched or not, and let go."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio, Source
from glimber.core.notation.ids import free_id, slug_of

SYSTEMS = {"gsettings": "the desktop's shortcuts", "line-editor": "the line editor of the shell"}


def link(
    folio: Folio,
    name: str,
    *,
    path: str | None = None,
    system: str | None = None,
    running: str | None = None,
    program: str | None = None,
    column: str | None = None,
    watch: bool = True,
) -> tuple[Folio, str]:
    """Return the folio linked to a file, a system or a running program, and the source's id. Raises EditError where it is
    already."""
    sources = folio.settings.sources
    if sum(one is not None for one in (path, system, running)) != 1:
        raise EditError("a source is a file, a system or a running program")
    for other in sources.values():
        if (other.path, other.system, other.running) == (path, system, running):
            raise EditError(f"{path or system or running} is linked already, as {other.id}")
    id = free_id(slug_of(name), sources)
    # Only a file can be seen to change, and a program to start.
    made = Source(id, path, system, running, program, column, watch and system is None)
    return _with(folio, {**sources, id: made}), id


def watch(folio: Folio, id: str) -> Folio:
    """Watch a source's file or program, or no longer. Raises EditError."""
    source = _source(folio, id)
    if source.system is not None:
        raise EditError(f"{id} cannot be watched; read it again with Enter")
    return _with(folio, {**folio.settings.sources, id: replace(source, watch=not source.watch)})


def unlink(folio: Folio, id: str) -> Folio:
    """Let a source go; what was taken from it stays. Raises EditError."""
    _source(folio, id)
    return _with(folio, {other: source for other, source in folio.settings.sources.items() if other != id})


def _source(folio: Folio, id: str) -> Source:
    if id not in folio.settings.sources:
        raise EditError(f"{id} is not a source of this folio")
    return folio.settings.sources[id]


def _with(folio: Folio, sources: Mapping[str, Source]) -> Folio:
    return replace(folio, settings=replace(folio.settings, sources=sources))
