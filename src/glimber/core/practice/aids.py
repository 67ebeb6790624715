"""Help given in a prompt, in steps: the keys of its group, the half of the board, the row, the finger, the key itself."""

from __future__ import annotations

from typing import Final

from msgspec import Struct

from glimber.core.model.board import Board, Key
from glimber.core.model.describe import finger_words, place_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keys import Spot, Trigger, strikes_of

_SAME_ROW_U: Final = 0.5


class Help(Struct, frozen=True):
    """One step: its text, and the keys of the wanted board that are lit."""

    words: str
    keys: tuple[str, ...]


def aids_of(folio: Folio, binding: Binding) -> tuple[Help, ...]:
    """Return the steps of help for a binding, from the least to the key itself; a step that tells nothing is left out."""
    board, wanted = _place(folio, binding.trigger)
    key = board.by_id.get(wanted) if board is not None and wanted is not None else None
    whole = Help(f"{place_words(folio, binding.trigger)}", (wanted,) if key is not None and wanted is not None else ())
    if board is None or key is None:
        return (whole,)
    found: list[Help] = []
    for step in (_group(folio, binding), *_around(board, key)):
        if step is not None and 1 < len(step.keys) < len(board.keys) and all(step.keys != one.keys for one in found):
            found.append(step)
    return (*found, whole)


def _around(board: Board, key: Key) -> list[Help]:
    """Return the half of the board that a key is on, its row in that half, and the keys of its finger."""
    half = tuple(one.id for one in board.keys if one.hand == key.hand) if key.hand else ()
    row = tuple(one.id for one in board.keys if one.id in (half or board.by_id) and _same_row(one, key))
    finger = tuple(one.id for one in board.keys if one.finger == key.finger)
    found = [Help(f"The {key.hand} half", half)] if key.hand else []
    found.append(Help("This row", row))
    return [*found, *([Help(f"The {finger_words(key.finger)}", finger)] if key.finger else [])]


def _same_row(one: Key, other: Key) -> bool:
    return abs(one.centre[1] - other.centre[1]) <= _SAME_ROW_U


def _place(folio: Folio, trigger: Trigger) -> tuple[Board | None, str | None]:
    """The board a trigger is struck on, and its key; of a sequence the first one."""
    if isinstance(trigger, Spot):
        return folio.boards.get(trigger.board), trigger.keys[0]
    strikes = strikes_of(trigger, folio.legend, folio.bundles)
    return folio.boards.get(folio.settings.keyboard), strikes[0][1] if strikes else None


def _group(folio: Folio, binding: Binding) -> Help | None:
    """Return the keys on which the group's commands are, on the same layer or with the same modifiers."""
    command = folio.command_of(binding)
    group = folio.group_of(command)
    if command is None or group is None:
        return None
    keys = []
    for other in folio.drillable():
        its = folio.command_of(other)
        if (
            its is not None
            and its.program == command.program
            and its.group == command.group
            and _alike(folio, other, binding)
        ):
            place = _place(folio, other.trigger)[1]
            if place is not None:
                keys.append(place)
    return Help(f"One of the keys of {group.name}", tuple(dict.fromkeys(keys)))


def _alike(folio: Folio, one: Binding, other: Binding) -> bool:
    a, b = one.trigger, other.trigger
    if isinstance(a, Spot) or isinstance(b, Spot):
        return isinstance(a, Spot) and isinstance(b, Spot) and (a.board, a.layer) == (b.board, b.layer)
    return True
