"""What already answers to a trigger: in its program, in the desktop that takes it first, as a beginning or an end of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from glimber.core.folio import EVERYWHERE, Folio
from glimber.core.keys import Sequence, strikes_of

Kind = Literal["same", "begins", "continues"]


@dataclass(frozen=True)
class Collision:
    """One binding in the way. ``begins``: its keys are the first steps of the trigger; ``continues``: the other way round."""

    binding: str
    command: str
    program: str
    kind: Kind

    def words(self, trigger: Sequence) -> str:
        """In one sentence."""
        if self.kind == "same":
            return f"{trigger} already does {self.command} in {self.program}."
        if self.kind == "begins":
            return f"Its first steps already do {self.command} in {self.program}."
        return f"It is the beginning of what does {self.command} in {self.program}."


def collisions(folio: Folio, program: str, trigger: Sequence) -> list[Collision]:
    """Shortcuts of the program and of Everywhere that meet a trigger, those of Everywhere first: the desktop comes first."""
    wanted = strikes_of(trigger, folio.legend, folio.bundles)
    if not wanted:
        return []
    found = []
    for id in dict.fromkeys((EVERYWHERE, program)):
        for binding in folio.programs[id].bindings if id in folio.programs else ():
            if not isinstance(binding.trigger, Sequence):
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
                command = folio.commands[binding.command or ""].name
                found.append(Collision(binding.id, command, folio.programs[id].name, kind))
    return found
