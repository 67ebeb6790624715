"""A round in words, for who hears it: the prompt, what is shown, a slip with what was struck and wanted, a pause."""

from __future__ import annotations

from typing import TYPE_CHECKING

from glimber.core.model.describe import key_words, place_words
from glimber.core.notation.keys import Spot

if TYPE_CHECKING:
    from glimber.core.practice.machine import Drill

PAUSED = "Paused. Enter continues, Q puts the round aside."


def spoken(drill: Drill, heading: str = "", seconds_left: float | None = None) -> str:
    """Return what a screen reader says of the present state. ``heading`` and the time left come with the first prompt."""
    if drill.pending is not None and drill.failure:
        return f"{drill.failure}. Enter tries again."
    if drill.paused:
        return PAUSED
    binding = drill.binding
    command = drill.folio.command_of(binding) if binding is not None else None
    if binding is None or command is None:
        return ""
    wanted = place_words(drill.folio, binding.trigger)
    if drill.answer is not None:
        go_on = {"point": "Click it to go on.", "name": "Name it to go on."}.get(drill.mode, "Strike it to go on.")
        return f"{drill.answer.words} It is {wanted}. {go_on}"
    if drill.showing:
        reason = f" {binding.reason.rstrip('.')}." if binding.reason else ""
        return f"New: {command.name} is {wanted}.{reason} Strike it once."
    first = drill.state.nth <= 1 and not drill.tries
    time = f", {seconds_left:.0f} seconds" if first and seconds_left is not None else ""
    begin = f"{heading}{time}. " if first and heading else ""
    program = drill.folio.programs[command.program].name
    if drill.mode == "name":
        trigger = binding.trigger
        key = key_words(drill.folio, trigger.board, trigger.keys) if isinstance(trigger, Spot) else str(trigger)
        return f"{begin}Which command of {program} is {wanted or key}?"
    cue = drill.cue(binding)
    asked = cue.text if cue.kind == "situation" else command.name
    return f"{begin}{asked}, {program}."
