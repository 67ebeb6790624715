"""The cells of the list of commands: what each shows, and how a text written into it changes the folio."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import reduce
from typing import Final

from msgspec import Struct

from glimber.core.drawing.short_labels import label_made_for
from glimber.core.edit.commands import edit_binding, edit_command, put_in_group
from glimber.core.edit.edit import EditError
from glimber.core.model.folio import Command, Folio


class Cell(Struct, frozen=True):
    """A cell of a command: its ``text``, what is shown faintly where it has none, and ``write``, which changes commands by a
    text and raises EditError. ``several``: it may be written for several commands at once."""

    id: str
    head: str
    text: Callable[[Folio, Command], str]
    write: Callable[[Folio, Sequence[str], str], Folio]
    assumed: Callable[[Folio, Command], str] = lambda folio, command: ""
    several: bool = True


def _write_name(folio: Folio, refs: Sequence[str], text: str) -> Folio:
    return reduce(lambda now, ref: edit_command(now, ref, name=text), refs, folio)


def _write_label(folio: Folio, refs: Sequence[str], text: str) -> Folio:
    return reduce(lambda now, ref: edit_command(now, ref, label=text.strip() or None), refs, folio)


def _write_uses(folio: Folio, refs: Sequence[str], text: str) -> Folio:
    try:
        uses = float(text.replace(",", ".")) if text.strip() else None
    except ValueError:
        raise EditError(f"{text!r} is not a number of uses a day; expected 0 or more, or nothing") from None
    return reduce(lambda now, ref: edit_command(now, ref, uses_per_day=uses), refs, folio)


def _reason(folio: Folio, command: Command) -> str:
    bindings = folio.bindings_of.get(command.ref, ())
    return (bindings[0].reason or "") if bindings else ""


def _write_reason(folio: Folio, refs: Sequence[str], text: str) -> Folio:
    bindings = {ref: folio.bindings_of.get(ref, ()) for ref in refs}
    without = next((ref for ref, its in bindings.items() if not its), None)
    if without is not None:
        raise EditError(f"{folio.commands[without].name} has no key yet; a reason belongs to a key")
    ids = [its[0].id for its in bindings.values()]
    return reduce(lambda now, id: edit_binding(now, id, reason=text.strip() or None), ids, folio)


def _group(folio: Folio, command: Command) -> str:
    group = folio.group_of(command)
    return group.name if group is not None else ""


CELLS: Final = (
    Cell("name", "Command", lambda folio, command: command.name, _write_name, several=False),
    Cell("label", "Label", lambda folio, command: command.label or "", _write_label,
         lambda folio, command: label_made_for(folio, command) or "", several=False),
    Cell("uses", "Uses a day", lambda folio, command: "" if command.uses_per_day is None else f"{command.uses_per_day:g}",
         _write_uses),
    Cell("reason", "Reason", _reason, _write_reason),
    Cell("group", "Group", _group, lambda folio, refs, text: put_in_group(folio, list(refs), text)),
)  # fmt: skip
CELL: Final = {cell.id: cell for cell in CELLS}
