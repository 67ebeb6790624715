"""Find what already answers to a trigger: in its program, on the desktop that takes it first, on the spot, and beneath it."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from glimber.core.model.describe import what_it_does
from glimber.core.model.folio import EVERYWHERE, Folio
from glimber.core.notation.keys import Spot, Trigger, strikes_of

Kind = Literal["same", "begins", "continues", "beneath"]


class Collision(Struct, frozen=True):
    """One binding in the way. ``begins``: its keys are the first steps of the trigger; ``continues``: the other way round;
    ``beneath``: what the key does on the layer below, covered by the trigger."""

    binding: str
    command: str
    program: str
    kind: Kind

    def words(self, trigger: Trigger) -> str:
        """In one sentence."""
        where = f" in {self.program}" if self.program else ""
        if self.kind == "same":
            return f"{trigger} already does {self.command}{where}."
        if self.kind == "begins":
            return f"Its first steps already do {self.command}{where}."
        if self.kind == "beneath":
            return f"Underneath, on {self.program}, the key does {self.command}."
        return f"It is the beginning of what does {self.command}{where}."


def collisions(
    folio: Folio, program: str, trigger: Trigger, context: str | None = None, computer: str | None = None
) -> list[Collision]:
    """Return what meets a trigger, that of Everywhere first: the desktop comes first.

    ``context``: the part of the program the command lives in; the same chord in another part is no collision, nor is one
    that is not on this ``computer``.
    """
    if isinstance(trigger, Spot):
        return _on_spot(folio, trigger)
    wanted = strikes_of(trigger, folio.legend, folio.bundles)
    if not wanted:
        return []
    found = []
    for id in dict.fromkeys((EVERYWHERE, program)):
        for binding in folio.programs[id].bindings if id in folio.programs else ():
            if isinstance(binding.trigger, Spot) or not binding.lives_on(computer):
                continue
            command = folio.commands[binding.command or ""]
            if id == program and None not in (context, command.context) and context != command.context:
                continue
            theirs = strikes_of(binding.trigger, folio.legend, folio.bundles)
            kind: Kind | None = None
            if theirs == wanted:
                kind = "same"
            elif theirs and wanted[: len(theirs)] == theirs:
                kind = "begins"
            elif theirs and theirs[: len(wanted)] == wanted:
                kind = "continues"
            if kind is not None:
                found.append(Collision(binding.id, command.name, folio.programs[id].name, kind))
    return found


def _on_spot(folio: Folio, spot: Spot) -> list[Collision]:
    found = []
    there = folio.by_trigger.get(spot)
    layout = folio.layouts.get(spot.board)
    if there is not None:
        found.append(Collision(there.id, what_it_does(folio, there), "", "same"))
    layer = layout.layer(spot.layer) if layout else None
    if layout is None or layer is None or layer is layout.base:
        return found
    # Base is underneath every layer; with its key bound here it no longer comes through.
    below = layout.base.by_key.get(spot.key, {}).get(spot.gesture)
    if below is not None:
        found.append(Collision(below.id, what_it_does(folio, below), layout.base.name, "beneath"))
    return found
