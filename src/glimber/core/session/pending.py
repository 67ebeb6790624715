"""Changes that were taken and are still to be set in the program or on the board: until then drills ask for the old place."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from glimber.core.edit.edit import map_bindings, with_spots
from glimber.core.model.folio import Folio
from glimber.core.notation.keys import NotationError, Spot, Trigger, parse_trigger
from glimber.core.practice.tries import Change, utc


def open_changes(changes: Iterable[Change]) -> list[Change]:
    """Return what stands in the folio but has not been set in the program or on the board yet, oldest first, one change a
    binding.

    Several in a row of one binding are one: from where it is set now to where it is to be. One that leads back to where it began
    is nothing to set. A binding that was retired waits as well, to nowhere.
    """
    waiting: dict[str, list[Change]] = {}
    for change in sorted(changes, key=lambda one: utc(one.at)):
        if change.reverted is not None or (change.to_trigger is None and change.verdict != "retire"):
            continue
        if change.applied is not None:
            waiting.pop(change.binding, None)  # what came before it was passed over
        elif change.from_trigger is not None:
            waiting.setdefault(change.binding, []).append(change)
    found = [replace(chain[-1], from_trigger=chain[0].from_trigger) for chain in waiting.values()]
    return sorted((one for one in found if one.from_trigger != one.to_trigger), key=lambda one: utc(one.at))


def with_partners(change: Change, changes: Iterable[Change]) -> list[Change]:
    """Return a change, and that of the binding it changed places with: both are set in one go."""
    return [change, *(one for one in changes if one.id != change.id and one.swap_with == change.binding
                      and change.swap_with == one.binding and one.at == change.at)]  # fmt: skip


def as_set(folio: Folio, changes: Iterable[Change]) -> Folio:
    """Return the folio as it is set so far: what waits on the change sheet still answers to its old trigger. Drills ask for
    that."""
    waiting = {}
    for change in open_changes(changes):
        binding = folio.bindings.get(change.binding)
        old = _trigger(folio, change.from_trigger or "")
        if (
            binding is not None
            and old is not None
            and str(binding.trigger) == change.to_trigger
            and type(old) is type(binding.trigger)
        ):
            waiting[change.binding] = old
    if not waiting:
        return folio
    # A spot that something else has taken meanwhile cannot be asked for: what waits for it is asked at its new place.
    stays = {b.trigger for b in folio.all_bindings() if isinstance(b.trigger, Spot) and b.id not in waiting}
    back = {id: replace(folio.bindings[id], trigger=old) for id, old in waiting.items() if old not in stays}
    spots = {id: binding for id, binding in back.items() if isinstance(binding.trigger, Spot)}
    return map_bindings(with_spots(folio, spots) if spots else folio, lambda b: back.get(b.id, b))


def _trigger(folio: Folio, text: str) -> Trigger | None:
    try:
        return parse_trigger(text, folio.bundles)
    except NotationError:
        return None
