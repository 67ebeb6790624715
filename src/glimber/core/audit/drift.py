"""Checking the real board: each key asked for once, layer by layer; what the computer sees against what the folio says."""

from __future__ import annotations

from typing import Final, Literal

from msgspec import Struct

from glimber.core.edit.edit import EditError
from glimber.core.edit.spots import Does, set_spot
from glimber.core.model.describe import place_words
from glimber.core.model.folio import Binding, Folio
from glimber.core.model.walk import reading_order
from glimber.core.notation.keys import KEY_GESTURES, Sequence, Spot, Strike, chord_of, strikes_of

Seen = Literal["same", "drift", "also", "nothing"]
AS_WELL_MS: Final = 80.0
"""Strikes so soon after each other are one key's: no hand strikes two keys that it was asked for one after the other."""


class Asked(Struct, frozen=True):
    """One spot to be struck on the real board, and what the computer should see then."""

    spot: Spot
    strikes: tuple[Strike, ...]


class Drift(Struct, frozen=True):
    """A spot where the real board does something else than the folio says. ``seen`` is empty where nothing came; ``also``:
    what the folio says came, and ``seen`` as well, as where a key still fires its own action underneath."""

    spot: Spot
    wanted: Sequence
    seen: Sequence | None
    also: bool = False

    def words(self, folio: Folio) -> str:
        """Return the difference in a sentence, the key as it is called."""
        if self.also:
            return f"{place_words(folio, self.spot)}: the board sends {self.wanted}, and {self.seen} as well."
        found = f"sends {self.seen}" if self.seen is not None else "sends nothing"
        return f"{place_words(folio, self.spot)}: the board {found}, the folio says {self.wanted}."


def spots_to_check(folio: Folio, board: str) -> list[Asked]:
    """Return all spots that send something the computer sees: layer by layer, each in reading order, each key's gestures in
    order."""
    layout, shape = folio.layouts[board], folio.boards[board]
    order = {key: place for place, key in enumerate(reading_order(shape))}
    found: list[Asked] = []
    for layer in layout.layers:
        bindings = sorted(
            layer.bindings,
            key=lambda b: (order.get(b.spot.keys[0], len(order)), len(b.spot.keys), _gesture_place(b)),
        )
        for binding in bindings:
            sent = folio.sent_by(binding)
            strikes = strikes_of(sent, folio.legend, folio.bundles) if isinstance(sent, Sequence) else None
            if strikes and not binding.steps:
                found.append(Asked(binding.spot, strikes))
    return found


def _gesture_place(binding: Binding) -> int:
    gesture = binding.spot.gesture
    return KEY_GESTURES.index(gesture) if gesture in KEY_GESTURES else len(KEY_GESTURES)


class BoardCheck:
    """Goes through the spots of a board. ``now`` is the one asked for, None when all have been."""

    def __init__(self, folio: Folio, board: str) -> None:
        self.folio = folio
        self.asked = spots_to_check(folio, board)
        self.drifts: list[Drift] = []
        self.at = 0
        self._struck: list[Strike] = []
        self._last_ms = -1e12

    @property
    def now(self) -> Asked | None:
        return self.asked[self.at] if self.at < len(self.asked) else None

    def strike(self, strike: Strike, t_ms: float = 0.0) -> Seen | None:
        """Take one strike the computer saw, at a moment; what it says of the spot asked for, None while a sequence goes on.

        A strike right after another, before a hand could have gone on, belongs to the same key.
        """
        together, self._last_ms = 0 < t_ms - self._last_ms <= AS_WELL_MS, t_ms
        if together and not self._struck and self.at and self._also(strike):
            return "also"
        now = self.now
        if now is None:
            return None
        self._struck.append(strike)
        struck = tuple(self._struck)
        if struck == now.strikes:
            self._next()
            return "same"
        if len(struck) < len(now.strikes) and struck == now.strikes[: len(struck)]:
            return None
        self._drift(struck)
        return "drift"

    def nothing(self) -> Seen | None:
        """Nothing came when the key was struck, or the person says so."""
        if self.now is None:
            return None
        self._drift(tuple(self._struck))
        self._last_ms = -1e12
        return "nothing"

    def skip(self) -> None:
        """Leave this one out: it is neither the same nor a drift."""
        if self.now is not None:
            self._next()
            self._last_ms = -1e12

    def _also(self, strike: Strike) -> bool:
        """Note that the key asked for last sent more than one thing; False where that cannot be."""
        before = self.asked[self.at - 1]
        last = self.drifts[-1] if self.drifts and self.drifts[-1].spot == before.spot else None
        if last is not None and (last.also or (strike,) != before.strikes):
            return last.also
        wanted = Sequence(tuple(chord_of(one, self.folio.legend) for one in before.strikes))
        if last is not None:  # its own action came first, then what the folio says
            self.drifts[-1] = Drift(before.spot, wanted, last.seen, also=True)
        else:
            self.drifts.append(Drift(before.spot, wanted, Sequence((chord_of(strike, self.folio.legend),)), also=True))
        return True

    def _drift(self, struck: tuple[Strike, ...]) -> None:
        now = self.now
        assert now is not None
        seen = Sequence(tuple(chord_of(one, self.folio.legend) for one in struck)) if struck else None
        wanted = Sequence(tuple(chord_of(one, self.folio.legend) for one in now.strikes))
        self.drifts.append(Drift(now.spot, wanted, seen))
        self._next()

    def _next(self) -> None:
        self.at += 1
        self._struck.clear()


def take_over(folio: Folio, drift: Drift) -> Folio:
    """Let the folio say what the real board does; the binding's fields and its command stay. Raises EditError."""
    binding = folio.by_trigger.get(drift.spot)
    if binding is None:
        raise EditError(f"nothing is bound on {drift.spot} any more")
    if drift.also:
        raise EditError(f"the board sends {drift.seen} as well; set it on the board so that only {drift.wanted} comes")
    if drift.seen is None:
        raise EditError("the board sends nothing there; clear the key here, or set it on the board")
    if binding.command is None:
        return set_spot(folio, drift.spot, Does(sends=drift.seen))
    return set_spot(folio, drift.spot, Does(command=binding.command, sends=drift.seen))
