"""Binding ids of a whole folio: given ones must be unique, default ones step aside."""

from __future__ import annotations

from msgspec import Struct, field

from glimber.core.notation.ids import free_id
from glimber.core.notation.keys import is_slug
from glimber.store.toml.locate import Path
from glimber.store.toml.parse import Page


class Ids(Struct):
    """Binding ids of the whole folio: given ones must be unique; default ones step aside."""

    given: dict[str, tuple[Page, Path]] = field(default_factory=dict)
    taken: set[str] = field(default_factory=set)

    def give(self, page: Page, path: Path, id: str) -> None:
        """Note an id that a file states."""
        if not is_slug(id):
            page.fault(path, f"id {id!r} is not usable; expected letters, digits, -, _ and . only")
        elif id in self.given:
            there, at = self.given[id]
            page.fault(path, f"id {id!r} is already used at {there.file}:{there.line(at)}; every id must be its own")
        else:
            self.given[id] = (page, path)  # its line is only looked for where another one has the same
            self.taken.add(id)

    def default(self, wish: str) -> str:
        """Return the wished id, or that with -2, -3 …"""
        id = free_id(wish, self.taken)
        self.taken.add(id)
        return id
