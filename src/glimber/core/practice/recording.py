"""Recording a task run: strikes as they are made at work, and the commands they carried out in order."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from glimber.core.model.folio import EVERYWHERE, Folio
from glimber.core.model.meaning import Strikes, meanings


class Recording(Struct, frozen=True):
    """A recording so far. ``begun``: the beginning of a sequence; ``whole``: it is a command by itself too, the last of
    ``commands``, unless it goes on. ``unknown``: how many strikes matched nothing in the folio."""

    folio: Folio
    computer: str | None = None
    commands: tuple[str, ...] = ()
    program: str | None = None
    begun: Strikes = ()
    whole: bool = False
    unknown: int = 0

    def with_strikes(self, strikes: Strikes) -> Recording:
        """After one more strike. Where several programs answer to it, it is the one that was used last, else the first."""
        for before in (self.begun, ()) if self.begun else ((),):
            found = self._read((*before, *strikes), longer=bool(before))
            if found is not None:
                return found
        return replace(self, begun=(), whole=False, unknown=self.unknown + 1)

    def without(self, place: int) -> Recording:
        """Without the command at a place."""
        return replace(self, commands=self.commands[:place] + self.commands[place + 1 :], begun=(), whole=False)

    def _read(self, strikes: Strikes, longer: bool) -> Recording | None:
        others = [id for id in self.folio.programs if id not in (EVERYWHERE, self.program)]
        programs: list[str | None] = [*([self.program] if self.program is not None else []), *others]
        readings = [(id, meanings(self.folio, id, None, self.computer).read(strikes)) for id in programs or [None]]
        done = next(((id, one) for id, one in readings if one.bindings), None)
        if done is not None:
            program, reading = done
            command = reading.bindings[0].command
            assert command is not None
            kept = self.commands[:-1] if longer and self.whole else self.commands
            goes_on = reading.state == "both"
            own = self.program if command.startswith(f"{EVERYWHERE}/") else program
            return replace(
                self, commands=(*kept, command), program=own, begun=strikes if goes_on else (), whole=goes_on
            )
        if any(one.state == "beginning" for _, one in readings):
            return replace(self, begun=strikes, whole=self.whole and longer)
        return None
