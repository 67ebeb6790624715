"""Map the keys of a board to those of the ordinary keyboard that stand in for them, and say how to strike a spot with it."""

from __future__ import annotations

from collections.abc import Mapping

from glimber.core.engine.perform import CannotPerform, way_to
from glimber.core.model.board import Board
from glimber.core.model.describe import finger_words, key_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.notation.keycodes import EVDEV_NUMBERS, MODIFIER_PLACES, MODIFIERS
from glimber.core.notation.keys import Spot, Trigger, strikes_of


def board_keys(board: Board) -> Mapping[str, str]:
    """Place on the ordinary keyboard -> key of the board it acts for: as the board says, else the key of the same id."""
    named = {code: key for key, code in board.stand_in.items()}
    taken = set(board.stand_in)
    same = {key.id: key.id for key in board.keys if key.id not in taken and key.id not in named}
    return {**same, **named}


def why_not_pressed(folio: Folio, binding: Binding) -> str | None:
    """Return why a binding cannot be answered by pressing keys of the ordinary keyboard; None where it can."""
    trigger = binding.trigger
    if not isinstance(trigger, Spot):
        strikes = strikes_of(trigger, folio.legend, folio.bundles)
        if not strikes:
            return "the keyboard has no key for it"
        missing = [code for _, code in strikes if code not in folio.keyboard.by_id]
        return f"{missing[0]} is not a key of {folio.keyboard.name}" if missing else None
    if trigger.gesture in ("left", "right"):
        return "a knob cannot be turned here; point at it"
    acting = set(board_keys(folio.boards[trigger.board]).values())
    try:
        needed = _needed(folio, trigger)
    except CannotPerform as error:
        return str(error)
    missing = [key for key in needed if key not in acting]
    if not missing:
        return None
    return f"no key of the ordinary keyboard acts for {key_words(folio, trigger.board, (missing[0],))} of {trigger.board}"


def _needed(folio: Folio, spot: Spot) -> list[str]:
    """The keys a spot is struck with, those of the way to its layer among them. Raises CannotPerform."""
    return [*spot.keys, *(key for way in way_to(folio, spot.board, spot.layer) for key in way.spot.keys)]


def why_not_on_device(folio: Folio, spot: Spot) -> str | None:
    """Return why a spot cannot be answered on its board, read as a device; None where it can."""
    if spot.gesture in ("left", "right"):
        return "what a knob sends is no key of its own; point at it"
    try:
        needed = _needed(folio, spot)
    except CannotPerform as error:
        return str(error)
    missing = [key for key in needed if key not in EVDEV_NUMBERS]
    return f"{missing[0]} of {spot.board} sends no key of its own; use the stand-in board" if missing else None


def here_words(folio: Folio, spot: Spot, fingers: bool = False) -> str:
    """Return how to strike a spot on the ordinary keyboard: "hold B, strike S"; with ``fingers`` each key has its own in
    brackets."""
    board = folio.boards[spot.board]
    codes = {key: code for code, key in board_keys(board).items()}

    def name(keys: tuple[str, ...]) -> str:
        return " and ".join(
            folio.legend.print_of(codes.get(key, "")) or key_words(folio, spot.board, (key,)) for key in keys
        )

    verbs = {
        "tap": "strike",
        "hold": "hold",
        "double": "strike twice",
        "tap-hold": "strike, then hold",
        "press": "press",
    }

    def finger(keys: tuple[str, ...]) -> str:
        found = [words for key in keys if key in board.by_id and (words := finger_words(board.by_id[key].finger))]
        return f" ({' and '.join(found)})" if fingers and found else ""

    parts = []
    for way in way_to(folio, spot.board, spot.layer):
        verb = "hold" if way.mode == "while" else verbs[way.spot.gesture]
        parts.append(f"{verb} {name(way.spot.keys)}{finger(way.spot.keys)}")
    parts.append(f"{verbs.get(spot.gesture, 'turn')} {name(spot.keys)}{finger(spot.keys)}")
    return ", ".join(parts)


def keys_before(folio: Folio, trigger: Trigger) -> tuple[str, ...]:
    """Return the keys that must go down before the last one, in order: those that bring the layer in, or the modifiers of a
    chord."""
    if isinstance(trigger, Spot):
        try:
            return tuple(key for way in way_to(folio, trigger.board, trigger.layer) for key in way.spot.keys)
        except CannotPerform:
            return ()
    strikes = strikes_of(trigger, folio.legend, folio.bundles) or ()
    places = [MODIFIER_PLACES[name] for name in MODIFIERS if strikes and name in strikes[-1][0]]
    return tuple(next((code for code in codes if code in folio.keyboard.by_id), codes[0]) for codes in places)
