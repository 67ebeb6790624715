"""Edits of task runs."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Folio, Run
from glimber.core.notation.ids import free_id, slug_of


def add_run(folio: Folio, name: str, commands: Sequence[str]) -> tuple[Folio, str]:
    """Return the folio with another task run, and its id. Raises EditError for one without commands, or with one that is not
    there."""
    unknown = next((ref for ref in commands if ref not in folio.commands), None)
    if not commands or unknown is not None:
        raise EditError(f"{unknown} is not a command of this folio" if unknown else "a task run needs commands")
    id = free_id(slug_of(name) or "run", folio.runs)
    return replace(folio, runs={**folio.runs, id: Run(id, name, tuple(commands))}), id
