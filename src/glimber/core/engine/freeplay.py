"""Free play: what striking keys of a board does, shown as it happens, and why where nothing happens."""

from __future__ import annotations

from msgspec import Struct

from glimber.core.engine.events import Event
from glimber.core.engine.listen import BoardListener, Unit
from glimber.core.engine.standin_keys import board_keys
from glimber.core.model.describe import place_words
from glimber.core.model.folio import Folio
from glimber.core.model.meaning import meanings
from glimber.core.notation.keys import Spot, Strike


class Heard(Struct, frozen=True):
    """One gesture decided: where it was, what is sent, which command that is in the program, and all of it in words."""

    spot: Spot | None
    sends: str | None
    command: str | None
    words: str


class Player:
    """The stand-in board in free play. Events are those of the ordinary keyboard, times in ms."""

    def __init__(
        self, folio: Folio, board: str, program: str | None, computer: str | None = None, direct: bool = False
    ) -> None:
        """``direct``: events name keys of the board itself, as a device of its own sends them."""
        self.folio, self.board, self.program, self.computer = folio, board, program, computer
        self._keys = (
            {key: key for key in folio.boards[board].by_id} if direct else dict(board_keys(folio.boards[board]))
        )
        self._listener = BoardListener(folio, board, program)
        self._down: dict[str, float] = {}
        self._escape: float | None = None
        self._strikes: tuple[Strike, ...] = ()

    def feed(self, event: Event) -> list[Heard]:
        """Take one event."""
        if event.key == "Escape":
            self._escape = event.t if event.kind == "down" else None
        key = self._keys.get(event.key)
        if key is None:
            if event.kind == "down":
                return [Heard(None, None, None, f"{self.board} has no key where {event.key} is.")]
            return []
        if event.kind == "down":
            self._down[key] = event.t
        else:
            self._down.pop(key, None)
        return [self._heard(unit) for unit in self._listener.feed(Event(event.t, event.kind, key))]

    def advance(self, t: float) -> list[Heard]:
        """Let time pass to ``t`` ms."""
        return [self._heard(unit) for unit in self._listener.advance(t)]

    def down(self) -> frozenset[str]:
        """Return keys that are down just now."""
        return frozenset(self._down)

    def layers(self) -> list[str]:
        """Return ids of the layers now in, lowest first."""
        return self._listener.machine.live_layers()

    def escape_held_ms(self, t: float) -> float | None:
        """Return how long Escape has been down; None where it is up."""
        return None if self._escape is None else t - self._escape

    def _heard(self, unit: Unit) -> Heard:
        where = place_words(self.folio, unit.spot) if unit.spot is not None else ""
        binding = self.folio.by_trigger.get(unit.spot) if unit.spot is not None else None
        sent = None
        if binding is not None:
            found = self.folio.sent_by(binding)
            sent = None if found is None else str(found)
            if binding.steps:
                sent = " ".join(str(step) for step in binding.steps if not hasattr(step, "wait_ms"))
        command = self._command(unit, binding.command if binding is not None else None)
        if command is not None:
            name = self.folio.commands[command].name
            program = self.folio.programs[command.partition("/")[0]].name
            self._strikes = ()
            return Heard(unit.spot, sent, command, f"{where}: {name} in {program}" + (f", by {sent}." if sent else "."))
        if not unit.strikes and sent is None:
            self._strikes = ()
            return Heard(unit.spot, None, None, f"{where}: nothing, {self._why(unit)}.")
        shown = sent or (self.folio.legend.print_of(unit.spot.key) if unit.spot is not None else "")
        if self._strikes:
            return Heard(unit.spot, sent, None, f"{where}: {shown}, the beginning of a longer sequence.")
        rest = "" if self.program is None else f" {self.folio.programs[self.program].name} has nothing on it."
        return Heard(unit.spot, sent, None, f"{where}: sends {shown}.{rest}")

    def _command(self, unit: Unit, own: str | None) -> str | None:
        """Return the command a gesture carries out, sequences taken together."""
        heard = meanings(self.folio, self.program, None, self.computer)
        if own is not None and self.program in (None, own.partition("/")[0]):
            return own
        strikes = (*self._strikes, *unit.strikes)
        reading = heard.read(strikes)
        if reading.state == "none" and self._strikes:
            strikes = unit.strikes
            reading = heard.read(strikes)
        self._strikes = strikes if reading.state in ("beginning", "both") and strikes else ()
        return reading.bindings[0].command if reading.bindings else None

    def _why(self, unit: Unit) -> str:
        if unit.spot is None:
            return "no key of the board"
        layout = self.folio.layouts.get(self.board)
        layer = layout.layer(unit.spot.layer) if layout else None
        there = layer.by_key.get(unit.spot.key, {}) if layer else {}
        if there:
            return f"{unit.spot.gesture} is not bound on this key"
        if layer is not None and layer.unset.get(unit.spot.key, layer.unbound) == "dead":
            return f"the key is dead on {layer.name}"
        return "the key prints nothing and is not bound"
